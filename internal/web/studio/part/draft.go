package part

import (
	"html/template"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/markup"
	"candlepath/internal/web/urls"
)

// draftHTML is rendered text with links that lead to page editors.
func DraftHTML(html string, t *sitemap.Tree) template.HTML {
	body := markup.ResolveLinks(html, func(id string) (string, bool) {
		return template.HTMLEscapeString(urls.Page(id)), t.Find(id) != sitemap.None
	})
	return template.HTML(body) //nolint:gosec // markup made and cleaned it
}
