package reader

import (
	"fmt"
	"net/http"

	"candlepath/internal/app/reading"
	"candlepath/internal/core/sitemap"
)

const previewPolicy = "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self'; font-src 'self'; form-action 'none'; base-uri 'none'; frame-ancestors 'self'"

// previewOf gives the edition that a preview is of, the one of the last preview if
// nothing changed since.
func (s *Site) previewOf(p reading.Previewed) (*edition, error) {
	of := p.Site.Site
	key := fmt.Sprint(p.Live, of.Hosts, of.Settings)
	if e, ok := s.previewed.Get(of, key); ok {
		return e, nil
	}
	e, err := newEdition(p.Site, s.set, nil)
	if err == nil {
		s.previewed.PutRead(of, key, e)
	}
	return e, err
}

// Preview writes a page of a state of the site as a reader gets it, for a frame of
// the studio.
func (s *Site) Preview(w http.ResponseWriter, p reading.Previewed) error {
	e, err := s.previewOf(p)
	if err != nil {
		return err
	}
	snap := e.viewOf(p.Reader)
	var body []byte
	if i := snap.Tree.Find(p.Entry); i != sitemap.None && snap.Tree.Served(i) != "" {
		v, err := snap.pageView(i, p.Body)
		if err != nil {
			return err
		}
		body, err = s.set.Bytes("page", "layout", v)
		if err != nil {
			return err
		}
	} else if body, err = s.set.Bytes("lost", "layout", lostView{frame: snap.frame("Not found", sitemap.None), Home: "/"}); err != nil {
		return err
	}
	h := w.Header()
	pageHeaders(h)
	h.Set("Content-Security-Policy", previewPolicy)
	h.Set("Cache-Control", "no-store")
	_, err = w.Write(body)
	return err
}
