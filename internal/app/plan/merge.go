package plan

import (
	"context"
	"fmt"

	"candlepath/internal/core/sitemap"
)

// MarkOf names the state of a text, so that one that was changed since is known.
func MarkOf(v PageVersion) string {
	if v.ID == "" {
		return "none"
	}
	return fmt.Sprintf("%s.%d", v.ID, v.Version)
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
			return Refuse("", fmt.Sprintf("%s has %q open and may be writing. Ask, or try again later.", people[l.Person].Name, TitleOf(t, id)))
		}
	}
	return nil
}
