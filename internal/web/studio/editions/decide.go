package editions

import (
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

func (s *Screens) decide(r *shell.Request) error {
	to := r.PostForm("to")
	if c := r.PostForm("choice"); c == "gone" || c == "" && to == "" {
		to = c
	} else if c == "suggest" {
		to = r.PostForm("suggest")
	} else if id := r.PostForm("to-id"); id != "" {
		to = id
	}
	return s.withChoice(r, "#decisions", func() error {
		return s.App.Decide(r.Ctx(), r.Who, r.PostForm("id"), to, r.PostForm("temporary") != "", "")
	})
}

// mendLinks points all links to a page that goes somewhere else, or makes them
// plain words.
func (s *Screens) mendLinks(r *shell.Request) error {
	to := r.PostForm("to-id")
	return s.withChoice(r, "", func() error {
		if r.PostForm("how") == "words" {
			to = ""
		} else if to == "" {
			return plan.Refuse("to", "Choose a page for these links.")
		}
		_, err := s.App.MendLinks(r.Ctx(), r.Who, part.NewKey(), r.PostForm("entry"), to)
		return err
	})
}

type decisionView struct {
	ID, Title, From    string
	Choice, Chosen     string
	Decided, Temporary bool
	Suggest            string
	SuggestID          string
}

func newDecision(n editions.NextEdition, i int, row redirect.Row) decisionView {
	e := n.Trees.Live.Ref(i)
	d := decisionView{ID: e.ID, Title: e.Title, From: row.From}
	if to := row.To.Entry; to != "" {
		d.Suggest, d.SuggestID = part.TitleIn(to, n.Draft.Tree), to
	}
	if dec, ok := n.Decisions[e.ID]; ok {
		d.Decided, d.Temporary = true, dec.Code == 302
		switch {
		case dec.Code == redirect.Gone || dec.To.IsZero():
			d.Choice, d.Chosen = "gone", "marked as gone"
		case dec.To.URL != "":
			d.Choice, d.Chosen = dec.To.URL, dec.To.URL
		default:
			d.Choice, d.Chosen = dec.To.Entry, part.TitleIn(dec.To.Entry, n.Trees.Next)+" "+redirect.WrittenTo(dec.To, n.Trees.Next)
		}
	}
	return d
}
