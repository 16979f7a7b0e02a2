package reading

import (
	"maps"
	"slices"
	"sync"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// Difference tells what differs between two states that an instance takes up one after the other, of
// all that composing a page can look up besides what stands around it (see edition.Stale).
type Difference struct {
	was, is LiveSite

	dates, topics, news func() bool
}

// Between compares two states.
func Between(was, is LiveSite) Difference {
	return Difference{
		was: was, is: is,
		dates:  sync.OnceValue(func() bool { return !maps.Equal(versions(was), versions(is)) }),
		topics: sync.OnceValue(func() bool { return !maps.Equal(topics(was.Tree), topics(is.Tree)) }),
		news:   sync.OnceValue(func() bool { return !slices.Equal(was.Announced, is.Announced) }),
	}
}

func versions(l LiveSite) map[string]string {
	out := make(map[string]string, len(l.Summaries.Live()))
	for i := range l.Summaries.Live() {
		h := &l.Summaries.Live()[i]
		out[h.EntryID] = h.VersionID + " " + h.At.Format(time.RFC3339Nano)
	}
	return out
}

func topics(t *sitemap.Tree) map[string]string {
	out := map[string]string{}
	for i := range t.Len() {
		if e := t.Ref(i); e.Topics != "" {
			out[e.ID] = e.Topics
		}
	}
	return out
}

// Text tells whether the text of an entry differs.
func (d Difference) Text(entry string) bool {
	return d.was.Summaries.Version(entry) != d.is.Summaries.Version(entry)
}

// Of tells whether something of what was looked up differs. Visits and news of a day hold as long as
// the day; see plan.Reads.
func (d Difference) Of(r plan.Reads) bool {
	return r.Dates && d.dates() || r.Topics && d.topics() || r.News && d.news() ||
		r.People && d.was.Site.Work[plan.PartPeople] != d.is.Site.Work[plan.PartPeople] ||
		slices.ContainsFunc(r.Texts, d.Text)
}
