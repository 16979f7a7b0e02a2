package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
)

type exportRow struct {
	ID, PersonID, ReadsAs, State, Problem string
	Edition, Done, Total                  int
	Bytes                                 int64
	At                                    time.Time
	Readers                               json.RawMessage
}

// exportsWhere gives the exports of editions that a condition holds for.
func (t *tx) exportsWhere(ctx context.Context, condition string, args ...any) ([]editions.EditionExport, error) {
	var rows []exportRow
	err := t.scan(ctx, &rows, `SELECT id, person_id, edition, reads_as, state, done, total, bytes, problem, at, readers FROM edition_exports WHERE site_id = ? AND `+condition,
		append([]any{t.site}, args...)...)
	out := make([]editions.EditionExport, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Readers, &out[i].Readers); err != nil {
			return nil, fmt.Errorf("export %s: %w", r.ID, err)
		}
		out[i] = editions.EditionExport{
			ID: r.ID, PersonID: r.PersonID, Edition: r.Edition, As: r.ReadsAs, State: editions.LargeState(r.State),
			Done: r.Done, Total: r.Total, Bytes: r.Bytes, Problem: r.Problem, At: r.At, Readers: out[i].Readers,
		}
	}
	return out, err
}

// EditionExport gives an edition that a job writes out.
func (t *tx) EditionExport(ctx context.Context, id string) (x editions.EditionExport, err error) {
	list, err := t.exportsWhere(ctx, `id::text = ?`, id)
	if err == nil && len(list) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return x, err
	}
	return list[0], nil
}

// EditionExportsOf gives the exports of a person.
func (t *tx) EditionExportsOf(ctx context.Context, person string) ([]editions.EditionExport, error) {
	return t.exportsWhere(ctx, `person_id = ?`, person)
}

// EditionExportsBefore gives the exports that were begun before a time.
func (t *tx) EditionExportsBefore(ctx context.Context, at time.Time) ([]editions.EditionExport, error) {
	return t.exportsWhere(ctx, `at < ?`, at)
}

// PutEditionExport keeps an export that is to be written.
func (t *tx) PutEditionExport(ctx context.Context, x editions.EditionExport) error {
	_, err := t.exec(ctx, `INSERT INTO edition_exports (id, site_id, person_id, edition, reads_as, state, at, readers) VALUES (?, ?, ?, ?, ?, ?, ?, CAST(? AS jsonb))`,
		x.ID, t.site, x.PersonID, x.Edition, x.As, string(x.State), x.At, jsonText(x.Readers))
	return err
}

// EditionExportProgress notes how many pages of it are written, and tells whether it is still waited for.
func (t *tx) EditionExportProgress(ctx context.Context, id string, done, total int) (waits bool, err error) {
	n, err := t.exec(ctx, `UPDATE edition_exports SET done = ?, total = ? WHERE site_id = ? AND id = ? AND state = ?`, done, total, t.site, id, string(editions.LargeWaiting))
	return n > 0, err
}

// EndEditionExport notes how an export ended.
func (t *tx) EndEditionExport(ctx context.Context, x editions.EditionExport) error {
	_, err := t.exec(ctx, `UPDATE edition_exports SET state = ?, done = ?, total = ?, bytes = ?, problem = ? WHERE site_id = ? AND id = ? AND state = 'waiting'`,
		string(x.State), x.Done, x.Total, x.Bytes, x.Problem, t.site, x.ID)
	return err
}

// DropEditionExport forgets an export.
func (t *tx) DropEditionExport(ctx context.Context, id string) error {
	_, err := t.exec(ctx, `DELETE FROM edition_exports WHERE site_id = ? AND id = ?`, t.site, id)
	return err
}
