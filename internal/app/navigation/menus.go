package navigation

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// MenuAct is one act on a menu of Next.
type MenuAct struct {
	Key  string
	Menu string
	Do   string // add, move, step, say, out, in, back, set, reset
	Item string // the key of the item it is on

	Parent, After string            // add, move
	Step          sitemap.Step      // step
	Override      menu.ItemOverride // add; say: own words, symbol, levels
	Settings      menu.Settings     // set

	Seen        int64              // the plan version that the form was made of
	Was         *menu.ItemOverride // what the form showed of the item; nil: not told
	WasSettings *menu.Settings     // or of the menu
}

// PlanMenu does one act on a menu of Next.
func (a *Navigation) PlanMenu(ctx context.Context, who plan.Person, act MenuAct) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, act.Key, act.Item, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		m := menu.For(trees.Next, trees.Shapes.Next.Menus())
		if !slices.Contains(m.IDs(), act.Menu) {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		own, item, label, met, err := arranged(m.Layout(act.Menu), trees.Next, act)
		if met != nil {
			if err := a.tellMet(ctx, tx, who, trees.Next, act, *met); err != nil {
				return plan.PlanResult{}, err
			}
			act.Was, act.WasSettings = nil, nil // they met themselves, in another window
			own, item, label, _, err = arranged(m.Layout(act.Menu), trees.Next, act)
		}
		if err != nil {
			return plan.PlanResult{}, menuProblem(err)
		}
		label = fmt.Sprintf(label, plan.LowerFirst(menu.Title(act.Menu, trees.Next)))
		res, err := a.RecordShape(ctx, tx, s, who, act.Key, label, trees, shape.MenuID(act.Menu), &shape.Item{Menu: &own})
		res.ID = item
		return res, err
	})
}

// tellMet refuses what somebody else changed since the form was made, with both values; nil if nobody else did.
func (a *Navigation) tellMet(ctx context.Context, tx Tx, who plan.Person, t *sitemap.Tree, act MenuAct, met menu.Met) error {
	var conflict *plan.EditConflict
	err := a.CheckConflicts(ctx, tx, who, act.Seen, shape.MenuID(act.Menu))
	if !errors.As(err, &conflict) {
		return err
	}
	if met.What == menu.TheSource {
		met.Theirs, met.Mine = titleOf(t, met.Theirs), titleOf(t, met.Mine)
	}
	conflict.Both = &plan.BothValues{Field: met.What, Theirs: met.Theirs, Mine: met.Mine}
	return conflict
}

func titleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return ""
}

// menuProblem makes what a menu refuses something that its form can show.
func menuProblem(err error) error {
	field := ""
	switch {
	case errors.As(err, new(*menu.LongLabelError)), errors.Is(err, menu.ErrWords):
		field = "title"
	case errors.Is(err, menu.ErrURL):
		field = "url"
	case errors.Is(err, menu.ErrLevels):
		field = "levels"
	}
	return plan.Refuse(field, plan.SentenceOf(err))
}

// arranged asks the core for the menu after an act, and words the act; %s stands
// for the menu.
func arranged(l *menu.Layout, t *sitemap.Tree, act MenuAct) (own menu.Overrides, item, label string, met *menu.Met, err error) {
	item = act.Item
	line, _ := l.Find(item)
	title := fmt.Sprintf("%q", strings.ReplaceAll(line.Title, "%", "%%"))
	if line.Override.Kind == menu.Divider {
		title = "a divider"
	}
	switch act.Do {
	case "add":
		item = plan.NewID()
		own, err = l.Add(item, act.Override, act.Parent, act.After)
		label = "added an item to the %s"
	case "move":
		own, err = l.Move(item, act.Parent, act.After)
		label = "moved " + title + " in the %s"
	case "step":
		own, err = l.Step(item, act.Step)
		label = "moved " + title + " " + string(act.Step) + " in the %s"
	case "say":
		own, err = l.Say(item, func(s *menu.ItemOverride) { *s, met = s.Meet(*cmp.Or(act.Was, s), act.Override) })
		label = "changed " + title + " in the %s"
	case "out":
		own, err = l.LeaveOut(item)
		label = "hid " + title + " from the %s"
		if line.Entry != sitemap.None {
			label += "; its page stays where it is"
		}
		if line.Own() {
			item = line.Parent
		}
	case "in":
		own, err = l.Say(item, func(s *menu.ItemOverride) { s.Out, s.In = false, l.Settings().Wait })
		label = "showed " + title + " in the %s"
	case "back":
		own, err = l.Back(item)
		label = "made " + title + " computed again in the %s"
	case "set":
		now := l.Settings()
		now, met = now.Meet(*cmp.Or(act.WasSettings, &now), act.Settings)
		own, err = l.Set(now)
		label = "changed how the %s is computed"
	case "reset":
		label = "reset the %s to computed"
	default:
		err = plan.Refuse("do", "This act is not known.")
	}
	return own, item, label, met, err
}

// PlanMenuItem puts a page into the top menu, as its last item.
func (a *Navigation) PlanMenuItem(ctx context.Context, who plan.Person, key, entry string) (plan.PlanResult, error) {
	return a.PlanMenu(ctx, who, MenuAct{Key: key, Menu: menu.Top, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: entry}, After: menu.Last})
}
