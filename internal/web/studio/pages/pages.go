package pages

import (
	"encoding/json"
	"html/template"
	"net/http"
	"strings"
	"time"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/markup"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type inventoryView struct {
	shell.Frame
	Filters []part.CountView
	Rows    []inventoryRow
	Q, Show string
	Action  string
	Pager   part.Pager
}

type inventoryRow struct {
	Title, URL, Address, Template, Owner, Wick, State, Trail string
	Changed                                                  part.Moment
	By                                                       string
}

// inventory lists the pages of Next.
func (s *Screens) inventory(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Pages", "Inventory", "Inventory")
	if err != nil {
		return err
	}
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	templates, err := s.App.Templates(r.Ctx())
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v := inventoryView{Frame: f, Q: strings.TrimSpace(r.Query("q")), Show: r.Query("show"), Action: urls.Pages}
	v.fill(o, templates, people, r.Page())
	return s.Show(r, http.StatusOK, "inventory", v)
}

func (v *inventoryView) fill(o plan.Outline, templates []content.Template, people []plan.Person, page int) {
	m := part.NewRowMaker(o)
	t := o.Trees.Next
	heads := map[string]plan.PageHead{}
	for _, h := range o.Heads {
		if _, known := heads[h.EntryID]; !known || h.Draft {
			heads[h.EntryID] = h
		}
	}
	names := map[string]string{}
	for _, tpl := range templates {
		names[tpl.Key] = tpl.Name
	}
	filters := []struct {
		key, label string
		fits       func(part.RowView, bool) bool
	}{
		{"", "All", func(part.RowView, bool) bool { return true }},
		{"edited", "Edited, not out", func(r part.RowView, _ bool) bool { return m.Drafts[r.ID] }},
		{"unwritten", "No text yet", func(_ part.RowView, written bool) bool { return !written }},
		{"unpublished", "Never published", func(r part.RowView, _ bool) bool { return r.Wick == "never" }},
		{"withdrawn", "Withdrawn", func(r part.RowView, _ bool) bool { return r.Wick == "bar" }},
		{"no-owner", "No owner", func(r part.RowView, _ bool) bool { return r.Owner == "" }},
	}
	counts := make([]int, len(filters))
	q := strings.ToLower(v.Q)
	var shown []int
	for i := range t.Len() {
		e := t.Ref(i)
		if !e.Kind.IsPage() || q != "" && !strings.Contains(strings.ToLower(e.Title), q) && !strings.Contains(t.Address(i), q) {
			continue
		}
		row := m.Row(i)
		_, written := heads[e.ID]
		for k, f := range filters {
			if !f.fits(row, written) {
				continue
			}
			counts[k]++
			if f.key != v.Show {
				continue
			}
			shown = append(shown, i)
		}
	}
	for k, f := range filters {
		v.Filters = append(v.Filters, part.CountView{Words: f.label, N: part.Thousands(counts[k]), Here: f.key == v.Show, URL: urls.Inventory(f.key, v.Q, 1)})
	}
	v.Pager = part.NewPager(page, len(shown), func(page int) string { return urls.Inventory(v.Show, v.Q, page) })
	for _, i := range shown[v.Pager.First-1 : v.Pager.Last] {
		e, row := t.Ref(i), m.Row(i)
		ir := inventoryRow{Title: e.Title, URL: urls.Page(e.ID), Address: row.Address, Template: names[e.Template], Owner: e.Owner, Wick: row.Wick, State: row.State}
		if path := t.Path(i); len(path) > 1 {
			ir.Trail = strings.Join(path[:len(path)-1], " › ")
		}
		if h, written := heads[e.ID]; written {
			ir.Changed, ir.By = part.At(h.At), part.PersonName(people, h.PersonID)
		}
		v.Rows = append(v.Rows, ir)
	}
}

// pageView is the page editor.
type pageView struct {
	shell.Frame
	ID, Heading, Address, Live, OutlineURL, LookURL, SplitURL string
	TemplateName, TemplateFor                                 string
	State, Wick                                               string
	Parts                                                     []partView
	Data                                                      template.JS
	HasDraft                                                  bool
	DropURL, Window                                           string
	Symbols                                                   []string
	Source                                                    *sourceView
}

// sourceView tells where the text of a page was brought in from.
type sourceView struct {
	File, URL string
	At        part.Moment
	Lost      []string
}

type partView struct {
	Kind, Key, Label, Help string
	Required               bool
	Fixed                  template.HTML
	Fields                 []fieldView
	Blocks                 string
}

type fieldView struct {
	Key, Label, Type, Value, Help string
	Required                      bool
	Options                       []part.Option
}

// pageData is what the editor's script begins with.
type pageData struct {
	Entry   string                     `json:"entry"`
	Person  string                     `json:"person"`
	Base    int                        `json:"base"`
	Slots   map[string][]content.Block `json:"slots"`
	Fields  map[string]string          `json:"fields"`
	Window  string                     `json:"window"`
	Lock    lockView                   `json:"lock"`
	Kept    []keptView                 `json:"kept"`
	SaveURL string                     `json:"save"`
	LockURL string                     `json:"lockUrl"`
	Close   string                     `json:"close"`
	KeptURL string                     `json:"keptUrl"`
	FindURL string                     `json:"find"`
	Titles  map[string]string          `json:"titles"`
	Symbols []string                   `json:"symbols"`
	Hosts   []string                   `json:"hosts"` // the site's own
}

type lockView struct {
	Mine    bool          `json:"mine"`
	Holder  string        `json:"holder,omitempty"`
	Self    bool          `json:"self,omitempty"`
	Since   string        `json:"since,omitempty"`
	Base    int           `json:"base,omitempty"`
	Content *content.Page `json:"content,omitempty"`
}

type keptView struct {
	ID      string       `json:"id"`
	At      string       `json:"at"`
	Content content.Page `json:"content"`
}

func (s *Screens) page(r *shell.Request) error {
	id, window := r.Param("id"), part.NewKey()
	pv, err := s.App.OpenPage(r.Ctx(), r.Who, id, window)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Pages", "", pv.Entry.Title)
	if err != nil {
		return err
	}
	v, err := s.newPageView(f, pv, id, window, append([]string{}, r.Site.Hosts...))
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "page", v)
}

func (s *Screens) newPageView(f shell.Frame, pv pages.PageView, id, window string, hosts []string) (pageView, error) {
	v := pageView{
		Frame: f, ID: id, Heading: pv.Entry.Title, Address: address.Written(pv.Address), Live: address.Written(pv.Live),
		OutlineURL: urls.At(id), SplitURL: urls.OfPage(id, "split"), LookURL: urls.OfPage(id, "look"), TemplateName: pv.Template.Name, TemplateFor: pv.Template.For,
		HasDraft: pv.Base > 0 && pv.HasLive, Window: window, DropURL: urls.OfPage(id, "drop"), Symbols: content.Symbols(),
	}
	if src := pv.Source; src != nil {
		v.Source = &sourceView{src.File, urls.OfPage(id, "source"), part.At(src.At), src.Lost}
	}
	state := plan.Outline{Trees: pv.Trees, Heads: []plan.PageHead{{EntryID: id, Draft: pv.Base > 0}}}.Standing().State(pv.Trees.Next.Find(id))
	v.Wick, v.State = string(state.Wick()), string(state)
	for _, p := range pv.Template.Parts {
		part, err := s.newPart(p, pv)
		if err != nil {
			return v, err
		}
		v.Parts = append(v.Parts, part)
	}
	data := pageData{
		Entry: id, Person: f.PersonID, Base: pv.Base, Slots: pv.Content.Slots, Fields: pv.Content.Fields, Window: window, Lock: newLock(pv.Lock),
		SaveURL: urls.OfPage(id, "save"), LockURL: urls.OfPage(id, "lock"), Close: urls.OfPage(id, "close"),
		KeptURL: urls.OfPage(id, "kept"), FindURL: urls.Find, Titles: linkedTitles(pv), Symbols: content.Symbols(), Kept: []keptView{}, Hosts: hosts,
	}
	for _, k := range pv.Kept {
		data.Kept = append(data.Kept, keptView{k.ID, k.At.UTC().Format(time.RFC3339), k.Content})
	}
	b, err := json.Marshal(data) // escapes <, > and &, so it cannot end the script element
	v.Data = template.JS(b)      //nolint:gosec // marshalled just above
	return v, err
}

func newLock(l pages.LockState) lockView {
	v := lockView{Mine: l.Mine, Holder: l.Holder, Self: l.Self}
	if !l.Since.IsZero() {
		v.Since = l.Since.UTC().Format(time.RFC3339)
	}
	if l.Newest != nil {
		v.Base, v.Content = l.Newest.Base, &l.Newest.Content
	}
	return v
}

func (s *Screens) newPart(p content.Part, pv pages.PageView) (partView, error) {
	v := partView{Kind: string(p.Kind), Key: p.Key, Label: p.Label, Help: p.Help, Required: p.Required}
	if p.Kind == content.Slot {
		v.Label = p.Name()
	}
	if p.Kind == content.Fixed {
		html, err := markup.New().HTML(p.Text, &markup.Headings{})
		if err != nil {
			return v, err
		}
		v.Fixed = template.HTML(html) //nolint:gosec // markup made and cleaned it
	}
	types := p.Blocks
	if len(types) == 0 {
		types = content.BlockTypes()
	}
	for _, t := range types {
		v.Blocks += " " + string(t)
	}
	v.Blocks = strings.TrimSpace(v.Blocks)
	for _, f := range p.Fields {
		v.Fields = append(v.Fields, newField(f, pv))
	}
	return v, nil
}

func newField(f content.Field, pv pages.PageView) fieldView {
	v := fieldView{Key: f.Key, Label: f.Label, Type: string(f.Type), Value: pv.Content.Fields[f.Key], Help: f.Help, Required: f.Required}
	if f.Type == content.FieldChoice {
		v.Options = append(v.Options, part.Option{Value: "", Label: "not chosen", Chosen: v.Value == ""})
		for _, c := range f.Choices {
			v.Options = append(v.Options, part.Option{Value: c, Label: c, Chosen: c == v.Value})
		}
	}
	if f.Type == content.FieldPerson {
		v.Options = append(v.Options, part.Option{Value: "", Label: "nobody", Chosen: v.Value == ""})
		for _, p := range pv.People {
			v.Options = append(v.Options, part.Option{Value: p.ID, Label: p.Name, Chosen: p.ID == v.Value})
		}
	}
	return v
}

// linkedTitles names the pages that the content links to.
func linkedTitles(pv pages.PageView) map[string]string {
	out := map[string]string{}
	for _, blocks := range pv.Content.Slots {
		for _, b := range blocks {
			for _, t := range b.Tiles {
				if id, ok := (content.FoundLink{To: t.To}).Entry(); ok {
					out[id] = part.TitleIn(id, pv.Trees.Next)
				}
			}
		}
	}
	return out
}

type saveForm struct {
	Window  string       `json:"window"`
	Base    int          `json:"base"`
	Content content.Page `json:"content"`
	Close   bool         `json:"close"` // the window closes
}

func (s *Screens) savePage(r *shell.Request) error {
	var f saveForm
	if err := r.Json(&f); err != nil {
		return err
	}
	got, err := s.App.SavePage(r.Ctx(), r.Who, r.Param("id"), f.Window, f.Content, f.Base)
	if err != nil {
		return err
	}
	if f.Close {
		if err := s.App.ClosePage(r.Ctx(), r.Param("id"), f.Window); err != nil {
			return err
		}
	}
	if c := got.Clash; c != nil {
		r.JSON(http.StatusConflict, map[string]any{
			"kept": c.KeptID, "holder": c.Holder, "by": c.By, "at": c.At.UTC().Format(time.RFC3339), "theirs": c.Theirs, "version": c.Version,
		})
		return nil
	}
	r.JSON(http.StatusOK, map[string]any{"version": got.Version, "at": got.At.UTC().Format(time.RFC3339)})
	return nil
}

type lockForm struct {
	Window  string `json:"window"`
	Was     string `json:"was"`
	Force   bool   `json:"force"`
	Reading bool   `json:"reading"`
	ID      string `json:"id"`
}

func (s *Screens) lockPage(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	l, err := s.App.KeepLock(r.Ctx(), r.Who, r.Param("id"), pages.LockAsk{Window: f.Window, Was: f.Was, Force: f.Force, Reading: f.Reading})
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, newLock(l))
	return nil
}

func (s *Screens) closePage(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	r.Status(http.StatusNoContent)
	return s.App.ClosePage(r.Ctx(), r.Param("id"), f.Window)
}

func (s *Screens) dropKept(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	r.Status(http.StatusNoContent)
	return s.App.DropKept(r.Ctx(), r.Who, f.ID)
}

func (s *Screens) dropDraft(r *shell.Request) error {
	if err := s.App.DropDraft(r.Ctx(), r.Who, r.Param("id"), r.PostForm("window")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Page(r.Param("id")))
	return nil
}

type lookView struct {
	Heading, Back string
	Crumbs        []string
	Body          template.HTML
}

// lookPage shows a draft as readers will see it.
func (s *Screens) lookPage(r *shell.Request) error {
	pv, html, err := s.App.PreviewPage(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	t := pv.Trees.Next
	v := lookView{Heading: pv.Entry.Title, Back: urls.Page(pv.Entry.ID), Body: part.DraftHTML(html, t)}
	if path := t.Path(t.Find(pv.Entry.ID)); len(path) > 0 {
		v.Crumbs = path[:len(path)-1]
	}
	return s.Set.Write(r.Writer, http.StatusOK, "look", "look", v)
}

// pageSource gives the HTML that a page's text was brought in from, as text.
func (s *Screens) pageSource(r *shell.Request) error {
	src, err := s.App.PageSource(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	html, err := markup.Unzip(src.HTML)
	if err != nil {
		return err
	}
	r.Data(http.StatusOK, "text/plain; charset=utf-8", html)
	return nil
}
