package app_test

import (
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/testkit"
)

// road is a history of four people at two instances who plan, review, schedule, publish and restore, with a
// memory of its own of who made what, against which every edition is held.
type road struct {
	*desk
	t         *rapid.T
	instances [2]*app.App                    // over one database, each with what it has cached
	made      map[change.Key]map[string]bool // since it went out or was planned last; never more than is true
	out       []wentOut
	edition   int
	before    editions.Queue        // as it was before the step
	freezes   []workflow.Freeze     // that were laid
	answered  map[string]bool       // addresses that ever answered, and those of files
	live      reading.LiveSite      // as it was last seen
	planned   map[change.Key]string // before the step: what is planned, and how
	cut       time.Duration         // when a step is cut off, as if its instance was killed; zero: never
	file      plan.KeptFile         // what pages link to
}

// wentOut is what people made of a change that went out.
type wentOut struct {
	change.Key
	edition int
	people  map[string]bool
}

var planners = []string{"ines", "anselm", "noor", "marta"} // an editor, two approvers, a site manager

// roads gives histories that begin at the same small site.
func roads(outer *testing.T) func(*rapid.T) *road {
	pool := kit.Copy(outer, "road", func(pool *pgxpool.Pool) {
		d := open(outer, pool)
		require.NoError(outer, d.ChangePerson(outer.Context(), d.people["marta"], d.people["noor"].ID, workflow.Approver, false))
	})
	begin := testkit.Remember(outer, pool)
	return func(t *rapid.T) *road {
		begin(t)
		return newRoad(outer, t, pool)
	}
}

func newRoad(outer *testing.T, t *rapid.T, pool *pgxpool.Pool) *road {
	r := &road{desk: over(outer, pool), t: t, made: map[change.Key]map[string]bool{}, answered: map[string]bool{}}
	r.now = r.now.Add(time.Hour)
	for i := range r.instances {
		r.instances[i] = r.App
		r.restart()
	}
	r.everyone()
	f, err := r.AddFile(outer.Context(), r.people["marta"], textFile("rota.txt", "Monday"))
	require.NoError(t, err)
	r.file = f
	r.refresh()
	r.edition = r.before.Site.Edition
	r.answers()
	return r
}

// ctx is that of one step; it ends early where the step is cut off.
func (r *road) ctx() context.Context {
	ctx := r.desk.t.Context()
	if r.cut > 0 {
		ctx, stop := context.WithTimeout(ctx, r.cut)
		r.t.Cleanup(stop)
		return ctx
	}
	return ctx
}

func (r *road) everyone() {
	all, err := r.Everyone(r.desk.t.Context())
	require.NoError(r.t, err)
	for _, p := range all {
		r.people[p.Login] = p
	}
}

// refresh loads where everything stands.
func (r *road) refresh() {
	var err error
	r.before, err = r.Queue(r.ctx(), r.people["marta"])
	require.NoError(r.t, err)
	r.planned = map[change.Key]string{}
	for _, c := range r.before.All {
		r.planned[c.Key] = r.before.Stamp(c)
	}
}

func (r *road) who() plan.Person { return r.people[rapid.SampledFrom(planners).Draw(r.t, "who")] }

// publisher is mostly one who may publish what others made, and their own.
func (r *road) publisher() plan.Person {
	return r.people[rapid.SampledFrom(append([]string{"marta", "marta", "marta"}, planners...)).Draw(r.t, "publisher")]
}

func (r *road) entry() string {
	tree := r.before.Trees.Next
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
	if res, err := r.Plan(r.ctx(), who, a); err == nil && len(res.Patches) > 0 { // what is so already nobody made
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
		"add": func() { r.act(r.who(), appsitemap.PlanAct{Do: "add", Parent: r.entry(), Value: word()}, change.Added) },
		"remove": func() {
			id := r.entry()
			r.act(r.who(), appsitemap.PlanAct{Do: "remove", ID: id}, change.Removed)
			if rapid.Bool().Draw(r.t, "decided") {
				_ = r.Decide(r.ctx(), r.who(), id, "gone", false, "")
			}
		},
		"move": func() {
			r.act(r.who(), appsitemap.PlanAct{Do: "move", ID: r.entry(), Parent: r.entry(), Last: true}, change.Placement)
		},
		"hide": func() { // below a page that not everybody may read
			t := r.before.Trees.Next
			for i := range t.Len() {
				if e := t.Ref(i); e.Readership != "" {
					r.act(r.who(), appsitemap.PlanAct{Do: "move", ID: r.entry(), Parent: e.ID, Last: true}, change.Placement)
					return
				}
			}
		},
		"withdraw": func() { r.act(r.who(), appsitemap.PlanAct{Do: "withdraw", ID: r.entry()}, change.Withdrawn) },
		"write":    func() { r.writes(r.who(), r.entry(), word()) },
		"link": func() {
			to := rapid.SampledFrom([]string{"page:" + r.entry(), r.file.Address()}).Draw(r.t, "to")
			r.writes(r.who(), r.entry(), fmt.Sprintf("[%s](%s)", word(), to))
		},
		"replace file": func() { r.replace(r.who(), word()) },
		"template":     func() { r.template(r.who(), word()) },
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
		"approve":   func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.Approve, r.item(workflow.InReview), "") },
		"send back": func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.SendBack, r.item(workflow.InReview), "No") },
		"recall":    func() { _, _ = r.Judge(r.ctx(), r.who(), workflow.Recall, r.item(workflow.InReview), "") },
		"revert": func() {
			if len(r.out) > 0 {
				o := rapid.SampledFrom(r.out).Draw(r.t, "of what went out")
				_, _ = r.TakeBack(r.ctx(), r.who(), uuid.NewString(), o.edition, []change.Key{o.Key})
			}
		},
		"schedule": func() {
			list := append(r.item(workflow.Ready), r.item(workflow.Draft)...)
			_, _ = r.TimeChanges(r.ctx(), r.who(), editions.TimeAsk{List: list, At: r.clock(), Zone: "UTC"})
		},
		"unschedule": func() { _, _ = r.LiftChanges(r.ctx(), r.who(), r.item(workflow.Scheduled)) },
		"reschedule": func() {
			_, _, _ = r.Retime(r.ctx(), r.who(), editions.TimeAsk{List: r.item(workflow.Scheduled), At: r.clock(), Zone: "UTC"})
		},
		"withdrawal": func() {
			_, _ = r.WithdrawAt(r.ctx(), r.who(), editions.WithdrawAsk{Entry: r.entry(), At: r.clock(), Zone: "UTC"})
		},
		"publish": func() {
			who := r.publisher()
			_, _ = r.DeselectErrors(r.ctx(), who)
			_, _ = r.Publish(r.ctx(), who, editions.PublishAsk{Key: uuid.NewString(), Why: "out", Changes: editions.Select{Own: true}})
		},
		"publish one": func() {
			_, _ = r.Publish(r.ctx(), r.publisher(), editions.PublishAsk{Key: uuid.NewString(), Why: "one", Changes: editions.Select{Only: []string{r.entry()}}})
		},
		"time goes on": func() {
			r.now = r.now.Add(time.Duration(rapid.IntRange(1, 120).Draw(r.t, "minutes")) * time.Minute)
			err := r.PublishTimed(r.ctx(), r.now)
			require.True(r.t, err == nil || r.cut > 0, "the minute: %v", err)
		},
		"restore": func() {
			to := rapid.IntRange(1, max(r.edition-1, 1)).Draw(r.t, "to")
			if e, err := r.Rollback(r.ctx(), r.publisher(), uuid.NewString(), to, "back"); err == nil {
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
			from, to := r.now.Format("2006-01-02T15:04"), r.now.Add(time.Minute*3).Format("2006-01-02T15:04")
			err := r.Freeze(r.ctx(), r.people["marta"], editions.TimeAsk{At: from, Zone: "UTC"}, editions.TimeAsk{At: to, Zone: "UTC"}, "Open days")
			if err == nil || r.cut > 0 {
				r.thaws()
			}
		},
		"rules": func() {
			asks := rapid.SampledFrom(workflow.ApprovalPolicies()).Draw(r.t, "asks")
			_ = r.BranchAsks(r.ctx(), r.people["marta"], r.entry(), &asks)
		},
		"own work": func() {
			_ = r.SaveSettings(r.ctx(), r.people["marta"], setting.Values{setting.OwnWork: rapid.SampledFrom([]string{"", setting.On}).Draw(r.t, "own")}, nil)
		},
		"leave": func() {
			_ = r.ChangePerson(r.ctx(), r.people["marta"], r.people["noor"].ID, rapid.SampledFrom([]workflow.Role{workflow.Approver, workflow.Editor}).Draw(r.t, "role"), rapid.Bool().Draw(r.t, "inactive"))
			r.everyone()
		},
		"restart": func() { r.restart() },
	}
}

// often is what people do more often than the rest, so that much goes out.
var often = []string{
	"publish", "publish", "publish", "publish", "publish", "publish one", "restore", "restore", "time goes on", "time goes on", "time goes on",
	"write", "approve", "approve", "send", "send", "schedule", "readership", "hide", "hide", "undo", "revert",
}

// step does one step at one of the instances; some are cut off, as a kill would, and the instance begins anew.
func (r *road) step(names []string) {
	name, at := rapid.SampledFrom(names).Draw(r.t, "step"), rapid.IntRange(0, 1).Draw(r.t, "instance")
	r.App = r.instances[at]
	frozen := workflow.Frozen(r.freezes, r.now) != nil && name != "time goes on"
	if rapid.IntRange(0, 19).Draw(r.t, "killed") == 19 {
		r.cut = time.Duration(rapid.IntRange(1, 20_000).Draw(r.t, "after µs")) * time.Microsecond
		r.steps()[name]()
		r.cut = 0
		r.restart()
		r.everyone()
		r.thaws()
	} else {
		r.steps()[name]()
	}
	r.instances[at] = r.App
	r.now = r.now.Add(20 * time.Second)
	r.App = r.instances[rapid.IntRange(0, 1).Draw(r.t, "seen at")]
	r.check(name, frozen)
}

// thaws loads what freezes there are.
func (r *road) thaws() {
	c, err := r.Calendar(r.desk.t.Context(), r.people["marta"])
	require.NoError(r.t, err)
	r.freezes = c.Freezes
}

// template plans another text of what every page of a template shows.
func (r *road) template(who plan.Person, text string) {
	v, err := r.OpenTemplate(r.ctx(), who, "procedure", "")
	if err != nil {
		return
	}
	t := content.FromPage(v.Draft.Page, "procedure", v.Template.Order)
	t.Parts[0].Content[0].Text = text
	if _, _, err = r.SaveTemplateDraft(r.ctx(), who, "procedure", t.AsPage(), v.Draft.Version); err == nil {
		_, _ = r.PlanTemplate(r.ctx(), who, pages.TemplatePlan{Key: uuid.NewString(), Template: "procedure"})
	}
}

// replace puts another file in the place of the one that pages link to.
func (r *road) replace(who plan.Person, holds string) {
	rows := func(string, io.Reader) ([][]string, error) { return nil, errors.New("no table") }
	if _, err := r.Replace(r.ctx(), who, uuid.NewString(), r.file.ID, textFile("rota.txt", holds), rows); err != nil {
		return
	}
	f, err := r.AddFile(r.desk.t.Context(), who, textFile("rota.txt", holds)) // the same, which is there
	require.NoError(r.t, err)
	r.file = f
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
func (r *road) check(name string, frozen bool) {
	was, planned := r.before, r.planned
	r.refresh()
	if r.before.Site.Edition > r.edition {
		r.published(name, was, planned, frozen)
	}
	for k := range r.made { // what is planned no more has no authors
		if !slices.ContainsFunc(r.before.All, func(c change.Change) bool { return c.ID == k.ID }) {
			delete(r.made, k)
		}
	}
	for k, s := range r.before.ApprovalStates {
		frozenNow := workflow.Frozen(r.freezes, r.now) != nil
		require.False(r.t, s.State == workflow.Scheduled && s.GoAt.Before(r.now.Add(-150*time.Minute)) && !frozenNow, "%v stays due", k)
	}
}

// published holds the editions of a step against what must never be.
func (r *road) published(name string, was editions.Queue, planned map[change.Key]string, frozen bool) {
	eds, _, err := r.PastEditions(r.ctx(), r.people["marta"])
	require.NoError(r.t, err)
	out, restored := change.Set{}, false
	for _, e := range slices.Backward(eds) {
		if e.Number <= r.edition {
			continue
		}
		require.NotEmpty(r.t, e.Changes, "edition %d is empty", e.Number)
		require.Zero(r.t, len(e.Proof.Lost)+e.Proof.FilesLost, "edition %d loses %v", e.Number, e.Proof.Lost)
		by := r.personOf(e.PersonID)
		if frozen {
			require.True(r.t, e.BackTo > 0 && by.Role == workflow.Manager && e.Why != "", "edition %d goes out in a freeze", e.Number)
		}
		restored = restored || e.BackTo > 0
		for _, c := range e.Changes {
			out[change.Key{ID: c.EntryID, Aspect: c.Aspect}] = true
			if e.BackTo == 0 {
				r.goesOut(was, e, c, by)
			}
		}
	}
	require.Equal(r.t, r.before.Site.Edition, eds[0].Number)
	r.edition = eds[0].Number
	if name == "publish one" || name == "time goes on" {
		r.stays(planned, out)
	}
	live := r.live
	r.answers()
	if restored {
		r.narrows(live)
	}
}

// stays holds what was not chosen against what is planned still: the changes of entries that the edition
// does not touch are what they were.
func (r *road) stays(planned map[change.Key]string, out change.Set) {
	touched := map[string]bool{}
	for k := range out {
		touched[k.ID] = true
	}
	for k := range planned {
		if !touched[k.ID] && (k.Aspect == change.Content || k.Aspect == change.Title || k.Aspect == change.Added) {
			require.Contains(r.t, r.planned, k, "edition %d took %v from the plan", r.edition, k)
		}
	}
}

// answers adds the addresses of Live to those that must answer for ever, and asks each: a page, one redirect to
// a page, or gone.
func (r *road) answers() {
	r.live = r.desk.live()
	l := r.live
	served := map[string]bool{}
	for i := range l.Tree.Len() {
		if at := l.Tree.Served(i); at != "" {
			served[at], r.answered[at] = true, true
		}
	}
	got, _, err := r.TestAddresses(r.ctx(), r.people["marta"], slices.Sorted(maps.Keys(r.answered)))
	require.NoError(r.t, err)
	for _, a := range got {
		require.NotEqual(r.t, 404, a.Live.Code, "%s no longer works in edition %d", a.Asked, r.edition)
		if strings.HasPrefix(a.Live.Location, "/") {
			require.Contains(r.t, served, a.Live.Location, "%s redirects to %s, which is not a page", a.Asked, a.Live.Location)
		}
	}
}

// readable gives the entries of Live that each person may read.
func (r *road) readable(l reading.LiveSite) map[string]map[string]bool {
	out := map[string]map[string]bool{}
	for _, login := range planners {
		out[login] = map[string]bool{}
		sees := readership.Visible(l.Tree, r.people[login].Reader(), l.Readerships())
		for i := range sees.Len() {
			out[login][sees.Ref(i).ID] = true
		}
	}
	return out
}

// narrows holds what may be read after a restore against what could be read before it.
func (r *road) narrows(before reading.LiveSite) {
	was, now := r.readable(before), r.readable(r.live)
	for login := range now {
		for id := range now[login] {
			if before.Tree.Find(id) != sitemap.None && !was[login][id] {
				require.Fail(r.t, "a restore opens a page", "%s may read %s, which they could not before edition %d", login, r.live.Tree.At(r.live.Tree.Find(id)).Title, r.edition)
			}
		}
	}
}

func (r *road) personOf(id string) plan.Person {
	for _, p := range r.people {
		if p.ID == id {
			return p
		}
	}
	return plan.Person{}
}

// broughtOut holds a change that a date brought out against who gave that date: its own, or those of what needs it.
func (r *road) broughtOut(was editions.Queue, e plan.Edition, k change.Key, made map[string]bool) {
	may := func(id string) bool {
		by, approved := was.ApprovedBy(k)
		return r.personOf(id).Role == workflow.Manager || !made[id] || approved && by != id
	}
	if s := was.ApprovalStates[k]; s.State == workflow.Scheduled {
		require.True(r.t, may(s.Publisher()), "edition %d: %v is the work of who scheduled it", e.Number, k)
		return
	}
	var dates []string
	for _, s := range was.ApprovalStates {
		if s.State == workflow.Scheduled {
			dates = append(dates, s.Publisher())
		}
	}
	require.True(r.t, len(dates) == 0 || slices.ContainsFunc(dates, may), "edition %d: %v came along with the dates of who made it", e.Number, k)
}

// goesOut holds one change of an edition against who made and who approved it.
func (r *road) goesOut(was editions.Queue, e plan.Edition, c plan.ChangeSummary, by plan.Person) {
	k := change.Key{ID: c.EntryID, Aspect: c.Aspect}
	made := r.authors(k)
	i := slices.IndexFunc(was.All, func(ch change.Change) bool { return ch.Key == k })
	if i >= 0 {
		asks, ch := was.AsksOf(k), was.All[i]
		state, s := was.StateOf(ch)
		approved := state == workflow.Ready || state == workflow.Scheduled && was.ApprovalStates[k].Approved
		if asks != workflow.NoApproval {
			require.True(r.t, approved, "edition %d: %v went out unapproved", e.Number, k)
		}
		if asks == workflow.FourEyes {
			require.False(r.t, made[s.Person], "edition %d: %v was approved by its author", e.Number, k)
		}
		scheduled := strings.HasPrefix(e.Why, "Scheduled for")
		if own := was.Site.Rights().OwnWork; !own && !scheduled && by.Role != workflow.Manager && made[by.ID] {
			require.True(r.t, approved && s.Person != by.ID, "edition %d: %v is the publisher's own work", e.Number, k)
		}
		if !was.Site.Rights().OwnWork && scheduled {
			r.broughtOut(was, e, k, made)
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

// Whatever four people do in whatever order, at two instances that are killed now and then: no edition is empty,
// nothing goes out that was not approved where that is asked, by somebody who did not make it where that is
// asked, nobody brings out their own work, nothing goes out in a freeze but what a site manager restores, no date
// stays due, every address goes on answering in one hop, a restore opens nothing, and what is not chosen stays
// planned. ROADS says how many histories; a failing one is told at its shortest.
func TestTheRoadToLive(t *testing.T) {
	all, err := strconv.Atoi(cmp.Or(os.Getenv("ROADS"), "100"))
	require.NoError(t, err)
	const batches = 4
	set := func(name, value string) {
		f := flag.Lookup(name)
		had := f.Value.String()
		require.NoError(t, f.Value.Set(value))
		t.Cleanup(func() { require.NoError(t, f.Value.Set(had)) })
	}
	set("rapid.checks", strconv.Itoa((all+batches-1)/batches))
	if os.Getenv("ROADS") == "" {
		set("rapid.seed", "28") // the same histories each time, but for when they are cut off; make soak tries others
	}
	for i := range batches {
		t.Run(strconv.Itoa(i), func(t *testing.T) {
			t.Parallel()
			begin := roads(t)
			rapid.Check(t, func(rt *rapid.T) {
				r := begin(rt)
				names := append(slices.Sorted(maps.Keys(r.steps())), often...)
				names = slices.Concat(names[9*i:], names[:9*i]) // so that no two batches draw the same
				for range 60 {
					r.step(names)
				}
			})
		})
	}
}
