package plan

import (
	"context"
	"errors"
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
	Next  bool  // of other pages the drafts count
	Past  *Past // an edition that is over; nil: what is live or planned
}

// Past is an edition that is over: lists on its pages go by its own texts, and by the visits until its end.
type Past struct {
	Edition int
	Ended   time.Time

	alone sync.Mutex
	heads map[string]Head // read once for all pages of the edition
}

func (p *Past) headsOf(ctx context.Context, tx Tx) (map[string]Head, error) {
	p.alone.Lock()
	defer p.alone.Unlock()
	if p.heads != nil {
		return p.heads, nil
	}
	heads, err := tx.HeadsAt(ctx, p.Edition)
	if err == nil {
		p.heads = heads
	}
	return heads, err
}

// Head is a version without its text.
type Head struct {
	At      time.Time
	News    string // the day on which it goes out as news
	Excerpt string
}

// Composed fills in what an article lists. Links to pages keep the form page:ID.
func (a *Floor) Composed(ctx context.Context, tx Tx, s Site, html string, l Listing) (string, error) {
	if !markup.HasLater(html) {
		return html, nil
	}
	f := listFacts{ctx: ctx, tx: tx, next: l.Next, now: a.Now()}
	lists := markup.Lists{Here: l.Tree.Find(l.Entry), Line: f.lines, Fact: f.fact}
	sums, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return "", err
	}
	lists.Tree, lists.Visits, lists.Changed, lists.News = l.Tree, f.visitsOf, sums.changed(l.Next), newsOn(func() map[string]string { return sums.NewsOf(l.Next) }, f.now)
	if l.Past != nil {
		f.past, f.now = l.Past, l.Past.Ended
		lists.Changed = func(id string) time.Time { return f.headsOf()[id].At }
		lists.News = newsOn(f.newsOf, f.now)
	}
	out, err := a.Markup.Compose(html, lists.Of)
	return out, errors.Join(err, f.err)
}

// ListFacts gives what lists in pages of Next go by: the visits of pages, and when their
// texts came.
func (a *Floor) ListFacts(ctx context.Context, tx Tx, s Site) (visits func(string) int, changed func(string) time.Time, err error) {
	sums, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return nil, nil, err
	}
	f := listFacts{ctx: ctx, tx: tx, next: true, now: a.Now()}
	f.visitsOf("")
	return f.visitsOf, sums.changed(true), f.err
}

// changed gives when the text of a page that readers see came, or the one they will see.
func (s Summaries) changed(next bool) func(string) time.Time {
	if next {
		written := s.LastWritten()
		return func(id string) time.Time { return written[id] }
	}
	return func(id string) time.Time {
		if live, ok := s.LiveOf(id); ok {
			return live.At
		}
		return time.Time{}
	}
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

// newsOn gives the day of a page that is news at a time.
func newsOn(known func() map[string]string, now time.Time) func(string) string {
	var days map[string]string
	today := now.UTC().Format(time.DateOnly)
	return func(id string) string {
		if days == nil {
			days = known()
		}
		if day := days[id]; day <= today {
			return day
		}
		return ""
	}
}

// listFacts looks up what lists show of other pages. The first fault is kept.
type listFacts struct {
	ctx    context.Context //nolint:containedctx // lives as long as one call
	tx     Tx
	next   bool
	now    time.Time
	past   *Past
	visits map[string]int
	err    error
}

func (f *listFacts) headsOf() map[string]Head {
	heads, err := f.past.headsOf(f.ctx, f.tx)
	if err != nil {
		f.err = err
	}
	return heads
}

func (f *listFacts) newsOf() map[string]string {
	days := map[string]string{}
	for id, h := range f.headsOf() {
		if h.News != "" {
			days[id] = h.News
		}
	}
	return days
}

func (f *listFacts) visitsOf(entry string) int {
	if f.visits == nil {
		var err error
		if f.visits, err = f.tx.Visits(f.ctx, f.now.Add(-(VisitDays-1)*24*time.Hour), f.now); err != nil {
			f.err, f.visits = err, map[string]int{}
		}
	}
	return f.visits[entry]
}

func (f *listFacts) lines(ids []string) []string {
	out := make([]string, len(ids))
	if f.past != nil {
		for i, id := range ids {
			out[i] = f.headsOf()[id].Excerpt
		}
		return out
	}
	known, err := f.tx.Excerpts(f.ctx, ids, f.next)
	if err != nil {
		f.err = err
	}
	for i, id := range ids {
		out[i] = known[id]
	}
	return out
}

// fact gives the value of a fact of another page, by its label, as people read it.
func (f *listFacts) fact(entry, label string) string {
	pages, err := f.tx.PagesOf(f.ctx, []string{entry}, false)
	if err == nil && f.next {
		var drafts []PageVersion
		if drafts, err = f.tx.PagesOf(f.ctx, []string{entry}, true); len(drafts) > 0 {
			pages = drafts
		}
	}
	if err != nil || len(pages) == 0 {
		f.err = err
		return ""
	}
	templates, err := f.tx.Templates(f.ctx)
	if err != nil {
		f.err = err
		return ""
	}
	people, err := PeopleByID(f.ctx, f.tx)
	if err != nil {
		f.err = err
		return ""
	}
	return content.FactCalled(templates, pages[0].Content, label, func(id string) string { return people[id].Name })
}
