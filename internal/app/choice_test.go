package app_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// own is the next edition as somebody chose it, and the form that it would send.
func (d *desk) own(login string) (editions.NextEdition, editions.ChoiceForm) {
	d.t.Helper()
	n, err := d.LookOwn(d.t.Context(), d.people[login], nil)
	require.NoError(d.t, err)
	fresh, err := d.begunAnew().LookOwn(d.t.Context(), d.people[login], nil)
	require.NoError(d.t, err)
	require.Equal(d.t, told(fresh), told(n), "what is kept is what is worked out anew")
	return n, editions.ChoiceForm{Reviewed: n.Reviewed(), Why: "Because"}
}

func (d *desk) choose(login string, press func(*editions.ChoiceForm)) editions.NextEdition {
	d.t.Helper()
	_, form := d.own(login)
	press(&form)
	n, err := d.LookOwn(d.t.Context(), d.people[login], &form)
	require.NoError(d.t, err)
	return n
}

func (d *desk) publishForm(login string, form editions.ChoiceForm) error {
	_, err := d.Publish(d.t.Context(), d.people[login], editions.PublishAsk{Key: uuid.NewString(), Why: form.Why, Form: &form})
	return err
}

func goes(n editions.NextEdition) []string {
	var out []string
	for k := range n.Chosen {
		out = append(out, n.Trees.Title(k.ID))
	}
	slices.Sort(out)
	return slices.Compact(out)
}

func TestAChoiceIsKeptUntilPublished(t *testing.T) {
	d := newDesk(t)
	ctx, ponds := t.Context(), d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds"), Value: "Outdoors"})
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/visitors"), Value: "Guests"})
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds})
	n := d.choose("marta", func(f *editions.ChoiceForm) {
		f.Off = []change.Key{{ID: d.id("/visitors"), Aspect: change.Title}}
		f.Why = "Ponds go"
	})
	require.Equal(t, []string{"Outdoors", "Ponds"}, goes(n))

	require.NoError(t, d.Decide(ctx, d.people["marta"], ponds, "gone", false, ""))
	d.restart()
	n, form := d.own("marta")
	require.Equal(t, []string{"Outdoors", "Ponds"}, goes(n), "a decision and a restart forget nothing")
	require.Equal(t, "Ponds go", n.Why)
	other, _ := d.own("anselm")
	require.Equal(t, []string{"Guests", "Outdoors", "Ponds"}, goes(other), "a choice is a person's own")

	d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Orchard"})
	form.Why = "Ponds go"
	require.NoError(t, d.publishForm("marta", form), "what nobody chose does not stand in the way")
	n, _ = d.own("marta")
	require.Equal(t, []string{"Guests", "Orchard"}, goes(n), "the next choice begins anew")
	require.Empty(t, n.Why)
}

func TestOnlyWhatIsChosenRefusesAForm(t *testing.T) {
	d := newDesk(t)
	grounds, visitors := d.id("/grounds"), d.id("/visitors")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: grounds, Value: "Outdoors"})
	d.write("ines", visitors, "Looked at")
	d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Orchard"})
	orchard := d.id("/orchard")
	d.choose("marta", func(f *editions.ChoiceForm) { f.Off = []change.Key{{ID: grounds, Aspect: change.Title}} })
	_, form := d.own("marta")

	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: grounds, Value: "Gardens"})
	d.now = d.now.Add(1e9)
	d.write("ines", visitors, "Nobody looked at this")
	moved := (*editions.Moved)(nil)
	require.ErrorAs(t, d.publishForm("marta", form), &moved)
	require.Equal(t, `"Visitors"`, moved.What)
	n, form := d.own("marta")
	var told []change.ChangedSinceKind
	for _, b := range n.ChangedSince {
		told = append(told, b.What)
	}
	require.Equal(t, []change.ChangedSinceKind{change.Another, change.Another}, told, "both are told, also the one that is left out")

	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: orchard})
	require.ErrorAs(t, d.publishForm("marta", form), &moved, "what was to go is no longer planned")
	_, form = d.own("marta")
	require.NoError(t, d.publishForm("marta", form), "looked at again")
	require.Equal(t, "Nobody looked at this", d.liveText(visitors))
}

func TestAPageInsideANewBranchIsLeftOut(t *testing.T) {
	d := newDesk(t)
	d.act("ines", appsitemap.PlanAct{Do: "paste", Value: "Machines\n\tMowers\n\t\tSmall mowers\n\tSaws\nOaks"})
	added := func(a string) change.Key { return change.Key{ID: d.id(a), Aspect: change.Added} }
	mowers, machines := added("/machines/mowers"), added("/machines")
	n := d.choose("marta", func(f *editions.ChoiceForm) { f.Off = []change.Key{mowers} })
	require.Equal(t, []string{"Machines", "Oaks", "Saws"}, goes(n))
	require.Empty(t, n.Dependencies)
	n = d.choose("marta", func(f *editions.ChoiceForm) { f.Every = "out" })
	require.Empty(t, goes(n))
	n = d.choose("marta", func(f *editions.ChoiceForm) { f.On = []change.Key{mowers} })
	require.Equal(t, []string{"Machines", "Mowers", "Small mowers"}, goes(n))
	n = d.choose("marta", func(f *editions.ChoiceForm) { f.Listed, f.Rest = []change.Key{machines}, "in" })
	require.Equal(t, []string{"Machines", "Mowers", "Oaks", "Small mowers"}, goes(n), "the rest is what has no box, nor is new below what has")
}

func TestAllLinksToAPageThatGoesAreMendedAtOnce(t *testing.T) {
	for name, c := range map[string]struct{ to, want string }{
		"pointed elsewhere": {"/visitors", "See [the ponds](page:VISITORS) today."},
		"plain words":       {"", "See the ponds today."},
	} {
		t.Run(name, func(t *testing.T) {
			d := newDesk(t)
			ctx, marta, ponds, visitors := t.Context(), d.people["marta"], d.id("/grounds/ponds"), d.id("/visitors")
			holders := []string{d.id("/grounds"), d.id("/grounds/compost"), d.id("/visitors/opening-hours")}
			for _, h := range holders {
				d.write("ines", h, "See [the ponds](page:"+ponds+") today.")
			}
			d.publish("marta", "Links")
			d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds})
			require.NoError(t, d.Decide(ctx, marta, ponds, "gone", false, ""))
			d.choose("marta", func(f *editions.ChoiceForm) {})
			links := func() (out int) {
				n, _ := d.own("marta")
				for _, f := range n.Findings {
					if f.Rule == preflight.LinkToNothing {
						require.Equal(t, ponds, f.To)
						out++
					}
				}
				return out
			}
			require.Equal(t, 3, links())
			to := ""
			if c.to != "" {
				to = d.id(c.to)
			}
			_, err := d.MendLinks(ctx, marta, uuid.NewString(), ponds, to)
			require.NoError(t, err)
			require.Zero(t, links(), "the drafts are part of the choice of whoever made them")
			_, form := d.own("marta")
			require.NoError(t, d.publishForm("marta", form))
			want := strings.ReplaceAll(c.want, "VISITORS", visitors)
			for _, h := range holders {
				require.Equal(t, want, d.liveText(h))
			}
		})
	}
	d := newDesk(t)
	_, err := d.MendLinks(t.Context(), d.people["marta"], uuid.NewString(), d.id("/visitors"), "nowhere")
	require.Error(t, err)
}

func TestUndecidedStopsOnlyWhereSomebodyMayHaveVisited(t *testing.T) {
	d := newDesk(t)
	ctx, ponds, compost := t.Context(), d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("ines", appsitemap.PlanAct{Do: "remove", IDs: []string{ponds, compost}})
	undecided := func() (errs, warnings int) {
		n, _ := d.own("marta")
		for _, f := range n.Findings {
			if f.Rule == preflight.UndecidedPage && f.Severity == "error" {
				errs++
			} else if f.Rule == preflight.UndecidedPage {
				warnings++
			}
		}
		return errs, warnings
	}
	errs, warnings := undecided()
	require.Equal(t, []int{2, 0}, []int{errs, warnings}, "before anything was counted nobody knows")
	require.NoError(t, d.CountVisits(ctx, map[string]int{ponds: 1}))
	errs, warnings = undecided()
	require.Equal(t, []int{1, 1}, []int{errs, warnings})
	require.NoError(t, d.Decide(ctx, d.people["marta"], ponds, "gone", false, ""))
	d.publish("marta", "Both go")
	require.Equal(t, 301, d.live().Table.Resolve("/grounds/compost").Code)
	require.Equal(t, "/grounds", d.live().Table.Resolve("/grounds/compost").Location)
}

// What is ticked wholesale under a filter is what the filter leaves, and nothing else; counts and
// groups tell where changes stand.
func TestChoosingUnderAFilter(t *testing.T) {
	d := newDesk(t)
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On})
	ponds, compost, hours := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/visitors/opening-hours")
	d.write("ines", ponds, "Frogs.")
	d.write("anselm", compost, "Heaps.")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: hours, Value: "When we open"})
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "", ponds))

	n := d.choose("marta", func(f *editions.ChoiceForm) { f.Every = change.Out })
	require.Empty(t, n.Chosen)
	n = d.choose("marta", func(f *editions.ChoiceForm) { f.Every, f.Filter = change.In, "ready" })
	require.Equal(t, change.Set{{ID: ponds, Aspect: change.Content}: true}, n.Chosen)
	_, counts := n.Fitting(d.people["ines"], n.Chosen, "")
	require.Equal(t, map[string]int{"": 3, "in": 1, "out": 2, "mine": 2, "ready": 1, "waits": 2}, counts)
	fits, _ := n.Fitting(d.people["ines"], n.Chosen, "no such filter")
	require.Len(t, fits, 3)
	groups := func(by string) map[string]bool {
		out := map[string]bool{}
		for _, c := range n.All {
			name, _ := n.GroupOf(by, c, func(id string) string { return id })
			out[name] = true
		}
		return out
	}
	require.Equal(t, map[string]bool{"Grounds": true, "Visitors": true}, groups(editions.ByBranch))
	require.Equal(t, map[string]bool{d.people["ines"].ID: true, d.people["anselm"].ID: true}, groups(editions.ByPerson))
	require.Equal(t, map[string]bool{"Approved": true, "Drafts": true}, groups(editions.ByState))
	n = d.choose("marta", func(f *editions.ChoiceForm) { f.Every, f.Filter = change.Out, "ready" })
	require.Empty(t, n.Chosen)
}

// All that the checks find errors in is deselected in one act, with what needs it; the rest stays selected.
func TestDeselectErrors(t *testing.T) {
	d := newDesk(t)
	marta := d.people["marta"]
	hours, ponds := d.id("/visitors/opening-hours"), d.id("/grounds/ponds")
	d.write("marta", hours, "[Nowhere](/nowhere-at-all)")
	d.write("marta", d.id("/grounds"), "Fine.")
	d.act("marta", appsitemap.PlanAct{Do: "remove", ID: ponds})
	d.act("marta", appsitemap.PlanAct{Do: "add", Parent: d.id("/grounds"), Value: "Bog"})
	n, err := d.LookOwn(t.Context(), marta, nil)
	require.NoError(t, err)
	errs, _ := check.Count(n.Findings)
	require.NotZero(t, errs)
	left, err := d.DeselectErrors(t.Context(), marta)
	require.NoError(t, err)
	require.Positive(t, left)
	n, err = d.LookOwn(t.Context(), marta, nil)
	require.NoError(t, err)
	errs, _ = check.Count(n.Findings)
	require.Zero(t, errs, "%v", n.Findings)
	require.True(t, n.Chosen[change.Key{ID: d.id("/grounds"), Aspect: change.Content}])
	require.False(t, n.Chosen[change.Key{ID: ponds, Aspect: change.Removed}])
	_, err = d.DeselectErrors(t.Context(), d.people["noor"])
	require.ErrorIs(t, err, plan.ErrForbidden)
}
