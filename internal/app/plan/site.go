package plan

import (
	"context"
	"fmt"
	"strings"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// SiteNow gives the site as it stands; its ID is empty before it is founded.
func (a *Floor) SiteNow(ctx context.Context) (Site, error) {
	var site Site
	err := a.Store.WriteUnlocked(ctx, func(_ Tx, s Site) error {
		site = s
		return nil
	})
	return site, err
}

// Everyone lists the people of the site.
func (a *Floor) Everyone(ctx context.Context) ([]Person, error) {
	var people []Person
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ Site) error {
		var err error
		people, err = tx.People(ctx)
		return err
	})
	return people, err
}

// PeopleByID gives all people, by id.
func PeopleByID(ctx context.Context, tx Tx) (map[string]Person, error) {
	list, err := tx.People(ctx)
	if err != nil {
		return nil, fmt.Errorf("load people: %w", err)
	}
	by := make(map[string]Person, len(list))
	for _, p := range list {
		by[p.ID] = p
	}
	return by, nil
}

// Templates lists the templates of the site.
func (a *Floor) Templates(ctx context.Context) ([]content.Template, error) {
	var list []content.Template
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ Site) error {
		var err error
		list, err = tx.Templates(ctx)
		return err
	})
	return list, err
}

// KnownReaders tells whom a readership can name.
func KnownReaders(ctx context.Context, tx Tx) (func(string) bool, error) {
	people, err := tx.People(ctx)
	known := make(map[string]bool, 2*len(people))
	for _, p := range people {
		known[strings.ToLower(p.Name)], known[p.Login] = true, true
	}
	for _, role := range workflow.Roles() {
		known[string(role)] = true
	}
	return func(name string) bool { return known[strings.ToLower(name)] }, err
}

// Readers gives who may be named as readers: everybody who has not left.
func Readers(ctx context.Context, tx Tx) (readers []readership.Reader, err error) {
	people, err := tx.People(ctx)
	if err != nil {
		return nil, fmt.Errorf("load people: %w", err)
	}
	for _, p := range people {
		if !p.Inactive {
			readers = append(readers, p.Reader())
		}
	}
	return readers, nil
}

// ParseReadership brings names of people into the form that is stored, as
// "Gwen Hale; Ines Roth". A name that known does not know is refused.
func ParseReadership(v string, known func(string) bool) (string, error) {
	parsed, err := readership.Parse(v, known)
	if err != nil {
		return "", Refuse("readership", err.Error())
	}
	return parsed, nil
}

// CheckOptions are those of this site, today.
func (a *Floor) CheckOptions(ctx context.Context, tx Tx) (sitemap.CheckOptions, error) {
	people, err := tx.People(ctx)
	o := sitemap.CheckOptions{People: make(map[string]bool, len(people)), Today: a.Now().UTC().Format(time.DateOnly)}
	for _, p := range people {
		o.People[p.Name] = true
	}
	return o, err
}
