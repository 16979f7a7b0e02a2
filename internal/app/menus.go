package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
)

// Planned gives both states of the sitemap, with menus and trails.
func (a *App) Planned(ctx context.Context, who port.Person) (t port.Trees, err error) {
	err = a.planning(ctx, who, func(_ port.Tx, _ port.Site, trees port.Trees) error {
		t = trees
		return nil
	})
	return t, err
}

// PageAt gives the page of Next that is at an address as it is written, or was in
// Live; sitemap.None where there is none.
func PageAt(trees port.Trees, written string) int {
	normal, err := address.Normal(written)
	if err != nil {
		return sitemap.None
	}
	if i := trees.Next.PageAt(normal); i != sitemap.None {
		return i
	}
	if i := trees.Live.PageAt(normal); i != sitemap.None {
		return trees.Next.Find(trees.Live.Ref(i).ID)
	}
	return sitemap.None
}

// MenuAct is one act on a menu of Next.
type MenuAct struct {
	Key  string
	Menu string
	Do   string // add, move, step, say, out, in, back, set, reset
	Item string // the key of the item it is on

	Parent, After string        // add, move
	Step          sitemap.Step  // step
	Said          menu.Said     // add; say: own words, symbol, levels
	Settings      menu.Settings // set
}

// PlanMenu does one act on a menu of Next.
func (a *App) PlanMenu(ctx context.Context, who port.Person, act MenuAct) (PlanResult, error) {
	return a.onNext(ctx, who, act.Key, act.Item, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		m := menu.For(trees.Next, trees.Ways.Next.Menus())
		if !slices.Contains(m.IDs(), act.Menu) {
			return PlanResult{}, ErrNotFound
		}
		own, item, label, err := arranged(m.Layout(act.Menu), trees.Next, act)
		if err != nil {
			return PlanResult{}, menuProblem(err)
		}
		label = fmt.Sprintf(label, lowerFirst(menu.Title(act.Menu, trees.Next)))
		res, err := a.recordWay(ctx, tx, s, who, act.Key, label, trees, ways.MenuID(act.Menu), &ways.Way{Menu: &own})
		res.ID = item
		return res, err
	})
}

func lowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

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
	return &Invalid{field, sentenceOf(err)}
}

func sentenceOf(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// recordWay records an act that makes a menu or trail something else; nil takes
// it away.
func (a *App) recordWay(ctx context.Context, tx port.Tx, s port.Site, who port.Person, key, label string, trees port.Trees, id string, w *ways.Way) (PlanResult, error) {
	also := port.Also{Ways: ways.Patches(trees.Ways.Next, trees.Ways.Next.With(id, w))}
	return a.recordAlso(ctx, tx, s, who, key, label, trees, trees.Next, also)
}

// arranged asks the core for the menu after an act, and words the act; %s stands
// for the menu.
func arranged(l *menu.Layout, t *sitemap.Tree, act MenuAct) (own menu.Own, item, label string, err error) {
	item = act.Item
	line, _ := l.Find(item)
	title := fmt.Sprintf("%q", strings.ReplaceAll(line.Title, "%", "%%"))
	if line.Said.Kind == menu.Divider {
		title = "a divider"
	}
	switch act.Do {
	case "add":
		item = newID()
		own, err = l.Add(item, act.Said, act.Parent, act.After)
		label = "added an item to the %s"
	case "move":
		own, err = l.Move(item, act.Parent, act.After)
		label = "moved " + title + " in the %s"
	case "step":
		own, err = l.Step(item, act.Step)
		label = "moved " + title + " " + string(act.Step) + " in the %s"
	case "say":
		own, err = l.Say(item, func(s *menu.Said) {
			s.Title, s.Symbol, s.Levels, s.URL = act.Said.Title, act.Said.Symbol, act.Said.Levels, act.Said.URL
		})
		label = "changed " + title + " in the %s"
	case "out":
		own, err = l.LeaveOut(item)
		label = "left " + title + " out of the %s"
		if line.Entry != sitemap.None {
			label += "; its page stays where it is"
		}
		if line.Own() {
			item = line.Parent
		}
	case "in":
		own, err = l.Say(item, func(s *menu.Said) { s.Out, s.In = false, l.Settings().Wait })
		label = "let " + title + " into the %s"
	case "back":
		own, err = l.Back(item)
		label = "made " + title + " as computed again in the %s"
	case "set":
		own, err = l.Set(act.Settings)
		label = "computed the %s in another way"
	case "reset":
		label = "made the %s as computed again"
	default:
		err = &Invalid{"do", "This act is not known."}
	}
	return own, item, label, err
}

// MenuFind is a search for what could go into a menu or onto a trail.
type MenuFind struct {
	Words string
	Bare  bool // only what no menu shows
	Pages bool // only pages
	Most  int
}

// MenuFinds are entries that could go into a menu.
type MenuFinds struct {
	Trees   port.Trees
	Entries []int
}

// FindForMenu finds entries by title, address or topic; those that changed last
// come first where nothing is typed.
func (a *App) FindForMenu(ctx context.Context, who port.Person, ask MenuFind) (MenuFinds, error) {
	var f MenuFinds
	err := a.planning(ctx, who, func(tx port.Tx, s port.Site, trees port.Trees) error {
		f.Trees = trees
		t := trees.Next
		m := menu.For(t, trees.Ways.Next.Menus())
		fits := func(i int) bool {
			return !t.Ref(i).Withdrawn && (!ask.Pages || t.Served(i) != "") && (!ask.Bare || len(m.Of(i)) == 0)
		}
		if q := strings.TrimSpace(ask.Words); q != "" {
			f.Entries = match.Find(t, q, ask.Most, fits)
			return nil
		}
		o, err := a.outline(ctx, tx, s)
		if err != nil {
			return err
		}
		st := o.Standing()
		for i := range t.Len() {
			if fits(i) {
				f.Entries = append(f.Entries, i)
			}
		}
		slices.SortStableFunc(f.Entries, func(x, y int) int { return st.LastChange(t.Ref(y).ID).Compare(st.LastChange(t.Ref(x).ID)) })
		f.Entries = f.Entries[:min(ask.Most, len(f.Entries))]
		return nil
	})
	return f, err
}

// TrailAct is one act on a trail of Next.
type TrailAct struct {
	Key    string
	ID     string // empty: a new one
	Trail  ways.Trail
	Remove bool
	Seen   int64 // the plan version that the form was made of
}

// PlanTrail makes, changes or takes away a trail of Next. Its pages stay.
func (a *App) PlanTrail(ctx context.Context, who port.Person, act TrailAct) (PlanResult, error) {
	return a.onNext(ctx, who, act.Key, act.ID, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		id := ways.TrailID(act.ID)
		was := trees.Ways.Next.Find(id)
		if act.ID != "" && was == nil {
			return PlanResult{}, ErrNotFound
		}
		if err := a.quicker(ctx, tx, who, act.Seen, id); err != nil {
			return PlanResult{}, err
		}
		if act.Remove {
			if was == nil {
				return PlanResult{}, ErrNotFound
			}
			return a.recordWay(ctx, tx, s, who, act.Key, fmt.Sprintf("took the trail %q away; its pages stay", was.Trail.Title), trees, id, nil)
		}
		var before *ways.Trail
		if was != nil {
			before = was.Trail
		}
		known, err := knownReaders(ctx, tx)
		if err != nil {
			return PlanResult{}, err
		}
		if act.Trail.Readership, err = parseReadership(act.Trail.Readership, known); err != nil {
			return PlanResult{}, err
		}
		tr, err := act.Trail.Cleaned(trees.Next, before)
		if err != nil {
			field := ""
			if errors.Is(err, ways.ErrNoTitle) || errors.Is(err, ways.ErrTitle) {
				field = "title"
			}
			return PlanResult{}, &Invalid{field, sentenceOf(err)}
		}
		verb := "changed"
		if act.ID == "" {
			act.ID, verb = newID(), "made"
		}
		res, err := a.recordWay(ctx, tx, s, who, act.Key, fmt.Sprintf("%s the trail %q", verb, tr.Title), trees, ways.TrailID(act.ID), &ways.Way{Trail: &tr})
		res.ID = act.ID
		return res, err
	})
}

// PreviewAsk is a page to be looked at as readers get it.
type PreviewAsk struct {
	Live bool   // else Next
	At   string // its address
	As   string // login of who looks; empty: somebody who did not sign in
}

// Previewed is what a preview shows.
type Previewed struct {
	Site   LiveSite
	Reader readership.Reader
	Entry  string // empty: there is no such page
	Body   port.LiveBody
}

// Preview gives a page of Live or Next with its menus, as somebody gets it.
func (a *App) Preview(ctx context.Context, who port.Person, ask PreviewAsk) (Previewed, error) {
	var p Previewed
	err := a.planning(ctx, who, func(tx port.Tx, s port.Site, trees port.Trees) error {
		p.Site = LiveSite{Site: s, Tree: trees.Live, Ways: trees.Ways.Live}
		if !ask.Live {
			p.Site.Site.Edition++
			p.Site.Tree, p.Site.Ways = trees.Next, trees.Ways.Next
		}
		var err error
		if p.Site.Table, err = redirect.NewTable(nil, p.Site.Tree); err != nil {
			return err
		}
		if p.Reader, err = readerCalled(ctx, tx, ask.As); err != nil {
			return err
		}
		answer := p.Site.Table.Resolve(ask.At)
		if answer.By != redirect.ByPage {
			return nil
		}
		p.Entry = p.Site.Tree.Ref(answer.Page).ID
		if p.Body, err = tx.LiveBody(ctx, p.Entry); errors.Is(err, port.ErrNotFound) {
			err = nil
		}
		if err != nil || ask.Live {
			return err
		}
		d, err := tx.Draft(ctx, p.Entry)
		if errors.Is(err, port.ErrNotFound) {
			return nil
		}
		p.Body = port.LiveBody{VersionID: d.ID, Body: d.Body, Outline: d.Outline, Excerpt: d.Excerpt, At: d.At}
		return err
	})
	return p, err
}

func readerCalled(ctx context.Context, tx port.Tx, login string) (readership.Reader, error) {
	if login == "" {
		return readership.Reader{}, nil
	}
	p, err := tx.PersonByLogin(ctx, login)
	return readership.Reader{Name: p.Name, Login: p.Login, Role: p.Role}, err
}

// PlanMenuItem puts a page into the top menu, as its last item.
func (a *App) PlanMenuItem(ctx context.Context, who port.Person, key, entry string) (PlanResult, error) {
	return a.PlanMenu(ctx, who, MenuAct{Key: key, Menu: menu.Top, Do: "add", Said: menu.Said{Kind: menu.AnEntry, Entry: entry}, After: menu.Last})
}
