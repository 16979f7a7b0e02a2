package plan

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Destination says where the visitors of a page that is planned to go belong.
type Destination struct {
	Entry     string // of Live
	To        string // "gone", an entry id, an address of Next or a URL; empty: not decided any more
	Temporary bool
	Review    string // a date on which to look at it again, as 2026-11-27
	Note      string // why, for colleagues
	Says      string // what readers are told where it is gone
}

// DecideRemoved decides for pages that are planned to go where their visitors belong, in one
// act.
func (a *Floor) DecideRemoved(ctx context.Context, who Person, key string, list []Destination) (PlanResult, error) {
	return Area[Tx]{Floor: a, Store: a.Store}.OnNext(ctx, who, key, "", func(tx Tx, s Site, trees Trees) (PlanResult, error) {
		known, err := tx.Decisions(ctx)
		if err != nil {
			return PlanResult{}, err
		}
		w := &Writer{Floor: a, Tx: tx, who: who, Next: trees.Next}
		title := ""
		for _, d := range list {
			now, err := d.Decision(trees)
			if err != nil {
				return PlanResult{}, err
			}
			was, ok := known[d.Entry]
			if !ok && now == nil || ok && now != nil && was == *now {
				continue
			}
			before := &was
			if !ok {
				before = nil
			}
			title = trees.Live.Ref(trees.Live.Find(d.Entry)).Title
			if err := w.Decide(ctx, d.Entry, before, now); err != nil {
				return PlanResult{}, err
			}
		}
		label := fmt.Sprintf("decided where the visitors of %q go", title)
		if n := len(w.SideEffects.Decisions); n > 1 {
			label = fmt.Sprintf("decided where the visitors of %d pages go", n)
		}
		return a.RecordWith(ctx, tx, s, who, key, label, trees, trees.Next, w.SideEffects)
	})
}

// Decision is what is kept; nil takes it back.
func (d Destination) Decision(trees Trees) (*redirect.Decision, error) {
	if trees.Live.Find(d.Entry) == sitemap.None {
		return nil, ErrNotFound
	}
	to := strings.TrimSpace(d.To)
	if to == "" {
		return nil, nil
	}
	out := redirect.ParseDecision(to, 0, trees.Next)
	if i := trees.Next.PageAt(out.To.Address); out.To.Address != "" && i != sitemap.None {
		out.To = redirect.Target{Entry: trees.Next.Ref(i).ID, Suffix: out.To.Suffix}
	}
	out.Review, out.Note = d.Review, d.Note
	if out.Code == redirect.Gone {
		out.Says = strings.Join(strings.Fields(d.Says), " ")
	} else if d.Temporary {
		out.Code = 302
	}
	if len(out.Says) > 500 || len(out.Note) > 500 {
		return nil, Refuse("note", "Keep the sentence under 500 characters.")
	}
	return &out, checkDecision(trees.Next, out, d.Entry)
}

func checkDecision(next *sitemap.Tree, d redirect.Decision, entry string) error {
	if d.Code == redirect.Gone || d.To.URL != "" {
		return nil
	}
	i := next.Find(d.To.Entry)
	switch {
	case d.To.Entry == "" || i == sitemap.None || next.Served(i) == "":
		return Refuse("to", "There is no such page in Next. Choose a page, a URL that begins with https://, or gone.")
	case d.To.Entry == entry:
		return Refuse("to", "A page cannot lead to itself. Choose another page.")
	}
	return nil
}
