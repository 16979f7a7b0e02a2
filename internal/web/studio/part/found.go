package part

import (
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

type FoundView struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Address string `json:"address"`
	Trail   string `json:"trail"`
	Kind    string `json:"kind"`
	URL     string `json:"url"`
}

func NewFound(t *sitemap.Tree, i int) FoundView {
	e, path := t.Ref(i), t.Path(i)
	v := FoundView{ID: e.ID, Title: e.Title, Address: address.Written(t.Claim(i)), Kind: e.Kind.Label(), URL: urls.At(e.ID)}
	if len(path) > 1 {
		v.Trail = strings.Join(path[:len(path)-1], " › ")
	}
	return v
}
