package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/findability"
)

const studyColumns = `id, title, hierarchy, tasks, source, secret, ends, person_id, at, (SELECT count(DISTINCT visitor) FROM study_tries t WHERE t.study_id = s.id) AS people`

type studyRow struct {
	ID, Title, Source, Secret, PersonID string
	Hierarchy, Tasks                    json.RawMessage
	Ends, At                            time.Time
	People                              int
}

func (r studyRow) toPort() (appnavigation.Study, error) {
	s := appnavigation.Study{ID: r.ID, Title: r.Title, Source: r.Source, Secret: r.Secret, Ends: r.Ends, PersonID: r.PersonID, At: r.At, People: r.People}
	if err := json.Unmarshal(r.Hierarchy, &s.Nodes); err != nil {
		return s, fmt.Errorf("study %s: %w", r.ID, err)
	}
	return s, json.Unmarshal(r.Tasks, &s.Tasks)
}

func (t *tx) studies(ctx context.Context, where string, args ...any) ([]appnavigation.Study, error) {
	var rows []studyRow
	if err := t.scan(ctx, &rows, `SELECT `+studyColumns+` FROM studies s WHERE site_id = ? `+where+` ORDER BY at DESC`, append([]any{t.site}, args...)...); err != nil {
		return nil, err
	}
	out := make([]appnavigation.Study, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Studies gives all findability studies, the newest first.
func (t *tx) Studies(ctx context.Context) ([]appnavigation.Study, error) { return t.studies(ctx, "") }

// Study gives one with its tasks and answers.
func (t *tx) Study(ctx context.Context, id string) (appnavigation.Study, error) {
	return t.oneStudy(ctx, "AND id::text = ?", id)
}

// StudyBySecret gives the study that a link leads to.
func (t *tx) StudyBySecret(ctx context.Context, secret string) (appnavigation.Study, error) {
	return t.oneStudy(ctx, "AND secret = ?", secret)
}

func (t *tx) oneStudy(ctx context.Context, where string, arg any) (appnavigation.Study, error) {
	list, err := t.studies(ctx, where, arg)
	if err == nil && len(list) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return appnavigation.Study{}, err
	}
	return list[0], nil
}

// AddStudy adds one.
func (t *tx) AddStudy(ctx context.Context, s appnavigation.Study) error {
	_, err := t.exec(ctx, `INSERT INTO studies (id, site_id, title, hierarchy, tasks, source, secret, ends, person_id, at) VALUES (?, ?, ?, ?::jsonb, ?::jsonb, ?, ?, ?, ?, ?)`,
		s.ID, t.site, s.Title, jsonText(s.Nodes), jsonText(s.Tasks), s.Source, s.Secret, s.Ends.Format(time.DateOnly), s.PersonID, s.At)
	return err
}

// DropStudy deletes one with its answers.
func (t *tx) DropStudy(ctx context.Context, id string) error {
	_, err := t.exec(ctx, `DELETE FROM studies WHERE site_id = ? AND id::text = ?`, t.site, id)
	return err
}

// CountVisitors counts who opened a study, and from one address since a moment.
func (t *tx) CountVisitors(ctx context.Context, study, host string, since time.Time) (all, here int, err error) {
	if _, err := t.exec(ctx, `SELECT 1 FROM studies WHERE id = ? FOR NO KEY UPDATE`, study); err != nil { // one after another
		return 0, 0, err
	}
	var n struct{ All, Here int }
	err = t.scan(ctx, &n, `SELECT count(*) AS all, count(*) FILTER (WHERE host = ? AND at > ?) AS here FROM study_visits WHERE study_id = ?`, host, since, study)
	return n.All, n.Here, err
}

// AddVisitor notes that a browser opened a study.
func (t *tx) AddVisitor(ctx context.Context, study, visitor, host string, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO study_visits (study_id, visitor, host, at) VALUES (?, ?, ?, ?)`, study, visitor, host, at)
	return err
}

// CountTries counts the tasks that a visitor answered.
func (t *tx) CountTries(ctx context.Context, study, visitor string) (n int, err error) {
	err = t.scan(ctx, &n, `SELECT count(*) FROM study_tries WHERE study_id = ? AND visitor = ?`, study, visitor)
	return n, err
}

// KnowsVisitor tells whether a visitor opened the study.
func (t *tx) KnowsVisitor(ctx context.Context, study, visitor string) (known bool, err error) {
	err = t.scan(ctx, &known, `SELECT EXISTS (SELECT 1 FROM study_visits WHERE study_id = ? AND visitor = ?)`, study, visitor)
	return known, err
}

// AddTry keeps what somebody did with a task; once is enough.
func (t *tx) AddTry(ctx context.Context, study string, task int, visitor string, try findability.Try, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO study_tries (study_id, task, visitor, opened, chosen, took_ms, at) VALUES (?, ?, ?, ?::jsonb, ?, ?, ?) ON CONFLICT DO NOTHING`,
		study, task, visitor, listText(try.Opened), try.Chosen, try.Took.Milliseconds(), at)
	return err
}

// Tries gives what was done with each task of a study.
func (t *tx) Tries(ctx context.Context, study string) (map[int][]findability.Try, error) {
	var rows []struct {
		Task   int
		Opened json.RawMessage
		Chosen string
		TookMs int64
	}
	if err := t.scan(ctx, &rows, `SELECT task, opened, chosen, took_ms FROM study_tries WHERE study_id = ? ORDER BY at`, study); err != nil {
		return nil, err
	}
	out := map[int][]findability.Try{}
	for _, r := range rows {
		try := findability.Try{Chosen: r.Chosen, Took: time.Duration(r.TookMs) * time.Millisecond}
		if err := json.Unmarshal(r.Opened, &try.Opened); err != nil {
			return nil, err
		}
		out[r.Task] = append(out[r.Task], try)
	}
	return out, nil
}
