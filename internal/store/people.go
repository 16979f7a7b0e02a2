package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/port"
	"candlepath/internal/core/workflow"
)

type personRow struct {
	ID           string
	SiteID       string
	Login        string
	Name         string
	Role         string
	PasswordHash string
}

func (personRow) TableName() string { return "people" }

func (r personRow) toPort() port.Person {
	return port.Person{ID: r.ID, Login: r.Login, Name: r.Name, Role: workflow.Role(r.Role), PasswordHash: r.PasswordHash}
}

func (t *tx) CreateSite(ctx context.Context, s port.Site) error {
	_, err := t.exec(ctx, `INSERT INTO sites (id, name, hosts, editors_publish, own_work) VALUES (?, ?, string_to_array(?, ','), ?, ?)`,
		s.ID, s.Name, strings.Join(s.Hosts, ","), s.Rights.EditorsPublish, s.Rights.OwnWork)
	t.site = s.ID
	return err
}

func (t *tx) People(ctx context.Context) ([]port.Person, error) {
	rows, err := gorm.G[personRow](t.db).Where("site_id = ?", t.site).Order("name").Find(ctx)
	out := make([]port.Person, len(rows))
	for i, r := range rows {
		out[i] = r.toPort()
	}
	return out, wordError(err)
}

func (t *tx) PersonByLogin(ctx context.Context, login string) (port.Person, error) {
	r, err := gorm.G[personRow](t.db).Where("site_id = ? AND login = ?", t.site, login).Take(ctx)
	return r.toPort(), wordError(err)
}

func (t *tx) AddPerson(ctx context.Context, p port.Person) error {
	r := personRow{p.ID, t.site, p.Login, p.Name, string(p.Role), p.PasswordHash}
	return wordError(gorm.G[personRow](t.db).Create(ctx, &r))
}

func (t *tx) Failures(ctx context.Context, login, host string, since time.Time) (byLogin, byHost int, err error) {
	var n struct{ Login, Host int }
	err = t.scan(ctx, &n, `SELECT count(*) FILTER (WHERE login = ?) AS login, count(*) FILTER (WHERE host = ?) AS host
		FROM signin_failures WHERE at > ? AND (login = ? OR host = ?)`, login, host, since, login, host)
	return n.Login, n.Host, err
}

func (t *tx) AddFailure(ctx context.Context, login, host string, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO signin_failures (login, host, at) VALUES (?, ?, ?)`, login, host, at)
	return err
}

func (t *tx) ForgetFailures(ctx context.Context, login string) error {
	_, err := t.exec(ctx, `DELETE FROM signin_failures WHERE login = ?`, login)
	return err
}
