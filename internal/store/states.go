package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
)

// DraftStates lists the states that are kept of a page's draft, the newest first.
func (t *tx) DraftStates(ctx context.Context, entry string) ([]workflow.DraftState, error) {
	var rows []struct {
		ID, PersonID string
		At, BegunAt  time.Time
		Lost         bool
		Bytes        int
	}
	err := t.scan(ctx, &rows, `SELECT id, person_id, at, begun_at, lost, bytes FROM draft_states WHERE site_id = ? AND entry_id = ? ORDER BY at DESC`, t.site, entry)
	out := make([]workflow.DraftState, len(rows))
	for i, r := range rows {
		out[i] = workflow.DraftState{ID: r.ID, Person: r.PersonID, At: r.At, Begun: r.BegunAt, Lost: r.Lost, Bytes: r.Bytes}
	}
	return out, err
}

// DraftState gives the text of one of them.
func (t *tx) DraftState(ctx context.Context, entry, id string) (p content.Page, err error) {
	var rows []struct{ Content json.RawMessage }
	err = t.scan(ctx, &rows, `SELECT content FROM draft_states WHERE site_id = ? AND entry_id = ? AND id::text = ?`, t.site, entry, id)
	if err != nil {
		return p, err
	}
	if len(rows) == 0 {
		return p, plan.ErrNotFound
	}
	if err := json.Unmarshal(rows[0].Content, &p); err != nil {
		return p, fmt.Errorf("draft state %s: %w", id, err)
	}
	return p, nil
}

// PutDraftState keeps a text as a state beside the draft.
func (t *tx) PutDraftState(ctx context.Context, entry string, s workflow.DraftState, text content.Page) error {
	body := jsonText(text)
	_, err := t.exec(ctx, `INSERT INTO draft_states (id, site_id, entry_id, person_id, at, begun_at, bytes, content) VALUES (?, ?, ?, ?, ?, ?, ?, CAST(? AS jsonb))`,
		s.ID, t.site, entry, s.Person, s.At, s.Begun, len(body), body)
	return err
}

// LoseState notes that the state after one lacks some of it.
func (t *tx) LoseState(ctx context.Context, id string) error {
	_, err := t.exec(ctx, `UPDATE draft_states SET lost = true WHERE site_id = ? AND id::text = ?`, t.site, id)
	return err
}

// DropDraftStates deletes states.
func (t *tx) DropDraftStates(ctx context.Context, ids []string) error {
	if len(ids) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `DELETE FROM draft_states WHERE site_id = ? AND id::text `+inSet, t.site, setText(ids))
	return err
}
