package shell

import (
	"candlepath/internal/app/editions"
	"candlepath/internal/core/preflight"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

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

// stops is the table of stops: their names in the order of the path, and what waits
// at each.
var stops = []struct {
	name      string
	waits     func(preflight.Waiting) int
	one, many string
}{
	{"Sitemap", func(w preflight.Waiting) int { return w.Sitemap }, "planned change", "planned changes"},
	{"Menus & tiles", func(w preflight.Waiting) int { return w.Navigation }, "menu or trail changes", "menus and trails change"},
	{"Pages", func(w preflight.Waiting) int { return w.Pages }, "edited page or template waits", "edited pages and templates wait"},
	{"Addresses", func(w preflight.Waiting) int { return w.Addresses }, "address needs a decision", "addresses need a decision"},
	{"Edition", func(w preflight.Waiting) int { return w.Editions }, "error stops the edition", "errors stop the edition"},
}

// Views of the stops, as routes name them. ViewPage is the page editor, which stands
// at its stop without a tab.
const (
	ViewOutline     = "Outline"
	ViewMap         = "Map"
	ViewCompare     = "Compare"
	ViewChecks      = "Checks"
	ViewImport      = "Import · Export"
	ViewMenus       = "Menus"
	ViewBoards      = "Tile boards"
	ViewTrails      = "Trails"
	ViewReach       = "Reach"
	ViewFindability = "Findability"
	ViewMine        = "My work"
	ViewInventory   = "Inventory"
	ViewPage        = "Page"
	ViewTemplates   = "Templates"
	ViewFiles       = "Files"
	ViewRemoved     = "Removed pages"
	ViewMoves       = "Moves"
	ViewRedirects   = "Redirects"
	ViewTest        = "Test addresses"
	ViewOlder       = "Older site"
	ViewUnanswered  = "Unanswered"
	ViewNext        = "Next edition"
	ViewPast        = "Past editions"
	ViewReview      = "For review"
	ViewSchedule    = "Schedule"
	ViewSettings    = "Site settings"
	ViewPeople      = "People"
	ViewJobs        = "Jobs"
	ViewInbox       = "Inbox"
	ViewParts       = "Parts"
)

// views is the table of views: the stop at which each stands, and its address;
// without one it has no tab. Those of no stop of the path are under the person.
var views = []struct{ stop, name, url string }{
	{"Sitemap", ViewOutline, urls.Outline},
	{"Sitemap", ViewMap, urls.Map},
	{"Sitemap", ViewCompare, urls.Compare},
	{"Sitemap", ViewChecks, urls.Checks},
	{"Sitemap", ViewImport, urls.Import},
	{"Menus & tiles", ViewMenus, urls.Menus},
	{"Menus & tiles", ViewBoards, urls.Boards},
	{"Menus & tiles", ViewTrails, urls.Trails},
	{"Menus & tiles", ViewReach, urls.Reach},
	{"Menus & tiles", ViewFindability, urls.Findability},
	{"Pages", ViewMine, urls.Mine},
	{"Pages", ViewInventory, urls.Pages},
	{"Pages", ViewTemplates, urls.Templates},
	{"Pages", ViewFiles, urls.Files},
	{"Pages", ViewRemoved, urls.Removed},
	{"Pages", ViewPage, ""},
	{"Addresses", ViewMoves, urls.Moves},
	{"Addresses", ViewRedirects, urls.Redirects},
	{"Addresses", ViewOlder, urls.Older},
	{"Addresses", ViewUnanswered, urls.Unanswered},
	{"Addresses", ViewTest, urls.TestAt},
	{"Edition", ViewNext, urls.Edition},
	{"Edition", ViewReview, urls.Review},
	{"Edition", ViewSchedule, urls.Schedule},
	{"Edition", ViewPast, urls.Past},
	{"Inbox", ViewInbox, urls.Inbox},
	{"Settings", ViewSettings, urls.Settings},
	{"Settings", ViewPeople, urls.People},
	{"Settings", ViewJobs, urls.Jobs},
	{"Settings", ViewParts, ""},
}

// stopOf names the stop at which a view stands.
func stopOf(view string) string {
	for _, v := range views {
		if v.name == view {
			return v.stop
		}
	}
	return ""
}

// path are the stops as a frame shows them; next may be nil.
func path(here string, next *editions.NextEdition) []stop {
	var waiting preflight.Waiting
	if next != nil {
		waiting = preflight.WaitingIn(next.All, next.Findings)
	}
	var out []stop
	for _, st := range stops {
		n := st.waits(waiting)
		out = append(out, stop{Name: st.name, URL: tabs(st.name, "")[0].URL, Here: st.name == here, Waiting: n, Says: part.Count(n, st.one, st.many)})
	}
	return out
}

// tabs are the views of a stop.
func tabs(stop, here string) []tab {
	var out []tab
	for _, v := range views {
		if v.stop == stop && v.url != "" {
			out = append(out, tab{Name: v.name, URL: v.url, Here: v.name == here})
		}
	}
	return out
}

// Number is how many wait, as it is shown.
func (s stop) Number() string { return part.Thousands(s.Waiting) }
