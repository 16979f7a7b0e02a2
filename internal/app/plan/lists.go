package plan

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/markup"
)

// Listing is a page on which lists are worked out.
type Listing struct {
	Tree  *sitemap.Tree // of those for whom it is
	Entry string
	Next  bool          // drafts count before live texts, as they are now
	Of    *EditionTexts // unless Next: the edition that the page belongs to
}

// EditionTexts are the texts of one edition, as lists on its pages go by them. They never change, so
// that an instance gets the same of an edition while a later one is published.
type EditionTexts struct {
	Edition   int
	Templates []content.Template
	Ended     time.Time // of an edition that is over: visits and news count to there; zero: to now
	Live      Summaries // of its texts, where they are at hand; else they are loaded once for all pages

	alone sync.Mutex
	heads map[string]Head
}

// headsOf gives the versions that the edition shows, by entry.
func (e *EditionTexts) headsOf(ctx context.Context, tx Tx) (map[string]Head, error) {
	e.alone.Lock()
	defer e.alone.Unlock()
	if e.heads != nil {
		return e.heads, nil
	}
	if e.Live.live == nil {
		heads, err := tx.HeadsAt(ctx, e.Edition)
		if err == nil {
			e.heads = heads
		}
		return heads, err
	}
	e.heads = make(map[string]Head, len(e.Live.Live()))
	for i := range e.Live.Live() {
		h := &e.Live.Live()[i]
		e.heads[h.EntryID] = Head{At: h.At, News: h.Report.News}
	}
	return e.heads, nil
}

// linesOf gives the summaries of pages as the edition shows them.
func (e *EditionTexts) linesOf(ctx context.Context, tx Tx, ids []string) (map[string]string, error) {
	if e.Live.live != nil {
		return tx.ExcerptsAt(ctx, ids, e.Edition)
	}
	heads, err := e.headsOf(ctx, tx)
	out := make(map[string]string, len(ids))
	for _, id := range ids {
		out[id] = heads[id].Excerpt
	}
	return out, err
}

// Head is a version without its text.
type Head struct {
	At      time.Time
	News    string // the day on which it goes out as news
	Excerpt string
}

// Reads is what composing a page looked up of the rest of the site. A composed page holds as long as
// none of it differs.
type Reads struct {
	Texts  []string // pages whose summary or field it shows
	Dates  bool     // when the texts of pages came
	Topics bool     // which pages have a topic
	News   bool     // which pages are news
	People bool     // names of people
	Day    string   // it shows visits or news up to this day
}

// Composed fills in what an article lists, and tells what it looked up for that. Links to pages keep
// the form page:ID.
func (a *Floor) Composed(ctx context.Context, tx Tx, s Site, html string, l Listing) (string, Reads, error) {
	if !markup.HasLater(html) {
		return html, Reads{}, nil
	}
	f := &listFacts{ctx: ctx, tx: tx, of: l.Of, now: a.Now()}
	if l.Next {
		sums, err := a.Summaries(ctx, tx, s)
		if err != nil {
			return "", Reads{}, err
		}
		f.of, f.next = nil, &sums
	} else if !l.Of.Ended.IsZero() {
		f.now = l.Of.Ended
	}
	lists := markup.Lists{Here: l.Tree.Find(l.Entry), Line: f.lines, Fact: f.fact}
	lists.Tree, lists.Visits, lists.Changed, lists.News = l.Tree, f.visitsOf, f.changed, f.newsOn
	lists.Topics = func(i int) []string {
		f.reads.Topics = true
		return l.Tree.Ref(i).TopicList()
	}
	out, err := a.Markup.Compose(html, lists.Of)
	slices.Sort(f.reads.Texts)
	f.reads.Texts = slices.Compact(f.reads.Texts)
	return out, f.reads, errors.Join(err, f.err)
}

// ListFacts gives what lists in pages of Next go by: the visits of pages, and when their
// texts came.
func (a *Floor) ListFacts(ctx context.Context, tx Tx, s Site) (visits func(string) int, changed func(string) time.Time, err error) {
	sums, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return nil, nil, err
	}
	f := &listFacts{ctx: ctx, tx: tx, next: &sums, now: a.Now()}
	f.visitsOf("")
	return f.visitsOf, f.changed, f.err
}

// NewsOf gives the day on which each page goes out as news, of what is live or, where next, of what
// will be.
func (s Summaries) NewsOf(next bool) map[string]string {
	days := map[string]string{}
	for h := range s.All() {
		switch {
		case h.Draft && !next:
		case h.Report.News != "":
			days[h.EntryID] = h.Report.News
		default:
			delete(days, h.EntryID) // its draft is no news any more
		}
	}
	return days
}

// listFacts looks up what lists show of other pages, and notes what it was. The first fault is kept.
type listFacts struct {
	ctx   context.Context //nolint:containedctx // lives as long as one call
	tx    Tx
	of    *EditionTexts // nil: Next
	next  *Summaries
	now   time.Time
	reads Reads
	err   error

	visits  map[string]int
	news    map[string]string
	written map[string]time.Time
}

func (f *listFacts) failed(err error) {
	if f.err == nil {
		f.err = err
	}
}

func (f *listFacts) headsOf() map[string]Head {
	heads, err := f.of.headsOf(f.ctx, f.tx)
	f.failed(err)
	return heads
}

// changed is when the text of a page came.
func (f *listFacts) changed(id string) time.Time {
	f.reads.Dates = true
	if f.of != nil {
		return f.headsOf()[id].At
	}
	if f.written == nil {
		f.written = f.next.LastWritten()
	}
	return f.written[id]
}

// newsOn gives the day of a page that is news by now.
func (f *listFacts) newsOn(id string) string {
	today := f.now.UTC().Format(time.DateOnly)
	f.reads.News, f.reads.Day = true, today
	if f.news == nil {
		if f.of == nil {
			f.news = f.next.NewsOf(true)
		} else {
			f.news = map[string]string{}
			for id, h := range f.headsOf() {
				if h.News != "" {
					f.news[id] = h.News
				}
			}
		}
	}
	if day := f.news[id]; day <= today {
		return day
	}
	return ""
}

// visitsOf gives the visits of a page on the last whole days. Today does not count yet: else what a
// page shows would depend on when it was composed, and by which instance.
func (f *listFacts) visitsOf(entry string) int {
	f.reads.Day = f.now.UTC().Format(time.DateOnly)
	if f.visits == nil {
		var err error
		if f.visits, err = f.tx.Visits(f.ctx, f.now.AddDate(0, 0, -VisitDays), f.now.AddDate(0, 0, -1)); err != nil {
			f.failed(err)
			f.visits = map[string]int{}
		}
	}
	return f.visits[entry]
}

func (f *listFacts) lines(ids []string) []string {
	f.reads.Texts = append(f.reads.Texts, ids...)
	var known map[string]string
	var err error
	if f.of != nil {
		known, err = f.of.linesOf(f.ctx, f.tx, ids)
	} else {
		known, err = f.tx.Excerpts(f.ctx, ids, true)
	}
	f.failed(err)
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = known[id]
	}
	return out
}

// fact gives the value of a fact of another page, by its label, as people read it.
func (f *listFacts) fact(entry, label string) string {
	f.reads.Texts, f.reads.People = append(f.reads.Texts, entry), true
	page, templates, err := f.pageOf(entry)
	if err != nil || page == nil {
		f.failed(err)
		return ""
	}
	people, err := PeopleByID(f.ctx, f.tx)
	if err != nil {
		f.failed(err)
		return ""
	}
	return content.FactCalled(templates, *page, label, func(id string) string { return people[id].Name })
}

// pageOf gives the text of a page, nil where there is none, and the templates that name its fields.
func (f *listFacts) pageOf(entry string) (*content.Page, []content.Template, error) {
	var texts []PageVersion
	var err error
	if f.of != nil {
		texts, err = f.tx.PagesAt(f.ctx, f.of.Edition, []string{entry})
		if err != nil || len(texts) == 0 {
			return nil, nil, err
		}
		return &texts[0].Content, f.of.Templates, nil
	}
	for _, drafts := range []bool{true, false} {
		if texts, err = f.tx.PagesOf(f.ctx, []string{entry}, drafts); err != nil {
			return nil, nil, err
		}
		if len(texts) > 0 {
			templates, err := f.tx.Templates(f.ctx)
			return &texts[0].Content, templates, err
		}
	}
	return nil, nil, nil
}
