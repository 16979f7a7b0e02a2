package addresses

import (
	"cmp"
	"net/http"
	"slices"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type movesView struct {
	shell.Frame
	Rows  []moveRow
	Total string
	More  string
	Edit  string
}

type moveRow struct {
	Title, From, To, Code, Status, Words, URL string
	Bad                                       bool
}

// moves lists the addresses that change with what is planned.
func (s *Screens) moves(r *shell.Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	n := *o.Next
	v := movesView{Frame: r.Frame(o, "Moves"), Edit: urls.Edition}
	total := 0
	plan := slices.DeleteFunc(slices.Clone(n.Draft.Plan), func(r redirect.Row) bool { return r.Status == redirect.Kept })
	slices.SortStableFunc(plan, func(a, b redirect.Row) int { // what needs somebody comes first
		return cmp.Compare(part.Btoi(b.Status.IsFinding()), part.Btoi(a.Status.IsFinding()))
	})
	for _, row := range plan {
		if total++; total > part.EntriesShown {
			continue
		}
		rv := part.NewRedirect(row, n.Draft.Tree)
		m := moveRow{From: rv.From, To: rv.To, Code: rv.Code, Status: rv.Status, Words: part.StatusWords[row.Status], Bad: row.Status == redirect.Undecided || row.Status == redirect.Dangling}
		if i := n.Trees.Live.PageAt(row.From); i != sitemap.None {
			m.Title = n.Trees.Live.Ref(i).Title
			if n.Trees.Next.Find(n.Trees.Live.Ref(i).ID) != sitemap.None {
				m.URL = urls.At(n.Trees.Live.Ref(i).ID)
			}
		} else if j := n.Draft.Tree.Find(row.To.Entry); j != sitemap.None {
			m.Title, m.URL = n.Draft.Tree.Ref(j).Title, urls.At(row.To.Entry)
		}
		if m.Bad {
			m.URL = urls.Edition + "#decisions"
		}
		v.Rows = append(v.Rows, m)
	}
	v.Total = part.Count(total, "address", "addresses")
	if total > part.EntriesShown {
		v.More = part.Thousands(total-part.EntriesShown) + " more."
	}
	return s.Show(r, http.StatusOK, "moves", v)
}
