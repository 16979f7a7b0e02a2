package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

type personRow struct {
	ID            string
	SiteID        string
	Login         string
	Name          string
	Role          string
	PasswordHash  string
	Active        bool
	SessionsSince time.Time
}

// TableName names the table of the rows.
func (personRow) TableName() string { return "people" }

func (r personRow) toPort() plan.Person {
	return plan.Person{
		ID: r.ID, Login: r.Login, Name: r.Name, Role: workflow.Role(r.Role), PasswordHash: r.PasswordHash, Inactive: !r.Active, SessionsSince: r.SessionsSince,
	}
}

func (t *tx) rowOf(p plan.Person) personRow {
	return personRow{p.ID, t.site, p.Login, p.Name, string(p.Role), p.PasswordHash, !p.Inactive, p.SessionsSince}
}

// CreateSite makes the only site; a second one is refused.
func (t *tx) CreateSite(ctx context.Context, s plan.Site) error {
	_, err := t.exec(ctx, `INSERT INTO sites (id, hosts, settings) VALUES (?, string_to_array(?, ','), ?::jsonb)`,
		s.ID, strings.Join(s.Hosts, ","), jsonText(s.Settings))
	t.site = s.ID
	return err
}

// People gives all people by name.
func (t *tx) People(ctx context.Context) ([]plan.Person, error) {
	rows, err := gorm.G[personRow](t.db).Where("site_id = ?", t.site).Order("name").Find(ctx)
	out := make([]plan.Person, len(rows))
	for i, r := range rows {
		out[i] = r.toPort()
	}
	return out, wordError(err)
}

// Person gives one; plan.ErrNotFound if there is none.
func (t *tx) Person(ctx context.Context, id string) (plan.Person, error) {
	r, err := gorm.G[personRow](t.db).Where("site_id = ? AND id::text = ?", t.site, id).Take(ctx)
	return r.toPort(), wordError(err)
}

// PersonByLogin gives the person who signs in under a name, in whatever case it is
// written.
func (t *tx) PersonByLogin(ctx context.Context, login string) (plan.Person, error) {
	if t.site == "" { // there is no site yet
		return plan.Person{}, plan.ErrNotFound
	}
	r, err := gorm.G[personRow](t.db).Where("site_id = ? AND login = ?", t.site, login).Take(ctx)
	return r.toPort(), wordError(err)
}

// AddPerson adds somebody; a name that is taken is refused.
func (t *tx) AddPerson(ctx context.Context, p plan.Person) error {
	r := t.rowOf(p)
	return wordError(gorm.G[personRow](t.db).Create(ctx, &r))
}

// SetPerson writes a person anew, and tells every instance.
func (t *tx) SetPerson(ctx context.Context, p plan.Person) error {
	n, err := t.exec(ctx, `UPDATE people SET login = ?, name = ?, role = ?, password_hash = ?, active = ?, sessions_since = ? WHERE site_id = ? AND id::text = ?`,
		p.Login, p.Name, string(p.Role), p.PasswordHash, !p.Inactive, p.SessionsSince, t.site, p.ID)
	if err == nil && n == 0 {
		return plan.ErrNotFound
	}
	if err != nil {
		return err
	}
	return t.TellPeople(ctx)
}

// TellPeople tells every instance that who is who may have changed.
func (t *tx) TellPeople(ctx context.Context) error {
	_, err := t.exec(ctx, `SELECT pg_notify(?, 'people')`, Channel)
	return err
}

// LockTries makes tries for a name, and tries from a client, happen one after
// another until the transaction ends.
func (t *tx) LockTries(ctx context.Context, login, host string) error {
	_, err := t.exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('try from ' || ?, 0)), pg_advisory_xact_lock(hashtextextended('try for ' || ?, 0))`, host, login)
	return err
}

// SignInTries counts the tries since a moment.
func (t *tx) SignInTries(ctx context.Context, login, host string, browser []byte, since time.Time) (workflow.Tries, error) {
	var r struct {
		Pair, Login, Host, Browser                 int
		LastPair, LastLogin, LastHost, LastBrowser *time.Time
	}
	const pair, one, all, known = `login = @login AND host = @host`, `login = @login`, `host = @host`, `browser = @browser`
	err := t.scan(ctx, &r, `SELECT count(*) FILTER (WHERE `+pair+`) AS pair, max(at) FILTER (WHERE `+pair+`) AS last_pair,
			count(*) FILTER (WHERE `+one+`) AS login, max(at) FILTER (WHERE `+one+`) AS last_login,
			count(*) FILTER (WHERE `+all+`) AS host, max(at) FILTER (WHERE `+all+`) AS last_host,
			count(*) FILTER (WHERE `+known+`) AS browser, max(at) FILTER (WHERE `+known+`) AS last_browser
		FROM signin_tries WHERE at > @since AND (login = @login OR host = @host)`,
		map[string]any{"login": login, "host": host, "browser": browser, "since": since})
	at := func(p *time.Time) time.Time {
		if p == nil {
			return time.Time{}
		}
		return *p
	}
	return workflow.Tries{
		Pair: r.Pair, Login: r.Login, Host: r.Host, Browser: r.Browser,
		LastPair: at(r.LastPair), LastLogin: at(r.LastLogin), LastHost: at(r.LastHost), LastBrowser: at(r.LastBrowser),
	}, err
}

// AddSignInTry notes a try before it is made.
func (t *tx) AddSignInTry(ctx context.Context, login, host string, browser []byte, at time.Time) (id int64, err error) {
	err = t.scan(ctx, &id, `INSERT INTO signin_tries (login, host, browser, at) VALUES (?, ?, ?, ?) RETURNING id`, login, host, browser, at)
	return id, err
}

// ForgetTry takes a try back that was not made.
func (t *tx) ForgetTry(ctx context.Context, id int64) error {
	_, err := t.exec(ctx, `DELETE FROM signin_tries WHERE id = ?`, id)
	return err
}

// ForgetTries forgets what failed before somebody signed in.
func (t *tx) ForgetTries(ctx context.Context, login, host string, browser []byte) error {
	_, err := t.exec(ctx, `DELETE FROM signin_tries WHERE login = ? AND (host = ? OR browser = ?)`, login, host, browser)
	return err
}

// KnowsBrowser tells whether a person signed in in this browser before.
func (t *tx) KnowsBrowser(ctx context.Context, browser []byte, person string) (known bool, err error) {
	err = t.scan(ctx, &known, `SELECT EXISTS (SELECT 1 FROM known_browsers WHERE token_hash = ? AND person_id::text = ?)`, browser, person)
	return known, err
}

// KnowBrowser remembers that a person signed in in this browser.
func (t *tx) KnowBrowser(ctx context.Context, browser []byte, person string, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO known_browsers (site_id, token_hash, person_id, seen) VALUES (?, ?, ?, ?)
		ON CONFLICT (token_hash, person_id) DO UPDATE SET seen = excluded.seen`, t.site, browser, person, at)
	return err
}

// PutPasswordLink keeps the only link by which a person can give themselves a
// password.
func (t *tx) PutPasswordLink(ctx context.Context, token []byte, person string, ends time.Time) error {
	if _, err := t.exec(ctx, `DELETE FROM password_links WHERE person_id::text = ?`, person); err != nil {
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO password_links (site_id, token_hash, person_id, ends) VALUES (?, ?, ?, ?)`, t.site, token, person, ends)
	return err
}

// PasswordLink gives the person of a link that has not ended.
func (t *tx) PasswordLink(ctx context.Context, token []byte, now time.Time) (plan.Person, error) {
	var ids []string
	err := t.scan(ctx, &ids, `SELECT person_id FROM password_links WHERE site_id = ? AND token_hash = ? AND ends > ? FOR UPDATE`, t.site, token, now)
	if err != nil || len(ids) == 0 {
		return plan.Person{}, orNotFound(err)
	}
	return t.Person(ctx, ids[0])
}

// DropPasswordLinks forgets the links, and the known browsers, of a person.
func (t *tx) DropPasswordLinks(ctx context.Context, person string) error {
	for _, table := range []string{"password_links", "known_browsers"} {
		if _, err := t.exec(ctx, `DELETE FROM `+table+` WHERE person_id::text = ?`, person); err != nil {
			return err
		}
	}
	return nil
}

// CleanUp deletes what is not needed any more: sessions that are over, tries to
// sign in that do not count, links that ended, files that were read or that
// nobody accepted, and visits of studies in which nothing was answered.
func (t *tx) CleanUp(ctx context.Context, now time.Time) error {
	day := 24 * time.Hour
	for _, c := range []struct {
		query  string
		before time.Time
	}{
		{`DELETE FROM sessions WHERE expiry < ?`, now},
		{`DELETE FROM signin_tries WHERE at < ?`, now.Add(-day)},
		{`DELETE FROM password_links WHERE ends < ?`, now},
		{`DELETE FROM known_browsers WHERE seen < ?`, now.Add(-400 * day)},
		{`UPDATE bring_ins SET data = '', sheet = NULL WHERE state IN ('refused', 'written', 'failed') AND seen_at < ? AND (data <> '' OR sheet IS NOT NULL)`, now.Add(-day)},
		{`DELETE FROM bring_ins WHERE state IN ('reading', 'ready', 'refused', 'failed', 'written') AND seen_at < ?`, now.Add(-30 * day)},
		{`UPDATE study_visits SET host = '' WHERE at < ? AND host <> ''`, now.Add(-day)},
		{`DELETE FROM unanswered WHERE day < ?`, now.Add(-400 * day)},
		{`DELETE FROM reviews r WHERE at < ? AND NOT EXISTS (SELECT 1 FROM change_states s WHERE s.review_id = r.id)`, now.Add(-30 * day)},
		{`DELETE FROM older_imports WHERE at < ?`, now.Add(-30 * day)},
		{`DELETE FROM large_editions WHERE at < ? AND state <> 'waiting'`, now.Add(-30 * day)},
		{`DELETE FROM rendered_ahead WHERE at < ?`, now.Add(-day)},
		{`DELETE FROM shown_links WHERE ends < ?`, now.Add(-30 * day)},
		{`DELETE FROM freezes WHERE ends < ?`, now.Add(-30 * day)},
		{`DELETE FROM redirect_hits WHERE day < ?`, now.Add(-800 * day)},
		{`DELETE FROM notices WHERE read_at < ?`, now.Add(-90 * day)},
		{`DELETE FROM study_visits v WHERE at < ? AND NOT EXISTS (SELECT 1 FROM study_tries t WHERE t.study_id = v.study_id AND t.visitor = v.visitor)`, now.Add(-day)},
	} {
		if _, err := t.exec(ctx, c.query, c.before); err != nil {
			return err
		}
	}
	return nil
}
