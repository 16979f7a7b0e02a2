package plan

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"path"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
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
func (a *Floor) Rendered(t content.Template, p content.Page, people map[string]Person) (PageVersion, error) {
	art, err := a.Markup.Article(t, p, around(people))
	if err != nil {
		return PageVersion{}, fmt.Errorf("render: %w", err)
	}
	links := content.Links(t, p, a.Markup.Parse)
	if links == nil {
		links = []content.FoundLink{}
	}
	return PageVersion{
		Content: p, Body: Zip(art.HTML), Outline: art.Headings, Links: links, Excerpt: art.Excerpt,
		Report: content.NewReport(t, p, func(id string) bool { _, ok := people[id]; return ok }),
		Plain:  content.PlainText(t, p, a.Markup.Parse),
	}, nil
}

// PictureAt is the address of a kept picture.
func PictureAt(id, name string) string { return setting.PicturePath + id + "/" + name }

// KeepPicture keeps a picture under an id made of what it holds, and gives its
// address.
func (a *Floor) KeepPicture(ctx context.Context, tx Tx, p content.PictureFile) (string, error) {
	sum := sha256.Sum256(p.Data)
	id := hex.EncodeToString(sum[:16])
	ending := strings.ToLower(path.Ext(p.Name))
	p.Name = address.Slug(strings.TrimSuffix(p.Name, path.Ext(p.Name))) + "." + address.Slug(ending)
	return PictureAt(id, p.Name), tx.PutPicture(ctx, Picture{ID: id, PictureFile: p, At: a.Now()})
}
