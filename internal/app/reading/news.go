package reading

import (
	"slices"
	"time"

	"candlepath/internal/app/plan"
)

// News is the last that became of a page, as colleagues are told: new, changed
// or moved. Who planned it and in which words is the studio's.
type News struct {
	EntryID string
	Kind    string
	Edition int
	At      time.Time
}

const (
	newsTold     = 200 // pages
	newsEditions = 30  // in which they are looked for
)

// kindOfNews says what a change is to colleagues; "" where it is nothing to them.
func kindOfNews(mark string) string {
	switch mark {
	case "new", "returned":
		return "new"
	case "edited", "retitled", "new template":
		return "changed"
	case "moved", "renamed address":
		return "moved"
	}
	return ""
}

// newsOf lists what editions, the newest first, brought, one line a page: being
// new outweighs being changed in the same edition, and that being moved.
func newsOf(editions []plan.Edition) []News {
	rank := []string{"moved", "changed", "new"}
	at := map[string]int{}
	out := []News{}
	for _, e := range editions {
		for _, told := range e.Told {
			kind := kindOfNews(told.Aspect)
			if kind == "" {
				continue
			}
			i, known := at[told.EntryID]
			switch {
			case known && out[i].Edition == e.Number && slices.Index(rank, kind) > slices.Index(rank, out[i].Kind):
				out[i].Kind = kind
			case !known:
				at[told.EntryID] = len(out)
				out = append(out, News{told.EntryID, kind, e.Number, e.At})
			}
		}
		if len(out) >= newsTold {
			return out[:newsTold]
		}
	}
	return out
}
