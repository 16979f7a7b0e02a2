package reader

import (
	"context"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/web/urls"
)

// showBar is what stands above a page that is shown.
type showBar struct {
	Called, Until    string
	Here             string // what is new of this page
	Changed          []shownPage
	More             int // that are not listed
	Remark, At, Page string
	Said             bool
	Wrong            string
}

// mostListed is how many pages that differ are listed.
const mostListed = 200

type shownPage struct{ Title, Href, Kind string }

func (v *view) changed(sh reading.Show) (list []shownPage) {
	for _, c := range reading.ShownPages(sh.State, v.Tree) {
		list = append(list, shownPage{c.Title, sh.Below + c.Address, string(c.Kind)})
	}
	return list
}

// shown gives a state as a reader sees it. Who walks through one asks for its pages one after another.
func (s *Site) shown(ctx context.Context, st plan.SiteState, as string) (*view, error) {
	who, err := s.app.ReaderCalled(ctx, as)
	if err != nil {
		return nil, err
	}
	key := fmt.Sprint(st.Key, "|", st.Planned, s.app.Today(), "|", who, st.Only)
	if v, ok := s.shared.Get(st.Site, key); ok && st.Key != "" {
		return v, nil
	}
	v, err := s.viewShown(ctx, st, who)
	if err == nil {
		s.shared.PutRead(st.Site, key, v)
	}
	return v, err
}

// viewShown works a state out as a reader sees it.
func (s *Site) viewShown(ctx context.Context, st plan.SiteState, who readership.Reader) (*view, error) {
	live, err := s.app.Showing(ctx, st)
	if err != nil {
		return nil, err
	}
	e, err := newEdition(live, s.set, nil)
	if err != nil {
		return nil, err
	}
	v, err := e.newView(privateCache, append([]readership.Reader{who}, st.Only...)...)
	if err == nil {
		v.bare = true
	}
	return v, err
}

// ShowPage writes a page of a state of the site. Its links stay in that state, and those to pages
// that differ are marked.
func (s *Site) ShowPage(w http.ResponseWriter, r *http.Request, sh reading.Show) error {
	snap, err := s.shown(r.Context(), sh.State, sh.As)
	if err != nil {
		return err
	}
	at, query, _ := strings.Cut(sh.At, "?")
	normal, err := address.Normal(at)
	if err != nil {
		normal = "/\uFFFD"
	}
	a := snap.Table.ResolveNormal(normal, query)
	status, entry := http.StatusOK, ""
	var body []byte
	switch list := snap.listAt(normal); {
	case list != "":
		body, err = s.set.Bytes(list, "layout", snap.listView(list))
	case a.By == redirect.ByPage:
		entry = snap.Tree.Ref(a.Page).ID
		body, err = s.showBody(r, sh, snap, a.Page)
	case a.Code == redirect.Gone, a.Code == http.StatusNotFound:
		status = a.Code
		v := lostView{frame: snap.frame("Not found", sitemap.None), Asked: normal, Home: "/", Gone: a.Code == redirect.Gone, Says: a.Says, Meant: snap.meant(normal)}
		body, err = s.set.Bytes("lost", "layout", v)
	default:
		to := a.Location
		if files.Local(to) {
			to = sh.Below + to
		}
		moved(w, to, http.StatusFound)
		return nil
	}
	if err != nil {
		return err
	}
	if body, err = s.walkable(sh, snap, entry, normal, body); err != nil {
		return err
	}
	h := w.Header()
	pageHeaders(h)
	if sh.Framed {
		h.Set("Content-Security-Policy", previewPolicy)
	}
	h.Set("Cache-Control", "no-store")
	h.Set("X-Robots-Tag", "noindex")
	h.Set("Referrer-Policy", "same-origin")
	w.WriteHeader(status)
	_, err = w.Write(body)
	return err
}

func (s *Site) showBody(r *http.Request, sh reading.Show, snap *view, page int) ([]byte, error) {
	text, err := s.app.ShownBody(r.Context(), sh.State, snap.Tree.Ref(page).ID, snap.Tree)
	if err != nil {
		return nil, err
	}
	v, err := snap.pageView(page, text)
	if err != nil {
		return nil, err
	}
	return s.set.Bytes("page", "layout", v)
}

// walkable makes the links of a page stay in what is shown, and says above it what that is.
func (s *Site) walkable(sh reading.Show, snap *view, entry, at string, body []byte) ([]byte, error) {
	kinds := map[string]change.News{}
	for _, c := range reading.ShownPages(sh.State, snap.Tree) {
		kinds[c.Address] = c.Kind
	}
	bar := showBar{Called: sh.State.Called(), Until: sh.Until, Changed: snap.changed(sh), Remark: sh.Remark, At: at, Page: entry, Said: sh.Said, Wrong: sh.Wrong}
	if len(bar.Changed) > mostListed {
		bar.Changed, bar.More = bar.Changed[:mostListed], len(bar.Changed)-mostListed
	}
	bar.Here = string(kinds[address.Written(at)])
	top, err := s.set.Bytes("shown", "bar", bar)
	if err != nil {
		return nil, err
	}
	rw := files.Rewriter{
		Link: func(to string) string {
			if strings.HasPrefix(to, "/assets/") || strings.HasPrefix(to, urls.Style) || sh.Framed && strings.HasPrefix(to, "/files/") {
				return to
			}
			return sh.Below + to
		},
		Within: func(to string) string {
			path, _, _ := address.Split(to)
			kind := kinds[path]
			if kind == change.NoNews {
				return ""
			}
			return fmt.Sprintf(` <span class="shown-mark">%s</span>`, template.HTMLEscapeString(string(kind)))
		},
	}
	if !sh.Framed {
		rw.Top = string(top)
	}
	return rw.Page(body), nil
}

// listAt names the list that the program makes at an address.
func (v *view) listAt(at string) string {
	switch at {
	case urls.Index:
		return "index"
	case urls.Overview:
		return "overview"
	case urls.New:
		return "new"
	case urls.TrailList:
		return "trails"
	}
	return ""
}

// listView is what one of the lists shows.
func (v *view) listView(list string) any {
	switch list {
	case "index":
		return v.indexView()
	case "overview":
		return v.overviewView()
	case "new":
		return v.newView()
	}
	return v.trailsView()
}
