package app_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// text is what the page editor would show of a page.
func (d *desk) text(entry string) string {
	d.t.Helper()
	window := uuid.NewString()
	v, err := d.OpenPage(d.t.Context(), d.people["marta"], entry, window)
	require.NoError(d.t, err)
	require.NoError(d.t, d.ClosePage(d.t.Context(), d.people["marta"], entry, window))
	var out []string
	for _, b := range v.Content.Slots["main"] {
		out = append(out, b.Text)
	}
	return strings.Join(out, " | ")
}

// state is all of the plan that an act can change.
func (d *desk) state() any {
	n := d.look("marta")
	texts := map[string]string{}
	for i := range n.Trees.Next.Len() {
		if e := n.Trees.Next.Ref(i); e.Kind.IsPage() {
			texts[e.ID] = d.text(e.ID)
		}
	}
	return []any{n.Trees.Next.Entries(), texts, n.Chosen, n.Decisions, n.All}
}

func (d *desk) merge(login, kept, gone string, change func(*appsitemap.MergeAsk)) (plan.PlanResult, error) {
	d.t.Helper()
	m, err := d.LookAtMerge(d.t.Context(), d.people[login], kept, gone)
	require.NoError(d.t, err)
	ask := appsitemap.MergeAsk{Key: uuid.NewString(), Kept: kept, Gone: gone, KeptMark: m.Kept.Mark, GoneMark: m.Gone.Mark}
	for _, b := range m.Kept.Blocks {
		ask.Keep = append(ask.Keep, b.Take)
	}
	for _, b := range m.Gone.Blocks {
		if !b.Double {
			ask.Take = append(ask.Take, b.Take)
		}
	}
	if change != nil {
		change(&ask)
	}
	d.now = d.now.Add(1e9)
	return d.Merge(d.t.Context(), d.people[login], ask)
}

func TestTwoPagesBecomeOne(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	ponds, compost, hours, grounds, visitors := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/visitors/opening-hours"), d.id("/grounds"), d.id("/visitors")
	d.write("marta", visitors, "See [compost](page:"+compost+"), [its heaps](page:"+compost+"#heaps) and [ponds](page:"+ponds+").")
	d.publish("marta", "Links")
	d.act("ines", appsitemap.PlanAct{Do: "move", ID: hours, Parent: compost, Last: true})
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "topics", ID: compost, Value: "heaps"})
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "readership", ID: ponds, Value: "editor"})
	before := d.state()

	m, err := d.LookAtMerge(ctx, d.people["ines"], ponds, compost)
	require.NoError(t, err)
	require.Equal(t, []int{2, 1, 1}, []int{m.Links, m.LinkPages, m.Moving})
	require.True(t, m.Narrows)
	require.Equal(t, "editor", m.Readers)
	require.Equal(t, 1, m.Of.Redirects, "what is below it had moved before")
	require.Empty(t, m.Of.Undecided)

	res, err := d.merge("ines", ponds, compost, func(a *appsitemap.MergeAsk) { a.Facts = []string{"title", "template"} })
	require.NoError(t, err)
	require.Equal(t, ponds, res.ID)
	n := d.next()
	require.Equal(t, sitemap.None, n.Find(compost))
	e := n.At(n.Find(ponds))
	require.Equal(t, []string{"Compost", "procedure", "heaps", "editor"}, []string{e.Title, e.Template, e.Topics, e.Readership})
	require.Equal(t, "/grounds/ponds/opening-hours", n.Address(n.Find(hours)))
	require.Equal(t, "About /grounds/ponds | About /grounds/compost", d.text(ponds))
	require.Equal(t, "See [compost](page:"+ponds+"), [its heaps](page:"+ponds+"#heaps) and [ponds](page:"+ponds+").", d.text(visitors))

	t.Log("undone and done again in one step")
	_, err = d.Undo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, before, d.state())
	_, err = d.Redo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, "About /grounds/ponds | About /grounds/compost", d.text(ponds))

	t.Log("published, both addresses answer, and visits count for the page that stayed")
	d.publish("marta", "One page on heaps")
	live := d.live()
	require.Equal(t, []any{301, "/grounds/ponds"}, []any{live.Table.Resolve("/grounds/compost").Code, live.Table.Resolve("/grounds/compost").Location})
	require.Contains(t, d.body(visitors), `href="page:`+ponds+`#heaps"`)
	require.NoError(t, d.CountVisits(ctx, map[string]int{compost: 5, ponds: 2, grounds: 1}))
	o, err := d.Outline(ctx)
	require.NoError(t, err)
	require.Equal(t, []int{7, 1}, []int{o.Visits[ponds], o.Visits[grounds]})
}

// What takes something from a page that goes follows the one that stays: lists below it, its
// facts, links of facts and templates.
func TestWhatFollowsAMergedPage(t *testing.T) {
	d := newDesk(t)
	ponds, compost, grounds := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/grounds")
	d.draftTemplate("marta", "topic", func(p *content.Template) {
		p.Parts = append(p.Parts, fixed("[Heaps](page:"+compost+")"), content.Part{Kind: content.Facts, Fields: []content.Field{{Label: "See", Type: content.FieldLink}}})
	})
	_, err := d.planTemplate("marta", "topic")
	require.NoError(t, err)
	d.writePage("marta", grounds, content.Page{Fields: map[string]string{"see": "page:" + compost}, Slots: map[string][]content.Block{"main": {
		{ID: "list", Type: content.Below, Set: content.Values{"of": "page:" + compost}},
		{ID: "facts", Type: content.FactRow, Items: []content.Values{{"label": "Heaps", "of": "page:" + compost, "fact": "Risk"}}},
	}}})
	_, err = d.merge("ines", ponds, compost, nil)
	require.NoError(t, err)
	v, err := d.Page(t.Context(), d.people["ines"], grounds)
	require.NoError(t, err)
	require.Equal(t, []string{"page:" + ponds, "page:" + ponds, "page:" + ponds}, []string{v.Content.Slots["main"][0].Set["of"], v.Content.Slots["main"][1].Items[0]["of"], v.Content.Fields["see"]})
	require.Equal(t, []string{ponds}, v.Template.Leads())
	require.Contains(t, d.nextBody("/grounds"), `<a href="page:`+ponds+`">Ponds</a>`, "a fact that links to a page has its title")
}

func TestMergingRefusesWhatCannotBe(t *testing.T) {
	d := newDesk(t)
	ctx, ponds, compost := t.Context(), d.id("/grounds/ponds"), d.id("/grounds/compost")
	_, err := d.LookAtMerge(ctx, d.people["ines"], ponds, ponds)
	require.ErrorIs(t, err, sitemap.ErrNotTwoPages)
	_, err = d.LookAtMerge(ctx, d.people["noor"], ponds, compost)
	require.Error(t, err, "a reader may not")
	before := d.state()
	for name, change := range map[string]func(*appsitemap.MergeAsk){
		"another text":  func(a *appsitemap.MergeAsk) { a.GoneMark = "other" },
		"another fact":  func(a *appsitemap.MergeAsk) { a.Facts = []string{"slug"} },
		"not two pages": func(a *appsitemap.MergeAsk) { a.Gone = a.Kept },
		"no entry":      func(a *appsitemap.MergeAsk) { a.Gone = "nothing" },
	} {
		_, err := d.merge("ines", ponds, compost, change)
		require.Error(t, err, name)
	}
	window := uuid.NewString()
	_, err = d.OpenPage(ctx, d.people["anselm"], compost, window)
	require.NoError(t, err)
	_, err = d.merge("ines", ponds, compost, nil)
	require.ErrorContains(t, err, "anselm of Quillmere has \"Compost\" open")
	require.NoError(t, d.ClosePage(ctx, d.people["anselm"], compost, window))
	require.Equal(t, before, d.state(), "nothing was done")

	t.Log("undo stops where somebody wrote on since")
	_, err = d.merge("ines", ponds, compost, nil)
	require.NoError(t, err)
	d.write("anselm", ponds, "Written since")
	_, err = d.Undo(ctx, d.people["ines"])
	require.ErrorContains(t, err, "The text of Ponds")
	require.Equal(t, "Written since", d.text(ponds))
	require.Equal(t, sitemap.None, d.next().Find(compost))
}

func TestAPageIsSplit(t *testing.T) {
	d := newDesk(t)
	ctx, ponds, visitors := t.Context(), d.id("/grounds/ponds"), d.id("/visitors")
	d.write("marta", ponds, "Two ponds. See [frogs](#frogs).\n\n## Frogs\n\nThey [sing](#songs) near the [reeds](#reeds).\n\n### Songs\n\nLoud.\n\n## Reeds\n\nCut in March.")
	d.write("marta", visitors, "Hear the [songs](page:"+ponds+"#songs), see the [reeds](page:"+ponds+"#reeds), the [frogs](page:"+ponds+"#frogs), the [ponds](page:"+ponds+").")
	d.publish("marta", "Ponds")
	before := d.state()
	look, err := d.LookAtSplit(ctx, d.people["ines"], ponds)
	require.NoError(t, err)
	require.Len(t, look.Pieces, 4)
	ask := pages.SplitAsk{Key: uuid.NewString(), Entry: ponds, Mark: look.Mark, Pieces: []int{1}}
	for name, change := range map[string]func(*pages.SplitAsk){
		"nothing": func(a *pages.SplitAsk) { a.Pieces = nil }, "all": func(a *pages.SplitAsk) { a.Pieces = []int{0, 1, 3} },
		"another text": func(a *pages.SplitAsk) { a.Mark = "other" }, "no title": func(a *pages.SplitAsk) { a.Pieces = []int{0} },
	} {
		bad := ask
		change(&bad)
		_, err := d.Split(ctx, d.people["ines"], bad)
		require.Error(t, err, name)
	}
	res, err := d.Split(ctx, d.people["ines"], ask)
	require.NoError(t, err)
	frogs := d.id("/grounds/ponds/frogs")
	require.Equal(t, frogs, res.ID)
	require.Equal(t, "Two ponds. See [frogs](page:"+frogs+").\n\n## Reeds\n\nCut in March.", d.text(ponds))
	require.Equal(t, "They [sing](#songs) near the [reeds](page:"+ponds+"#reeds).\n\n## Songs\n\nLoud.", d.text(frogs))
	require.Equal(t, "Hear the [songs](page:"+frogs+"#songs), see the [reeds](page:"+ponds+"#reeds), the [frogs](page:"+frogs+"), the [ponds](page:"+ponds+").", d.text(visitors))
	again, err := d.Split(ctx, d.people["ines"], ask)
	require.NoError(t, err)
	require.Equal(t, res.Version, again.Version, "sent twice, done once")
	after := d.state()

	_, err = d.Undo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, before, d.state())
	_, err = d.Redo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, after, d.state())
	d.publish("marta", "Frogs on their own")
	require.Contains(t, d.body(visitors), `href="page:`+frogs+`#songs"`)

	look, err = d.LookAtSplit(ctx, d.people["ines"], ponds)
	require.NoError(t, err)
	_, err = d.Split(ctx, d.people["ines"], pages.SplitAsk{Key: uuid.NewString(), Entry: ponds, Mark: look.Mark, Pieces: []int{0}, Title: "About our ponds", Beside: true})
	require.NoError(t, err)
	require.Equal(t, "Two ponds. See [frogs](page:"+frogs+").", d.text(d.id("/grounds/about-our-ponds")))
}

func TestPagesThatAreAlike(t *testing.T) {
	d := newDesk(t)
	ctx, ponds, compost := t.Context(), d.id("/grounds/ponds"), d.id("/grounds/compost")
	words := "Every Monday the gardener on duty opens the sluice, waits for the water to settle and reads the level."
	d.write("marta", ponds, words)
	d.write("marta", compost, strings.ToUpper(words)+" Twice.")
	similar := func(working bool) appsitemap.SimilarPages {
		found, err := d.Similar(ctx, d.people["ines"])
		require.NoError(t, err)
		require.Equal(t, working, found.Working)
		return found
	}
	require.Empty(t, similar(true).Pairs, "nobody compared yet")
	similar(true)
	var jobs int
	require.NoError(t, d.pool.QueryRow(ctx, `SELECT count(*) FROM river_job WHERE kind = 'find_similar'`).Scan(&jobs))
	require.Equal(t, 1, jobs, "asking twice compares once")
	require.NoError(t, d.FindSimilar(ctx))
	found := similar(false)
	require.Len(t, found.Pairs, 1)
	require.Greater(t, found.Pairs[0].Share, 0.8)
	title := func(i int) string { return found.Outline.Trees.Next.Ref(i).Title }
	require.Equal(t, []string{"Compost", "Ponds"}, []string{title(found.Pairs[0].A), title(found.Pairs[0].B)})
	require.NoError(t, d.SayDifferent(ctx, d.people["ines"], ponds, compost))
	require.Empty(t, similar(false).Pairs)
	home := d.id("/")
	d.write("marta", home, words)
	require.NoError(t, d.CountVisits(ctx, map[string]int{ponds: 9, compost: 2}))
	similar(true)
	require.NoError(t, d.FindSimilar(ctx))
	found = similar(false)
	require.NotEmpty(t, found.Pairs)
	for _, p := range found.Pairs {
		require.Equal(t, found.Outline.Trees.Next.Home(), p.A, "home is the one to keep, however much the other is read")
	}
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds})
	require.Len(t, similar(true).Pairs, 1, "what went is not told of, while the rest is compared again")
	require.ErrorIs(t, d.SayDifferent(ctx, d.people["ines"], compost, compost), plan.ErrNotFound)
	require.Error(t, d.SayDifferent(ctx, d.people["noor"], home, compost))
}
