package addresses

import (
	"context"
	"slices"
	"sync"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
)

// mostCompared is how many addresses are compared with all pages at once: the most visited of
// those that are not decided. The next come up once few of these are left.
const (
	mostCompared = 20_000
	fewLeft      = 500
)

// olderFound is an older site as far as it does not change with decisions, which is slow to find.
type olderFound struct {
	lines []match.Line
	older *match.Older
	texts string // how drafts stood when they were compared with the texts of the older site; empty: it has none

	mu    sync.Mutex
	alone [][]match.Candidate // by line; nil: not compared yet
	done  []bool
}

// olderOf gives the addresses of an older site, with what is known of them.
func (a *Addresses) olderOf(ctx context.Context, tx Tx, s plan.Site, host string, next *sitemap.Tree) (*olderFound, error) {
	drafts := s.Work.Of(plan.PartDrafts)
	if found, ok := a.older.Get(s, host); ok && (found.texts == "" || found.texts == drafts) {
		return found, nil
	}
	lines, err := tx.Older(ctx, host)
	if err != nil {
		return nil, err
	}
	found := &olderFound{lines: lines, alone: make([][]match.Candidate, len(lines)), done: make([]bool, len(lines))}
	var text func(string) string
	if slices.ContainsFunc(lines, func(l match.Line) bool { return l.Text != "" }) {
		words, err := tx.Words(ctx)
		if err != nil {
			return nil, err
		}
		text, found.texts = func(id string) string { return words[id] }, drafts
	}
	found.older = match.NewOlder(next, text)
	a.older.Put(tx, s, host, found)
	return found, nil
}

// found gives what was found for each address; nothing for those that are not compared yet.
func (f *olderFound) found(w OlderWork) []match.Matched {
	f.mu.Lock()
	f.compare(w)
	alone := append([][]match.Candidate(nil), f.alone...)
	done := append([]bool(nil), f.done...)
	f.mu.Unlock()
	olds := make([]match.Old, len(w.Lines))
	for i := range w.Lines {
		olds[i] = w.Lines[i].Old
	}
	out := f.older.Taught(olds, alone)
	for i := range out {
		if !done[i] {
			out[i] = match.Matched{}
		}
	}
	return out
}

// compare compares the next addresses, where few are left of those that were.
func (f *olderFound) compare(w OlderWork) {
	left := 0
	var next []int
	for i := range w.Lines {
		switch {
		case w.Next[i].Code != 404:
		case f.done[i]:
			left++
		case len(next) < mostCompared:
			next = append(next, i)
		}
	}
	if left > fewLeft || len(next) == 0 {
		return
	}
	olds := make([]match.Old, len(next))
	for k, i := range next {
		olds[k] = w.Lines[i].Old
	}
	for k, c := range f.older.Alone(olds) {
		f.alone[next[k]], f.done[next[k]] = c, true
	}
}
