package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	appsitemap "candlepath/internal/app/sitemap"
)

type importRow struct {
	ID       string
	SiteID   string
	PersonID string
	At       time.Time
	FileName string
	Data     []byte
	State    string
	Done     int
	Total    int
	Message  string
	Way      string
	Place    string
	SeenAt   time.Time
	Follow   bool
	Texts    bool
	Sheet    []byte
}

// TableName names the table of the rows.
func (importRow) TableName() string { return "bring_ins" }

// PutImport keeps a file that is being imported, with what was read of it.
func (t *tx) PutImport(ctx context.Context, b appsitemap.Import) error {
	r := importRow{b.ID, t.site, b.PersonID, b.At, b.FileName, b.Data, b.State, b.Done, b.Total, b.Message, b.Mode, b.Place, b.At, b.Follow, b.Texts, b.Sheet}
	return wordError(gorm.G[importRow](t.db).Create(ctx, &r))
}

// Import gives an import; its file only if data is set.
func (t *tx) Import(ctx context.Context, id string, data bool) (appsitemap.Import, error) {
	q := gorm.G[importRow](t.db).Where("site_id = ? AND id = ?", t.site, id)
	if !data {
		q = q.Omit("data", "sheet")
	}
	r, err := q.Take(ctx)
	return appsitemap.Import{
		ID: r.ID, PersonID: r.PersonID, At: r.At, FileName: r.FileName, Data: r.Data, State: r.State,
		Done: r.Done, Total: r.Total, Message: r.Message, Mode: r.Way, Place: r.Place, Seen: r.SeenAt, Follow: r.Follow, Texts: r.Texts, Sheet: r.Sheet,
	}, wordError(err)
}

// SetImport notes how far an import is, if it is still in a state.
func (t *tx) SetImport(ctx context.Context, id, from string, to appsitemap.ImportStep) (bool, error) {
	n, err := t.exec(ctx, `UPDATE bring_ins SET state = ?, done = ?, total = ?, message = ?, seen_at = ? WHERE site_id = ? AND id = ? AND state = ?`,
		to.State, to.Done, to.Total, to.Message, to.At, t.site, id, from)
	return n == 1, err
}

// SetSheet keeps the sheet that was chosen of a workbook.
func (t *tx) SetSheet(ctx context.Context, id string, sheet []byte) error {
	_, err := t.exec(ctx, `UPDATE bring_ins SET sheet = ? WHERE site_id = ? AND id = ?`, sheet, t.site, id)
	return err
}

// ChooseMode keeps how an import was asked to be done: where to, by what to match.
func (t *tx) ChooseMode(ctx context.Context, b appsitemap.Import) error {
	_, err := t.exec(ctx, `UPDATE bring_ins SET way = ?, place = ?, follow = ?, texts = ? WHERE site_id = ? AND id = ?`, b.Mode, b.Place, b.Follow, b.Texts, t.site, b.ID)
	return err
}

// ImportedIDs gives which entry an id of an imported file became.
func (t *tx) ImportedIDs(ctx context.Context) (map[string]string, error) {
	var rows []struct{ FileID, EntryID string }
	err := t.scan(ctx, &rows, `SELECT file_id, entry_id FROM brought_ids WHERE site_id = ?`, t.site)
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.FileID] = r.EntryID
	}
	return out, err
}

// RememberIDs adds to them.
func (t *tx) RememberIDs(ctx context.Context, ids map[string]string) error {
	_, err := t.exec(ctx, `INSERT INTO brought_ids (site_id, file_id, entry_id) SELECT ?, key, value FROM jsonb_each_text(?::jsonb)
		ON CONFLICT (site_id, file_id) DO UPDATE SET entry_id = excluded.entry_id`, t.site, jsonText(ids))
	return err
}
