package navigation

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type menusView struct {
	shell.Frame
	Self, ActURL, FindAt, UndoURL, RedoURL, PreviewURL string

	ID, Title, Where string
	Version          int64 // of the plan
	Menus            []menuChoice
	TakenOver        bool
	Changed          string // how Next's differs from Live's
	Set              menuSettings
	Lines            []menuLine
	More             string
	Shows            string // a word on what readers get
	Item             *itemView
	Look             menuLook
}

type menuChoice struct {
	ID, Title       string
	Here, TakenOver bool
}

type menuSettings struct {
	OfID, OfTitle, OfUsual string
	Levels                 []part.Option
	AZ, Wait               bool
}

// menus shows one menu with what can be done to it.
func (s *Screens) menus(r *shell.Request) error {
	part := r.Query("part")
	if part != "" {
		trees, version, err := s.App.Planned(r.Ctx(), r.Who)
		if err != nil {
			return err
		}
		v, err := newMenusView(r, trees, version, nil)
		if err != nil {
			return err
		}
		block, ok := map[string]string{"menu": "menu-part", "item": "menu-item"}[part]
		if !ok {
			return plan.ErrNotFound
		}
		return s.Set.Write(r.Writer, http.StatusOK, "menus", block, v)
	}
	f, n, err := s.FrameFor(r, "Menus")
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v, err := newMenusView(r, n.Trees, n.Site.PlanVersion, people)
	if err != nil {
		return err
	}
	v.Frame = f
	return s.Show(r, http.StatusOK, "menus", v)
}

func newMenusView(r *shell.Request, trees plan.Trees, version int64, people []plan.Person) (menusView, error) {
	v := menusView{
		Self: urls.Menus, ActURL: urls.MenuAct, FindAt: urls.MenuFind, UndoURL: urls.Undo, RedoURL: urls.Redo, PreviewURL: urls.Preview,
		ID: part.OrElse(r.Query("menu"), menu.Top), Version: version,
	}
	t := trees.Next
	m := menu.For(t, trees.Shapes.Next.Menus())
	ids := m.IDs()
	if !slices.Contains(ids, v.ID) {
		return v, plan.ErrNotFound
	}
	for _, id := range ids {
		v.Menus = append(v.Menus, menuChoice{id, menu.Title(id, t), id == v.ID, m.TakenOver(id)})
	}
	v.Title, v.TakenOver = menu.Title(v.ID, t), m.TakenOver(v.ID)
	v.Where = whereMenuShows(m, v.ID, t)
	v.Changed = wayChanges(trees)[shape.MenuID(v.ID)]
	l := m.Layout(v.ID)
	v.settings(l, t)
	v.lines(l, t, r.Query("item"), r.QueryArray("open"))
	if key := v.chosen(); key != "" {
		v.Item = newItem(m, l, t, v.ID, key)
	}
	v.look(r, t, people)
	return v, nil
}

// whereMenuShows tells on which pages a menu is.
func whereMenuShows(m *menu.Maker, id string, t *sitemap.Tree) string {
	branch, pages := menu.Branch(id), m.On(id)
	switch {
	case branch == "":
		return "On every page."
	case pages == 0:
		return "On no page: its branch is no longer at the top of the site, or has no page."
	}
	return "On " + part.Count(pages, "page", "pages") + ": " + t.Ref(t.Find(branch)).Title + " and all below it."
}

func (v *menusView) settings(l *menu.Layout, t *sitemap.Tree) {
	s := l.Settings()
	v.Set = menuSettings{OfID: s.Of, AZ: s.AZ, Wait: s.Wait, OfUsual: "the top of the site"}
	switch {
	case v.ID == menu.Foot:
		v.Set.OfUsual = "nothing"
	case v.ID != menu.Top:
		v.Set.OfUsual = part.TitleIn(menu.Branch(v.ID), t)
	}
	if v.Set.OfTitle = v.Set.OfUsual; s.Of != "" {
		v.Set.OfTitle = part.TitleIn(s.Of, t)
	}
	usual := map[string]string{menu.Top: "one level", menu.Foot: "none"}[v.ID]
	v.Set.Levels = levelOptions(s.Levels, part.OrElse(usual, "all levels"), "nothing")
	if v.Shows = "On a page, readers get the branch opened down to it."; menu.Shows(v.ID) > 0 {
		v.Shows = fmt.Sprintf("Readers get up to %d levels.", menu.Shows(v.ID))
	}
}

// levelOptions offers how many levels are shown.
func levelOptions(levels int, usual, nothing string) []part.Option {
	out := []part.Option{{Value: "0", Label: usual, Chosen: levels == 0}, {Value: strconv.Itoa(menu.Nothing), Label: nothing, Chosen: levels == menu.Nothing}}
	for n := 1; n <= max(4, levels); n++ {
		out = append(out, part.Option{Value: strconv.Itoa(n), Label: part.Count(n, "level", "levels"), Chosen: n == levels})
	}
	return out
}
