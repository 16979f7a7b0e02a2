package reading

import (
	"cmp"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
)

// News is the last that became of a page, as colleagues are told: new, changed
// or moved. Who planned it and in which words is the studio's.
type News struct {
	EntryID string
	Kind    change.News
	Edition int
	At      time.Time
}

// Announced is a page that goes out as news on a day, as 2026-11-27.
type Announced struct{ EntryID, Day string }

func announced(days map[string]string) []Announced {
	out := make([]Announced, 0, len(days))
	for id, day := range days {
		out = append(out, Announced{id, day})
	}
	slices.SortFunc(out, func(a, b Announced) int {
		return cmp.Or(cmp.Compare(b.Day, a.Day), cmp.Compare(a.EntryID, b.EntryID))
	})
	return out
}

// NextNews is when the next page goes out as news after a time; zero: none will.
func (l LiveSite) NextNews(now time.Time) (next time.Time) {
	for _, a := range l.Announced {
		if day, err := time.Parse(time.DateOnly, a.Day); err == nil && day.After(now) {
			next = day
		}
	}
	return next
}

// Note is what readers are told of an edition.
type Note struct {
	Edition int
	At      time.Time
	Words   string
}

func notesOf(editions []plan.Edition) (out []Note) {
	for _, e := range editions {
		if e.Note != "" {
			out = append(out, Note{e.Number, e.At, e.Note})
		}
	}
	return out
}

// changedNews lists what is planned before what there was.
func changedNews(st plan.SiteState, now time.Time, before []News) []News {
	var out []News
	planned := map[string]bool{}
	for _, c := range st.Changed {
		planned[c.EntryID] = true
		out = append(out, News{c.EntryID, c.Kind, st.Site.Edition, now})
	}
	for _, n := range before {
		if !planned[n.EntryID] {
			out = append(out, n)
		}
	}
	return out
}

const (
	newsTold     = 200 // pages
	newsEditions = 30  // in which they are looked for
)

// newsOf lists what editions, the newest first, brought, one line a page: being
// new outweighs being changed in the same edition, and that being moved.
func newsOf(editions []plan.Edition) []News {
	at := map[string]int{}
	out := []News{}
	for _, e := range editions {
		for _, c := range e.Changes {
			news := c.Change().News()
			if news == change.NoNews {
				continue
			}
			i, known := at[c.EntryID]
			switch {
			case known && out[i].Edition == e.Number && news.Outweighs(out[i].Kind):
				out[i].Kind = news
			case !known:
				at[c.EntryID] = len(out)
				out = append(out, News{c.EntryID, news, e.Number, e.At})
			}
		}
		if len(out) >= newsTold {
			return out[:newsTold]
		}
	}
	return out
}
