package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"candlepath/internal/app/plan"
)

// Notify tells people something. What a person was told and has not read is told anew with its
// latest words, or has them added; beyond plan.MostUnread of a kind nothing is added.
func (t *tx) Notify(ctx context.Context, list []plan.Notice) error {
	for _, n := range list {
		_, err := t.exec(ctx, `INSERT INTO notices (site_id, person_id, kind, subject, words, at)
			SELECT @site, CAST(@person AS uuid), @kind, @subject, @words, @at
			WHERE EXISTS (SELECT 1 FROM notices WHERE site_id = @site AND person_id::text = @person AND kind = @kind AND subject = @subject AND read_at IS NULL)
				OR (SELECT count(*) FROM notices WHERE site_id = @site AND person_id::text = @person AND kind = @kind AND read_at IS NULL) < @most
			ON CONFLICT (site_id, person_id, kind, subject) WHERE read_at IS NULL DO UPDATE SET at = excluded.at, words = CASE
				WHEN NOT @adds THEN excluded.words
				WHEN length(notices.words) + length(excluded.words) > @longest THEN notices.words
				ELSE notices.words || chr(10) || excluded.words END`,
			map[string]any{"site": t.site, "person": n.PersonID, "kind": string(n.Kind), "subject": indexed(n.Subject), "words": n.Words, "at": n.At, "most": plan.MostUnread, "adds": n.Adds, "longest": longestNotice})
		if err != nil {
			return err
		}
	}
	return nil
}

// longestNotice is how many characters a notice that is added to grows to.
const longestNotice = 4000

// longestSubject is how many bytes of what a notice is of stand in an index.
const longestSubject = 1000

// indexed gives what a notice is of as an index can hold it: of a long one the beginning, and a hash
// of all of it.
func indexed(subject string) string {
	if len(subject) <= longestSubject {
		return subject
	}
	sum := sha256.Sum256([]byte(subject))
	return strings.ToValidUTF8(subject[:longestSubject], "") + " " + hex.EncodeToString(sum[:])
}

// Notices gives up to n notices of a person, those not read first, then the latest first.
func (t *tx) Notices(ctx context.Context, person string, n int) ([]plan.Notice, error) {
	var rows []plan.Notice
	err := t.scan(ctx, &rows, `SELECT id, person_id, kind, subject, words, at, read_at IS NOT NULL AS read FROM notices
		WHERE site_id = ? AND person_id::text = ? ORDER BY read_at IS NOT NULL, at DESC, id DESC LIMIT ?`, t.site, person, n)
	return rows, err
}

// Unread counts what a person was told and has not read.
func (t *tx) Unread(ctx context.Context, person string) (n int, err error) {
	err = t.scan(ctx, &n, `SELECT count(*) FROM notices WHERE site_id = ? AND person_id::text = ? AND read_at IS NULL`, t.site, person)
	return n, err
}

// MarkRead notes that a person read one notice, or all up to one.
func (t *tx) MarkRead(ctx context.Context, person string, id int64, all bool, at time.Time) error {
	_, err := t.exec(ctx, `UPDATE notices SET read_at = greatest(at, @now) WHERE site_id = @site AND person_id::text = @person AND read_at IS NULL
		AND (id = @id OR @all AND id <= @id)`, map[string]any{"site": t.site, "person": person, "id": id, "all": all, "now": at})
	return err
}

// LastNotice gives the greatest subject of the notices of a kind; empty: there was none.
func (t *tx) LastNotice(ctx context.Context, kind plan.NoticeKind) (subject string, err error) {
	err = t.scan(ctx, &subject, `SELECT coalesce(max(subject COLLATE "C"), '') FROM notices WHERE site_id = ? AND kind = ?`, t.site, string(kind))
	return subject, err
}
