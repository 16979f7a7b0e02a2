package markup

import (
	"embed"
	"html/template"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
)

// blockFiles holds one template a kind of block, blocks/KIND.html.
//
//go:embed blocks/*.html
var blockFiles embed.FS

func parseBlocks() *template.Template {
	return template.Must(template.ParseFS(blockFiles, "blocks/*.html"))
}

// blockView is what the template of a block is executed with.
type blockView struct {
	content.Block
	r *articleWriter
}

// HTML renders a text of the block; its headings count for the page.
func (v blockView) HTML(text string) (template.HTML, error) {
	out, err := v.r.m.HTML(text, &v.r.headings)
	return template.HTML(out), err //nolint:gosec // it was sanitised
}

// Link gives a link to a page, an address of the site or a URL, and nothing of
// anything else.
func (v blockView) Link(to string) template.URL {
	if strings.HasPrefix(to, content.Scheme) || address.IsURL(to) || strings.HasPrefix(to, "/") && !strings.HasPrefix(to, "//") {
		return template.URL(to) //nolint:gosec // as the condition says
	}
	return ""
}

// block writes a block with the template of its kind, and nothing of a kind that
// this program does not know.
func (r *articleWriter) block(b content.Block) error {
	t := r.m.blocks.Lookup(string(b.Type) + ".html")
	if t == nil {
		return nil
	}
	return t.Execute(&r.b, blockView{b, r})
}
