package pages

import (
	"encoding/json"
	"errors"
	"html/template"
	"net/http"
	"slices"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// pageView is the page editor.
type pageView struct {
	shell.Frame
	ID, Heading, Address, Live, OutlineURL, ReadersURL, SplitURL, HistoryURL string
	TemplateName, TemplateFor, RetemplateURL, Aside                          string
	State, Wick                                                              string
	Crumbs                                                                   []crumbView
	Data                                                                     template.JS
	Stands, SendURL, NowURL                                                  string
	HasDraft                                                                 bool
	DropURL, Window                                                          string
	Source                                                                   *sourceView
}

type crumbView struct{ Title, URL string }

// sourceView tells where the text of a page was imported from.
type sourceView struct {
	File, URL string
	At        part.Moment
	Lost      []string
}

// partView is a part of the template, as the editor draws it.
type partView struct {
	Kind     content.PartKind    `json:"kind"`
	Key      string              `json:"key"`
	Label    string              `json:"label"` // as readers see it
	Name     string              `json:"name"`
	Help     string              `json:"help"`
	Required bool                `json:"required"`
	Takes    []content.BlockType `json:"takes"`
	TakesAll bool                `json:"takesAll"`
	Most     int                 `json:"most"`
	Side     bool                `json:"side"`
	Fields   []content.Field     `json:"fields"`
	HTML     string              `json:"html"`  // of a fixed part
	Words    string              `json:"words"` // of a fixed part
}

// pageData is what the editor's script begins with.
type pageData struct {
	Entry    string                     `json:"entry"`
	Person   string                     `json:"person"`
	Base     int                        `json:"base"`
	Slots    map[string][]content.Block `json:"slots"`
	Fields   map[string]string          `json:"fields"`
	Window   string                     `json:"window"`
	Lock     lockView                   `json:"lock"`
	Kept     []keptView                 `json:"kept"`
	Problems []problemView              `json:"problems"`
	Template string                     `json:"template"`
	Edit     string                     `json:"templateUrl"` // where it is edited
	About    string                     `json:"about"`
	Live     bool                       `json:"live"`

	OfTemplate bool `json:"ofTemplate"` // a template is edited
	Mine       bool `json:"mine"`       // the draft of a template is one's own

	Parts   []partView        `json:"parts"`
	Kinds   []content.Kind    `json:"kinds"` // in the order in which they are offered
	Titles  map[string]string `json:"titles"`
	Symbols [][2]string       `json:"symbols"` // with the words by which they are found
	People  []personView      `json:"people"`
	Topics  []string          `json:"topics"`
	Groups  []string          `json:"groups"`
	Hosts   []string          `json:"hosts"` // the site's own

	SaveURL string `json:"save"`
	LockURL string `json:"lockUrl"`
	Close   string `json:"close"`
	KeptURL string `json:"keptUrl"`
	Compare string `json:"compare"`
	Changes string `json:"changes"` // empty: colleagues see no text of it
	Draw    string `json:"draw"`
	States  string `json:"states"`
	Plain   string `json:"plain"`
	Unplain string `json:"unplain"`
	CopyTo  string `json:"copyTo"`
	Upload  string `json:"upload"`
	Files   string `json:"files"`
	FindURL string `json:"find"`
	Rows    string `json:"rows"` // of a file, as a table

	NewPage   string `json:"newPage"`
	Below     string `json:"below"`     // where a new page that is linked to stands; empty: below home
	BelowName string `json:"belowName"` // its title
}

type personView struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

type keptView struct {
	ID      string       `json:"id"`
	At      string       `json:"at"`
	Content content.Page `json:"content"`
}

// problemView is something to mend on the page, and where.
type problemView struct {
	Part  string `json:"part"`
	Block string `json:"block,omitempty"`
	Text  string `json:"text"`
}

func newProblems(found []content.Problem) []problemView {
	out := make([]problemView, len(found))
	for i, p := range found {
		out[i] = problemView{p.Part, p.Block, part.Sentence(errors.New(p.Text))}
	}
	return out
}

func (s *Screens) page(r *shell.Request) error {
	id, window := r.Param("id"), part.NewKey()
	pv, err := s.App.OpenPage(r.Ctx(), r.Who, id, window)
	if err != nil {
		return err
	}
	f, o, err := s.FrameFor(r, pv.Entry.Title)
	if err != nil {
		return err
	}
	v, err := viewOfPage(f, pv, id, window, append([]string{}, r.Site.Answers()...))
	if err != nil {
		return err
	}
	if r.Site.Rights().May(r.Who.Role, workflow.Publish) && pv.Base > 0 {
		v.NowURL = urls.PublishNow(id)
	}
	v.SendURL, v.Stands = urls.ReviewAt("mine", id, "", "", ""), standsWords(o, pv, id)
	return s.Show(r, http.StatusOK, "page", v)
}

// standsWords tell, before anybody edits it, that a text is with a reviewer or approved, or why
// it was sent back.
func standsWords(o editions.Overview, pv pages.PageView, id string) string {
	if o.Next == nil {
		return ""
	}
	state, by := o.Next.TextState(id)
	who := part.PersonName(pv.People, by.Person)
	switch {
	case state == workflow.InReview:
		return "This page is in review. If you edit it, it becomes a draft again and you must resend it."
	case state == workflow.Ready || state == workflow.Scheduled:
		return who + " approved this text. If you edit it, it needs approval again."
	case by.State == workflow.Draft && by.Word != "":
		return who + " sent this text back: “" + by.Word + "”"
	}
	return ""
}

func viewOfPage(f shell.Frame, pv pages.PageView, id, window string, hosts []string) (pageView, error) {
	v := pageView{
		Frame: f, ID: id, Heading: pv.Entry.Title, Address: address.Written(pv.Address), Live: address.Written(pv.Live), Crumbs: crumbs(pv),
		OutlineURL: urls.At(id), SplitURL: urls.OfPage(id, "split"), HistoryURL: urls.HistoryOf(id), RetemplateURL: urls.OfPage(id, "template"), ReadersURL: urls.OfPage(id, "look"), TemplateName: pv.Template.Name, TemplateFor: pv.Template.For,
		HasDraft: pv.Base > 0 && pv.HasLive, Window: window, DropURL: urls.OfPage(id, "drop"),
	}
	if n := len(pv.Content.Aside(pv.Template)); n > 0 {
		v.Aside = part.Count(n, "slot of an earlier template is kept aside.", "slots of an earlier template are kept aside.")
	}
	if src := pv.Source; src != nil {
		v.Source = &sourceView{src.File, urls.OfPage(id, "source"), part.At(src.At), src.Lost}
	}
	state := plan.Outline{Trees: pv.Trees, Summaries: plan.SummariesOf(plan.PageSummary{EntryID: id, Draft: pv.Base > 0})}.Status().State(pv.Trees.Next.Find(id))
	v.Wick, v.State = string(state.Icon()), string(state)
	b, err := json.Marshal(newPageData(f, pv, id, window, hosts)) // escapes <, > and &, so it cannot end the script element
	v.Data = template.JS(b)                                       //nolint:gosec // marshalled just above
	return v, err
}

// crumbs leads to the editors of the pages above.
func crumbs(pv pages.PageView) (out []crumbView) {
	t := pv.Trees.Next
	for i := t.Parent(t.Find(pv.Entry.ID)); i != sitemap.None; i = t.Parent(i) {
		out = append(out, crumbView{Title: t.Ref(i).Title, URL: urls.Page(t.Ref(i).ID)})
		if !t.Ref(i).Kind.IsPage() {
			out[len(out)-1].URL = urls.At(t.Ref(i).ID)
		}
	}
	slices.Reverse(out)
	return out
}

func newPageData(f shell.Frame, pv pages.PageView, id, window string, hosts []string) pageData {
	of := func(act string) string { return urls.OfPage(id, act) }
	data := pageData{
		Entry: id, Person: f.PersonID, Base: pv.Base, Slots: content.Identified(pv.Content, id).Slots, Fields: pv.Content.Fields, Window: window, Lock: newLock(pv.Lock),
		Kept: []keptView{}, Problems: newProblems(pv.Problems), Template: pv.Template.Name, Edit: urls.Template(pv.Template.Key), About: pv.Template.Name, Live: pv.Live != "",
		Kinds: content.Kinds(), Titles: linkedTitles(pv), Symbols: symbols(), Topics: append([]string{}, pv.Trees.Next.Topics()...), Groups: append([]string{}, readership.Kinds(pv.Trees.Next, nil)...), Hosts: hosts,
		SaveURL: of("save"), LockURL: of("lock"), Close: of("close"), KeptURL: of("kept"), Compare: of("compare"), Draw: of("draw"), States: of("states"),
		Plain: of("plain"), Unplain: of("unplain"), CopyTo: of("copy"), Upload: urls.Files, Files: urls.FileFind, FindURL: urls.Find, Rows: urls.FileRows,
	}
	data.NewPage = urls.NewPage
	if i := pv.Trees.Next.PlaceBeside(id); i != sitemap.None {
		data.Below, data.BelowName = pv.Trees.Next.Ref(i).ID, pv.Trees.Next.Ref(i).Title
	}
	if pv.Entry.Owner != "" {
		data.About += " · owner " + pv.Entry.Owner
	}
	for _, p := range pv.People {
		data.People = append(data.People, personView{p.ID, p.Name})
	}
	for _, k := range pv.Kept {
		data.Kept = append(data.Kept, keptView{k.ID, k.At.UTC().Format(time.RFC3339), k.Content})
	}
	if pv.HasLive {
		data.Changes = of("changes")
	}
	for i, p := range pv.Template.Parts {
		data.Parts = append(data.Parts, newPart(p, pv.Fixed[i], pv.Trees.Next))
	}
	return data
}

// newPart gives a part as the editor draws it.
func newPart(p content.Part, fixed pages.FixedPart, t *sitemap.Tree) partView {
	v := partView{
		Kind: p.Kind, Key: p.Key, Label: p.Label, Name: p.Called(), Help: p.Help, Required: p.Required, Takes: p.Takes, TakesAll: p.TakesAll(),
		Most: p.Most, Side: p.Side, Fields: p.Fields, HTML: string(part.DraftHTML(fixed.HTML, t)), Words: fixed.Words,
	}
	if v.TakesAll {
		v.Takes = content.BlockTypes()
	}
	return v
}

func symbols() (out [][2]string) {
	for _, name := range content.Symbols() {
		out = append(out, [2]string{name, content.SymbolWords(name)})
	}
	return out
}

// linkedTitles names the pages that the content links to or takes something from.
func linkedTitles(pv pages.PageView) map[string]string {
	out := map[string]string{}
	for _, id := range content.Named(pv.Content) {
		out[id] = part.TitleIn(id, pv.Trees.Next)
	}
	return out
}
