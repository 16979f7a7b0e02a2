package editions

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/review"
)

// MostRemarks is how many remarks on one thing are kept in sight.
const MostRemarks = 500

const longestQuote = 400

// Remark is said about what is reviewed, or answers what was said.
type Remark struct {
	ID, Answers   int64
	Place, Person string // the id of a block; empty: all of it
	Name          string // of who has no account, instead of a person
	Quote         string // the words that it is about, as they stood; empty: the place as a whole
	Words         string
	At            time.Time
	Settled       bool
}

// Remarks gives what was said about a thing, the oldest first.
func (a *Editions) Remarks(ctx context.Context, who plan.Person, id string) (out []Remark, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		out, err = tx.Remarks(ctx, id)
		return err
	})
	return out, err
}

// Remark says something about a thing that is planned. Who made it, and who is answered, is told.
func (a *Editions) Remark(ctx context.Context, who plan.Person, id string, r Remark) error {
	r.Words, r.Quote = strings.TrimSpace(r.Words), strings.TrimSpace(r.Quote)
	if len([]rune(r.Quote)) > longestQuote {
		return plan.Refuse("quote", fmt.Sprintf("Quote up to %d characters.", longestQuote))
	}
	if r.Words == "" || len([]rune(r.Words)) > longestMessage || len(r.Place) > 100 {
		return plan.Refuse("words", fmt.Sprintf("Enter a comment of up to %d characters.", longestMessage))
	}
	return a.stepping(ctx, who, func(tx Tx, q Queue, _ map[string]plan.Person) error {
		at := slices.IndexFunc(q.Items, func(i review.Item) bool { return i.ID == id })
		if at < 0 {
			return plan.ErrNotFound
		}
		known, err := tx.Remarks(ctx, id)
		if err != nil {
			return err
		}
		if len(known) >= MostRemarks {
			return plan.Refuse("words", fmt.Sprintf("This already has %d comments, which is the limit. Continue in person.", MostRemarks))
		}
		r.Person, r.At = who.ID, a.Now()
		if err := tx.PutRemark(ctx, id, r); err != nil {
			return err
		}
		to := q.Makers(q.Items[at])
		for _, k := range known {
			if k.ID == r.Answers {
				to = append(to, k.Person)
			}
		}
		slices.Sort(to)
		var list []plan.Notice
		for _, p := range slices.Compact(to) {
			if p != "" && p != who.ID {
				list = append(list, plan.Notice{
					PersonID: p, Kind: plan.NoticeReviewed, Subject: id + " " + r.Words, At: r.At, Words: fmt.Sprintf("%s commented on %q: “%s”", who.Name, q.Trees.Title(id), r.Words),
				})
			}
		}
		return tx.Notify(ctx, list)
	})
}

// SettleRemark says that a remark is dealt with, or that it is not.
func (a *Editions) SettleRemark(ctx context.Context, who plan.Person, id string, remark int64, settled bool) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		var at *time.Time
		if settled {
			now := a.Now()
			at = &now
		}
		return tx.SettleRemark(ctx, id, remark, at)
	})
}
