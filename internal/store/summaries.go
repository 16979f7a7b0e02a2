package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
)

type summaryRow struct {
	EntryID   string
	VersionID string
	Version   int
	PersonID  string
	ChangedAt time.Time
	Draft     bool
	Bare      bool
	Template  string
	Report    []byte // only where it tells more than the template
	Links     []byte // only where there are some
}

// interned gives one string for all that are the same: links of many pages lead to
// the same page, and people and templates are few.
type interned map[string]string

func (in interned) of(s string) string {
	if known, ok := in[s]; ok {
		return known
	}
	in[s] = s
	return s
}

func (r summaryRow) toPort(in interned) (plan.PageSummary, error) {
	h := plan.PageSummary{EntryID: r.EntryID, VersionID: r.VersionID, Version: r.Version, PersonID: r.PersonID, At: r.ChangedAt, Draft: r.Draft, Unrendered: r.Bare, Report: content.Report{Template: r.Template}}
	for _, field := range []struct {
		from []byte
		into any
	}{{r.Report, &h.Report}, {r.Links, &h.Links}} {
		if len(field.from) == 0 {
			continue
		}
		if err := json.Unmarshal(field.from, field.into); err != nil {
			return h, fmt.Errorf("page %s: %w", r.EntryID, err)
		}
	}
	h.PersonID, h.Report.Template = in.of(h.PersonID), in.of(h.Report.Template)
	for i, l := range h.Links {
		h.Links[i].To, h.Links[i].Text = in.of(l.To), in.of(l.Text)
	}
	return h, nil
}

func (t *tx) summaries(ctx context.Context, which string, args ...any) ([]plan.PageSummary, error) {
	rows, err := t.db.WithContext(ctx).Raw(`SELECT s.entry_id, v.id, v.version, v.person_id, v.changed_at, s.from_edition IS NULL AS draft, `+isBare+`,
			coalesce(v.report ->> 'template', ''), CASE WHEN v.report - 'template' <> '{}' THEN v.report END, `+linksOfVersion+`
		FROM page_spans s JOIN page_versions v ON v.id = s.version_id WHERE s.site_id = ? AND `+which, append([]any{t.site}, args...)...).Rows()
	if err != nil {
		return nil, wordError(err)
	}
	defer rows.Close()
	var out []plan.PageSummary
	in := interned{}
	for rows.Next() {
		var r summaryRow
		if err := rows.Scan(&r.EntryID, &r.VersionID, &r.Version, &r.PersonID, &r.ChangedAt, &r.Draft, &r.Bare, &r.Template, &r.Report, &r.Links); err != nil {
			return nil, wordError(err)
		}
		h, err := r.toPort(in)
		if err != nil {
			return nil, err
		}
		out = append(out, h)
	}
	return out, wordError(rows.Err())
}

// LiveSummaries gives the live versions that came after an edition, and the pages
// whose version ended after it.
func (t *tx) LiveSummaries(ctx context.Context, after int) (came []plan.PageSummary, ended []string, err error) {
	if came, err = t.summaries(ctx, isLive+" AND s.from_edition > ?", after); err != nil || after == 0 {
		return came, nil, err
	}
	err = t.scan(ctx, &ended, `SELECT DISTINCT entry_id FROM page_spans WHERE site_id = ? AND to_edition > ?`, t.site, after)
	return came, ended, err
}

// DraftStamps gives the version of the row of every draft, and whether it is rendered, by draft. Every save raises it,
// and writes its links in the same transaction.
func (t *tx) DraftStamps(ctx context.Context) (map[string]string, error) {
	rows, err := t.db.WithContext(ctx).Raw(`SELECT v.id::text, v.version || CASE WHEN `+isBare+` THEN ' bare' ELSE '' END FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = ? AND `+isDraft, t.site).Rows()
	if err != nil {
		return nil, wordError(err)
	}
	defer rows.Close()
	out := map[string]string{}
	for rows.Next() {
		var id, stamp string
		if err := rows.Scan(&id, &stamp); err != nil {
			return nil, wordError(err)
		}
		out[id] = stamp
	}
	return out, wordError(rows.Err())
}

// DraftSummaries gives the drafts of some versions.
func (t *tx) DraftSummaries(ctx context.Context, versions []string) ([]plan.PageSummary, error) {
	return t.summaries(ctx, isDraft+` AND s.version_id IN (SELECT CAST(unnest(CAST(? AS text[])) AS uuid))`, setText(versions))
}
