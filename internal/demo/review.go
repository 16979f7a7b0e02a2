package demo

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// review sends what is planned of a page to somebody with a message, or remarks on it.
func (l *loader) review(ctx context.Context, who plan.Person, word, page, said string) error {
	q, err := l.app.Queue(ctx, who)
	if err != nil {
		return err
	}
	id := ""
	for _, t := range []*sitemap.Tree{q.Trees.Next, q.Trees.Live} {
		if i := t.ClaimedBy(page); i != sitemap.None && id == "" {
			id = t.Ref(i).ID
		}
	}
	if word == "remark" {
		return l.app.Remark(ctx, who, id, editions.Remark{Words: said})
	}
	login, message, _ := strings.Cut(said, " | ")
	people, err := l.app.Everyone(ctx)
	if err != nil {
		return err
	}
	to := slices.IndexFunc(people, func(p plan.Person) bool { return p.Login == login })
	if to < 0 {
		return fmt.Errorf("nobody signs in as %s", login)
	}
	_, err = l.app.SendForReview(ctx, who, editions.SendAsk{IDs: []string{id}, To: people[to].ID, Message: message})
	return err
}
