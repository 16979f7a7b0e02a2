package pages

import (
	"net/http"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type inventoryView struct {
	shell.Frame
	Filters         []part.CountView
	Rows            []inventoryRow
	Q, Show         string
	Action          string
	NewURL, SendURL string
	Pager           part.Pager
}

type inventoryRow struct {
	Title, URL, Address, Template, Owner, Wick, State, Trail string
	Changed                                                  part.Moment
	By                                                       string
	ID                                                       string
}

// inventory lists the pages of Next.
func (s *Screens) inventory(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Inventory")
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
	v := inventoryView{Frame: f, Q: strings.TrimSpace(r.Query("q")), Show: r.Query("show"), Action: urls.Pages, NewURL: urls.NewPage, SendURL: urls.Review}
	v.fill(o, templates, people, r.Page())
	return s.Show(r, http.StatusOK, "inventory", v)
}

func (v *inventoryView) fill(o plan.Outline, templates []content.Template, people []plan.Person, page int) {
	m := part.NewRowMaker(o)
	t := o.Trees.Next
	texts := make(map[string]*plan.PageSummary, o.Summaries.Len())
	for h := range o.Summaries.All() {
		if _, known := texts[h.EntryID]; !known || h.Draft {
			texts[h.EntryID] = h
		}
	}
	names := map[string]string{}
	for _, tpl := range templates {
		names[tpl.Key] = tpl.Name
	}
	filters := workflow.InventoryFilters()
	counts := make([]int, len(filters))
	q := strings.ToLower(v.Q)
	var shown []int
	for i := range t.Len() {
		e := t.Ref(i)
		if !e.Kind.IsPage() || q != "" && !strings.Contains(strings.ToLower(e.Title), q) && !strings.Contains(t.Address(i), q) {
			continue
		}
		facts := m.Facts(i)
		for k, f := range filters {
			if !f.Fits(facts) {
				continue
			}
			if counts[k]++; f.Key == v.Show {
				shown = append(shown, i)
			}
		}
	}
	for k, f := range filters {
		v.Filters = append(v.Filters, part.CountView{Words: f.Words, N: part.Thousands(counts[k]), Here: f.Key == v.Show, URL: urls.Inventory(f.Key, v.Q, 1)})
	}
	v.Pager = part.NewPager(page, len(shown), func(page int) string { return urls.Inventory(v.Show, v.Q, page) })
	for _, i := range shown[v.Pager.First-1 : v.Pager.Last] {
		e, row := t.Ref(i), m.Row(i)
		ir := inventoryRow{ID: e.ID, Title: e.Title, URL: urls.Page(e.ID), Address: row.Address, Template: names[e.Template], Owner: e.Owner, Wick: row.Wick, State: row.State}
		if path := t.Path(i); len(path) > 1 {
			ir.Trail = strings.Join(path[:len(path)-1], " › ")
		}
		if h, written := texts[e.ID]; written {
			ir.Changed, ir.By = part.At(h.At), part.PersonName(people, h.PersonID)
		}
		v.Rows = append(v.Rows, ir)
	}
}
