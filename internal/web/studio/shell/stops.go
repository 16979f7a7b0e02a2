package shell

import (
	"candlepath/internal/app/editions"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
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

var stopTabs = map[string][]tab{
	"Sitemap":       {{Name: "Outline", URL: urls.Outline}, {Name: "Map", URL: urls.Map}, {Name: "Compare", URL: urls.Compare}, {Name: "Checks", URL: urls.Checks}, {Name: "Import · Export", URL: urls.BringIn}},
	"Menus & tiles": {{Name: "Menus", URL: urls.Menus}, {Name: "Trails", URL: urls.Trails}, {Name: "Reach", URL: urls.Reach}, {Name: "Findability", URL: urls.Findability}},
	"Pages":         {{Name: "Inventory", URL: urls.Pages}, {Name: "Removed pages", URL: urls.Removed}},
	"Addresses":     {{Name: "Moves", URL: urls.Moves}, {Name: "Redirects", URL: urls.Redirects}},
	"Settings":      {{Name: "Site settings", URL: urls.Settings}, {Name: "People", URL: urls.People}},
	"Edition":       {{Name: "Next edition", URL: urls.Edition}, {Name: "Past editions", URL: urls.Past}},
}

var stopNames = []string{"Sitemap", "Menus & tiles", "Pages", "Addresses", "Edition"}

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
	errs, _ := check.Count(n.Findings)
	return map[string]waits{
		"Menus & tiles": {menus, part.Count(menus, "menu or trail changes", "menus and trails change")},
		"Sitemap":       {structural, part.Count(structural, "planned change", "planned changes")},
		"Pages":         {edited, part.Count(edited, "edited page waits", "edited pages wait")},
		"Addresses":     {undecided, part.Count(undecided, "address needs a decision", "addresses need a decision")},
		"Edition":       {errs, part.Count(errs, "error stops the edition", "errors stop the edition")},
	}
}

// Number is how many wait, as it is shown.
func (s stop) Number() string { return part.Thousands(s.Waiting) }
