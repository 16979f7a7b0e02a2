package shell

import (
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

// frame is what every studio screen shows around its work.
type Frame struct {
	Title    string
	Site     string
	Person   string
	Role     string
	Initials string
	PersonID string
	Stops    []stop
	Tabs     []tab
	Shelf    shelfView
	SignOut  string
	FindURL  string

	SettingsURL, PeopleURL string // for those who may set them
	Swapped                bool   // stops and shelf come with a piece of a page, and go to their places
}

// stop is one stop of the path.
type stop struct {
	Name, URL string
	Here      bool
	Waiting   int
	Says      string // what waits
}

// tab is one view of a stop.
type tab struct {
	Name, URL string
	Here      bool
}

// shelfView says what the next edition holds.
type shelfView struct {
	Number   int
	Words    string
	Empty    bool
	Again    string // where it comes from after each change
	Later    bool   // it is not known yet and comes after the screen
	Errors   int
	Warnings int
	Look     string
	Lines    []shelfLine
	More     string
	Swapped  bool
}

// shelfLine is one planned change; Left tells that it does not go out.
type shelfLine struct {
	Title, Mark, URL string
	Left             bool
}

const shelfLines = 60

var stopTabs = map[string][]tab{
	"Sitemap":       {{Name: "Outline", URL: urls.Outline}, {Name: "Map", URL: urls.Map}, {Name: "Compare", URL: urls.Compare}, {Name: "Checks", URL: urls.Checks}, {Name: "Bring in · take out", URL: urls.BringIn}},
	"Menus & tiles": {{Name: "Menus", URL: urls.Menus}, {Name: "Trails", URL: urls.Trails}, {Name: "Reach", URL: urls.Reach}, {Name: "Findability", URL: urls.Findability}},
	"Pages":         {{Name: "Inventory", URL: urls.Pages}, {Name: "Removed pages", URL: urls.Removed}},
	"Addresses":     {{Name: "Moves", URL: urls.Moves}, {Name: "Redirects", URL: urls.Redirects}},
	"Settings":      {{Name: "Site settings", URL: urls.Settings}, {Name: "People", URL: urls.People}},
	"Edition":       {{Name: "Next edition", URL: urls.Edition}, {Name: "Past editions", URL: urls.Past}},
}

var stopNames = []string{"Sitemap", "Menus & tiles", "Pages", "Addresses", "Edition"}

// frameFor builds the frame of a screen, and hands over what it is about.
func (s *Shell) FrameFor(r *Request, stopName, tabName, title string) (Frame, editions.Overview, error) {
	o, err := s.App.Overview(r.Ctx(), r.Who)
	if err != nil {
		return Frame{}, o, err
	}
	return NewFrame(r.Who, o, stopName, tabName, title), o, nil
}

// newFrame builds the frame. What the next edition holds follows by itself where it
// is not known yet.
func NewFrame(who plan.Person, o editions.Overview, stopName, tabName, title string) Frame {
	f := Frame{
		Title: title, Site: o.Site.Name, Person: who.Name, Role: string(who.Role), Initials: initials(who.Name),
		PersonID: who.ID, Shelf: shelfView{Number: o.Site.Edition + 1, Look: urls.Edition, Later: true}, SignOut: urls.SignOut, FindURL: urls.Find,
	}
	if o.Site.Rights.May(who.Role, workflow.Govern) {
		f.SettingsURL, f.PeopleURL = urls.Settings, urls.People
	}
	waiting := map[string]waits{}
	if o.Next != nil {
		f.Shelf, waiting = newShelf(*o.Next), waitingAt(*o.Next)
	}
	f.Shelf.Again = urls.ShelfOf(stopName)
	for _, name := range stopNames {
		f.Stops = append(f.Stops, stop{Name: name, URL: stopTabs[name][0].URL, Here: name == stopName, Waiting: waiting[name].n, Says: waiting[name].says})
	}
	for _, t := range stopTabs[stopName] {
		t.Here = t.Name == tabName
		f.Tabs = append(f.Tabs, t)
	}
	return f
}

// Number is how many wait, as it is shown.
func (s stop) Number() string { return part.Thousands(s.Waiting) }

// ErrorWords and WarningWords say how many there are.
func (v shelfView) ErrorWords() string { return part.Count(v.Errors, "error", "errors") }

func (v shelfView) WarningWords() string { return part.Count(v.Warnings, "warning", "warnings") }

type waits struct {
	n    int
	says string
}

// waitingAt counts what waits at each stop.
func waitingAt(n editions.NextEdition) map[string]waits {
	structural, edited, menus := 0, 0, 0
	for _, c := range n.All {
		switch c.Aspect {
		case change.Content:
			edited++
		case change.Menu, change.Trail:
			menus++
		case change.Readdressed:
		default:
			structural++
		}
	}
	undecided := 0
	for _, f := range n.Findings {
		if f.Rule == preflight.UndecidedPage {
			undecided++
		}
	}
	errs, _ := preflight.Errors(n.Findings)
	return map[string]waits{
		"Menus & tiles": {menus, part.Count(menus, "menu or trail changes", "menus and trails change")},
		"Sitemap":       {structural, part.Count(structural, "planned change", "planned changes")},
		"Pages":         {edited, part.Count(edited, "edited page waits", "edited pages wait")},
		"Addresses":     {undecided, part.Count(undecided, "address needs a decision", "addresses need a decision")},
		"Edition":       {errs, part.Count(errs, "error stops the edition", "errors stop the edition")},
	}
}

// newShelf words what is planned: "12 changes: 3 new, 1 moved, …".
func newShelf(n editions.NextEdition) shelfView {
	v := shelfView{Number: n.Site.Edition + 1, Look: urls.Edition}
	total, kinds := 0, map[string]int{}
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			kinds["new address"]++
			continue
		}
		total++
		kinds[c.Sort()]++
		v.line(c, n, total)
	}
	if total > shelfLines {
		v.More = part.Thousands(total-shelfLines) + " more."
	}
	v.Errors, v.Warnings = preflight.Errors(n.Findings)
	if v.Empty = total == 0; v.Empty {
		v.Words = "Nothing is planned. What you change in the sitemap or on pages gathers here."
		return v
	}
	var parts []string
	for _, k := range change.Sorts() {
		if kinds[k] > 0 {
			words := k
			if kinds[k] > 1 && (k == "menu" || k == "trail") {
				words += "s"
			}
			parts = append(parts, part.Thousands(kinds[k])+" "+words)
		}
	}
	v.Words = part.Count(total, "change", "changes") + ": " + strings.Join(parts, ", ")
	if k := kinds["new address"]; k > 0 {
		v.Words += "; " + part.Count(k, "more page gets a new address", "more pages get a new address")
	}
	return v
}

func (v *shelfView) line(c change.Change, n editions.NextEdition, total int) {
	if total > shelfLines {
		return
	}
	l := shelfLine{Title: n.Trees.Title(c.ID), Mark: c.Mark(), Left: !n.Chosen[c.Key]}
	l.URL = part.WhereIs(c.ID, n.Trees)
	v.Lines = append(v.Lines, l)
}

func initials(name string) string {
	out := ""
	for _, part := range strings.Fields(name) {
		out += string([]rune(part)[:1])
		if len(out) == 2 {
			break
		}
	}
	return strings.ToUpper(out)
}

// shelf renders the shelf and the stops anew after an act.
func (s *Shell) shelf(r *Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f := NewFrame(r.Who, o, r.Query("stop"), "", "")
	f.Swapped, f.Shelf.Swapped = true, true
	return s.Set.Write(r.Writer, 200, "outline", "shelf-update", f)
}
