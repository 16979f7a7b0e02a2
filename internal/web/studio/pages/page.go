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
	Source                                                    *sourceView
}

// sourceView tells where the text of a page was imported from.
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
	Compare string                     `json:"compare"`
	Changes string                     `json:"changes"` // empty: colleagues see no text of it
	FindURL string                     `json:"find"`
	Titles  map[string]string          `json:"titles"`
	Symbols []string                   `json:"symbols"`
	Blocks  []blockKind                `json:"blocks"` // in the order in which they are offered
	Hosts   []string                   `json:"hosts"`  // the site's own
}

type blockKind struct {
	Type content.BlockType `json:"type"`
	Name string            `json:"name"`
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
	f, _, err := s.FrameFor(r, pv.Entry.Title)
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
		HasDraft: pv.Base > 0 && pv.HasLive, Window: window, DropURL: urls.OfPage(id, "drop"),
	}
	if src := pv.Source; src != nil {
		v.Source = &sourceView{src.File, urls.OfPage(id, "source"), part.At(src.At), src.Lost}
	}
	state := plan.Outline{Trees: pv.Trees, Summaries: plan.SummariesOf(plan.PageSummary{EntryID: id, Draft: pv.Base > 0})}.Status().State(pv.Trees.Next.Find(id))
	v.Wick, v.State = string(state.Icon()), string(state)
	for _, p := range pv.Template.Parts {
		part, err := s.newPart(p, pv)
		if err != nil {
			return v, err
		}
		v.Parts = append(v.Parts, part)
	}
	known := content.Identified(pv.Content, id)
	data := pageData{
		Entry: id, Person: f.PersonID, Base: pv.Base, Slots: known.Slots, Fields: pv.Content.Fields, Window: window, Lock: newLock(pv.Lock),
		SaveURL: urls.OfPage(id, "save"), LockURL: urls.OfPage(id, "lock"), Close: urls.OfPage(id, "close"),
		KeptURL: urls.OfPage(id, "kept"), Compare: urls.OfPage(id, "compare"), FindURL: urls.Find, Titles: linkedTitles(pv), Symbols: content.Symbols(), Kept: []keptView{}, Hosts: hosts,
	}
	for _, t := range content.BlockTypes() {
		data.Blocks = append(data.Blocks, blockKind{t, t.Name()})
	}
	for _, k := range pv.Kept {
		data.Kept = append(data.Kept, keptView{k.ID, k.At.UTC().Format(time.RFC3339), k.Content})
	}
	if pv.HasLive {
		data.Changes = urls.OfPage(id, "changes")
	}
	b, err := json.Marshal(data) // escapes <, > and &, so it cannot end the script element
	v.Data = template.JS(b)      //nolint:gosec // marshalled just above
	return v, err
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

// linkedTitles names the pages that the content links to or takes something from.
func linkedTitles(pv pages.PageView) map[string]string {
	out := map[string]string{}
	for _, id := range content.Named(pv.Content) {
		out[id] = part.TitleIn(id, pv.Trees.Next)
	}
	return out
}
