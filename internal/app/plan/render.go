package plan

import (
	"fmt"
	"slices"

	"candlepath/internal/core/content"
	"candlepath/internal/markup"
)

// Zip compresses HTML as it will be served.
func Zip(html string) []byte { return markup.Zip([]byte(html)) }

// TemplateOf gives the template of an entry; the first one where the entry
// names none or one that is not there.
func TemplateOf(list []content.Template, key string) content.Template {
	if i := slices.IndexFunc(list, func(t content.Template) bool { return t.Key == key }); i >= 0 {
		return list[i]
	}
	if len(list) > 0 {
		return list[0]
	}
	return content.Template{Key: "plain", Name: "Plain", Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}
}

// Rendered renders a page into the version that an edition will show: its HTML, its
// words for search, its links.
func (a *Floor) Rendered(t content.Template, p content.Page, around markup.Around) (PageVersion, error) {
	art, err := a.Markup.Article(t, p, around)
	if err != nil {
		return PageVersion{}, fmt.Errorf("render: %w", err)
	}
	links := content.Links(t, p, a.Markup.Parse)
	if links == nil {
		links = []content.FoundLink{}
	}
	return PageVersion{
		Content: p, Body: Zip(art.HTML), Outline: art.Headings, Links: links, Excerpt: art.Excerpt,
		Report: content.NewReport(t, p, func(id string) bool { return around.Person(id) != "" }),
		Plain:  content.PlainText(t, p, a.Markup.Parse),
	}, nil
}
