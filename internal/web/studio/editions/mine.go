package editions

import (
	"fmt"
	"net/http"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// mineView is an editor's first screen.
type mineView struct {
	shell.Frame
	Hello            string
	Parts            []minePart
	Due              []mineDue
	SendURL, NewPage string
	Outline          string
	Nothing          bool
}

type minePart struct {
	Title, Words, URL, URLWords string
	Rows                        []mineRow
}

type mineRow struct {
	reviewRow
	Age  string
	Old  bool // the oldest of several, and old
	Edit string
}

type mineDue struct{ Title, Address, URL, Since string }

// mine shows what of the plan is somebody's business.
func (s *Screens) mine(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "My work")
	if err != nil {
		return err
	}
	q, err := s.App.Queue(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v := newMine(q, q.Mine(r.Who), people, s.App.Now())
	v.Frame, v.SendURL, v.NewPage, v.Outline = f, urls.ReviewAt("mine", "", "", "", ""), urls.NewPage, urls.Outline
	return s.Show(r, http.StatusOK, "mine", v)
}

func newMine(q editions.Queue, m editions.Mine, people []plan.Person, now time.Time) (v mineView) {
	add := func(title, words, show string, items []review.Item) {
		if len(items) == 0 {
			return
		}
		p := minePart{Title: title + " " + part.Thousands(len(items)), Words: words, URL: urls.ReviewAt(show, "", "", "", "")}
		if more := len(items) - mostMine; more > 0 {
			p.Words = fmt.Sprintf("First %d shown. ", mostMine) + p.Words
		}
		for k, i := range items[:min(len(items), mostMine)] {
			row := mineRow{reviewRow: newReviewRow(q, i, people, show), Age: age(now.Sub(q.At(i)))}
			row.Old = show == "mine" && k == 0 && len(items) > 1 && now.Sub(q.At(i)) > week
			if at := q.Trees.Next.Find(i.ID); at != sitemap.None && q.Trees.Next.Ref(at).Kind.IsPage() {
				row.Edit = urls.Page(i.ID)
			}
			p.Rows = append(p.Rows, row)
		}
		v.Parts = append(v.Parts, p)
	}
	add("Sent back to you", "Fix these and send them again.", "mine", m.SentBack)
	add("For your review", "Colleagues are waiting for your decision.", "", m.Asked)
	add("Your drafts", "Changes you have not sent yet, oldest first.", "mine", m.Drafts)
	add("In review", "Changes you sent for review.", "from", m.Sent)
	add("Approved", "Ready to be published in an edition.", "ready", m.Ready)
	next := q.Trees.Next
	for _, i := range m.Due {
		v.Due = append(v.Due, mineDue{next.Ref(i).Title, address.Written(next.Served(i)), urls.Page(next.Ref(i).ID), part.Day(next.Ref(i).Review)})
	}
	v.Nothing = len(v.Parts) == 0 && len(v.Due) == 0
	return v
}

// mostMine is how many things of a part are listed.
const mostMine = 50

const (
	day  = 24 * time.Hour
	week = 7 * day
)

// age says how old something is.
func age(d time.Duration) string {
	switch {
	case d < time.Hour:
		return "just now"
	case d < day:
		return part.Count(int(d/time.Hour), "hour ago", "hours ago")
	case d < 60*day:
		return part.Count(int(d/day), "day ago", "days ago")
	}
	return part.Count(int(d/(30*day)), "month ago", "months ago")
}
