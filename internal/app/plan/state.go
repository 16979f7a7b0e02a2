package plan

import (
	"cmp"
	"context"
	"slices"
	"strconv"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// SiteState is the site as readers get it in a state of it: as an edition was, or as it will be.
type SiteState struct {
	Site    Site // its Edition is the one that readers see
	Planned bool // else it was published
	Tree    *sitemap.Tree
	Shapes  shape.Set
	Rows    []redirect.Row
	Drafts  func(entry string) bool // planned: whose draft shows
	Differs func(entry string) bool // planned: of what something is in it
	Narrow  map[string][]string     // readerships that bear on entries besides, since others may read them now
	Changed []ChangedPage           // by title
	Texts   *EditionTexts           // unless planned
	Live    *sitemap.Tree           // planned: what readers get now
	Only    []readership.Reader     // it holds no more than each of them may read, whoever sees it
	Key     string                  // differs between states of one version of the work; empty: unknown
}

// ChangedPage is a page that differs in a state of the site from the edition before it.
type ChangedPage struct {
	EntryID string
	Kind    change.News
}

// ChangedPages gives the pages of a tree that changes tell readers something new of.
func ChangedPages(t *sitemap.Tree, changes []change.Change) []ChangedPage {
	kinds := map[string]change.News{}
	for _, c := range changes {
		i := t.Find(c.ID)
		if news := c.News(); news != change.NoNews && i != sitemap.None && t.Served(i) != "" && (kinds[c.ID] == change.NoNews || news.Outweighs(kinds[c.ID])) {
			kinds[c.ID] = news
		}
	}
	out := make([]ChangedPage, 0, len(kinds))
	for id, kind := range kinds {
		out = append(out, ChangedPage{id, kind})
	}
	slices.SortFunc(out, func(a, b ChangedPage) int {
		return cmp.Or(cmp.Compare(t.Ref(t.Find(a.EntryID)).Title, t.Ref(t.Find(b.EntryID)).Title), cmp.Compare(a.EntryID, b.EntryID))
	})
	return out
}

// BodyOf gives the text of a page as a state of the site shows it. Links to pages keep the form
// page:ID.
func (a *Floor) BodyOf(ctx context.Context, tx Tx, st SiteState, entry string) (b LiveBody, err error) {
	if !st.Planned {
		bodies, err := tx.BodiesAt(ctx, st.Site.Edition, []string{entry})
		return bodies[entry], err
	}
	var texts []PageVersion
	if st.Drafts(entry) {
		texts, err = tx.PagesOf(ctx, []string{entry}, true)
	}
	if err == nil && len(texts) == 0 {
		texts, err = tx.PagesOf(ctx, []string{entry}, false)
	}
	if err != nil || len(texts) == 0 {
		return b, err
	}
	text, t := texts[0], st.templateOf(entry)
	around, err := a.AroundAll(ctx, tx, append(content.FilesOf(text.Content), t.FixedFiles()...))
	if err != nil {
		return b, err
	}
	v, err := a.Rendered(t, text.Content, around)
	return LiveBody{VersionID: text.ID, Body: v.Body, Outline: v.Outline, Excerpt: v.Excerpt, At: text.At}, err
}

func (st SiteState) templateOf(entry string) content.Template {
	key := ""
	if i := st.Tree.Find(entry); i != sitemap.None {
		key = st.Tree.Ref(i).Template
	}
	return content.TemplateOf(st.Shapes.Templates(), key)
}

// Readerships gives what bears on who may read entries besides their own readership.
func (st SiteState) Readerships() map[string][]string {
	return readership.Also(st.Shapes.Readerships(), st.Narrow)
}

// Visible gives the tree of the state as somebody may see it.
func (st SiteState) Visible(r readership.Reader) *sitemap.Tree {
	return readership.VisibleToAll(st.Tree, append([]readership.Reader{r}, st.Only...), st.Readerships())
}

// Called is how people call the state.
func (st SiteState) Called() string {
	if st.Planned {
		return "Edition " + strconv.Itoa(st.Site.Edition) + " as planned"
	}
	return "Edition " + strconv.Itoa(st.Site.Edition)
}

// ReaderCalled gives the reader of a login or a role; empty is somebody who did not sign in.
func ReaderCalled(ctx context.Context, tx Tx, as string) (readership.Reader, error) {
	if as == "" {
		return readership.Reader{}, nil
	}
	if r, ok := readership.OfRole(as); ok {
		return r, nil
	}
	p, err := tx.PersonByLogin(ctx, as)
	return p.Reader(), err
}
