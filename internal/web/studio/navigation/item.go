package navigation

import (
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

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

func newItem(m *menu.Maker, l *menu.Layout, t *sitemap.Tree, id, key string) *itemView {
	line, ok := l.Find(key)
	if !ok {
		return nil
	}
	row := newMenuLine(line, t)
	v := &itemView{
		Key: key, Title: row.Title, Own: line.Override.Title, What: part.UpperFirst(part.OrElse(row.What, "computed from the sitemap")), Why: part.UpperFirst(row.Why), URL: line.Override.URL, LevelsNow: line.Override.Levels,
		IsLink: line.Override.Kind == menu.Link, IsLabel: line.Override.Kind == menu.Label, Plain: line.Override.Kind == menu.Divider,
		Out: line.Why == menu.LeftOut || line.Override.Out, CanLetIn: line.Override.Out || line.Why == menu.Waits, Mine: line.Own(),
		Touched: !line.Own() && (line.Arranged || line.Override != menu.ItemOverride{In: line.Override.In}),
	}
	for _, sym := range content.Symbols() {
		v.Symbols = append(v.Symbols, part.Option{Value: sym, Label: part.OrElse(sym, "none"), Chosen: sym == line.Override.Symbol})
	}
	if line.Entry == sitemap.None {
		return v
	}
	e := t.Ref(line.Entry)
	v.Usual, v.EntryURL = e.Name(), urls.At(e.ID)
	if t.HasChildren(line.Entry) && (line.Own() || line.Entry != t.Home()) {
		usual := map[menu.Kind]string{menu.AnEntry: "nothing", menu.Children: "one level"}[line.Override.Kind]
		v.Levels = levelOptions(line.Override.Levels, part.OrElse(usual, "as the menu has it"), "nothing")
		if line.Override.Kind != "" {
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
