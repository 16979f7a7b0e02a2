package store

import (
	"context"
	"encoding/json"
	"fmt"

	"candlepath/internal/app/editions"
	"candlepath/internal/core/change"
)

// choiceJSON is a change.Choice as it is kept.
type choiceJSON struct {
	Out  []change.Key `json:"out"`
	Seen []seenJSON   `json:"seen"`
}

type seenJSON struct {
	change.Key
	change.State
}

// ChoiceStamp differs whenever a person's choice does.
func (t *tx) ChoiceStamp(ctx context.Context, person string) (stamp string, err error) {
	err = t.scan(ctx, &stamp, `SELECT coalesce((SELECT md5(c::text) FROM edition_choices c WHERE site_id = ? AND person_id = ?), '')`, t.site, person)
	return stamp, err
}

// Choice gives what a person picked for the next edition; the zero value where
// they did not.
func (t *tx) Choice(ctx context.Context, person string) (editions.Choice, error) {
	var rows []struct {
		Why, Note string
		Choice    json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT why, note, choice FROM edition_choices WHERE site_id = ? AND person_id = ?`, t.site, person)
	if err != nil || len(rows) == 0 {
		return editions.Choice{}, err
	}
	c := editions.Choice{Why: rows[0].Why, Note: rows[0].Note}
	if len(rows[0].Choice) == 0 {
		return c, nil
	}
	var kept choiceJSON
	if err := json.Unmarshal(rows[0].Choice, &kept); err != nil {
		return c, fmt.Errorf("choice of %s: %w", person, err)
	}
	c.Out, c.Seen = change.Set{}, make(map[change.Key]change.State, len(kept.Seen))
	for _, k := range kept.Out {
		c.Out[k] = true
	}
	for _, s := range kept.Seen {
		c.Seen[s.Key] = s.State
	}
	return c, nil
}

// PutChoice keeps what a person picked.
func (t *tx) PutChoice(ctx context.Context, person string, c editions.Choice) error {
	kept := choiceJSON{Out: []change.Key{}, Seen: []seenJSON{}}
	for k := range c.Out {
		kept.Out = append(kept.Out, k)
	}
	for k, s := range c.Seen {
		kept.Seen = append(kept.Seen, seenJSON{k, s})
	}
	_, err := t.exec(ctx, `INSERT INTO edition_choices (site_id, person_id, why, note, choice) VALUES (?, ?, ?, ?, ?::jsonb)
		ON CONFLICT (site_id, person_id) DO UPDATE SET why = excluded.why, note = excluded.note, choice = excluded.choice`, t.site, person, c.Why, c.Note, jsonText(kept))
	return err
}

// DropChoice forgets what a person picked.
func (t *tx) DropChoice(ctx context.Context, person string) error {
	_, err := t.exec(ctx, `DELETE FROM edition_choices WHERE site_id = ? AND person_id = ?`, t.site, person)
	return err
}
