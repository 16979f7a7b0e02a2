package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/shape"
	"candlepath/internal/markup"
)

// draft saves what somebody makes of a template.
func (d *desk) draftTemplate(login, key string, change func(*content.Template)) []content.Fault {
	d.t.Helper()
	v, err := d.OpenTemplate(d.t.Context(), d.people[login], key, "")
	require.NoError(d.t, err)
	t := content.FromPage(v.Draft.Page, key, v.Template.Order)
	change(&t)
	_, faults, err := d.SaveTemplateDraft(d.t.Context(), d.people[login], key, t.AsPage(), v.Draft.Version)
	require.NoError(d.t, err)
	return faults
}

func (d *desk) planTemplate(login, key string) (plan.PlanResult, error) {
	d.now = d.now.Add(time.Second)
	return d.PlanTemplate(d.t.Context(), d.people[login], pages.TemplatePlan{Key: uuid.NewString(), Template: key})
}

func (d *desk) nextBody(addr string) string {
	d.t.Helper()
	p, err := d.Preview(d.t.Context(), d.people["marta"], reading.PreviewAsk{At: addr})
	require.NoError(d.t, err)
	return p.Body.HTML
}

func (d *desk) rules(login string) map[check.Rule]int {
	out := map[check.Rule]int{}
	for _, f := range d.look(login).Findings {
		out[f.Rule]++
	}
	return out
}

func fixed(text string) content.Part {
	return content.Part{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: text}}}
}

// A change of a template is a change of the next edition: every page of it follows at once,
// nothing of what pages hold is lost, and it is taken back with the edition.
func TestTemplatesAreChangesOfAnEdition(t *testing.T) {
	d := newDesk(t)
	compost, ponds := d.id("/grounds/compost"), d.id("/grounds/ponds")
	require.Empty(t, d.draftTemplate("ines", "procedure", func(p *content.Template) { p.Parts[0] = fixed("Wear gloves.") }))
	_, err := d.planTemplate("ines", "procedure")
	require.ErrorIs(t, err, plan.ErrForbidden, "an editor makes a draft; an approver saves it")
	c, err := d.CheckTemplate(t.Context(), d.people["marta"], "procedure", d.people["ines"].ID, "")
	require.NoError(t, err)
	require.Equal(t, []any{1, 1, "Compost"}, []any{c.Pages, len(c.Told), c.Sample.Title})
	require.Contains(t, c.Sample.Before, "Ask before you start")
	require.Contains(t, c.Sample.After, "Wear gloves")
	_, err = d.PlanTemplate(t.Context(), d.people["marta"], pages.TemplatePlan{Key: uuid.NewString(), Template: "procedure", Person: d.people["ines"].ID})
	require.NoError(t, err)

	layout := change.Key{ID: shape.TemplateID("procedure"), Aspect: change.Layout}
	n := d.look("marta")
	require.True(t, n.Chosen[layout])
	require.Contains(t, d.nextBody("/grounds/compost"), "Wear gloves")
	require.NotContains(t, d.body(compost), "Wear gloves")

	t.Log("left out, a draft goes out as Live lays it out")
	d.write("ines", compost, "Turn the heaps.")
	d.publish("marta", "A text alone", layout)
	require.Contains(t, d.body(compost), "Turn the heaps")
	require.Contains(t, d.body(compost), "Ask before you start")

	d.publish("marta", "Gloves")
	require.Contains(t, d.body(compost), "Wear gloves")
	require.NotContains(t, d.body(compost), "Ask before")
	require.NotContains(t, d.body(ponds), "Wear gloves")
	require.Empty(t, d.planned(), "nothing stays planned")

	t.Log("rolled back, the page is as it was, and its text is no new draft")
	d.now = d.now.Add(time.Minute)
	_, err = d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), 2, "No gloves")
	require.NoError(t, err)
	require.Contains(t, d.body(compost), "Ask before you start")
	require.Equal(t, map[string]bool{"layout Template Procedure": false}, d.plannedTitles())

	versions, err := d.TemplateVersions(t.Context(), d.people["marta"], "procedure")
	require.NoError(t, err)
	require.Len(t, versions, 4, "planned again, edition 4, 3 and the first")
	_, err = d.BringTemplateBack(t.Context(), d.people["marta"], uuid.NewString(), "procedure", 0)
	require.NoError(t, err)
	require.Empty(t, d.plannedTitles(), "it is as in Live again")
}

func (d *desk) plannedTitles() map[string]bool {
	n, out := d.look("marta"), map[string]bool{}
	for _, c := range n.All {
		out[string(c.Aspect)+" "+n.Trees.Title(c.ID)] = n.Chosen[c.Key]
	}
	return out
}

// What a slot held that goes away, or that the template asks for, is told and kept.
func TestNothingIsLostWithASlot(t *testing.T) {
	d := newDesk(t)
	marta, compost := d.people["marta"], d.id("/grounds/compost")
	require.Empty(t, d.draftTemplate("marta", "procedure", func(p *content.Template) {
		p.Parts[1] = content.Part{Kind: content.Slot, Name: "Steps", Required: true}
	}))
	c, err := d.CheckTemplate(t.Context(), marta, "procedure", "", "")
	require.NoError(t, err)
	require.Equal(t, []int{1, 1}, []int{c.Aside, c.Lacking})
	require.Equal(t, []string{"Main text"}, c.Told[0].Aside)
	_, err = d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	rules := d.rules("marta")
	require.Equal(t, []int{1, 1, 0}, []int{rules[preflight.KeptAside], rules[preflight.TemplateAsks], rules[preflight.RequiredSlot]})
	d.publish("marta", "Steps")
	require.NotContains(t, d.body(compost), "About /grounds/compost")
	v, err := d.Page(t.Context(), marta, compost)
	require.NoError(t, err)
	require.Equal(t, "About /grounds/compost", v.Content.Slots["main"][0].Text, "kept aside")

	t.Log("a slot that is only named anew keeps what it holds")
	d.draftTemplate("marta", "topic", func(p *content.Template) { p.Parts[0].Name = "Everything" })
	_, err = d.planTemplate("marta", "topic")
	require.NoError(t, err)
	d.publish("marta", "A name")
	require.Contains(t, d.body(d.id("/grounds/ponds")), "About /grounds/ponds")

	t.Log("the page itself has to fill in what is required once it changes")
	d.write("ines", compost, "more")
	require.Equal(t, 1, d.rules("marta")[preflight.RequiredSlot])
}

func TestNewTemplates(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	ponds := d.id("/grounds/ponds")
	key, err := d.BeginTemplate(ctx, marta, ponds)
	require.NoError(t, err)
	v, err := d.OpenTemplate(ctx, marta, key, "")
	require.NoError(t, err)
	require.Equal(t, "As Ponds", v.Draft.Page.Fields["name"])
	_, err = d.OpenTemplate(ctx, d.people["ines"], key, "")
	require.ErrorIs(t, err, plan.ErrNotFound, "the draft is another person's")
	faults := d.draftTemplate("marta", key, func(p *content.Template) { p.Name = "Topic page" })
	require.Empty(t, faults)
	_, err = d.planTemplate("marta", key)
	require.ErrorContains(t, err, "already")
	d.draftTemplate("marta", key, func(p *content.Template) { p.Name = "Water" })
	res, err := d.planTemplate("marta", key)
	require.NoError(t, err)
	require.Equal(t, "water", res.ID)

	t.Log("a page that takes it pulls it into the edition, and it cannot go while one has it")
	d.act("ines", appsitemap.PlanAct{Do: "facts", Field: "template", Values: map[string]string{ponds: "water"}})
	n := d.look("marta")
	layout := change.Key{ID: shape.TemplateID("water"), Aspect: change.Layout}
	require.True(t, n.Chosen[layout])
	e := d.look("marta", layout)
	require.True(t, e.Chosen[layout], "needed by the page")
	require.Len(t, e.Dependencies, 1)
	_, err = d.RemoveTemplate(ctx, marta, uuid.NewString(), "water")
	require.ErrorContains(t, err, "lays out 1 page")
	d.publish("marta", "Water")
	d.act("ines", appsitemap.PlanAct{Do: "facts", Field: "template", Values: map[string]string{ponds: "topic"}})
	_, err = d.RemoveTemplate(ctx, marta, uuid.NewString(), "water")
	require.NoError(t, err)
	e = d.look("marta", change.Key{ID: ponds, Aspect: change.Template})
	require.Len(t, e.Dependencies, 1, "the page leaves it first")
	d.publish("marta", "No water")
	require.Contains(t, d.body(ponds), "About /grounds/ponds")
	list, _, err := d.TemplateList(ctx, marta)
	require.NoError(t, err)
	require.Len(t, list, 2)
}

// Two who change one template: the later one is told, and may save theirs all the same.
func TestTwoChangeOneTemplate(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	d.draftTemplate("marta", "topic", func(p *content.Template) { p.For = "anything" })
	d.draftTemplate("anselm", "topic", func(p *content.Template) { p.Parts = append(p.Parts, fixed("By Anselm.")) })
	_, err := d.planTemplate("marta", "topic")
	require.NoError(t, err)
	_, err = d.planTemplate("anselm", "topic")
	require.ErrorContains(t, err, "changed by somebody else")
	c, err := d.CheckTemplate(ctx, d.people["anselm"], "topic", "", "")
	require.NoError(t, err)
	require.True(t, c.Stale)
	_, err = d.PlanTemplate(ctx, d.people["anselm"], pages.TemplatePlan{Key: uuid.NewString(), Template: "topic", Over: true})
	require.NoError(t, err)
	require.Contains(t, d.nextBody("/grounds/ponds"), "By Anselm")

	t.Log("a second window of the same person does not save over the first")
	v, err := d.OpenTemplate(ctx, d.people["marta"], "topic", "")
	require.NoError(t, err)
	_, _, err = d.SaveTemplateDraft(ctx, d.people["marta"], "topic", v.Draft.Page, 0)
	require.NoError(t, err)
	_, _, err = d.SaveTemplateDraft(ctx, d.people["marta"], "topic", v.Draft.Page, 0)
	require.ErrorIs(t, err, plan.ErrStale)
	require.Equal(t, 1, strings.Count(d.nextBody("/grounds/ponds"), "By Anselm"))
	require.NoError(t, d.DropTemplateDraft(ctx, d.people["marta"], "topic"))
}

// A page takes another template, and what no slot takes is kept aside until it is placed.
func TestPagesTakeAnotherTemplate(t *testing.T) {
	d := newDesk(t)
	ctx, ines, ponds := t.Context(), d.people["ines"], d.id("/grounds/ponds")
	key, err := d.BeginTemplate(ctx, d.people["marta"], "")
	require.NoError(t, err)
	d.draftTemplate("marta", key, func(p *content.Template) {
		p.Name, p.Parts[1] = "Card", content.Part{Kind: content.Slot, Key: "card", Name: "Card"}
	})
	_, err = d.planTemplate("marta", key)
	require.NoError(t, err)
	v, err := d.RetemplateView(ctx, ines, ponds, "card")
	require.NoError(t, err)
	require.Len(t, v.Slots, 1)
	require.Equal(t, []any{"Main text", "", "About /grounds/ponds"}, []any{v.Slots[0].Name, v.Slots[0].To, v.Slots[0].Begins})
	ask := pages.RetemplateAsk{Key: uuid.NewString(), Entry: ponds, To: "card", Mark: v.Mark, Slots: content.Mapping{"main": ""}}
	_, err = d.Retemplate(ctx, ines, ask)
	require.NoError(t, err)
	require.NotContains(t, d.nextBody("/grounds/ponds"), "About")

	t.Log("placed later; the same form twice does it once, and an older form is refused")
	v, err = d.RetemplateView(ctx, ines, ponds, "")
	require.NoError(t, err)
	require.True(t, v.Slots[0].Aside)
	place := pages.RetemplateAsk{Key: uuid.NewString(), Entry: ponds, To: "card", Mark: v.Mark, Slots: content.Mapping{"main": "card"}}
	for range 2 {
		_, err = d.Retemplate(ctx, ines, place)
		require.NoError(t, err)
	}
	require.Equal(t, 1, strings.Count(d.nextBody("/grounds/ponds"), "About /grounds/ponds"))
	place.Key = uuid.NewString()
	_, err = d.Retemplate(ctx, ines, place)
	require.ErrorContains(t, err, "changed meanwhile")
	for range 2 {
		_, err = d.Undo(ctx, ines)
		require.NoError(t, err)
	}
	require.Contains(t, d.nextBody("/grounds/ponds"), "About /grounds/ponds")
}

// Facts of all pages of a template are edited in a table.
func TestFactsOfATemplate(t *testing.T) {
	d := newDesk(t)
	ctx, ines, compost := t.Context(), d.people["ines"], d.id("/grounds/compost")
	d.draftTemplate("marta", "procedure", func(p *content.Template) {
		p.Parts = append(p.Parts, content.Part{Kind: content.Facts, Fields: []content.Field{
			{Label: "Checked", Type: content.FieldDate}, {Label: "Contact", Type: content.FieldPerson},
		}})
	})
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	set := func(field, value string, ofEntry bool) error {
		_, err := d.SetFact(ctx, ines, pages.FactAsk{Key: uuid.NewString(), Entry: compost, Field: field, Value: value, OfEntry: ofEntry})
		return err
	}
	require.NoError(t, set("checked", "2026-11-03", false))
	require.NoError(t, set("contact", ines.ID, false))
	require.NoError(t, set("owner", "Grounds team", true))
	require.ErrorContains(t, set("checked", "soon", false), "is no date")
	require.ErrorContains(t, set("contact", "nobody", false), "cannot hold")
	require.ErrorIs(t, set("title", "x", true), plan.ErrNotFound, "not a fact of the table")
	table, err := d.Facts(ctx, ines, "procedure", pages.FactFilter{Words: "COMPOST"})
	require.NoError(t, err)
	require.Len(t, table.Rows, 1)
	require.Equal(t, []string{"2026-11-03", ines.ID}, table.Rows[0].Facts)
	require.Equal(t, "Grounds team", table.Rows[0].Entry[0])
	require.Contains(t, d.nextBody("/grounds/compost"), "3 November 2026")
	require.Contains(t, d.nextBody("/grounds/compost"), "About /grounds/compost", "the text stays")
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	_, err = d.Facts(ctx, ines, "nothing", pages.FactFilter{})
	require.ErrorIs(t, err, plan.ErrNotFound)
}

// A new page begins as its template says, with the facts that were given, in one act.
func TestNewPagesInOneForm(t *testing.T) {
	d := newDesk(t)
	ctx, ines, grounds := t.Context(), d.people["ines"], d.id("/grounds")
	d.draftTemplate("marta", "procedure", func(p *content.Template) {
		p.Parts[1].Content = []content.Block{{ID: "begin", Type: content.Text, Text: "## What you need"}}
		p.Parts = append(p.Parts, content.Part{Kind: content.Facts, Fields: []content.Field{{Label: "Checked", Type: content.FieldDate, Required: true}}})
	})
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	form, err := d.NewPageForm(ctx, ines, grounds, "")
	require.NoError(t, err)
	require.Equal(t, []any{"Grounds", "topic", 0}, []any{form.ParentIs, form.Template.Key, len(form.RequiredFacts())})
	ask := pages.NewPageAsk{Key: uuid.NewString(), Title: "Mulch", Parent: grounds, Template: "procedure", Topics: "Soil; Safety", Facts: map[string]string{"checked": "today"}}
	_, err = d.AddPage(ctx, ines, ask)
	require.ErrorContains(t, err, "is no date")
	ask.Facts["checked"] = "2026-11-01"
	first, err := d.AddPage(ctx, ines, ask)
	require.NoError(t, err)
	mulch := d.id("/grounds/mulch")
	require.Equal(t, first.ID, mulch)
	require.Equal(t, "Soil; Safety", d.next().Ref(d.next().Find(mulch)).Topics)
	v, err := d.Page(ctx, ines, mulch)
	require.NoError(t, err)
	b := v.Content.Slots["main"][0]
	require.Equal(t, []string{"## What you need", "begin", "2026-11-01"}, []string{b.Text, b.From, v.Content.Fields["checked"]})
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, -1, d.next().Find(mulch))
	for field, bad := range map[string]pages.NewPageAsk{"title": {Parent: grounds}, "parent": {Title: "x", Parent: "nothing"}} {
		bad.Key = uuid.NewString()
		_, err = d.AddPage(ctx, ines, bad)
		var refused *plan.Invalid
		require.ErrorAs(t, err, &refused)
		require.Equal(t, field, refused.Field)
	}
}

// In the table of facts a link to a page is its address, both ways, and follows the page.
func TestLinksInTheTableOfFacts(t *testing.T) {
	d := newDesk(t)
	require.Empty(t, d.draftTemplate("marta", "procedure", func(p *content.Template) {
		p.Parts = append(p.Parts, content.Part{Kind: content.Facts, Fields: []content.Field{{Key: "form", Label: "Form", Type: content.FieldLink}}})
	}))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	compost := d.id("/grounds/compost")
	_, err = d.SetFact(t.Context(), d.people["ines"], pages.FactAsk{Key: uuid.NewString(), Entry: compost, Field: "form", Value: "/grounds/ponds"})
	require.NoError(t, err)
	told := func() string {
		table, err := d.Facts(t.Context(), d.people["ines"], "procedure", pages.FactFilter{Entry: compost})
		require.NoError(t, err)
		return table.Rows[0].Facts[0]
	}
	require.Equal(t, "/grounds/ponds", told())
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: d.id("/grounds/ponds"), Parent: d.id("/visitors")})
	require.Equal(t, "/visitors/ponds", told(), "it is a link to the page")
}

// Owners and site managers are told of blocks that a template keeps aside, and undoing the
// template gives its draft back.
func TestTemplateTellsOfBlocksKeptAside(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	_, err := d.Plan(ctx, d.people["marta"], appsitemap.PlanAct{Key: uuid.NewString(), Do: "fact", ID: d.id("/grounds"), Field: "owner", Value: d.people["ines"].Name})
	require.NoError(t, err)
	unread := func(login string) (words []string) {
		list, err := d.Inbox(ctx, d.people[login])
		require.NoError(t, err)
		for _, n := range list {
			if !n.Read {
				words = append(words, n.Words)
			}
		}
		return words
	}
	drop := func(p *content.Template) {
		p.Parts[0] = content.Part{Kind: content.Slot, Key: "card", Name: "Card"}
	}
	d.draftTemplate("anselm", "topic", drop)
	_, err = d.planTemplate("anselm", "topic")
	require.NoError(t, err)
	require.NotEmpty(t, unread("ines"), "the owner of the branch")
	require.Contains(t, unread("ines")[0], "kept aside")
	require.Len(t, unread("marta"), 1, "a site manager, once for all pages")
	require.Empty(t, unread("anselm"))

	t.Log("read one, then all; told again only if it happens again")
	list, err := d.Inbox(ctx, d.people["ines"])
	require.NoError(t, err)
	require.NoError(t, d.MarkRead(ctx, d.people["marta"], list[0].ID, false), "of somebody else")
	require.Len(t, unread("ines"), len(list))
	require.NoError(t, d.MarkRead(ctx, d.people["ines"], list[0].ID, true))
	require.Empty(t, unread("ines"))

	t.Log("undone, what was made of the template is a draft again")
	_, err = d.Undo(ctx, d.people["anselm"])
	require.NoError(t, err)
	v, err := d.OpenTemplate(ctx, d.people["anselm"], "topic", "")
	require.NoError(t, err)
	require.Equal(t, 1, v.Draft.Version)
	c, err := d.CheckTemplate(ctx, d.people["anselm"], "topic", "", "")
	require.NoError(t, err)
	require.False(t, c.Stale)
	require.Equal(t, "Card", c.After.Parts[0].Name)
	_, err = d.Redo(ctx, d.people["anselm"])
	require.NoError(t, err)
	v, err = d.OpenTemplate(ctx, d.people["anselm"], "topic", "")
	require.NoError(t, err)
	require.Zero(t, v.Draft.Version)
	_, err = d.Undo(ctx, d.people["anselm"])
	require.NoError(t, err)
	_, err = d.planTemplate("anselm", "topic")
	require.NoError(t, err)
}

// A reader who finds nothing tells the owner of the nearest page, or else the site managers.
func TestReadersTellOfMissingPages(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	_, err := d.Plan(ctx, d.people["marta"], appsitemap.PlanAct{Key: uuid.NewString(), Do: "fact", ID: d.id("/grounds"), Field: "owner", Value: d.people["ines"].Name})
	require.NoError(t, err)
	v, _, err := d.Planned(ctx, d.people["marta"])
	require.NoError(t, err)
	for range 3 {
		require.NoError(t, d.TellMissing(ctx, v.Next, "/grounds/ponds/lost"))
	}
	require.NoError(t, d.TellMissing(ctx, v.Next, "/elsewhere"))
	for login, about := range map[string]string{"ines": "/grounds/ponds/lost", "marta": "/elsewhere"} {
		list, err := d.Inbox(ctx, d.people[login])
		require.NoError(t, err)
		require.Len(t, list, 1, login)
		require.Equal(t, about, list[0].Subject)
	}
	for i := range plan.MostUnread + 5 {
		require.NoError(t, d.TellMissing(ctx, v.Next, fmt.Sprintf("/elsewhere/%d", i)))
	}
	who, _, err := d.Person(ctx, d.people["marta"].ID, d.now)
	require.NoError(t, err)
	require.Equal(t, plan.MostUnread, who.Unread)
}

// A draft is rendered once: when nobody writes on it any more, or when it goes out. It goes out as
// the template of the edition lays it out, also where it was rendered as a planned one does.
func TestDraftsAreRenderedOnce(t *testing.T) {
	d := newDesk(t)
	compost, ponds := d.id("/grounds/compost"), d.id("/grounds/ponds")
	bare := func(entry string) (is bool) {
		require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT octet_length(v.body) = 0 FROM page_spans s JOIN page_versions v ON v.id = s.version_id
			WHERE s.entry_id = $1 AND s.from_edition IS NULL`, entry).Scan(&is))
		return is
	}
	d.write("ines", ponds, "Newts in spring.")
	require.True(t, bare(ponds))
	d.publish("marta", "Newts")
	require.Contains(t, d.body(ponds), "Newts in spring.", "rendered as it goes out")

	require.Empty(t, d.draftTemplate("marta", "procedure", func(p *content.Template) { p.Parts[0] = fixed("Wear gloves.") }))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	d.write("ines", compost, "Turn the heaps.")
	require.NoError(t, d.FinishDrafts(t.Context()))
	require.True(t, bare(compost), "somebody may be writing still")
	d.now = d.now.Add(2 * time.Minute)
	require.NoError(t, d.FinishDrafts(t.Context()))
	require.False(t, bare(compost))
	d.publish("marta", "Heaps", change.Key{ID: shape.TemplateID("procedure"), Aspect: change.Layout})
	require.Contains(t, d.body(compost), "Turn the heaps")
	require.NotContains(t, d.body(compost), "Wear gloves", "the template stayed behind")
}

// A page whose template changes is laid out anew around its text: what is known of the text stays,
// whether the template asks for the same as before or for more.
func TestPagesAreLaidOutAnewAroundTheirText(t *testing.T) {
	d := newDesk(t)
	compost, ponds := d.id("/grounds/compost"), d.id("/grounds/ponds")
	d.write("ines", compost, "## Heaps\n\nTurn them beside [the water](page:"+ponds+").")
	d.publish("marta", "Heaps")
	known := func() (out []any) {
		require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT jsonb_build_array(w.plain, w.words::text,
				(SELECT jsonb_agg(jsonb_build_array(l.place, l.target, l.to_entry, l.words, l.tile, l.follows) ORDER BY l.place) FROM page_links l WHERE l.version_id = v.id),
				(SELECT jsonb_agg(p.picture_id ORDER BY 1) FROM page_pictures p WHERE p.version_id = v.id))
			FROM page_spans s JOIN page_versions v ON v.id = s.version_id JOIN page_words w ON w.version_id = v.id
			WHERE s.entry_id = $1 AND s.from_edition IS NOT NULL AND s.to_edition IS NULL`, compost).Scan(&out))
		return out
	}
	before := known()
	require.Contains(t, before[0], "Turn them")
	require.Len(t, before[2], 1)
	for i, change := range []func(*content.Template){
		func(p *content.Template) { p.Parts[0] = fixed("Wear gloves.") },
		func(p *content.Template) { p.Parts[0] = fixed("## Heaps\n\nWear boots.") },
		func(p *content.Template) {
			p.Parts = append(p.Parts, content.Part{Kind: content.Slot, Key: "after", Name: "Afterwards"})
		},
		func(p *content.Template) { p.Parts = p.Parts[1:] },
	} {
		require.Empty(t, d.draftTemplate("marta", "procedure", change))
		_, err := d.planTemplate("marta", "procedure")
		require.NoError(t, err)
		d.publish("marta", "Another layout")
		body := d.body(compost)
		require.Contains(t, body, `Turn them beside <a href="page:`+ponds+`">the water</a>`)
		require.Contains(t, body, `<h2 id="heaps">Heaps</h2>`+"\n<p>Turn them", "the address of a heading of the text stays")
		require.Equal(t, []bool{i == 0, i == 1 || i == 2}, []bool{strings.Contains(body, "Wear gloves"), strings.Contains(body, "Wear boots")})
		require.Equal(t, before, known())
	}
}

// An instance reads a draft once: whatever is written, rendered, discarded or published by another one, it sees what an
// instance sees that has just begun.
func TestDraftsAreReadOnce(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	compost, ponds := d.id("/grounds/compost"), d.id("/grounds/ponds")
	begin := func() *app.App {
		return app.New(d.store, markup.New(), memory(t), func() time.Time { return d.now })
	}
	looks := func(a *app.App) any {
		n, err := a.LookAhead(ctx, marta, editions.Select{})
		require.NoError(t, err)
		return []any{n.All, n.Findings, n.Proof.Asked}
	}
	old := begin()
	for _, step := range []struct {
		name string
		do   func()
	}{
		{"written", func() { d.write("ines", ponds, "See [the heaps](page:"+compost+").") }},
		{"another of them", func() { d.write("ines", compost, "Turn the heaps.") }},
		{"written again", func() { d.write("ines", ponds, "See [nothing](page:nobody).") }},
		{"rendered", func() { d.now = d.now.Add(2 * time.Minute); require.NoError(t, d.FinishDrafts(ctx)) }},
		{"discarded", func() { require.NoError(t, d.DropDraft(ctx, d.people["ines"], ponds, "")) }},
	} {
		step.do()
		require.Equal(t, looks(begin()), looks(old), step.name)
	}
	d.write("ines", compost, "Turn the heaps twice.")
	d.publish("marta", "Heaps")
	require.Equal(t, looks(begin()), looks(old))
}
