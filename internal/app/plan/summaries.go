package plan

import (
	"cmp"
	"context"
	"fmt"
	"iter"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"candlepath/internal/core/link"
	"candlepath/internal/core/sitemap"
)

// Summaries are what lists and checks need of every draft and of every live version,
// without their texts. They must not be changed.
type Summaries struct {
	Drafts []PageSummary
	live   *liveSummaries
}

// liveSummaries are the summaries of what is live in one edition. Versions that an
// edition shows never change, so any instance may keep them; for the next edition it
// loads only what that one changed.
type liveSummaries struct {
	edition int
	list    []PageSummary
	at      map[string]int32 // which of them is of an entry

	tree   *sitemap.Tree // of Live
	before *link.Map     // of an earlier edition, until there is links
	links  atomic.Pointer[link.Map]
	alone  sync.Mutex
}

// SummariesOf makes summaries of a list.
func SummariesOf(list ...PageSummary) Summaries {
	s := Summaries{live: &liveSummaries{at: map[string]int32{}}}
	for _, h := range list {
		if h.Draft {
			s.Drafts = append(s.Drafts, h)
			continue
		}
		s.live.at[h.EntryID] = int32(len(s.live.list))
		s.live.list = append(s.live.list, h)
	}
	return s
}

// OfLive gives the summaries of live versions alone, which never change.
func (s Summaries) OfLive() Summaries { return Summaries{live: s.live} }

// Live lists those of live versions.
func (s Summaries) Live() []PageSummary {
	if s.live == nil {
		return nil
	}
	return s.live.list
}

// LiveOf gives the summary of the live version of an entry.
func (s Summaries) LiveOf(entry string) (*PageSummary, bool) {
	if s.live == nil {
		return nil, false
	}
	i, ok := s.live.at[entry]
	if !ok {
		return nil, false
	}
	return &s.live.list[i], true
}

// Version is the version that is live of an entry; empty where none is.
func (s Summaries) Version(entry string) string {
	if h, ok := s.LiveOf(entry); ok {
		return h.VersionID
	}
	return ""
}

// Len is how many there are.
func (s Summaries) Len() int { return len(s.Live()) + len(s.Drafts) }

// All goes through those of live versions, then drafts.
func (s Summaries) All() iter.Seq[*PageSummary] {
	return func(yield func(*PageSummary) bool) {
		for _, list := range [][]PageSummary{s.Live(), s.Drafts} {
			for i := range list {
				if !yield(&list[i]) {
					return
				}
			}
		}
	}
}

// ByEntry gives the drafts by their entries.
func (s Summaries) ByEntry() map[string]*PageSummary {
	out := make(map[string]*PageSummary, len(s.Drafts))
	for i := range s.Drafts {
		out[s.Drafts[i].EntryID] = &s.Drafts[i]
	}
	return out
}

// Links gives the links of live versions.
func (s Summaries) Links(live *sitemap.Tree) *link.Map {
	l := s.live
	if l == nil || l.tree != live {
		return link.New(live, linked(s.Live()), nil)
	}
	if m := l.links.Load(); m != nil {
		return m
	}
	l.alone.Lock()
	defer l.alone.Unlock()
	if m := l.links.Load(); m != nil {
		return m
	}
	m := link.New(live, linked(l.list), l.before)
	l.links.Store(m)
	l.before = nil
	return m
}

// known is the newest map of links that there is.
func (l *liveSummaries) known() *link.Map {
	l.alone.Lock()
	defer l.alone.Unlock()
	if m := l.links.Load(); m != nil {
		return m
	}
	return l.before
}

func linked(list []PageSummary) []link.Page {
	pages := make([]link.Page, 0, len(list))
	for i := range list {
		if h := &list[i]; len(h.Links) > 0 {
			pages = append(pages, link.Page{ID: h.EntryID, Version: h.VersionID, Links: h.Links})
		}
	}
	return pages
}

// LastWritten tells when the text of each page was last changed.
func (s Summaries) LastWritten() map[string]time.Time {
	at := make(map[string]time.Time, s.Len())
	for h := range s.All() {
		if was, known := at[h.EntryID]; !known || h.At.After(was) {
			at[h.EntryID] = h.At
		}
	}
	return at
}

// Summaries gives the summaries as they are in the transaction.
func (a *Floor) Summaries(ctx context.Context, tx Tx, s Site) (Summaries, error) {
	live, err := a.liveSummaries(ctx, tx, s)
	if err != nil {
		return Summaries{}, err
	}
	drafts, err := a.draftSummaries(ctx, tx, s)
	if err != nil {
		return Summaries{}, fmt.Errorf("load drafts: %w", err)
	}
	return Summaries{drafts, live}, nil
}

// draftSummaries are the summaries of drafts, by version, as they were when each was written last.
type draftSummaries struct {
	by   map[string]stampedSummary
	list []PageSummary // by entry
}

type stampedSummary struct {
	stamp string
	PageSummary
}

// draftSummaries loads what was written since it was loaded before. A transaction that writes may have
// written drafts itself, so it compares the versions of their rows.
func (a *Floor) draftSummaries(ctx context.Context, tx Tx, s Site) ([]PageSummary, error) {
	if d, ok := a.drafts.Get(s, ""); ok && tx.Steady() {
		return d.list, nil
	}
	stamps, err := tx.DraftStamps(ctx)
	if err != nil {
		return nil, err
	}
	before, _, ok := a.drafts.Earlier(s, "")
	if !ok {
		before = &draftSummaries{}
	}
	now := &draftSummaries{by: make(map[string]stampedSummary, len(stamps))}
	var written []string
	for version, stamp := range stamps {
		if known, ok := before.by[version]; ok && known.stamp == stamp {
			now.by[version] = known
		} else {
			written = append(written, version)
		}
	}
	if len(written) > 0 {
		list, err := tx.DraftSummaries(ctx, written)
		if err != nil {
			return nil, err
		}
		for _, h := range list {
			now.by[h.VersionID] = stampedSummary{stamps[h.VersionID], h}
		}
	}
	if now.list = before.list; len(written) > 0 || len(now.by) != len(before.by) {
		now.list = make([]PageSummary, 0, len(now.by))
		for _, h := range now.by {
			now.list = append(now.list, h.PageSummary)
		}
		slices.SortFunc(now.list, func(a, b PageSummary) int { return cmp.Compare(a.EntryID, b.EntryID) })
	}
	a.drafts.Put(tx, s, "", now)
	return now.list, nil
}

func (a *Floor) liveSummaries(ctx context.Context, tx Tx, s Site) (*liveSummaries, error) {
	if l, ok := a.live.Get(s, ""); ok {
		return l, nil
	}
	before, _, ok := a.live.Earlier(s, "")
	if !ok {
		before = &liveSummaries{}
	}
	list, ended, err := tx.LiveSummaries(ctx, before.edition)
	if err != nil {
		return nil, fmt.Errorf("load live pages: %w", err)
	}
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return nil, err
	}
	now := &liveSummaries{edition: s.Edition, list: withNewer(before.list, list, ended), tree: trees.Live, before: before.known()}
	now.at = make(map[string]int32, len(now.list))
	for i := range now.list {
		now.at[now.list[i].EntryID] = int32(i)
	}
	a.live.Put(tx, s, "", now)
	return now, nil
}

// withNewer gives summaries with those that came or went since.
func withNewer(list, newer []PageSummary, ended []string) []PageSummary {
	gone := make(map[string]bool, len(newer)+len(ended))
	for _, h := range newer {
		gone[h.EntryID] = true
	}
	for _, id := range ended {
		gone[id] = true
	}
	out := make([]PageSummary, 0, len(list)+len(newer))
	for _, h := range list {
		if !gone[h.EntryID] {
			out = append(out, h)
		}
	}
	return append(out, newer...)
}
