package content_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/content"
)

func slot(key, name string) content.Part {
	return content.Part{Kind: content.Slot, Key: key, Name: name}
}

func fact(label string, kind content.FieldType, choices ...string) content.Field {
	return content.Field{Label: label, Type: kind, Choices: choices}
}

func facts(fields ...content.Field) content.Part {
	return content.Part{Kind: content.Facts, Fields: fields}
}

// What a template cannot be kept with is told, each with what to do.
func TestFaultsOfTemplates(t *testing.T) {
	long := strings.Repeat("x", 300)
	text := content.Block{Type: content.Text, Text: "x"}
	for name, c := range map[string]struct {
		parts []content.Part
		want  string
	}{
		"two slots of one name":    {[]content.Part{slot("a", "Main"), slot("b", "main")}, `Two slots are called "main"`},
		"no slot":                  {[]content.Part{{Kind: content.Fixed, Content: []content.Block{text}}}, "no slot"},
		"a name too long":          {[]content.Part{slot("", long)}, "300 characters"},
		"a fact without a label":   {[]content.Part{slot("", "Main"), facts(fact("", content.FieldText))}, "A fact has no name"},
		"facts without a fact":     {[]content.Part{slot("", "Main"), facts()}, "between one and 40"},
		"two facts of one label":   {[]content.Part{slot("", "Main"), facts(fact("Risk", content.FieldText), fact("risk", content.FieldDate))}, `Two facts are called "risk"`},
		"nothing to choose from":   {[]content.Part{slot("", "Main"), facts(fact("Risk", content.FieldChoice))}, "nothing to choose from"},
		"a default that is none":   {[]content.Part{slot("", "Main"), facts(content.Field{Label: "On", Type: content.FieldDate, Default: "soon"})}, `cannot begin with "soon"`},
		"a type of no fact":        {[]content.Part{slot("", "Main"), facts(fact("x", content.FieldProse))}, "cannot be of the type"},
		"an empty fixed part":      {[]content.Part{slot("", "Main"), {Kind: content.Fixed}}, "shows nothing"},
		"two summaries":            {[]content.Part{slot("", "Main"), {Kind: content.Lead, Fields: []content.Field{{Label: "A"}}}, {Kind: content.Lead, Fields: []content.Field{{Label: "B"}}}}, "two summaries"},
		"begins with what it must": {[]content.Part{{Kind: content.Slot, Name: "Main", Takes: []content.BlockType{content.Note}, Content: []content.Block{text}}}, "which it does not take"},
		"begins with too much":     {[]content.Part{{Kind: content.Slot, Name: "Main", Most: 1, Content: []content.Block{text, text}}}, "takes at most 1 block"},
		"a part of no kind":        {[]content.Part{slot("", "Main"), {Kind: "frame"}}, `no kind of part called "frame"`},
		"nothing wrong":            {[]content.Part{slot("", "Main"), facts(fact("Risk", content.FieldChoice, "low"))}, ""},
	} {
		_, faults := content.CleanTemplate(content.Template{Name: "T", Parts: c.parts})
		if c.want == "" {
			require.Empty(t, faults, name)
			continue
		}
		require.Len(t, faults, 1, name)
		require.Contains(t, faults[0].Text, c.want, name)
	}
	_, faults := content.CleanTemplate(content.Template{Parts: []content.Part{slot("", "Main")}})
	require.Equal(t, "The template has no name. Give it one.", faults[0].Text)
}

// A template comes back from the page that stands for it as it was, and cleaning it twice is
// cleaning it once.
func TestTemplatesComeBackFromTheirPages(t *testing.T) {
	words := rapid.StringMatching(`[A-Za-z]{1,12}( [a-z]{1,8})?`)
	yes := rapid.Bool()
	field := rapid.Custom(func(r *rapid.T) content.Field {
		f := content.Field{Label: words.Draw(r, "label"), Type: rapid.SampledFrom(content.FactTypes()).Draw(r, "type"), Required: yes.Draw(r, "required"), Help: words.Draw(r, "help")}
		if f.Type == content.FieldChoice || f.Type == content.FieldSeveral {
			f.Choices = rapid.SliceOfNDistinct(words, 1, 4, rapid.ID).Draw(r, "choices")
		}
		if f.Type == content.FieldNumber {
			f.Unit = "kg"
		}
		return f
	})
	block := rapid.Custom(func(r *rapid.T) content.Block {
		return content.Block{ID: rapid.StringMatching(`[a-f0-9]{16}`).Draw(r, "id"), Type: content.Text, Text: words.Draw(r, "text")}
	})
	part := rapid.Custom(func(r *rapid.T) content.Part {
		p := content.Part{ID: rapid.StringMatching(`[a-f0-9]{12}`).Draw(r, "part"), Side: yes.Draw(r, "side")}
		switch p.Kind = rapid.SampledFrom([]content.PartKind{content.Facts, content.Slot, content.Fixed}).Draw(r, "kind"); p.Kind {
		case content.Facts:
			p.Fields = rapid.SliceOfN(field, 1, 4).Draw(r, "fields")
		case content.Slot:
			p.Name, p.Label, p.Help, p.Required = words.Draw(r, "name"), words.Draw(r, "label"), words.Draw(r, "help"), yes.Draw(r, "required")
			p.Takes, p.Most = []content.BlockType{content.Text, content.Note}, rapid.IntRange(0, 3).Draw(r, "most")
		case content.Fixed:
			p.Content = rapid.SliceOfN(block, 1, 3).Draw(r, "blocks")
		}
		return p
	})
	rapid.Check(t, func(r *rapid.T) {
		once, _ := content.CleanTemplate(content.Template{Key: "k", Name: words.Draw(r, "name"), For: words.Draw(r, "for"), Order: 3, Parts: rapid.SliceOfN(part, 1, 6).Draw(r, "parts")})
		twice, _ := content.CleanTemplate(once)
		require.Equal(r, once, twice)
		back, _ := content.CleanTemplate(content.FromPage(content.Identified(content.Clean(once.AsPage()), "k"), "k", 3))
		require.Equal(r, once.Form(), back.Form(), "%v\n%v", once, back)
	})
}

func TestKeysStayWhenThingsAreNamedAnew(t *testing.T) {
	was, _ := content.CleanTemplate(content.Template{Name: "T", Parts: []content.Part{slot("", "Main text"), slot("", "Main text!"), facts(fact("Risk", content.FieldText))}})
	require.Equal(t, []string{"main-text", "main-text-2", "risk"}, []string{was.Parts[0].Key, was.Parts[1].Key, was.Parts[2].Fields[0].Key})
	p := was.AsPage()
	p.Slots[content.PartsSlot][0].Set["name"] = "Everything"
	now, faults := content.CleanTemplate(content.FromPage(p, "t", 0))
	require.Empty(t, faults)
	require.Equal(t, []string{"main-text", "Everything"}, []string{now.Parts[0].Key, now.Parts[0].Name})
	require.Equal(t, "one part changed", content.TemplateWords(&was, &now))
	require.Equal(t, "new template", content.TemplateWords(nil, &now))
}

// A page that takes another template keeps every block: in the slot of the same key or name,
// else aside.
func TestPagesTakeAnotherTemplate(t *testing.T) {
	from := content.Template{Parts: []content.Part{slot("main", "Main text"), slot("related", "You may also need"), facts(content.Field{Key: "who", Label: "Contact", Type: content.FieldText})}}
	to := content.Template{Parts: []content.Part{slot("main", "Steps"), slot("more", "You may also need"), facts(content.Field{Key: "contact", Label: "contact", Type: content.FieldText})}}
	block := func(s string) []content.Block { return []content.Block{{Type: content.Text, Text: s}} }
	page := content.Page{Fields: map[string]string{"who": "Ines"}, Slots: map[string][]content.Block{"main": block("a"), "related": block("b"), "old": block("c")}}
	m := content.MappingOf(from, to, page)
	require.Equal(t, content.Mapping{"main": "main", "related": "more", "old": ""}, m)
	got := content.Remapped(from, to, page, m)
	require.Equal(t, map[string][]content.Block{"main": block("a"), "more": block("b"), "old": block("c")}, got.Slots)
	require.Equal(t, map[string]string{"contact": "Ines"}, got.Fields)
	require.Equal(t, []string{"old"}, got.Aside(to))

	all := content.Remapped(from, to, page, content.Mapping{"main": "main", "related": "main", "old": "nowhere"}.Within(to))
	require.Equal(t, map[string][]content.Block{"main": append(block("a"), block("b")...), "old": block("c")}, all.Slots)
	aside := content.Remapped(from, to, page, content.Mapping{"main": ""})
	require.Equal(t, block("a"), aside.Slots["main-aside"], "kept aside under a key that shows nothing")
	e := content.EffectOn(from, to, page, func(string) bool { return true })
	require.Equal(t, content.Effect{Aside: []string{"You may also need"}, Unshown: []string{"Contact"}}, e)
}

func TestNewPagesBeginAsTheirTemplateSays(t *testing.T) {
	tpl := content.Template{Parts: []content.Part{
		{Kind: content.Slot, Key: "main", Content: []content.Block{{ID: "c", Type: content.Columns, Columns: [][]content.Block{{{ID: "in", Type: content.Text, Text: "x"}}, {}}}}},
		facts(content.Field{Key: "risk", Label: "Risk", Type: content.FieldText, Default: "low"}),
	}}
	p := tpl.Begin("page")
	b := p.Slots["main"][0]
	require.Equal(t, []string{"low", "c", "in"}, []string{p.Fields["risk"], b.From, b.Columns[0][0].From})
	require.NotEqual(t, "c", b.ID)
	require.NotEmpty(t, b.Columns[0][0].ID)
	require.Equal(t, "in", tpl.Parts[0].Content[0].Columns[0][0].ID, "the template is as it was")
}
