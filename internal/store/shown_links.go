package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
)

// PutShownLink keeps a link that shows what is planned, with the hash of its secret.
func (t *tx) PutShownLink(ctx context.Context, l editions.ShownLink, hash []byte) error {
	_, err := t.exec(ctx, `INSERT INTO shown_links (id, site_id, hash, state, reader, person_id, at, ends, readers) VALUES (?, ?, ?, ?, ?, ?, ?, ?, CAST(? AS jsonb))`,
		l.ID, t.site, hash, l.Of, l.As, l.PersonID, l.At, l.Ends, jsonText(l.Readers))
	return err
}

// ShownLink gives the link of a secret.
func (t *tx) ShownLink(ctx context.Context, hash []byte) (l editions.ShownLink, err error) {
	list, err := t.shownLinks(ctx, `hash = ?`, hash)
	if err == nil && len(list) == 0 {
		return l, plan.ErrNotFound
	}
	if err != nil {
		return l, err
	}
	return list[0], nil
}

// ShownLinks gives the links that have not ended at a time.
func (t *tx) ShownLinks(ctx context.Context, at time.Time) ([]editions.ShownLink, error) {
	return t.shownLinks(ctx, `ends > ?`, at)
}

func (t *tx) shownLinks(ctx context.Context, which string, arg any) (list []editions.ShownLink, err error) {
	var rows []struct {
		ID, State, Reader, PersonID string
		At, Ends                    time.Time
		Remarks                     int
		Readers                     json.RawMessage
	}
	err = t.scan(ctx, &rows, `SELECT id, state, reader, person_id, at, ends, remarks, readers FROM shown_links WHERE site_id = ? AND `+which+` ORDER BY at DESC`, t.site, arg)
	for _, r := range rows {
		l := editions.ShownLink{ID: r.ID, Of: r.State, As: r.Reader, PersonID: r.PersonID, At: r.At, Ends: r.Ends, Remarks: r.Remarks}
		err = errors.Join(err, json.Unmarshal(r.Readers, &l.Readers))
		list = append(list, l)
	}
	return list, err
}

// EndShownLink forgets a link.
func (t *tx) EndShownLink(ctx context.Context, id string) error {
	_, err := t.exec(ctx, `DELETE FROM shown_links WHERE site_id = ? AND id = ?`, t.site, id)
	return err
}

// CountRemark counts a remark that comes over a link, unless there were that many, or in the hour.
func (t *tx) CountRemark(ctx context.Context, link string, at time.Time, most, inHour int) (bool, error) {
	n, err := t.exec(ctx, `UPDATE shown_links SET remarks = remarks + 1, hour = @hour, in_hour = CASE WHEN hour = @hour THEN in_hour + 1 ELSE 1 END
		WHERE site_id = @site AND id = @link AND remarks < @most AND (hour <> @hour OR in_hour < @inHour)`,
		map[string]any{"site": t.site, "link": link, "hour": at.UTC().Truncate(time.Hour), "most": most, "inHour": inHour})
	return n > 0, err
}
