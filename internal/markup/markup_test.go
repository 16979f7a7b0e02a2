package markup_test

import (
	"strings"
	"testing"

	"candlepath/internal/markup"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

func TestHTMLIsSafeAndHeadingsStandBelowThePage(t *testing.T) {
	m := markup.New()
	for source, want := range map[string]string{
		"# One\n\n# One":                      `<h2 id="one">One</h2>` + "\n" + `<h2 id="one-2">One</h2>` + "\n",
		"### Deep":                            `<h3 id="deep">Deep</h3>` + "\n",
		"**bold** and *italic*":               "<p><strong>bold</strong> and <em>italic</em></p>\n",
		"> quoted":                            "<blockquote>\n<p>quoted</p>\n</blockquote>\n",
		"3. three\n4. four":                   "<ol start=\"3\">\n<li>three</li>\n<li>four</li>\n</ol>\n",
		"[Hours](page:h-1)":                   "<p><a href=\"page:h-1\">Hours</a></p>\n",
		"[x](javascript:alert(1))":            "<p>x</p>\n",
		"[x](data:text/html,hi)":              "<p>x</p>\n",
		"<script>alert(1)</script>":           "\n",
		"a <img src=x onerror=alert(1)> b":    "<p>a  b</p>\n",
		"`<b>`":                               "<p><code>&lt;b&gt;</code></p>\n",
		"a & b < c":                           "<p>a &amp; b &lt; c</p>\n",
		"~~old~~":                             "<p><del>old</del></p>\n",
		"<!--later:eA==-->\n":                 "\n",
		"- [x] done\n- [ ] not":               "<ul>\n<li><span class=\"task task-done\"><span class=\"sr-only\">done: </span></span> done</li>\n<li><span class=\"task\"><span class=\"sr-only\">to do: </span></span> not</li>\n</ul>\n",
		"| a | b |\n|---|--:|\n| **x** | 1 |": "<table>\n<thead>\n<tr>\n<th scope=\"col\">a</th>\n<th scope=\"col\" class=\"at-right\">b</th>\n</tr>\n</thead>\n<tbody>\n<tr>\n<th scope=\"row\"><strong>x</strong></th>\n<td class=\"at-right\">1</td>\n</tr>\n</tbody>\n</table>\n",
	} {
		got, err := m.HTML(source, &markup.Headings{})
		require.NoError(t, err)
		got = strings.ReplaceAll(got, "<!-- raw HTML omitted -->", "")
		require.Equal(t, want, got, source)
	}
	table, err := m.HTML("| a | b |\n|---|---|\n| 1 | 2 |", &markup.Headings{})
	require.NoError(t, err)
	require.Contains(t, table, `<th scope="col">a</th>`)
	require.Contains(t, table, "<td>2</td>")
}

func TestParseFindsHeadingsLinksAndWords(t *testing.T) {
	nodes := markup.New().Parse("## Ways *in*\n\nSee [the **ponds**](page:p) or <https://quillmere.example/x>,\nor `code`.\n\n- one\n- two")
	require.Equal(t, content.Heading, nodes[0].Kind)
	require.Equal(t, 2, nodes[0].Level)
	require.Equal(t, "Ways in See the ponds or https://quillmere.example/x, or code. one two", content.Plain(nodes))
	t.Run("links", func(t *testing.T) {
		one := content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}
		page := content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: "[the **ponds**](page:p) <https://quillmere.example/x>"}}}}
		require.Equal(t, []content.FoundLink{{To: "page:p", Text: "the ponds"}, {To: "https://quillmere.example/x", Text: "https://quillmere.example/x"}},
			content.Links(one, page, markup.New().Parse))
	})
}

func TestArticleInsideItsTemplate(t *testing.T) {
	template := content.Template{Parts: []content.Part{
		{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Type: content.FieldText}}},
		{Kind: content.Facts, Fields: []content.Field{{Key: "who", Label: "Contact", Type: content.FieldPerson}, {Key: "day", Label: "Checked", Type: content.FieldDate}, {Key: "risk", Label: "Risk", Type: content.FieldChoice}}},
		{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: "## Before you start\n\nAsk."}}},
		{Kind: content.Slot, Key: "steps", Label: "Steps"},
		{Kind: content.Slot, Key: "unused", Label: "Unused"},
	}}
	page := content.Page{
		Fields: map[string]string{"summary": "A & B", "who": "p1", "day": "2026-11-24"},
		Slots: map[string][]content.Block{"steps": {
			{Type: content.Text, Text: "## Before you start"},
			{Type: content.Note, Set: content.Values{"tone": "tip"}, Text: "Gloves."},
			{Type: content.Tiles, Items: []content.Values{{"to": "page:x", "title": "Ponds", "line": "<all>"}, {"to": "javascript:1", "title": "Bad"}, {"to": "//evil.example", "title": "Worse"}, {"to": "page:gone", "title": "Left out"}, {"to": "page:x"}}},
		}},
	}
	got, err := markup.New().Article(template, page, markup.Around{Person: func(id string) string { return "Gwen " + id }})
	require.NoError(t, err)
	require.Equal(t, "A & B", content.Excerpt(template, page))
	require.NotContains(t, got.HTML, "Ponds", "what tiles show is worked out for each reader")
	tree, err := sitemap.New([]sitemap.Entry{{ID: "x", Title: "Deep ponds", Slug: "x", Kind: sitemap.Page, Rank: "a"}})
	require.NoError(t, err)
	lists := markup.Lists{Here: sitemap.None, Line: func(ids []string) []string { return make([]string, len(ids)) }}
	lists.Tree = tree
	got.HTML, err = markup.New().Compose(got.HTML, lists.Of)
	require.NoError(t, err)
	for _, piece := range []string{
		`<p class="lead">A &amp; B</p>`, `<dd>Gwen p1</dd>`, `<dd>24 November 2026</dd>`, `<h2 id="steps">Steps</h2>`, `<h2 id="before-you-start-2">`,
		`<div class="note note-tip" role="note">`, `<a href="page:x">Ponds</a>`, `&lt;all&gt;`, `<span>Bad</span>`, `<span>Worse</span>`,
	} {
		require.Contains(t, got.HTML, piece)
	}
	require.Contains(t, got.HTML, `<a href="page:x">Deep ponds</a>`, "a tile takes the title of its page")
	require.NotContains(t, got.HTML, "Left out")
	require.NotContains(t, got.HTML, "Unused")
	require.NotContains(t, got.HTML, "Risk")
	require.Equal(t, []markup.Heading{{ID: "before-you-start", Text: "Before you start", Level: 2}, {ID: "steps", Text: "Steps", Level: 2}, {ID: "before-you-start-2", Text: "Before you start", Level: 2}}, got.Headings)
	resolved := markup.ResolveLinks(got.HTML+`<a href="page:gone">Gone</a>`, func(id string) (string, bool) { return "/grounds/" + id, id == "x" })
	require.Contains(t, resolved, `<a href="/grounds/x">Ponds</a>`)
	require.Contains(t, resolved, `<a data-missing="1">Gone</a>`)
}

func TestZipAndBack(t *testing.T) {
	for _, s := range []string{"", "Quillmere", strings.Repeat("compost ", 5000)} {
		back, err := markup.Unzip(markup.Zip([]byte(s)))
		require.NoError(t, err)
		require.Equal(t, s, string(back))
	}
	_, err := markup.Unzip([]byte("not zipped"))
	require.Error(t, err)
}
