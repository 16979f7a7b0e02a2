package navigation

import (
	"net/http"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

type menuForm struct {
	Key    string `json:"key"`
	Menu   string `json:"menu"`
	Do     string `json:"do"`
	Item   string `json:"item"`
	Parent string `json:"parent"`
	After  string `json:"after"`
	Last   bool   `json:"last"`
	Step   string `json:"step"`
	Kind   string `json:"kind"`
	Entry  string `json:"entry"`
	Title  string `json:"title"`
	URL    string `json:"url"`
	Symbol string `json:"symbol"`
	Levels int    `json:"levels"`
	Of     string `json:"of"`
	AZ     bool   `json:"az"`
	Wait   bool   `json:"wait"`

	Seen int64     `json:"seen"` // the version of the plan that the form was made of
	Was  *menuForm `json:"was"`  // what the form showed
}

func (f menuForm) override() menu.ItemOverride {
	return menu.ItemOverride{Kind: menu.Kind(f.Kind), Entry: f.Entry, Title: f.Title, URL: f.URL, Symbol: f.Symbol, Levels: f.Levels}
}

func (f menuForm) settings() menu.Settings {
	return menu.Settings{Of: f.Of, Levels: f.Levels, AZ: f.AZ, Wait: f.Wait}
}

// menuAct does one act on a menu.
func (s *Screens) menuAct(r *shell.Request) error {
	var f menuForm
	if err := r.Json(&f); err != nil {
		return err
	}
	if f.Last {
		f.After = menu.Last
	}
	act := appnavigation.MenuAct{
		Key: f.Key, Menu: f.Menu, Do: f.Do, Item: f.Item, Parent: f.Parent, After: f.After, Step: sitemap.Step(f.Step),
		Override: f.override(), Settings: f.settings(), Seen: f.Seen,
	}
	if f.Was != nil {
		item, settings := f.Was.override(), f.Was.settings()
		act.Was, act.WasSettings = &item, &settings
	}
	res, err := s.App.PlanMenu(r.Ctx(), r.Who, act)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"say": part.UpperFirst(res.Label) + ".", "item": res.ID})
	return nil
}

// findForMenu is the type-ahead of menus and trails.
func (s *Screens) findForMenu(r *shell.Request) error {
	most := 12
	if r.Query("pages") != "" {
		most = 60
	}
	found, err := s.App.FindForMenu(r.Ctx(), r.Who, appnavigation.MenuFind{Words: r.Query("q"), Bare: r.Query("bare") != "", Pages: r.Query("pages") != "", Most: most})
	if err != nil {
		return err
	}
	out := []part.FoundView{}
	for _, i := range found.Entries {
		out = append(out, part.NewFound(found.Trees.Next, i))
	}
	if it, ok := menu.Typed(r.Query("q")); ok && r.Query("pages") == "" && r.Query("bare") == "" {
		words := map[menu.Kind]string{menu.Link: "An outside link", menu.Label: "A label with items below"}[it.Kind]
		out = append(out, part.FoundView{Title: it.Title, Trail: words, Address: it.URL, Kind: string(it.Kind)})
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}

// preview shows a page as a reader gets it.
func (s *Screens) preview(r *shell.Request) error {
	p, err := s.App.Preview(r.Ctx(), r.Who, reading.PreviewAsk{Live: r.Query("of") == "live", At: part.OrElse(r.Query("at"), "/"), As: r.Query("as")})
	if err != nil {
		return err
	}
	return s.showPreview(r.Writer, p)
}
