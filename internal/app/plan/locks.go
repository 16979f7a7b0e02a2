package plan

import (
	"context"
	"errors"
	"fmt"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// LockOf gives the lock of a page; the zero one where nobody has it.
func LockOf(ctx context.Context, tx Tx, entry string) (workflow.Lock, error) {
	l, err := tx.Lock(ctx, entry)
	if errors.Is(err, ErrNotFound) {
		return workflow.Lock{}, nil
	}
	return l, err
}

// OpenElsewhere says who has one of the pages open.
func (a *Floor) OpenElsewhere(ctx context.Context, tx Tx, who Person, t *sitemap.Tree, entries ...string) error {
	people, err := PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	for _, id := range entries {
		l, err := LockOf(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Held(a.Now()) && l.Person != who.ID {
			return Refuse("", fmt.Sprintf("%s has %q open and may be editing it. Ask them, or try again later.", people[l.Person].Name, TitleOf(t, id)))
		}
	}
	return nil
}

// MarkOf names the state of a text, so that one that was changed since is known.
func MarkOf(v PageVersion) string {
	if v.ID == "" {
		return "none"
	}
	return fmt.Sprintf("%s.%d", v.ID, v.Version)
}
