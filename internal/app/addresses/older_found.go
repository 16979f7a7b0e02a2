package addresses

import (
	"context"
	"sync"

	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
)

// mostCompared is how many addresses are compared with all pages at once: the most visited of
// those that are not decided. The next come up once few of these are left.
const (
	mostCompared = 20_000
	fewLeft      = 500
)

// olderKept keeps what was found for the addresses of an older site, which is dear to find
// and stays the same while the sitemap does. It keeps that of one site and sitemap.
type olderKept struct {
	mu   sync.Mutex
	of   OlderHost
	next *sitemap.Tree
	kept *olderFound
}

// olderFound is an older site as far as it does not change with decisions.
type olderFound struct {
	lines []match.Line
	older *match.Older

	mu    sync.Mutex
	alone [][]match.Candidate // by line; nil: not compared yet
	done  []bool
}

// olderOf gives the addresses of an older site, with what is known of them.
func (a *Addresses) olderOf(ctx context.Context, tx Tx, h OlderHost, next *sitemap.Tree) (*olderFound, error) {
	k := &a.older
	k.mu.Lock()
	if k.kept != nil && k.of == h && k.next == next {
		defer k.mu.Unlock()
		return k.kept, nil
	}
	k.mu.Unlock()
	lines, err := tx.Older(ctx, h.Host)
	if err != nil {
		return nil, err
	}
	var text func(string) string
	for i := range lines {
		if lines[i].Text != "" && text == nil {
			words, err := tx.Words(ctx)
			if err != nil {
				return nil, err
			}
			text = func(id string) string { return words[id] }
		}
	}
	found := &olderFound{lines: lines, older: match.NewOlder(next, text), alone: make([][]match.Candidate, len(lines)), done: make([]bool, len(lines))}
	if tx.Steady() {
		k.mu.Lock()
		k.of, k.next, k.kept = h, next, found
		k.mu.Unlock()
	}
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
