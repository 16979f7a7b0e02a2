package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/workflow"
)

// discarded stands in place of the edition in which a change went out where it is not planned any more. Then at is when
// it was discarded.
const discarded = `0`

// AddAuthors records who made what, notes of what is not planned any more that it was discarded, and makes drafts of
// what of it was in review, approved or scheduled, with a line in its history. Where an act of some time is undone or
// redone, what was discarded since has its authors again.
func (t *tx) AddAuthors(ctx context.Context, by plan.Planned, since time.Time, list []plan.Authored) ([]plan.Fallen, error) {
	args := map[string]any{"site": t.site, "person": by.PersonID, "at": by.At, "list": jsonText(list)}
	_, err := t.exec(ctx, `INSERT INTO authors (site_id, change_id, aspect, person_id, at)
		SELECT DISTINCT CAST(@site AS uuid), l.id, a, CAST(@person AS uuid), CAST(@at AS timestamptz) FROM `+authoredList+` CROSS JOIN LATERAL jsonb_array_elements_text(l.aspects) a
		ON CONFLICT (site_id, change_id, aspect, person_id) WHERE out_in IS NULL DO UPDATE SET at = excluded.at`, args)
	if err != nil {
		return nil, err
	}
	var whole, planned []string // what is told whole, and what is planned of it
	for _, l := range list {
		if l.Planned == nil {
			continue
		}
		whole = append(whole, l.ID)
		for _, aspect := range l.Planned {
			planned = append(planned, l.ID+"\x1f"+string(aspect))
		}
	}
	if len(whole) > 0 { // arrays, which are looked up by hash: a join over thousands of records is planned for a hundred
		of := map[string]any{"site": t.site, "whole": setText(whole), "planned": setText(planned), "at": by.At, "since": since}
		if _, err := t.exec(ctx, `UPDATE authors SET out_in = `+discarded+`, at = CAST(@at AS timestamptz) WHERE site_id = @site AND out_in IS NULL AND aspect <> ''
			AND change_id = ANY (CAST(@whole AS text[])) AND change_id || chr(31) || aspect <> ALL (CAST(@planned AS text[]))`, of); err != nil {
			return nil, err
		}
		if since.IsZero() {
			return t.fallen(ctx, list, by)
		}
		if _, err := t.exec(ctx, `INSERT INTO authors (site_id, change_id, aspect, person_id, at)
			SELECT site_id, change_id, aspect, person_id, max(at) FROM authors WHERE site_id = @site AND out_in = `+discarded+` AND at >= CAST(@since AS timestamptz)
				AND change_id || chr(31) || aspect = ANY (CAST(@planned AS text[])) GROUP BY 1, 2, 3, 4 ON CONFLICT DO NOTHING`, of); err != nil {
			return nil, err
		}
	}
	return t.fallen(ctx, list, by)
}

// authoredList reads what somebody made of things.
const authoredList = `jsonb_to_recordset(CAST(@list AS jsonb)) AS l(id text, aspects jsonb, planned jsonb, gone boolean)`

// fallen makes drafts of what was on its way out, and gives it.
func (t *tx) fallen(ctx context.Context, list []plan.Authored, by plan.Planned) ([]plan.Fallen, error) {
	args := map[string]any{"site": t.site, "at": by.At, "list": jsonText(list), "added": string(change.Added), "draft": string(workflow.Draft)}
	var rows []struct {
		ChangeID, Aspect, State, Person, By, From, Asked string
		GoAt                                             *time.Time
	}
	err := t.scan(ctx, &rows, `UPDATE change_states s SET state = @draft, go_at = NULL, zone = '', word = '', by_id = NULL, approved = true, at = @at
		FROM (SELECT c.site_id, c.change_id, c.aspect, c.state, c.person_id, c.by_id, c.go_at, c.review_id FROM `+authoredList+`
			JOIN change_states c ON c.site_id = @site AND c.change_id = l.id AND c.state <> @draft
				AND (l.gone OR jsonb_exists(l.aspects, c.aspect) OR c.aspect = @added) FOR UPDATE OF c) was
		LEFT JOIN reviews r ON r.id = was.review_id
		WHERE s.site_id = was.site_id AND s.change_id = was.change_id AND s.aspect = was.aspect
		RETURNING s.change_id, s.aspect, was.state, was.person_id AS person, coalesce(was.by_id::text, '') AS by, coalesce(r.person_id::text, '') AS from,
			CASE WHEN was.state = 'in review' THEN coalesce(r.reviewer_id::text, '') ELSE '' END AS asked, was.go_at`, args)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	out := make([]plan.Fallen, len(rows))
	met := map[string]bool{}
	for i, r := range rows {
		out[i] = plan.Fallen{Key: change.Key{ID: r.ChangeID, Aspect: change.Aspect(r.Aspect)}, State: workflow.State(r.State), Person: r.Person, By: r.By, From: r.From, Asked: r.Asked}
		if r.GoAt != nil {
			out[i].GoAt = *r.GoAt
		}
		if met[r.ChangeID] {
			continue
		}
		met[r.ChangeID] = true
		_, noted := t.exec(ctx, `INSERT INTO change_history (site_id, change_id, state, person_id, word, at) VALUES (?, ?, ?, ?, '', ?)`, t.site, r.ChangeID, string(workflow.Draft), by.PersonID, by.At)
		err = errors.Join(err, noted)
	}
	return out, err
}

// Authors gives who made what is planned, by change. What has no aspect counts for all of a thing.
func (t *tx) Authors(ctx context.Context) (map[change.Key][]string, error) {
	var rows []struct{ PersonID, Changes string } // a row a person, since reading a row takes longer than all that it holds
	err := t.scan(ctx, &rows, `SELECT person_id, string_agg(change_id || chr(31) || aspect, chr(30)) AS changes
		FROM authors WHERE site_id = ? AND out_in IS NULL GROUP BY person_id ORDER BY person_id`, t.site)
	out := map[change.Key][]string{}
	for _, r := range rows {
		for one := range strings.SplitSeq(r.Changes, "\x1e") {
			id, aspect, _ := strings.Cut(one, "\x1f")
			k := change.Key{ID: id, Aspect: change.Aspect(aspect)}
			out[k] = append(out[k], r.PersonID)
		}
	}
	return out, err
}

// authorsOut notes in which edition changes went out. A restored edition opens again what went out since.
func (t *tx) authorsOut(ctx context.Context, edition int, out []change.Key, backTo int) error {
	if backTo > 0 {
		_, err := t.exec(ctx, `INSERT INTO authors (site_id, change_id, aspect, person_id, at)
			SELECT site_id, change_id, aspect, person_id, max(at) FROM authors WHERE site_id = ? AND out_in > ? GROUP BY 1, 2, 3, 4 ON CONFLICT DO NOTHING`, t.site, backTo)
		return err
	}
	type key struct {
		ID     string `json:"id"`
		Aspect string `json:"aspect"`
	}
	rows := make([]key, len(out))
	for i, k := range out {
		rows[i] = key{k.ID, string(k.Aspect)}
	}
	_, err := t.exec(ctx, `UPDATE authors w SET out_in = @edition FROM jsonb_to_recordset(CAST(@out AS jsonb)) AS k(id text, aspect text)
		WHERE w.site_id = @site AND w.out_in IS NULL AND w.change_id = k.id AND (w.aspect = k.aspect OR k.aspect = @added OR w.aspect = '' AND k.aspect <> @content)`,
		map[string]any{"site": t.site, "edition": edition, "out": jsonText(rows), "added": string(change.Added), "content": string(change.Content)})
	return err
}
