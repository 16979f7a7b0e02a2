package app_test

import (
	"cmp"
	"context"
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// road is a history of four people who plan, review, schedule, publish and restore, with a memory of its own
// of who made what, against which every edition is held.
type road struct {
	*desk
	t       *rapid.T
	made    map[change.Key]map[string]bool // since it went out or was planned last; never more than is true
	out     []wentOut
	edition int
	before  editions.Queue // as it was before the step
}

// wentOut is what people made of a change that went out.
type wentOut struct {
	change.Key
	edition int
	people  map[string]bool
}

var planners = []string{"ines", "anselm", "noor", "marta"} // an editor, two approvers, a site manager

func newRoad(outer *testing.T, t *rapid.T) *road {
	d := newDesk(outer)
	t.Cleanup(d.pool.Close) // of this history, not of the last
	require.NoError(outer, d.ChangePerson(outer.Context(), d.people["marta"], d.people["noor"].ID, workflow.Approver, false))
	r := &road{desk: d, t: t, made: map[change.Key]map[string]bool{}}
	r.refresh()
	r.edition = r.before.Next.Site.Edition
	return r
}

func (r *road) ctx() context.Context { return r.desk.t.Context() }

// refresh loads who everybody is, and where everything stands.
func (r *road) refresh() {
	all, err := r.Everyone(r.ctx())
	require.NoError(r.t, err)
	for _, p := range all {
		r.people[p.Login] = p
	}
	r.before, err = r.Queue(r.ctx(), r.people["marta"])
	require.NoError(r.t, err)
}

func (r *road) who() plan.Person { return r.people[rapid.SampledFrom(planners).Draw(r.t, "who")] }

func (r *road) entry() string {
	tree := r.before.Next.Trees.Next
	return tree.Ref(rapid.IntRange(0, tree.Len()-1).Draw(r.t, "entry")).ID
}

// author remembers that somebody made something of a change.
func (r *road) author(who plan.Person, id string, aspect change.Aspect) {
	k := change.Key{ID: id, Aspect: aspect}
	if r.made[k] == nil {
		r.made[k] = map[string]bool{}
	}
	r.made[k][who.ID] = true
}

// authors are the people who are known to have made something of a change.
func (r *road) authors(k change.Key) map[string]bool {
	if k.Aspect != change.Added {
		return r.made[k]
	}
	all := map[string]bool{}
	for made, people := range r.made {
		if made.ID == k.ID {
			maps.Copy(all, people)
		}
	}
	return all
}

func (r *road) act(who plan.Person, a appsitemap.PlanAct, aspect change.Aspect) {
	a.Key, a.Confirmed = uuid.NewString(), true
	if res, err := r.Plan(r.ctx(), who, a); err == nil {
		r.author(who, cmp.Or(a.ID, res.ID), aspect)
	}
}

func (r *road) item(state workflow.State) (list []editions.Judged) {
	for _, i := range r.before.Items {
		if i.State == state && rapid.Bool().Draw(r.t, "chosen") {
			list = append(list, editions.Judged{ID: i.ID, Stamp: i.Stamp})
		}
	}
	return list
}

func (r *road) clock() string {
	return r.now.Add(time.Duration(rapid.IntRange(1, 90).Draw(r.t, "in minutes")) * time.Minute).UTC().Format("2006-01-02T15:04")
}

// steps are what people do.
func (r *road) steps() map[string]func() {
	word := func() string { return fmt.Sprint("Word ", rapid.IntRange(0, 20).Draw(r.t, "word")) }
	return map[string]func(){
		"retitle": func() { r.act(r.who(), appsitemap.PlanAct{Do: "retitle", ID: r.entry(), Value: word()}, change.Title) },
		"slug": func() {
			r.act(r.who(), appsitemap.PlanAct{Do: "fact", Field: "slug", ID: r.entry(), Value: strings.ReplaceAll(word(), " ", "-")}, change.Placement)
		},
		"readership": func() {
			r.act(r.who(), appsitemap.PlanAct{Do: "fact", Field: "readership", ID: r.entry(), Value: rapid.SampledFrom([]string{"", "approver", "site manager"}).Draw(r.t, "readers")}, change.Readership)
		},
		"add":    func() { r.act(r.who(), appsitemap.PlanAct{Do: "add", Parent: r.entry(), Value: word()}, change.Added) },
		"remove": func() { r.act(r.who(), appsitemap.PlanAct{Do: "remove", ID: r.entry()}, change.Removed) },
		"move": func() {
			r.act(r.who(), appsitemap.PlanAct{Do: "move", ID: r.entry(), Parent: r.entry(), Last: true}, change.Placement)
		},
		"withdraw":   func() { r.act(r.who(), appsitemap.PlanAct{Do: "withdraw", ID: r.entry()}, change.Withdrawn) },
		"write":      func() { r.writes(r.who(), r.entry(), word()) },
		"write more": func() { r.writes(r.who(), r.entry(), word()) },
		"menu": func() {
			_, _ = r.PlanMenu(r.ctx(), r.who(), appnavigation.MenuAct{Key: uuid.NewString(), Menu: menu.Top, Do: "set", Settings: menu.Settings{Levels: rapid.IntRange(0, 2).Draw(r.t, "levels"), AZ: rapid.Bool().Draw(r.t, "az")}})
		},
		"redirect": func() {
			_, _ = r.PlanRedirects(r.ctx(), r.who(), uuid.NewString(), []redirect.Wish{{From: "/old-" + strings.ToLower(strings.ReplaceAll(word(), " ", "-")), To: "page:" + r.entry(), Code: "permanent", Match: "exact"}})
		},
		"undo": func() { _, _ = r.Undo(r.ctx(), r.who()) },
		"redo": func() { _, _ = r.Redo(r.ctx(), r.who()) },
		"send": func() {
			var ids []string
			for _, j := range r.item(workflow.Draft) {
				ids = append(ids, j.ID)
			}
			_, _ = r.SendForReview(r.ctx(), r.who(), editions.SendAsk{IDs: ids})
		},
		"approve":   func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.Approve, r.item(workflow.WithReviewer), "") },
		"approve 2": func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.Approve, r.item(workflow.WithReviewer), "") },
		"send back": func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.SendBack, r.item(workflow.WithReviewer), "No") },
		"schedule": func() {
			list := append(r.item(workflow.Ready), r.item(workflow.Draft)...)
			_, _ = r.TimeChanges(r.ctx(), r.who(), editions.TimeAsk{List: list, At: r.clock(), Zone: "UTC"})
		},
		"unschedule": func() { _, _ = r.LiftChanges(r.ctx(), r.who(), r.item(workflow.Timed)) },
		"reschedule": func() {
			_, _, _ = r.Retime(r.ctx(), r.who(), editions.TimeAsk{List: r.item(workflow.Timed), At: r.clock(), Zone: "UTC"})
		},
		"withdrawal": func() {
			_, _ = r.WithdrawAt(r.ctx(), r.who(), editions.WithdrawAsk{Entry: r.entry(), At: r.clock(), Zone: "UTC"})
		},
		"publish": func() {
			_, _ = r.Publish(r.ctx(), r.who(), editions.PublishAsk{Key: uuid.NewString(), Why: "out"})
		},
		"publish one": func() {
			_, _ = r.Publish(r.ctx(), r.who(), editions.PublishAsk{Key: uuid.NewString(), Why: "one", Changes: editions.Select{Only: []string{r.entry()}}})
		},
		"time goes on": func() {
			r.now = r.now.Add(time.Duration(rapid.IntRange(1, 120).Draw(r.t, "minutes")) * time.Minute)
			require.NoError(r.t, r.PublishTimed(r.ctx(), r.now))
		},
		"restore": func() {
			to := rapid.IntRange(1, max(r.edition-1, 1)).Draw(r.t, "to")
			if e, err := r.Rollback(r.ctx(), r.who(), uuid.NewString(), to, "back"); err == nil {
				for _, o := range r.out {
					if o.edition > e.BackTo {
						for p := range o.people {
							r.author(plan.Person{ID: p}, o.ID, o.Aspect)
						}
					}
				}
			}
		},
		"freeze": func() {
			_ = r.Freeze(r.ctx(), r.people["marta"], editions.TimeAsk{At: r.now.Format("2006-01-02T15:04"), Zone: "UTC"}, editions.TimeAsk{At: r.clock(), Zone: "UTC"}, "Open days")
		},
		"rules": func() {
			asks := rapid.SampledFrom(workflow.AllAsks()).Draw(r.t, "asks")
			_ = r.BranchAsks(r.ctx(), r.people["marta"], r.entry(), &asks)
		},
		"own work": func() {
			_ = r.SaveSettings(r.ctx(), r.people["marta"], setting.Values{setting.OwnWork: rapid.SampledFrom([]string{"", setting.On}).Draw(r.t, "own")}, nil)
		},
		"leave": func() {
			_ = r.ChangePerson(r.ctx(), r.people["marta"], r.people["noor"].ID, rapid.SampledFrom([]workflow.Role{workflow.Approver, workflow.Editor}).Draw(r.t, "role"), rapid.Bool().Draw(r.t, "inactive"))
		},
		"restart": func() { r.restart() },
	}
}

func (r *road) writes(who plan.Person, entry, text string) {
	window := uuid.NewString()
	v, err := r.OpenPage(r.ctx(), who, entry, window)
	if err != nil {
		return
	}
	if saved, err := r.SavePage(r.ctx(), who, entry, window, page(text), v.Base); err == nil && saved.Clash == nil {
		r.author(who, entry, change.Content)
	}
	_ = r.ClosePage(r.ctx(), who, entry, window)
}

// check holds what happened in a step against what must never be.
func (r *road) check(frozen bool) {
	was := r.before
	people := r.people
	r.refresh()
	eds, _, err := r.PastEditions(r.ctx(), r.people["marta"])
	require.NoError(r.t, err)
	for _, e := range slices.Backward(eds) {
		if e.Number <= r.edition {
			continue
		}
		require.NotEmpty(r.t, e.Changes, "edition %d is empty", e.Number)
		by := r.personOf(e.PersonID)
		if frozen {
			require.True(r.t, e.BackTo > 0 && by.Role == workflow.Manager && e.Why != "", "edition %d goes out in a freeze", e.Number)
		}
		for _, c := range e.Changes {
			if e.BackTo == 0 {
				r.goesOut(was, e, c, by)
			}
		}
	}
	if len(eds) > 0 {
		r.edition = eds[0].Number
	}
	for k := range r.made { // what is planned no more has no authors
		if !slices.ContainsFunc(r.before.Next.All, func(c change.Change) bool { return c.ID == k.ID }) {
			delete(r.made, k)
		}
	}
	for k, s := range r.before.Next.Standings {
		frozenNow := workflow.Frozen(r.freezes(), r.now) != nil
		require.False(r.t, s.State == workflow.Timed && s.GoAt.Before(r.now.Add(-150*time.Minute)) && !frozenNow, "%v stays due", k)
	}
	_ = people
}

func (r *road) freezes() []workflow.Freeze {
	c, err := r.Calendar(r.ctx(), r.people["marta"])
	require.NoError(r.t, err)
	return c.Freezes
}

func (r *road) personOf(id string) plan.Person {
	for _, p := range r.people {
		if p.ID == id {
			return p
		}
	}
	return plan.Person{}
}

// goesOut holds one change of an edition against who made and who approved it.
func (r *road) goesOut(was editions.Queue, e plan.Edition, c plan.ChangeSummary, by plan.Person) {
	k := change.Key{ID: c.EntryID, Aspect: c.Aspect}
	made := r.authors(k)
	i := slices.IndexFunc(was.Next.All, func(ch change.Change) bool { return ch.Key == k })
	if i >= 0 {
		asks, ch := was.Next.AsksOf(k), was.Next.All[i]
		state, s := was.Next.StateOf(ch)
		approved := state == workflow.Ready || state == workflow.Timed && was.Next.Standings[k].Approved
		if asks != workflow.AsksNothing {
			require.True(r.t, approved, "edition %d: %v went out unapproved", e.Number, k)
		}
		if asks == workflow.AsksFourEyes {
			require.False(r.t, made[s.Person], "edition %d: %v was approved by its author", e.Number, k)
		}
		scheduled := strings.HasPrefix(e.Why, "Timed for")
		if own := was.Next.Site.Rights().OwnWork; !own && !scheduled && by.Role != workflow.Manager && made[by.ID] {
			require.True(r.t, approved && s.Person != by.ID, "edition %d: %v is the publisher's own work", e.Number, k)
		}
	}
	if len(made) > 0 {
		r.out = append(r.out, wentOut{k, e.Number, maps.Clone(made)})
	}
	for known := range r.made {
		if known == k || k.Aspect == change.Added && known.ID == k.ID {
			delete(r.made, known)
		}
	}
}

// Whatever four people do in whatever order: no edition is empty, nothing goes out that was not approved where
// that is asked, by somebody who did not make it where that is asked, nobody brings out their own work, nothing
// goes out in a freeze but what a site manager restores, and no date stays due. ROADS says how many histories;
// a failing one is told at its shortest.
func TestTheRoadToLive(t *testing.T) {
	checks := flag.Lookup("rapid.checks")
	had := checks.Value.String()
	require.NoError(t, checks.Value.Set(cmp.Or(os.Getenv("ROADS"), "12")))
	defer func() { require.NoError(t, checks.Value.Set(had)) }()
	rapid.Check(t, func(rt *rapid.T) {
		r := newRoad(t, rt)
		names := slices.Sorted(maps.Keys(r.steps()))
		for range rapid.IntRange(20, 60).Draw(rt, "steps") {
			name := rapid.SampledFrom(names).Draw(rt, "step")
			frozen := workflow.Frozen(r.freezes(), r.now) != nil && name != "time goes on"
			r.steps()[name]()
			r.now = r.now.Add(time.Second)
			r.check(frozen)
		}
		require.NotEqual(rt, sitemap.None, r.live().Tree.Home())
	})
}
