package sitemap

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// orderOf is the order in which an act sorts.
func orderOf(act PlanAct, written map[string]time.Time) (order sitemap.Order, words string) {
	if act.Value == "date" {
		return sitemap.ByDate(func(id string) time.Time { return written[id] }), " by date"
	}
	return sitemap.ByTitle(), ""
}

// perform asks the core for the tree after an act, words the act, and names
// the entry it was on.
func perform(t *sitemap.Tree, act PlanAct, about siteFacts) (next *sitemap.Tree, label, id string, err error) {
	id = act.ID
	title := func() string { return strconv.Quote(plan.TitleOf(t, id)) }
	several := func() string {
		if len(act.IDs) > 1 {
			return fmt.Sprintf("%d entries", len(act.IDs))
		}
		return strconv.Quote(plan.TitleOf(t, act.on()[0]))
	}
	switch act.Do {
	case "add":
		if id = act.New; id == "" {
			id = plan.NewID()
		}
		if _, bad := uuid.Parse(id); bad != nil || t.Find(id) != sitemap.None {
			return nil, "", "", plan.Refuse("id", "This entry cannot be added under that id. Load the page again.")
		}
		e := sitemap.Entry{ID: id, Title: sitemap.CleanTitle(act.Value), Kind: sitemap.Page, Template: inherited(t, act.Parent)}
		next, err = t.Add(e, sitemap.Spot{Parent: act.Parent, After: act.After})
		label = fmt.Sprintf("added %q", e.Title)
	case "paste":
		var got *sitemap.Brought
		if got, err = t.Paste(act.Value, act.Parent, plan.NewID); err == nil {
			next, id = got.Tree, act.Parent
			label = fmt.Sprintf("pasted %d %s", got.Count[sitemap.IsAdded], plan.Plural(got.Count[sitemap.IsAdded], "entry", "entries"))
			if n := got.Count[sitemap.IsRefused]; n > 0 {
				label += fmt.Sprintf("; %d %s there already", n, plan.Plural(n, "was", "were"))
			}
		}
	case "retitle":
		next, err = t.Retitle(id, sitemap.CleanTitle(act.Value))
		label = fmt.Sprintf("renamed %s to %q", title(), sitemap.CleanTitle(act.Value))
	case "slug":
		next, err = changeFact(t, act.on(), "slug", act.Value)
		if err == nil {
			label = fmt.Sprintf("gave %s the slug %s", title(), next.Ref(next.Find(id)).Slug)
		}
	case "kind":
		next, err = changeFact(t, act.on(), "kind", act.Value)
		label = fmt.Sprintf("turned %s into %s", several(), sitemap.Kind(act.Value).Label())
	case "fact":
		next, err = changeFact(t, act.on(), act.Field, act.Value)
		label = fmt.Sprintf("changed the %s of %s", fieldWords[act.Field], several())
	case "facts":
		if id = ""; len(act.Values) == 0 || len(act.Values) > MaxFilled {
			return nil, "", "", plan.Refuse("values", fmt.Sprintf("At most %d entries are filled at once.", MaxFilled))
		}
		next, err = fillFacts(t, act.Field, act.Values)
		label = fmt.Sprintf("changed the %s of %d %s", fieldWords[act.Field], len(act.Values), plan.Plural(len(act.Values), "entry", "entries"))
	case "move":
		spot := sitemap.Spot{Parent: act.Parent, After: act.After}
		if act.Last {
			spot = t.Last(act.Parent)
		}
		next, err = t.MoveAll(act.on(), spot)
		label = "moved " + several()
	case "step":
		next, err = t.StepAll(act.on(), act.Step)
		label = fmt.Sprintf("moved %s %s", several(), act.Step)
	case "sort", "sort-all":
		order, words := orderOf(act, about.written)
		next, err = t.SortBelow(id, act.Do == "sort-all", order)
		label = fmt.Sprintf("sorted what is below %s%s", title(), words)
	case "refer":
		next, err = t.Join(act.Value, id, true)
		label = fmt.Sprintf("made %s a reference to %q", title(), plan.TitleOf(t, act.Value))
	case "mend":
		var done string
		if next, done, err = mendAll(t, sitemap.Rule(act.Field), act.on(), about.check); len(act.IDs) > 1 {
			done = "mended"
		}
		label = strings.TrimSpace(several() + " " + done)
	case "copy":
		label = fmt.Sprintf("copied %s", title())
		next, id, err = t.Copy(id, plan.NewID)
	case "remove":
		next, err = t.RemoveAll(act.on())
		label = "removed " + several()
	case "withdraw", "return":
		next, err = t.ChangeAll(act.on(), func(e *sitemap.Entry) { e.Withdrawn = act.Do == "withdraw" && e.Kind.IsPage() })
		label = map[string]string{"withdraw": "withdrew ", "return": "brought back "}[act.Do] + several()
	default:
		err = plan.Refuse("do", "This act is not known.")
	}
	return next, label, id, err
}

// inherited is the template that a new page takes over from its surroundings.
func inherited(t *sitemap.Tree, parent string) string {
	if i := t.Find(parent); i != sitemap.None {
		return t.Ref(i).Template
	}
	if h := t.Home(); h != sitemap.None {
		return t.Ref(h).Template
	}
	return ""
}
