package markup

import (
	"cmp"
	"html/template"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
)

var tilesTemplate = template.Must(template.New("tiles").Parse(`<ul class="tiles">
{{range .}}<li class="tile">
{{- if .Symbol}}<svg class="symbol" aria-hidden="true" width="20" height="20"><use href="/assets/symbols.svg#{{.Symbol}}"></use></svg>{{end}}
{{- if .To}}<a href="{{.To}}">{{.Title}}</a>{{else}}<span>{{.Title}}</span>{{end}}
{{- if .Line}}<span class="line">{{.Line}}</span>{{end}}</li>
{{end}}</ul>
`))

type tileView struct {
	To                  template.URL
	Title, Line, Symbol string
}

func writeTiles(r *articleWriter, b content.Block) error {
	views := make([]tileView, len(b.Tiles))
	for i, t := range b.Tiles {
		views[i] = tileView{Title: cmp.Or(t.Title, "Untitled"), Line: t.Line, Symbol: t.Symbol}
		if href, ok := tileHref(t.To); ok {
			views[i].To = template.URL(href) //nolint:gosec // a link to a page, an address of ours or a URL
		}
	}
	return tilesTemplate.Execute(&r.b, views)
}

// tileHref lets only links to pages, addresses and URLs through.
func tileHref(to string) (string, bool) {
	switch {
	case strings.HasPrefix(to, content.Scheme), address.IsURL(to), strings.HasPrefix(to, "/") && !strings.HasPrefix(to, "//"):
		return to, true
	}
	return "", false
}
