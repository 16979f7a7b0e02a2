package studio

import (
	"net/http"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

type menusView struct {
	frame
	Changed    bool
	Live, Next []menuLine
	Hidden     []hiddenView
	Outline    string
}

type menuLine struct {
	Title, URL string
	Below      []menuLine
	New        bool
}

type hiddenView struct{ Title, Why, URL string }

// menus shows what the computed menus hold, Live beside Next.
func (s *Studio) menus(r *request) error {
	f, n, err := s.frameFor(r, "Menus & tiles", "Menus", "Menus")
	if err != nil {
		return err
	}
	v := menusView{frame: f, Outline: urls.Outline}
	v.Live = menuLines(n.Trees.Live, nil)
	was := map[string]bool{}
	for _, l := range v.Live {
		was[l.URL+l.Title] = true
	}
	v.Next = menuLines(n.Trees.Next, was)
	v.Changed = len(v.Live) != len(v.Next)
	for _, l := range v.Next {
		v.Changed = v.Changed || l.New
	}
	t := n.Trees.Next
	for i := range t.Len() {
		if e := t.Ref(i); e.Unlisted && t.Served(i) != "" && len(v.Hidden) < 200 {
			v.Hidden = append(v.Hidden, hiddenView{e.Title, "not listed", urls.At(e.ID)})
		}
	}
	return s.show(r, http.StatusOK, "menus", v)
}

func menuLines(t *sitemap.Tree, was map[string]bool) []menuLine {
	m := menu.For(t)
	var out []menuLine
	line := func(i int) menuLine {
		e := t.Ref(i)
		return menuLine{Title: e.Name(), URL: urls.At(e.ID)}
	}
	if h := t.Home(); h != sitemap.None {
		out = append(out, line(h))
	}
	for c := range t.Children(t.Home()) {
		if !m.Shown(c) {
			continue
		}
		l := line(c)
		for b := range t.Children(c) {
			if m.Shown(b) {
				l.Below = append(l.Below, line(b))
			}
		}
		out = append(out, l)
	}
	for i := range out {
		out[i].New = was != nil && !was[out[i].URL+out[i].Title]
	}
	return out
}
