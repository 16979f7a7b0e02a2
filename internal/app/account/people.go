package account

import (
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// passwordLinkFor is how long a link for a new password can be used.
const passwordLinkFor = 72 * time.Hour

var loginForm = regexp.MustCompile(`^[a-z0-9][a-z0-9._@-]{0,59}$`)

// CleanPerson gives a person as they are kept, or says what is wrong.
func CleanPerson(p plan.Person) (plan.Person, error) {
	p.Login = strings.ToLower(strings.TrimSpace(p.Login))
	p.Name = strings.Join(strings.Fields(p.Name), " ")
	switch {
	case !loginForm.MatchString(p.Login):
		return p, plan.Refuse("login", "A sign-in name has letters, digits, dots and hyphens, at most 60.")
	case p.Name == "" || len([]rune(p.Name)) > 100 || strings.ContainsAny(p.Name, ";,"):
		return p, plan.Refuse("name", "A name has at most 100 characters, and no comma or semicolon.")
	case !slices.Contains(workflow.Roles(), p.Role):
		return p, plan.Refuse("role", "Choose a role.")
	}
	return p, nil
}

// AddPerson adds somebody, and gives the token of the link by which they choose
// their password.
func (a *Account) AddPerson(ctx context.Context, who plan.Person, p plan.Person) (token string, err error) {
	if p, err = CleanPerson(p); err != nil {
		return "", err
	}
	p.ID, p.SessionsSince = plan.NewID(), a.Now()
	return a.link(ctx, who, func(tx Tx, _ plan.Site) (string, error) {
		people, err := tx.People(ctx)
		if err != nil {
			return "", err
		}
		for _, other := range people {
			switch {
			case other.Login == p.Login:
				return "", plan.Refuse("login", fmt.Sprintf("%q is the sign-in name of %s. Choose another.", p.Login, other.Name))
			case strings.EqualFold(other.Name, p.Name):
				return "", plan.Refuse("name", fmt.Sprintf("There is already a person called %q. Readerships and owners use names, so add something to tell them apart.", other.Name))
			}
		}
		return p.ID, tx.AddPerson(ctx, p)
	})
}

// NewPassword gives the token of a link by which somebody chooses a new password.
// Their old one and their sessions end when they do.
func (a *Account) NewPassword(ctx context.Context, who plan.Person, id string) (token string, err error) {
	return a.link(ctx, who, func(tx Tx, _ plan.Site) (string, error) {
		p, err := tx.Person(ctx, id)
		if err != nil {
			return "", err
		}
		if p.Inactive {
			return "", plan.Refuse("", p.Name+" is deactivated. Activate them first.")
		}
		return id, nil
	})
}

func (a *Account) link(ctx context.Context, who plan.Person, f func(Tx, plan.Site) (person string, err error)) (token string, err error) {
	err = a.Governing(ctx, who, func(tx Tx, s plan.Site) error {
		person, err := f(tx, s)
		if err != nil {
			return err
		}
		token, err = a.putLink(ctx, tx, person)
		return err
	})
	return token, err
}

func (a *Account) putLink(ctx context.Context, tx Tx, person string) (token string, err error) {
	token = strings.ToLower(rand.Text())
	return token, tx.PutPasswordLink(ctx, tokenHash(token), person, a.Now().Add(passwordLinkFor))
}

// ChangePerson gives somebody another role, or (de)activates them. Sessions of
// whoever is deactivated end at once.
func (a *Account) ChangePerson(ctx context.Context, who plan.Person, id string, role workflow.Role, inactive bool) error {
	if !slices.Contains(workflow.Roles(), role) {
		return plan.Refuse("role", "Choose a role.")
	}
	return a.Governing(ctx, who, func(tx Tx, s plan.Site) error {
		p, err := tx.Person(ctx, id)
		if err != nil {
			return err
		}
		if p.ID == who.ID && (inactive || role != p.Role) {
			return plan.Refuse("", "You cannot take your own role away. Ask another site manager.")
		}
		if inactive && !p.Inactive {
			p.SessionsSince = a.Now()
			if err := tx.DropPasswordLinks(ctx, id); err != nil {
				return err
			}
		}
		p.Role, p.Inactive = role, inactive
		if err := tx.SetPerson(ctx, p); err != nil {
			return err
		}
		if !inactive && s.Rights().May(role, workflow.Publish) {
			return nil
		}
		return a.freeReviews(ctx, tx, s, who, p)
	})
}

// FreedReview is a request to somebody who cannot review any more.
type FreedReview struct {
	ID, From string
	Things   []string // ids of what is in review by it
}

// freeReviews gives what somebody was to review, who cannot any more, to whoever may publish, and tells all of them
// and who sent it.
func (a *Account) freeReviews(ctx context.Context, tx Tx, s plan.Site, who, gone plan.Person) error {
	freed, err := tx.FreeReviews(ctx, gone.ID, plan.Planned{PersonID: who.ID, At: a.Now()})
	if err != nil || len(freed) == 0 {
		return err
	}
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return err
	}
	people, err := tx.People(ctx)
	if err != nil {
		return err
	}
	var list []plan.Notice
	for _, r := range freed {
		titles := make([]string, len(r.Things))
		for i, id := range r.Things {
			titles[i] = "“" + trees.Title(id) + "”"
		}
		words := fmt.Sprintf("%s can no longer review %s. Anyone who can publish can review it now.", gone.Name, strings.Join(titles, ", "))
		for _, p := range people {
			if p.ID != gone.ID && !p.Inactive && (p.ID == r.From || s.Rights().May(p.Role, workflow.Publish)) {
				list = append(list, plan.Notice{PersonID: p.ID, Kind: plan.NoticeReview, Subject: r.ID, At: a.Now(), Words: words})
			}
		}
	}
	return tx.Notify(ctx, list)
}

// LinkedPerson gives the person of a link for a new password.
func (a *Account) LinkedPerson(ctx context.Context, token string) (p plan.Person, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		p, err = tx.PasswordLink(ctx, tokenHash(token), a.Now())
		return err
	})
	return p, err
}

// SetPassword gives the person of a link a password. The link is used up, and all
// sessions of the person end.
func (a *Account) SetPassword(ctx context.Context, token, password string) (p plan.Person, err error) {
	if p, err = a.LinkedPerson(ctx, token); err != nil {
		return p, err
	}
	if err := checkNewPassword(password); err != nil {
		return p, err
	}
	var hash string
	if busy := a.hashing.pass(ctx, func() { hash, err = HashPassword(password) }); busy != nil || err != nil {
		return p, cmp.Or(busy, err)
	}
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if p, err = tx.PasswordLink(ctx, tokenHash(token), a.Now()); err != nil {
			return err
		}
		p.PasswordHash, p.SessionsSince = hash, a.Now()
		if err := tx.DropPasswordLinks(ctx, p.ID); err != nil {
			return err
		}
		return tx.SetPerson(ctx, p)
	})
	return p, err
}
