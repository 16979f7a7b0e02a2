package content_test

import (
	"strings"
	"testing"

	"candlepath/internal/core/content"

	"github.com/stretchr/testify/require"
)

var procedure = content.Template{Key: "procedure", Parts: []content.Part{
	{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText, Required: true}}},
	{Kind: content.Facts, Fields: []content.Field{
		{Key: "contact", Label: "Contact", Type: content.FieldPerson},
		{Key: "checked", Label: "Checked", Type: content.FieldDate},
		{Key: "risk", Label: "Risk", Type: content.FieldChoice, Choices: []string{"low", "high"}},
	}},
	{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: "Ask before you start."}}},
	{Kind: content.Slot, Key: "steps", Label: "Steps", Required: true},
	{Kind: content.Slot, Key: "more"},
}}

func known(id string) bool { return id == "p1" }

func text(s string) []content.Block { return []content.Block{{Type: content.Text, Text: s}} }

func TestProblemsOfAPage(t *testing.T) {
	whole := func() content.Page {
		return content.Page{
			Fields: map[string]string{"summary": "How", "contact": "p1", "checked": "2026-11-24", "risk": "low"},
			Slots:  map[string][]content.Block{"steps": text("1. Stop")},
		}
	}
	for name, c := range map[string]struct {
		change func(*content.Page)
		part   string
		what   content.ProblemKind
	}{
		"whole":                 {func(*content.Page) {}, "", ""},
		"no summary":            {func(p *content.Page) { p.Fields["summary"] = "  " }, "summary", content.RequiredField},
		"a stranger":            {func(p *content.Page) { p.Fields["contact"] = "p2" }, "contact", content.BadValue},
		"no contact":            {func(p *content.Page) { delete(p.Fields, "contact") }, "", ""},
		"no day":                {func(p *content.Page) { p.Fields["checked"] = "31.02.2026" }, "checked", content.BadValue},
		"a day that is not":     {func(p *content.Page) { p.Fields["checked"] = "2026-02-31" }, "checked", content.BadValue},
		"not among the choices": {func(p *content.Page) { p.Fields["risk"] = "some" }, "risk", content.BadValue},
		"an empty slot":         {func(p *content.Page) { p.Slots["steps"] = text(" \n") }, "steps", content.RequiredSlot},
		"only an empty board":   {func(p *content.Page) { p.Slots["steps"] = []content.Block{{Type: content.Tiles}} }, "steps", content.RequiredSlot},
	} {
		p := whole()
		c.change(&p)
		got := content.NewReport(procedure, p, known)
		require.Equal(t, "procedure", got.Template)
		require.False(t, got.Empty && c.what == "", name)
		if c.what == "" {
			require.Empty(t, got.Problems, name)
			continue
		}
		require.Len(t, got.Problems, 1, name)
		require.Equal(t, c.part, got.Problems[0].Part, name)
		require.Equal(t, c.what, got.Problems[0].What, name)
	}
	require.True(t, content.NewReport(procedure, content.Page{}, known).Empty)
}

func TestCleanKeepsOnlyWhatCanBeShown(t *testing.T) {
	p := content.Page{
		Fields: map[string]string{"summary": " How ", "checked": " ", "of another template": "kept"},
		Slots: map[string][]content.Block{"steps": {
			{Type: "script", Text: "alert(1)"},
			{Type: content.Text, Text: "One", Set: content.Values{"tone": "tip"}, Items: []content.Values{{"title": "x"}}},
			{Type: content.Note, Text: "Mind", Set: content.Values{"tone": "loud"}},
			{Type: content.Tiles, Text: "x", Items: []content.Values{{"to": "page:a", "title": "A", "symbol": "skull"}, {"symbol": "leaf"}}},
		}},
	}
	want := content.Page{
		Fields: map[string]string{"summary": "How", "of another template": "kept"},
		Slots: map[string][]content.Block{"steps": {
			{Type: content.Text, Text: "One"},
			{Type: content.Note, Text: "Mind"},
			{Type: content.Tiles, Items: []content.Values{{"to": "page:a", "title": "A"}, {"symbol": "leaf"}}},
		}},
	}
	require.Equal(t, want, content.Clean(p))
	require.Equal(t, want, content.Clean(want), "cleaning twice equals once")
}

// parse is as much of a parser as these tests need: "[words](to) words".
func parse(s string) []content.Node {
	if s == "" {
		return nil
	}
	return []content.Node{{Kind: content.Other, Children: []content.Node{
		{Kind: content.Link, To: "page:b", Children: []content.Node{{Kind: content.Words, Text: s}}},
		{Kind: content.Words, Text: " and  more"},
	}}}
}

func TestLinksAndWordsOfAPage(t *testing.T) {
	p := content.Page{
		Fields: map[string]string{"summary": "How we do it", "contact": "p1", "risk": "low", "elsewhere": "not shown"},
		Slots: map[string][]content.Block{
			"steps":      append(text("Stop"), content.Block{Type: content.Tiles, Items: []content.Values{{"to": "page:a", "title": "Ponds", "line": "All of them"}}}),
			"of another": text("unseen"),
		},
	}
	links := content.Links(procedure, p, parse)
	require.Equal(t, []content.FoundLink{{To: "page:b", Text: "Stop"}, {To: "page:a", Text: "Ponds", Tile: true}}, links)
	id, is := links[0].Entry()
	require.True(t, is)
	require.Equal(t, "b", id)
	_, is = content.FoundLink{To: "https://quillmere.example"}.Entry()
	require.False(t, is)
	require.Equal(t, "How we do it low Stop and more Ponds All of them", content.PlainText(procedure, p, parse))
}

func TestRelinking(t *testing.T) {
	ids := map[string]string{"a": "A", "a-1": "B"}
	page := content.Page{Fields: map[string]string{"f": "page:a"}, Slots: map[string][]content.Block{"main": {
		{Type: content.Text, Text: "[x](page:a), [y](page:a-1 \"t\"), [z](page:b), <page:a>, /page, a"},
		{Type: content.Tiles, Items: []content.Values{{"to": "page:a-1"}, {"to": "https://a"}, {"to": "a"}}},
	}}}
	got := content.Relinked(page, ids)
	require.Equal(t, "[x](page:A), [y](page:B \"t\"), [z](page:b), <page:A>, /page, a", got.Slots["main"][0].Text)
	require.Equal(t, []content.Values{{"to": "page:B"}, {"to": "https://a"}, {"to": "a"}}, got.Slots["main"][1].Items)
	require.Equal(t, "page:A", got.Fields["f"])
	require.Equal(t, "page:a", page.Fields["f"])
	require.Equal(t, "page:a-1", page.Slots["main"][1].Items[0]["to"], "the first is as it was")
}

func TestFilled(t *testing.T) {
	lead := content.Part{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Type: content.FieldText}}}
	tiles := content.Part{Kind: content.Slot, Key: "tiles", Takes: []content.BlockType{content.Tiles}}
	plain := content.Part{Kind: content.Slot, Key: "main", Takes: []content.BlockType{content.Text}}
	blocks := []content.Block{{Type: content.Text, Text: "a"}, {Type: content.Note, Set: content.Values{"tone": "tip"}, Text: "b"}}
	p := content.Filled(content.Template{Parts: []content.Part{lead, tiles, plain}}, blocks, "Sow in May. "+strings.Repeat("Then water and wait. ", 20))
	require.Equal(t, []content.Block{{Type: content.Text, Text: "a"}, {Type: content.Text, Text: "b"}}, p.Slots["main"])
	require.Empty(t, p.Slots["tiles"])
	require.True(t, strings.HasPrefix(p.Fields["summary"], "Sow in May. Then") && strings.HasSuffix(p.Fields["summary"], "wait."), p.Fields["summary"])
	require.LessOrEqual(t, len(p.Fields["summary"]), 220)
	p = content.Filled(content.Template{Parts: []content.Part{lead, {Kind: content.Slot, Key: "all"}}}, blocks, strings.Repeat("word ", 100))
	require.Equal(t, blocks, p.Slots["all"])
	require.True(t, strings.HasSuffix(p.Fields["summary"], "word …"))
}

// What somebody wrote is compared by its labels, also in slots that the template does not have.
func TestWritten(t *testing.T) {
	tpl := content.Template{Parts: []content.Part{
		{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText}}},
		{Kind: content.Slot, Key: "main", Label: "Main text"},
	}}
	p := content.Page{Fields: map[string]string{"summary": "Short.", "old": "kept", "none": ""}, Slots: map[string][]content.Block{
		"main": {{Type: content.Text, Text: "See [the ponds](page:p)."}, {Type: content.Tiles, Items: []content.Values{{"to": "page:p", "title": "Ponds", "line": "cold"}}}}, "aside": {{Type: content.Note, Text: "Mind the step."}},
	}}
	require.Equal(t, "old: kept\n\nSummary: Short.\n\n— aside —\n\nMind the step.\n\n— Main text —\n\nSee [the ponds].\n\n▪ Ponds: cold\n", content.Written(tpl, p))
}

func TestUnfinishedBlocksAreTold(t *testing.T) {
	img := "/files/00112233445566778899aabbccddeeff/ponds.png"
	for name, c := range map[string]struct {
		b    content.Block
		want []string
	}{
		"a picture without words":     {content.Block{Type: content.Picture, Set: content.Values{"picture": img}}, []string{"Picture does not say what it shows, for those who cannot see it"}},
		"a picture with words":        {content.Block{Type: content.Picture, Set: content.Values{"picture": img, "alt": "Ponds"}}, nil},
		"only decoration":             {content.Block{Type: content.Picture, Set: content.Values{"picture": img, "decorative": content.Yes}}, nil},
		"no picture yet":              {content.Block{Type: content.Picture}, nil},
		"a step without a picture":    {content.Block{Type: content.Steps, Items: []content.Values{{"text": "Stop"}}}, nil},
		"a step with one":             {content.Block{Type: content.Steps, Items: []content.Values{{"text": "Stop"}, {"text": "Go", "picture": img}}}, []string{"step 2 does not say what it shows, for those who cannot see it"}},
		"a tile that leads nowhere":   {content.Block{Type: content.Tiles, Items: []content.Values{{"to": "page:a"}, {"title": "Ponds"}}}, []string{`tile 2 has nothing for "Leads to"`}},
		"tiles of a board that lists": {content.Block{Type: content.Tiles, Set: content.Values{"from": content.FromBelow}, Items: []content.Values{{"title": "Ponds"}}}, nil},
		"in a column":                 {content.Block{Type: content.Columns, Columns: [][]content.Block{{{ID: "in", Type: content.Questions, Items: []content.Values{{"text": "So."}}}}}}, []string{`question 1 has nothing for "Question"`}},
	} {
		var got []string
		for _, p := range content.Problems(content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}, content.Page{Slots: map[string][]content.Block{"main": {c.b}}}, known) {
			require.Equal(t, content.Unfinished, p.What)
			got = append(got, p.Text)
		}
		require.Equal(t, c.want, got, name)
	}
}
