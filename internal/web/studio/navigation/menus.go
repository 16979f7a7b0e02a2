package navigation

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type menusView struct {
	shell.Frame
	Self, ActURL, FindAt, UndoURL, RedoURL, PreviewURL string

	ID, Title, Where string
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

// menuLine is one item as its row shows it.
type menuLine struct {
	Key, Parent, DOM string
	Level            int
	Title, Address   string
	Symbol, What     string // What: of the editor's items, which kind
	Why              string
	Tags             []string
	Twist            string // "open" or "closed"; empty where nothing is below
	At               bool
	Holds            bool
}

// itemView is what can be said about the item that is chosen.
type itemView struct {
	Key, Title, Own, Usual string // Own: the words in place of Usual
	What, Why              string
	URL                    string // of outside links
	IsLink, IsLabel, Plain bool   // Plain: a divider
	Symbols                []part.Option
	Levels                 []part.Option
	LevelsNow              int // kept where there is nothing to choose for the moment
	Out, CanLetIn, Mine    bool
	Touched                bool // something is said about it, or it was moved
	EntryURL               string
	Elsewhere              string // other menus that show its page
}

// menuLook says how the preview starts.
type menuLook struct {
	At, AtTitle, As string
	Widths, People  []part.Option
}

const menuLinesShown = 1500

// menus shows one menu with what can be done to it.
func (s *Screens) menus(r *shell.Request) error {
	part := r.Query("part")
	if part != "" {
		trees, err := s.App.Planned(r.Ctx(), r.Who)
		if err != nil {
			return err
		}
		v, err := newMenusView(r, trees, nil)
		if err != nil {
			return err
		}
		block, ok := map[string]string{"menu": "menu-part", "item": "menu-item"}[part]
		if !ok {
			return plan.ErrNotFound
		}
		return s.Set.Write(r.Writer, http.StatusOK, "menus", block, v)
	}
	f, n, err := s.FrameFor(r, "Menus & tiles", "Menus", "Menus")
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v, err := newMenusView(r, n.Trees, people)
	if err != nil {
		return err
	}
	v.Frame = f
	return s.Show(r, http.StatusOK, "menus", v)
}

func newMenusView(r *shell.Request, trees plan.Trees, people []plan.Person) (menusView, error) {
	v := menusView{
		Self: urls.Menus, ActURL: urls.MenuAct, FindAt: urls.MenuFind, UndoURL: urls.Undo, RedoURL: urls.Redo, PreviewURL: urls.Preview,
		ID: part.OrElse(r.Query("menu"), menu.Top),
	}
	t := trees.Next
	m := menu.For(t, trees.Ways.Next.Menus())
	ids := m.IDs()
	if !slices.Contains(ids, v.ID) {
		return v, plan.ErrNotFound
	}
	for _, id := range ids {
		v.Menus = append(v.Menus, menuChoice{id, menu.Title(id, t), id == v.ID, m.TakenOver(id)})
	}
	v.Title, v.TakenOver = menu.Title(v.ID, t), m.TakenOver(v.ID)
	v.Where = whereMenuShows(m, v.ID, t)
	v.Changed = wayChanges(trees)[ways.MenuID(v.ID)]
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
		return "On no page: its branch is not at the top of the site any more, or has no page."
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

// lines lists the items that are in sight. A long menu starts closed; toggled
// are the keys that somebody opened or closed.
func (v *menusView) lines(l *menu.Layout, t *sitemap.Tree, at string, toggled []string) {
	all := l.Lines()
	const open = 200 // so many items are shown opened
	has := map[string]bool{}
	for _, line := range all {
		has[line.Parent] = true
	}
	shown := map[string]bool{"": true}
	hidden := 0
	for n, line := range all {
		isOpen := (len(all) <= open) != slices.Contains(toggled, line.Key)
		if !shown[line.Parent] {
			continue
		}
		shown[line.Key] = isOpen
		if len(v.Lines) >= menuLinesShown {
			hidden++
			continue
		}
		row := newMenuLine(line, t)
		row.DOM, row.At = fmt.Sprintf("mi-%d", n), line.Key == at
		if has[line.Key] {
			row.Twist = "closed"
			if isOpen {
				row.Twist = "open"
			}
		}
		v.Lines = append(v.Lines, row)
	}
	if hidden > 0 {
		v.More = part.Thousands(hidden) + " more; close branches to see them."
	}
}

// kindWords names the editor's items.
var kindWords = map[menu.Kind]string{menu.AnEntry: "added", menu.Children: "added: what is below a page", menu.Label: "label", menu.Link: "outside link", menu.Divider: "divider"}

func newMenuLine(line menu.Line, t *sitemap.Tree) menuLine {
	row := menuLine{
		Key: line.Key, Parent: line.Parent, Level: line.Level, Title: line.Title, Symbol: line.Said.Symbol, What: kindWords[line.Said.Kind],
		Why: line.Why.Words(), Holds: line.Holds, Address: line.Href,
	}
	switch {
	case line.Said.Kind == menu.Divider:
		row.Title = "———"
	case row.Title == "" && line.Entry == sitemap.None:
		row.Title = "A page that is gone"
	case line.Entry != sitemap.None:
		row.Address = part.OrElse(address.Written(t.Claim(line.Entry)), line.Href)
	}
	if !line.Own() && line.Said.Title != "" {
		row.Tags = append(row.Tags, "own words")
	}
	if !line.Own() && line.Arranged {
		row.Tags = append(row.Tags, "placed")
	}
	return row
}

// chosen is the item that is chosen, the first of those in sight if none is.
func (v *menusView) chosen() string {
	for _, l := range v.Lines {
		if l.At {
			return l.Key
		}
	}
	if len(v.Lines) > 0 {
		v.Lines[0].At = true
		return v.Lines[0].Key
	}
	return ""
}

func newItem(m *menu.Maker, l *menu.Layout, t *sitemap.Tree, id, key string) *itemView {
	line, ok := l.Find(key)
	if !ok {
		return nil
	}
	row := newMenuLine(line, t)
	v := &itemView{
		Key: key, Title: row.Title, Own: line.Said.Title, What: part.UpperFirst(part.OrElse(row.What, "computed from the sitemap")), Why: part.UpperFirst(row.Why), URL: line.Said.URL, LevelsNow: line.Said.Levels,
		IsLink: line.Said.Kind == menu.Link, IsLabel: line.Said.Kind == menu.Label, Plain: line.Said.Kind == menu.Divider,
		Out: line.Why == menu.LeftOut || line.Said.Out, CanLetIn: line.Said.Out || line.Why == menu.Waits, Mine: line.Own(),
		Touched: !line.Own() && (line.Arranged || line.Said != menu.Said{In: line.Said.In}),
	}
	for _, sym := range content.Symbols() {
		v.Symbols = append(v.Symbols, part.Option{Value: sym, Label: part.OrElse(sym, "none"), Chosen: sym == line.Said.Symbol})
	}
	if line.Entry == sitemap.None {
		return v
	}
	e := t.Ref(line.Entry)
	v.Usual, v.EntryURL = e.Name(), urls.At(e.ID)
	if t.HasChildren(line.Entry) && (line.Own() || line.Entry != t.Home()) {
		usual := map[menu.Kind]string{menu.AnEntry: "nothing", menu.Children: "one level"}[line.Said.Kind]
		v.Levels = levelOptions(line.Said.Levels, part.OrElse(usual, "as the menu has it"), "nothing")
		if line.Said.Kind != "" {
			v.Levels = slices.Delete(v.Levels, 1, 2)
		}
	}
	var others []string
	for _, other := range m.Of(line.Entry) {
		if other != id {
			others = append(others, part.LowerFirst(menu.Title(other, t)))
		}
	}
	v.Elsewhere = strings.Join(others, ", ")
	return v
}

func (v *menusView) look(r *shell.Request, t *sitemap.Tree, people []plan.Person) {
	at := r.Query("page")
	if at == "" {
		at = "/"
		if b := t.Find(menu.Branch(v.ID)); b != sitemap.None && t.Served(b) != "" {
			at = address.Written(t.Served(b))
		}
	}
	v.Look = menuLook{At: at, As: r.Query("as"), AtTitle: at}
	width := r.Query("width")
	if width != "360" && width != "768" {
		width = "1280"
	}
	for _, w := range [][2]string{{"360", "Phone"}, {"768", "Tablet"}, {"1280", "Desk"}} {
		v.Look.Widths = append(v.Look.Widths, part.Option{Value: w[0], Label: w[1], Chosen: w[0] == width})
	}
	if normal, err := address.Normal(at); err == nil {
		if i := t.PageAt(normal); i != sitemap.None {
			v.Look.AtTitle = t.Ref(i).Title
		}
	}
	v.Look.People = append(v.Look.People, part.Option{Value: "", Label: "anybody, not signed in", Chosen: v.Look.As == ""})
	for _, p := range people {
		v.Look.People = append(v.Look.People, part.Option{Value: p.Login, Label: p.Name + ", " + string(p.Role), Chosen: p.Login == v.Look.As})
	}
}

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
	res, err := s.App.PlanMenu(r.Ctx(), r.Who, navigation.MenuAct{
		Key: f.Key, Menu: f.Menu, Do: f.Do, Item: f.Item, Parent: f.Parent, After: f.After, Step: sitemap.Step(f.Step),
		Said:     menu.Said{Kind: menu.Kind(f.Kind), Entry: f.Entry, Title: f.Title, URL: f.URL, Symbol: f.Symbol, Levels: f.Levels},
		Settings: menu.Settings{Of: f.Of, Levels: f.Levels, AZ: f.AZ, Wait: f.Wait},
	})
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
	found, err := s.App.FindForMenu(r.Ctx(), r.Who, navigation.MenuFind{Words: r.Query("q"), Bare: r.Query("bare") != "", Pages: r.Query("pages") != "", Most: most})
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
