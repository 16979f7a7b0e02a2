package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
)

type actRow struct {
	ID       int64 `gorm:"default:(-)"`
	SiteID   string
	Key      string
	PersonID string
	At       time.Time
	Label    string
	Patches  json.RawMessage `gorm:"type:jsonb"`
	Version  int64
	State    string
	UndoneAt *int64
}

// TableName names the table of the rows.
func (actRow) TableName() string { return "acts" }

func (r actRow) toPort() (plan.Act, error) {
	a := plan.Act{ID: r.ID, Key: r.Key, PersonID: r.PersonID, At: r.At, Label: r.Label, Version: r.Version}
	if err := json.Unmarshal(r.Patches, &a.Patches); err != nil {
		return a, fmt.Errorf("act %d: %w", r.ID, err)
	}
	return a, nil
}

// AddAct adds an act to the record, done.
func (t *tx) AddAct(ctx context.Context, a plan.Act) error {
	_, err := t.exec(ctx, `INSERT INTO acts (site_id, key, person_id, at, label, patches, texts, decisions, shapes, redirects, version) VALUES (?, ?, ?, ?, ?, ?::jsonb, ?::jsonb, ?::jsonb, ?::jsonb, ?::jsonb, ?)`,
		t.site, a.Key, a.PersonID, a.At, a.Label, listText(a.Patches), listText(a.Texts), listText(a.Decisions), listText(a.Shapes), listText(a.Redirects), a.Version)
	return err
}

// listText is a list as JSON, also where there is none.
func listText[T any](list []T) string {
	if list == nil {
		list = []T{}
	}
	return jsonText(list)
}

// ActSideEffects gives what an act did beside the tree: drafts, links, menus, trails.
func (t *tx) ActSideEffects(ctx context.Context, id int64) (plan.SideEffects, error) {
	var r struct{ Texts, Decisions, Shapes, Redirects json.RawMessage }
	var also plan.SideEffects
	if err := t.scan(ctx, &r, `SELECT texts, decisions, shapes, redirects FROM acts WHERE site_id = ? AND id = ?`, t.site, id); err != nil {
		return also, err
	}
	if err := json.Unmarshal(r.Texts, &also.Texts); err != nil {
		return also, fmt.Errorf("act %d: %w", id, err)
	}
	if err := json.Unmarshal(r.Shapes, &also.Shapes); err != nil {
		return also, fmt.Errorf("act %d: %w", id, err)
	}
	if err := json.Unmarshal(r.Redirects, &also.Redirects); err != nil {
		return also, fmt.Errorf("act %d: %w", id, err)
	}
	return also, json.Unmarshal(r.Decisions, &also.Decisions)
}

func (t *tx) oneAct(ctx context.Context, order, where string, args ...any) (plan.Act, error) {
	r, err := gorm.G[actRow](t.db).Where("site_id = ?", t.site).Where(where, args...).Order(order).Take(ctx)
	if err != nil {
		return plan.Act{}, wordError(err)
	}
	return r.toPort()
}

// ActByKey gives the act that was asked for under a key; plan.ErrNotFound if none was.
func (t *tx) ActByKey(ctx context.Context, key string) (plan.Act, error) {
	return t.oneAct(ctx, "id", "key = ?", key)
}

// NextUndo gives the latest act of a person that is not undone.
func (t *tx) NextUndo(ctx context.Context, person string) (plan.Act, error) {
	return t.oneAct(ctx, "id DESC", "person_id = ? AND state = 'done'", person)
}

// NextRedo gives the act that the person undid last.
func (t *tx) NextRedo(ctx context.Context, person string) (plan.Act, error) {
	return t.oneAct(ctx, "undone_at DESC", "person_id = ? AND state = 'undone'", person)
}

// SetActState marks an act as done, undone or settled, at a version of the plan.
func (t *tx) SetActState(ctx context.Context, id int64, s plan.ActState, version int64) error {
	_, err := t.exec(ctx, `UPDATE acts SET state = ?, undone_at = ?, version = ? WHERE id = ?`, string(s), version, version, id)
	return err
}

// DropUndone forgets the undone acts of a person, which a new act leaves behind.
func (t *tx) DropUndone(ctx context.Context, person string) error {
	_, err := t.exec(ctx, `UPDATE acts SET state = 'dropped' WHERE site_id = ? AND person_id = ? AND state = 'undone'`, t.site, person)
	return err
}

// ActsAfter gives up to n acts after a version of the plan, in their order.
func (t *tx) ActsAfter(ctx context.Context, version int64, n int) ([]plan.Act, error) {
	rows, err := gorm.G[actRow](t.db).Where("site_id = ? AND version > ?", t.site, version).Order("version").Limit(n).Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]plan.Act, len(rows))
	for i, r := range rows {
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// ActOn gives the latest act of others than a person since a version of the plan
// that changed one of the entries, menus or trails or, if gone, took one away.
func (t *tx) ActOn(ctx context.Context, since int64, notBy string, entries []string, gone bool) (plan.Act, error) {
	did := `p ->> 'ID' ` + inSet
	if gone {
		did += ` AND coalesce(p -> 'After', 'null') = 'null'`
	}
	return t.oneAct(ctx, "version DESC", `version > ? AND person_id::text <> ? AND EXISTS (SELECT 1 FROM jsonb_array_elements(patches || shapes) p WHERE `+did+`)`,
		since, notBy, setText(entries))
}

// SettleActs takes acts out of undo once nothing of them is planned any more.
func (t *tx) SettleActs(ctx context.Context, stillPlanned func(id string) bool) error {
	var rows []struct {
		ID  int64
		Ids string
	}
	err := t.scan(ctx, &rows, `SELECT id, concat_ws(',',
			(SELECT string_agg(p ->> 'ID', ',') FROM jsonb_array_elements(patches) p),
			(SELECT string_agg(p ->> 'EntryID', ',') FROM jsonb_array_elements(texts) p),
			(SELECT string_agg(p ->> 'ID', ',') FROM jsonb_array_elements(shapes) p),
			(SELECT string_agg(p ->> 'ID', ',') FROM jsonb_array_elements(redirects) p)) AS ids
		FROM acts WHERE site_id = ? AND state IN ('done', 'undone')`, t.site)
	if err != nil {
		return err
	}
	var settled []int64
	for _, r := range rows {
		planned := false
		for _, id := range splitIDs(r.Ids) {
			planned = planned || stillPlanned(id)
		}
		if !planned {
			settled = append(settled, r.ID)
		}
	}
	if len(settled) == 0 {
		return nil
	}
	_, err = t.exec(ctx, `UPDATE acts SET state = 'settled' WHERE id IN ?`, settled)
	return err
}

func splitIDs(s string) []string {
	var out []string
	for start, i := 0, 0; i <= len(s); i++ {
		if i == len(s) || s[i] == ',' {
			if i > start {
				out = append(out, s[start:i])
			}
			start = i + 1
		}
	}
	return out
}

// BumpPlan counts the version of the plan on and returns it.
func (t *tx) BumpPlan(ctx context.Context) (int64, error) {
	var v int64
	if err := t.scan(ctx, &v, `UPDATE sites SET plan_version = plan_version + 1 WHERE id = ? RETURNING plan_version`, t.site); err != nil {
		return v, err
	}
	return v, t.TellWork(ctx, "plan")
}

type decisionRow struct {
	SiteID    string
	EntryID   string
	ToEntry   string
	ToAddress string
	ToURL     string `gorm:"column:to_url"`
	ToSuffix  string
	Code      int
	Note      string
	Review    string
	PersonID  string
	Says      string
}

// TableName names the table of the rows.
func (decisionRow) TableName() string { return "decisions" }

// Decisions gives what was decided for the addresses of removed entries, by entry.
func (t *tx) Decisions(ctx context.Context) (map[string]redirect.Decision, error) {
	rows, err := gorm.G[decisionRow](t.db).Where("site_id = ?", t.site).Find(ctx)
	out := make(map[string]redirect.Decision, len(rows))
	for _, r := range rows {
		out[r.EntryID] = redirect.Decision{
			To:   redirect.Target{Entry: r.ToEntry, Address: r.ToAddress, URL: r.ToURL, Suffix: r.ToSuffix},
			Code: r.Code, Note: r.Note, Review: r.Review, Says: r.Says,
		}
	}
	return out, wordError(err)
}

// PutDecision keeps or replaces a decision.
func (t *tx) PutDecision(ctx context.Context, entry string, d redirect.Decision, person string) error {
	if err := t.DropDecision(ctx, entry); err != nil {
		return err
	}
	r := decisionRow{t.site, entry, d.To.Entry, d.To.Address, d.To.URL, d.To.Suffix, d.Code, d.Note, d.Review, person, d.Says}
	return wordError(gorm.G[decisionRow](t.db).Create(ctx, &r))
}

// DropDecision forgets one.
func (t *tx) DropDecision(ctx context.Context, entry string) error {
	_, err := t.exec(ctx, `DELETE FROM decisions WHERE site_id = ? AND entry_id = ?`, t.site, entry)
	return err
}

// LeftOut gives the changes that the last edition left out, in no particular order.
func (t *tx) LeftOut(ctx context.Context) ([]change.Key, error) {
	var rows []struct{ EntryID, Aspect string }
	err := t.scan(ctx, &rows, `SELECT entry_id, aspect FROM left_out WHERE site_id = ? ORDER BY entry_id, aspect`, t.site)
	out := make([]change.Key, len(rows))
	for i, r := range rows {
		out[i] = change.Key{ID: r.EntryID, Aspect: change.Aspect(r.Aspect)}
	}
	return out, err
}

// SetLeftOut replaces them.
func (t *tx) SetLeftOut(ctx context.Context, keys []change.Key) error {
	if _, err := t.exec(ctx, `DELETE FROM left_out WHERE site_id = ?`, t.site); err != nil {
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO left_out (site_id, entry_id, aspect)
		SELECT ?, k ->> 'ID', k ->> 'Aspect' FROM jsonb_array_elements(?::jsonb) AS k`, t.site, jsonText(keys))
	return err
}
