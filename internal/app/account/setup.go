package account

import (
	"context"
	"crypto/subtle"
	"errors"
	"regexp"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// SetupAsk is what a first site is made of.
type SetupAsk struct {
	Name     string // of the site
	Host     string // at which it is reached, perhaps with a port
	Manager  plan.Person
	Password string // of the manager; empty: they choose it by a link
}

var hostForm = regexp.MustCompile(`^[a-z0-9]([a-z0-9.-]*[a-z0-9])?(:[0-9]{1,5})?$`)

// clean gives the wish as it is kept, or says what is wrong with it.
func (s SetupAsk) clean() (SetupAsk, error) {
	chosen, err := parseSettings(setting.Values{setting.SiteName: s.Name})
	if err != nil {
		return s, plan.Refuse("site", err.Error())
	}
	s.Name = chosen[setting.SiteName]
	s.Host = strings.ToLower(strings.TrimSpace(s.Host))
	if len(s.Host) > 253 || !hostForm.MatchString(s.Host) {
		return s, plan.Refuse("host", "The host is the name at which colleagues reach the site, like inside.quillmere.example.")
	}
	s.Manager.Role = workflow.Manager
	if s.Manager, err = CleanPerson(s.Manager); err != nil {
		return s, err
	}
	if s.Password != "" {
		err = checkNewPassword(s.Password)
	}
	return s, err
}

// SetUp makes the first site of an empty database: its host, its first manager,
// templates to begin with, and a first edition with an empty home page. Without a
// password it gives the token of the link by which the manager chooses one.
func (a *Account) SetUp(ctx context.Context, ask SetupAsk) (manager plan.Person, token string, err error) {
	if ask, err = ask.clean(); err != nil {
		return manager, "", err
	}
	manager = ask.Manager
	if ask.Password != "" {
		if busy := a.hashing.pass(ctx, func() { manager.PasswordHash, err = HashPassword(ask.Password) }); busy != nil || err != nil {
			return manager, "", errors.Join(busy, err)
		}
	}
	if _, err := a.CreateSite(ctx, NewSite{
		Site:   plan.Site{Settings: setting.Values{setting.SiteName: ask.Name}, Hosts: []string{ask.Host}},
		People: []plan.Person{manager}, Templates: StartingTemplates(),
	}); err != nil {
		return manager, "", err
	}
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if manager, err = tx.PersonByLogin(ctx, manager.Login); err != nil || ask.Password != "" {
			return err
		}
		token, err = a.putLink(ctx, tx, manager.ID)
		return err
	})
	if err != nil {
		return manager, "", err
	}
	return manager, token, a.begin(ctx, manager)
}

// SetUpByCode is SetUp for whoever knows the code that the program printed.
func (a *Account) SetUpByCode(ctx context.Context, ask SetupAsk, code, given, host string) (plan.Person, error) {
	const login = "(first start)"
	var try int64
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		var err error
		try, _, err = a.beginTry(ctx, tx, SignInAsk{Login: login, Host: host}, nil)
		return err
	})
	if err != nil {
		return plan.Person{}, err
	}
	if code == "" || subtle.ConstantTimeCompare([]byte(strings.ToLower(strings.TrimSpace(given))), []byte(code)) != 1 {
		return plan.Person{}, plan.Refuse("code", "This code is not right. You find it in the log of the program, from its last start.")
	}
	if err := a.forgetTry(ctx, try); err != nil {
		return plan.Person{}, err
	}
	if ask.Password == "" {
		return plan.Person{}, checkNewPassword("")
	}
	manager, _, err := a.SetUp(ctx, ask)
	return manager, err
}

// StartingTemplates are those that a new site begins with.
func StartingTemplates() []content.Template {
	lead := content.Part{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText, Help: "One or two sentences: what this page is good for."}}}
	slot := func(key, label string, required bool, blocks ...content.BlockType) content.Part {
		return content.Part{Kind: content.Slot, Key: key, Label: label, Required: required, Takes: blocks}
	}
	return []content.Template{
		{Key: "overview", Name: "Overview", For: "The home page, and the page at the top of a branch: where to go from here.", Parts: []content.Part{
			lead, slot("ways", "", false, content.Tiles), slot("main", "", false),
		}},
		{Key: "topic", Name: "Topic page", For: "Anything that has to be explained.", Parts: []content.Part{lead, slot("main", "", false)}},
		{Key: "procedure", Name: "Procedure", For: "How something is done, step by step.", Parts: []content.Part{
			lead,
			{Kind: content.Facts, Fields: []content.Field{
				{Key: "contact", Label: "Ask", Type: content.FieldPerson, Help: "Who helps when it does not work."},
				{Key: "valid", Label: "Valid from", Type: content.FieldDate},
			}},
			slot("steps", "Steps", true, content.Text, content.Note), slot("more", "More", false),
		}},
		{Key: "news", Name: "News", For: "Something that happened or is about to.", Parts: []content.Part{
			lead, {Kind: content.Facts, Fields: []content.Field{{Key: "date", Label: "Date", Type: content.FieldDate}}}, slot("main", "", true),
		}},
	}
}

// NewSite is what a new site begins with.
type NewSite struct {
	Site      plan.Site
	People    []plan.Person
	Templates []content.Template
}

// begun gives templates as they are kept, in their order.
func begun(list []content.Template) []content.Template {
	out := make([]content.Template, len(list))
	for i, t := range list {
		t.Order = i + 1
		out[i], _ = content.CleanTemplate(t)
	}
	return out
}

// CreateSite makes the site of an empty database.
func (a *Account) CreateSite(ctx context.Context, f NewSite) (plan.Site, error) {
	f.Site.ID = plan.NewID()
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID != "" {
			return plan.ErrDone
		}
		if err := tx.CreateSite(ctx, f.Site); err != nil {
			return err
		}
		for _, p := range f.People {
			p.ID = plan.NewID()
			p.Login = strings.ToLower(p.Login)
			if err := tx.AddPerson(ctx, p); err != nil {
				return err
			}
		}
		return tx.BeginWith(ctx, begun(f.Templates), a.Now())
	})
	return f.Site, err
}
