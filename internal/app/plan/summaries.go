package plan

import (
	"context"
	"fmt"
	"time"
)

// liveSummaries are the summaries of what is live in one edition. Versions that an
// edition shows never change, so any instance may keep them; for the next edition it
// loads only what that one changed.
type liveSummaries struct {
	site    string
	edition int
	list    []PageSummary
	written map[string]time.Time // when each was last changed
}

// Summaries gives what lists and checks need of every draft and of every live version,
// without their texts. It must not be changed.
func (a *Floor) Summaries(ctx context.Context, tx Tx, s Site) ([]PageSummary, error) {
	list, _, err := a.summarise(ctx, tx, s)
	return list, err
}

// summarise gives the summaries, and of the live ones when each text was last changed.
func (a *Floor) summarise(ctx context.Context, tx Tx, s Site) (list []PageSummary, written map[string]time.Time, err error) {
	live, err := a.liveSummaries(ctx, tx, s)
	if err != nil {
		return nil, nil, err
	}
	drafts, err := tx.DraftSummaries(ctx)
	if err != nil {
		return nil, nil, fmt.Errorf("load drafts: %w", err)
	}
	return append(live.list[:len(live.list):len(live.list)], drafts...), live.written, nil
}

func (a *Floor) liveSummaries(ctx context.Context, tx Tx, s Site) (*liveSummaries, error) {
	kept := a.summaries.Load()
	if kept == nil || kept.site != s.ID || kept.edition > s.Edition {
		kept = &liveSummaries{site: s.ID}
	}
	if kept.edition == s.Edition {
		return kept, nil
	}
	list, ended, err := tx.LiveSummaries(ctx, kept.edition)
	if err != nil {
		return nil, fmt.Errorf("load live pages: %w", err)
	}
	now := &liveSummaries{site: s.ID, edition: s.Edition, list: withNewer(kept.list, list, ended)}
	now.written = make(map[string]time.Time, len(now.list))
	for i := range now.list {
		now.written[now.list[i].EntryID] = now.list[i].At
	}
	if tx.Steady() {
		a.summaries.Store(now)
	}
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
