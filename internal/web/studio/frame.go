package studio

import (
	"fmt"
	"strings"

	"github.com/google/uuid"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

// frame is what every studio screen shows around its work.
type frame struct {
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
func (s *Studio) frameFor(r *request, stopName, tabName, title string) (frame, editions.Overview, error) {
	o, err := s.app.Overview(r.ctx(), r.who)
	if err != nil {
		return frame{}, o, err
	}
	return newFrame(r.who, o, stopName, tabName, title), o, nil
}

// newFrame builds the frame. What the next edition holds follows by itself where it
// is not known yet.
func newFrame(who plan.Person, o editions.Overview, stopName, tabName, title string) frame {
	f := frame{
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
func (s stop) Number() string { return thousands(s.Waiting) }

// ErrorWords and WarningWords say how many there are.
func (v shelfView) ErrorWords() string { return count(v.Errors, "error", "errors") }

func (v shelfView) WarningWords() string { return count(v.Warnings, "warning", "warnings") }

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
		"Menus & tiles": {menus, count(menus, "menu or trail changes", "menus and trails change")},
		"Sitemap":       {structural, count(structural, "planned change", "planned changes")},
		"Pages":         {edited, count(edited, "edited page waits", "edited pages wait")},
		"Addresses":     {undecided, count(undecided, "address needs a decision", "addresses need a decision")},
		"Edition":       {errs, count(errs, "error stops the edition", "errors stop the edition")},
	}
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", thousands(n), many)
}

func thousands(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
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
		v.More = thousands(total-shelfLines) + " more."
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
			parts = append(parts, thousands(kinds[k])+" "+words)
		}
	}
	v.Words = count(total, "change", "changes") + ": " + strings.Join(parts, ", ")
	if k := kinds["new address"]; k > 0 {
		v.Words += "; " + count(k, "more page gets a new address", "more pages get a new address")
	}
	return v
}

func (v *shelfView) line(c change.Change, n editions.NextEdition, total int) {
	if total > shelfLines {
		return
	}
	l := shelfLine{Title: n.Trees.Title(c.ID), Mark: c.Mark(), Left: !n.Chosen[c.Key]}
	l.URL = whereIs(c.ID, n.Trees)
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

func newKey() string { return uuid.NewString() }

// shelf renders the shelf and the stops anew after an act.
func (s *Studio) shelf(r *request) error {
	o, err := s.app.Summary(r.ctx(), r.who)
	if err != nil {
		return err
	}
	f := newFrame(r.who, o, r.Query("stop"), "", "")
	f.Swapped, f.Shelf.Swapped = true, true
	return s.set.Write(r.Writer, 200, "outline", "shelf-update", f)
}

// whereIs is where an entry, menu or trail of Next is looked after; "" for what is
// not there.
func whereIs(id string, trees plan.Trees) string {
	if m := ways.MenuOf(id); m != "" {
		return urls.Menu(m, "")
	}
	if trees.Ways.Next.Find(id) != nil {
		return urls.Trail(ways.TrailOf(id))
	}
	if trees.Next.Find(id) != sitemap.None {
		return urls.At(id)
	}
	return ""
}

// titleIn names an entry of one of the trees.
func titleIn(id string, trees ...*sitemap.Tree) string {
	for _, t := range trees {
		if i := t.Find(id); i != sitemap.None {
			return t.Ref(i).Title
		}
	}
	return id
}
