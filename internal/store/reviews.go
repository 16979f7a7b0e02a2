package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/review"
	"candlepath/internal/core/workflow"
)

// ApprovalStates gives where planned changes were put.
func (t *tx) ApprovalStates(ctx context.Context) (map[change.Key]review.ApprovalState, error) {
	var rows []struct {
		ChangeID, Aspect, State, Stamp, PersonID, ReviewID, Word string
		At                                                       time.Time
		GoAt                                                     *time.Time
		Zone, ByID                                               string
		Approved                                                 bool
	}
	err := t.scan(ctx, &rows, `SELECT change_id, aspect, state, stamp, person_id, coalesce(review_id::text, '') AS review_id, word, at, go_at, zone, coalesce(by_id::text, '') AS by_id, approved FROM change_states WHERE site_id = ?`, t.site)
	out := make(map[change.Key]review.ApprovalState, len(rows))
	for _, r := range rows {
		s := review.ApprovalState{
			ApprovalState: workflow.ApprovalState{State: workflow.State(r.State), Stamp: r.Stamp, Person: r.PersonID, Review: r.ReviewID, Word: r.Word}, At: r.At, Zone: r.Zone, By: r.ByID, Approved: r.Approved,
		}
		if r.GoAt != nil {
			s.GoAt = *r.GoAt
		}
		out[change.Key{ID: r.ChangeID, Aspect: change.Aspect(r.Aspect)}] = s
	}
	return out, err
}

// PutStandings puts changes somewhere.
func (t *tx) PutStandings(ctx context.Context, list map[change.Key]review.ApprovalState) error {
	type row struct {
		ID     string     `json:"change_id"`
		Aspect string     `json:"aspect"`
		State  string     `json:"state"`
		Stamp  string     `json:"stamp"`
		Person string     `json:"person_id"`
		By     *string    `json:"by_id"`
		At     time.Time  `json:"at"`
		Review *string    `json:"review_id"`
		Word   string     `json:"word"`
		GoAt   *time.Time `json:"go_at"`
		Zone   string     `json:"zone"`

		Approved bool `json:"approved"`
	}
	rows := make([]row, 0, len(list))
	for k, s := range list {
		r := row{k.ID, string(k.Aspect), string(s.State), s.Stamp, s.Person, nil, s.At, nil, s.Word, nil, s.Zone, s.Approved || s.State != workflow.Scheduled}
		if s.By != "" {
			r.By = &s.By
		}
		if s.Review != "" {
			r.Review = &s.Review
		}
		if s.State == workflow.Scheduled {
			r.GoAt = &s.GoAt
		}
		rows = append(rows, r)
	}
	const fields = "change_id, aspect, state, stamp, person_id, at, review_id, word, go_at, zone, by_id, approved"
	_, err := t.exec(ctx, `INSERT INTO change_states (site_id, `+fields+`)
		SELECT ?, `+fields+` FROM jsonb_to_recordset(?::jsonb) AS r(change_id text, aspect text, state text, stamp text, person_id uuid, at timestamptz, review_id uuid, word text, go_at timestamptz, zone text, by_id uuid, approved boolean)
		ON CONFLICT (site_id, change_id, aspect) DO UPDATE SET state = excluded.state, stamp = excluded.stamp, person_id = excluded.person_id,
			at = excluded.at, review_id = excluded.review_id, word = excluded.word, go_at = excluded.go_at, zone = excluded.zone, by_id = excluded.by_id, approved = excluded.approved`, t.site, jsonText(rows))
	if err != nil {
		return err
	}
	_, err = t.exec(ctx, `INSERT INTO change_history (site_id, change_id, state, person_id, word, go_at, at, sent_to, due)
		SELECT DISTINCT CAST(? AS uuid), r.change_id, r.state, coalesce(r.by_id, r.person_id), r.word, r.go_at, r.at,
			CASE WHEN v.id IS NULL THEN '' WHEN v.reviewer_role <> '' THEN ? || v.reviewer_role ELSE coalesce(v.reviewer_id::text, ?) END,
			coalesce(to_char(v.due, 'YYYY-MM-DD'), '')
		FROM jsonb_to_recordset(?::jsonb) AS r(change_id text, state text, person_id uuid, by_id uuid, review_id uuid, word text, go_at timestamptz, at timestamptz)
		LEFT JOIN reviews v ON v.id = r.review_id AND r.state = 'in review'`, t.site, editions.GroupOfRole(""), editions.Anybody, jsonText(rows))
	return err
}

// ChangeHistory gives the steps that the changes of a thing took, the latest first.
func (t *tx) ChangeHistory(ctx context.Context, id string, n int) ([]editions.HistoryStep, error) {
	var rows []struct {
		State, PersonID, Word string
		PassedTo, SentTo, Due string
		GoAt                  *time.Time
		At                    time.Time
	}
	err := t.scan(ctx, &rows, `SELECT state, person_id, word, passed_to, sent_to, due, go_at, at FROM change_history WHERE site_id = ? AND change_id = ? ORDER BY id DESC LIMIT ?`, t.site, id, n)
	out := make([]editions.HistoryStep, len(rows))
	for i, r := range rows {
		out[i] = editions.HistoryStep{State: workflow.State(r.State), Person: r.PersonID, Word: r.Word, PassedTo: r.PassedTo, SentTo: r.SentTo, Due: r.Due, At: r.At}
		if r.GoAt != nil {
			out[i].GoAt = *r.GoAt
		}
	}
	return out, err
}

// NotePassed notes in the history of things that their review was passed on.
func (t *tx) NotePassed(ctx context.Context, ids []string, h editions.HistoryStep) error {
	_, err := t.exec(ctx, `INSERT INTO change_history (site_id, change_id, state, person_id, word, passed_to, at)
		SELECT DISTINCT CAST(? AS uuid), id, ?, CAST(? AS uuid), '', ?, CAST(? AS timestamptz) FROM unnest(CAST(? AS text[])) AS id`,
		t.site, string(h.State), h.Person, h.PassedTo, h.At, setText(ids))
	return err
}

// EditionsOf gives the editions that changed something of a thing, the latest first.
func (t *tx) EditionsOf(ctx context.Context, id string, n int) (out []plan.Edition, err error) {
	rows, err := gorm.G[editionRow](t.db).Where("site_id = ? AND told @> ?::jsonb", t.site, jsonText([]map[string]string{{"id": id}})).Order("number DESC").Limit(n).Find(ctx)
	for _, r := range rows {
		e, err := r.toPort()
		if err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, wordError(err)
}

// dropStandings forgets where changes were put that are out. The remarks on them are over.
func (t *tx) dropStandings(ctx context.Context, keys []change.Key) error {
	if len(keys) == 0 {
		return nil
	}
	type key struct {
		ID     string `json:"id"`
		Aspect string `json:"aspect"`
	}
	rows, ids := make([]key, len(keys)), make([]string, len(keys))
	for i, k := range keys {
		rows[i], ids[i] = key{k.ID, string(k.Aspect)}, k.ID
	}
	if _, err := t.exec(ctx, `DELETE FROM change_states s USING jsonb_to_recordset(?::jsonb) AS k(id text, aspect text)
		WHERE s.site_id = ? AND s.change_id = k.id AND s.aspect = k.aspect`, jsonText(rows), t.site); err != nil {
		return err
	}
	_, err := t.exec(ctx, `UPDATE remarks r SET over = true WHERE r.site_id = ? AND NOT r.over AND r.change_id `+inSet+`
		AND NOT EXISTS (SELECT 1 FROM change_states s WHERE s.site_id = r.site_id AND s.change_id = r.change_id)`, t.site, setText(ids))
	return err
}

// PutReview keeps a request.
func (t *tx) PutReview(ctx context.Context, r editions.Review) error {
	_, err := t.exec(ctx, `INSERT INTO reviews (id, site_id, person_id, reviewer_id, reviewer_role, message, due, at) VALUES (?, ?, ?, CAST(nullif(?, '') AS uuid), ?, ?, CAST(nullif(?, '') AS date), ?)`,
		r.ID, t.site, r.From, r.Asked(), string(r.Role()), r.Message, r.Due, r.At)
	if err != nil || len(r.Informed) == 0 {
		return err
	}
	_, err = t.exec(ctx, `INSERT INTO review_informed (review_id, person_id) SELECT DISTINCT ?::uuid, id FROM people WHERE site_id = ? AND id::text `+inSet, r.ID, t.site, setText(r.Informed))
	return err
}

// PassReview gives a request to somebody else.
func (t *tx) PassReview(ctx context.Context, id, to string) error {
	r := editions.Review{To: to}
	n, err := t.exec(ctx, `UPDATE reviews SET reviewer_id = CAST(nullif(?, '') AS uuid), reviewer_role = ? WHERE site_id = ? AND id::text = ?`, r.Asked(), string(r.Role()), t.site, id)
	if err == nil && n == 0 {
		err = plan.ErrNotFound
	}
	return err
}

// FreeReviews makes requests to a person ones to whoever may publish, with a line in the history of what is in
// review by them, and gives those.
func (t *tx) FreeReviews(ctx context.Context, person string, by plan.Planned) (out []account.FreedReview, err error) {
	var rows []struct{ ID, From, Things string }
	err = t.scan(ctx, &rows, `WITH freed AS (UPDATE reviews SET reviewer_id = NULL WHERE site_id = @site AND reviewer_id::text = @person RETURNING id, person_id)
		SELECT f.id, f.person_id AS from, string_agg(DISTINCT s.change_id, chr(10) ORDER BY s.change_id) AS things
		FROM freed f JOIN change_states s ON s.review_id = f.id AND s.state = @state GROUP BY f.id, f.person_id ORDER BY f.id`,
		map[string]any{"site": t.site, "person": person, "state": string(workflow.InReview)})
	for _, r := range rows {
		f := account.FreedReview{ID: r.ID, From: r.From, Things: strings.Split(r.Things, "\n")}
		out = append(out, f)
		if err == nil {
			err = t.NotePassed(ctx, f.Things, editions.HistoryStep{State: workflow.InReview, Person: by.PersonID, PassedTo: editions.Anybody, At: by.At})
		}
	}
	return out, err
}

// OverdueReviews gives the requests whose day is before one, each once.
func (t *tx) OverdueReviews(ctx context.Context, day string) ([]string, error) {
	var out []string
	err := t.scan(ctx, &out, `UPDATE reviews SET overdue_told = true WHERE site_id = ? AND due < CAST(? AS date) AND NOT overdue_told RETURNING id`, t.site, day)
	return out, err
}

// Reviews gives the requests, made to whoever may publish where the reviewer left, of which changes are still planned.
func (t *tx) Reviews(ctx context.Context) (map[string]editions.Review, error) {
	var rows []struct {
		ID, PersonID, ReviewerID, ReviewerRole, Message, Due, Informed string
		At                                                             time.Time
	}
	err := t.scan(ctx, &rows, `SELECT r.id, r.person_id, coalesce((SELECT p.id::text FROM people p WHERE p.id = r.reviewer_id AND p.active), '') AS reviewer_id, r.reviewer_role, r.message, coalesce(to_char(r.due, 'YYYY-MM-DD'), '') AS due, r.at,
			coalesce((SELECT string_agg(i.person_id::text, ' ') FROM review_informed i WHERE i.review_id = r.id), '') AS informed
		FROM reviews r WHERE r.site_id = ? AND EXISTS (SELECT 1 FROM change_states s WHERE s.review_id = r.id)`, t.site)
	out := make(map[string]editions.Review, len(rows))
	for _, r := range rows {
		to := r.ReviewerID
		if r.ReviewerRole != "" {
			to = editions.GroupOfRole(workflow.Role(r.ReviewerRole))
		}
		out[r.ID] = editions.Review{ID: r.ID, From: r.PersonID, To: to, Message: r.Message, Due: r.Due, At: r.At, Informed: strings.Fields(r.Informed)}
	}
	return out, err
}

// Remarks gives the remarks on a change, the oldest first.
func (t *tx) Remarks(ctx context.Context, id string) ([]editions.Remark, error) {
	return t.remarks(ctx, `NOT over ORDER BY id LIMIT ?`, id, editions.MostRemarks)
}

// RemarksEver gives the latest remarks on a thing, also those on what is out.
func (t *tx) RemarksEver(ctx context.Context, id string, n int) ([]editions.Remark, error) {
	return t.remarks(ctx, `true ORDER BY id DESC LIMIT ?`, id, n)
}

func (t *tx) remarks(ctx context.Context, which, id string, n int) ([]editions.Remark, error) {
	var rows []struct {
		ID, Answers                  int64
		Place, PersonID, Name, Quote string
		Words                        string
		At                           time.Time
		Settled                      bool
	}
	err := t.scan(ctx, &rows, `SELECT id, coalesce(answers, 0) AS answers, place, coalesce(person_id::text, '') AS person_id, name, quote, words, at, settled_at IS NOT NULL AS settled FROM remarks
		WHERE site_id = ? AND change_id = ? AND `+which, t.site, id, n)
	out := make([]editions.Remark, len(rows))
	for i, r := range rows {
		out[i] = editions.Remark{ID: r.ID, Answers: r.Answers, Place: r.Place, Person: r.PersonID, Name: r.Name, Quote: r.Quote, Words: r.Words, At: r.At, Settled: r.Settled}
	}
	return out, err
}

// PutRemark keeps a remark.
func (t *tx) PutRemark(ctx context.Context, id string, r editions.Remark) error {
	_, err := t.exec(ctx, `INSERT INTO remarks (site_id, change_id, place, answers, person_id, name, quote, words, at)
		SELECT ?, ?, ?, CAST(nullif(?, 0) AS bigint), CAST(nullif(?, '') AS uuid), ?, ?, ?, ? WHERE ? = 0 OR EXISTS (SELECT 1 FROM remarks WHERE id = ? AND change_id = ? AND NOT over)`,
		t.site, id, r.Place, r.Answers, r.Person, r.Name, r.Quote, r.Words, r.At, r.Answers, r.Answers, id)
	return err
}

// SettleRemark notes that a remark is dealt with, or is not.
func (t *tx) SettleRemark(ctx context.Context, change string, id int64, at *time.Time) error {
	n, err := t.exec(ctx, `UPDATE remarks SET settled_at = ? WHERE site_id = ? AND change_id = ? AND NOT over AND id = ?`, at, t.site, change, id)
	if err == nil && n == 0 {
		err = plan.ErrNotFound
	}
	return err
}

// BranchAsks gives what branches ask of changes.
func (t *tx) BranchAsks(ctx context.Context) (map[string]workflow.ApprovalPolicy, error) {
	var rows []struct{ EntryID, Asks string }
	err := t.scan(ctx, &rows, `SELECT entry_id, asks FROM branch_asks WHERE site_id = ?`, t.site)
	out := make(map[string]workflow.ApprovalPolicy, len(rows))
	for _, r := range rows {
		out[r.EntryID] = workflow.ApprovalPolicy(r.Asks)
	}
	return out, err
}

// PutBranchAsks says what a branch asks; nil leaves it to what is above.
func (t *tx) PutBranchAsks(ctx context.Context, entry string, asks *workflow.ApprovalPolicy) error {
	if asks == nil {
		_, err := t.exec(ctx, `DELETE FROM branch_asks WHERE site_id = ? AND entry_id = ?`, t.site, entry)
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO branch_asks (site_id, entry_id, asks) VALUES (?, ?, ?) ON CONFLICT (site_id, entry_id) DO UPDATE SET asks = excluded.asks`, t.site, entry, string(*asks))
	return err
}
