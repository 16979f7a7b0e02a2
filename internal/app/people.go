package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/port"
	"candlepath/internal/core/workflow"
)

// passwordLinkFor is how long a link for a new password can be used.
const passwordLinkFor = 72 * time.Hour

var loginForm = regexp.MustCompile(`^[a-z0-9][a-z0-9._@-]{0,59}$`)

// CleanPerson gives a person as they are kept, or says what is wrong.
func CleanPerson(p port.Person) (port.Person, error) {
	p.Login = strings.ToLower(strings.TrimSpace(p.Login))
	p.Name = strings.Join(strings.Fields(p.Name), " ")
	switch {
	case !loginForm.MatchString(p.Login):
		return p, &Invalid{"login", "A sign-in name has letters, digits, dots and hyphens, at most 60."}
	case p.Name == "" || len([]rune(p.Name)) > 100 || strings.ContainsAny(p.Name, ";,"):
		return p, &Invalid{"name", "A name has at most 100 characters, and no comma or semicolon."}
	case !slices.Contains(workflow.Roles(), p.Role):
		return p, &Invalid{"role", "Choose a role."}
	}
	return p, nil
}

// governing runs f for somebody who looks after people.
func (a *App) governing(ctx context.Context, who port.Person, f func(port.Tx, port.Site) error) error {
	return a.store.Write(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Govern); err != nil {
			return err
		}
		return f(tx, s)
	})
}

// AddPerson adds somebody, and gives the token of the link by which they choose
// their password.
func (a *App) AddPerson(ctx context.Context, who port.Person, p port.Person) (token string, err error) {
	if p, err = CleanPerson(p); err != nil {
		return "", err
	}
	p.ID, p.SessionsSince = newID(), a.now()
	return a.link(ctx, who, func(tx port.Tx, _ port.Site) (string, error) {
		people, err := tx.People(ctx)
		if err != nil {
			return "", err
		}
		for _, other := range people {
			switch {
			case other.Login == p.Login:
				return "", &Invalid{"login", fmt.Sprintf("%q is the sign-in name of %s. Choose another.", p.Login, other.Name)}
			case strings.EqualFold(other.Name, p.Name):
				return "", &Invalid{"name", fmt.Sprintf("Somebody is called %q already. Readerships and owners go by names, so add something that tells them apart.", other.Name)}
			}
		}
		return p.ID, tx.AddPerson(ctx, p)
	})
}

// NewPassword gives the token of a link by which somebody chooses a new password.
// Their old one and their sessions end when they do.
func (a *App) NewPassword(ctx context.Context, who port.Person, id string) (token string, err error) {
	return a.link(ctx, who, func(tx port.Tx, _ port.Site) (string, error) {
		p, err := tx.Person(ctx, id)
		if err != nil {
			return "", err
		}
		if p.Inactive {
			return "", &Invalid{"", p.Name + " is deactivated. Activate them first."}
		}
		return id, nil
	})
}

func (a *App) link(ctx context.Context, who port.Person, f func(port.Tx, port.Site) (person string, err error)) (token string, err error) {
	err = a.governing(ctx, who, func(tx port.Tx, s port.Site) error {
		person, err := f(tx, s)
		if err != nil {
			return err
		}
		token, err = a.putLink(ctx, tx, person)
		return err
	})
	return token, err
}

func (a *App) putLink(ctx context.Context, tx port.Tx, person string) (token string, err error) {
	token = strings.ToLower(rand.Text())
	return token, tx.PutPasswordLink(ctx, tokenHash(token), person, a.now().Add(passwordLinkFor))
}

// ChangePerson gives somebody another role, or (de)activates them. Sessions of
// whoever is deactivated end at once.
func (a *App) ChangePerson(ctx context.Context, who port.Person, id string, role workflow.Role, inactive bool) error {
	if !slices.Contains(workflow.Roles(), role) {
		return &Invalid{"role", "Choose a role."}
	}
	return a.governing(ctx, who, func(tx port.Tx, _ port.Site) error {
		p, err := tx.Person(ctx, id)
		if err != nil {
			return err
		}
		if p.ID == who.ID && (inactive || role != p.Role) {
			return &Invalid{"", "You cannot take your own role away. Ask another site manager."}
		}
		if inactive && !p.Inactive {
			p.SessionsSince = a.now()
			if err := tx.DropPasswordLinks(ctx, id); err != nil {
				return err
			}
		}
		p.Role, p.Inactive = role, inactive
		return tx.SetPerson(ctx, p)
	})
}

// LinkedPerson gives the person of a link for a new password.
func (a *App) LinkedPerson(ctx context.Context, token string) (p port.Person, err error) {
	err = a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		p, err = tx.PasswordLink(ctx, tokenHash(token), a.now())
		return err
	})
	return p, err
}

// SetPassword gives the person of a link a password. The link is used up, and all
// sessions of the person end.
func (a *App) SetPassword(ctx context.Context, token, password string) (p port.Person, err error) {
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
	err = a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		if p, err = tx.PasswordLink(ctx, tokenHash(token), a.now()); err != nil {
			return err
		}
		p.PasswordHash, p.SessionsSince = hash, a.now()
		if err := tx.DropPasswordLinks(ctx, p.ID); err != nil {
			return err
		}
		return tx.SetPerson(ctx, p)
	})
	return p, err
}
