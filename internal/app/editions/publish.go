package editions

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/workflow"
)

// NotReady says that preflight found errors, so nothing was published.
type NotReady struct{ Findings []check.Finding }

func (e *NotReady) Error() string {
	n, _ := check.Count(e.Findings)
	return fmt.Sprintf("the checks found %d %s; nothing was published", n, plan.Plural(n, "error", "errors"))
}

// ErrOwnWork says that a person may not publish what they made themselves.
var ErrOwnWork = errors.New("this includes your own work, so someone else must publish it")

// OwnWork is ErrOwnWork with what it is.
type OwnWork struct{ Title string }

func (e *OwnWork) Error() string {
	return fmt.Sprintf("this includes your own work on “%s”, so someone else must publish it", e.Title)
}

// Is makes it an ErrOwnWork.
func (e *OwnWork) Is(target error) bool { return target == ErrOwnWork }

// PublishAsk is the wish to publish.
type PublishAsk struct {
	Key     string
	Why     string
	Note    string // what readers are told of it, if anything
	Changes Select
	Form    *ChoiceForm // what the person had before them and chose, or nil: Changes

	// Reviewed is what the person had before them where there is no form; nil: it does not matter.
	Reviewed *change.Reviewed

	// Progress is told how many pages were rendered anew; nil: nobody asks.
	Progress func(done int)
}

const longestNote = 600

// Publish makes the next edition.
//
//  1. Hold the site and every draft: nothing else publishes or edits the
//     structure, and a text that is saved meanwhile becomes the next draft.
//  2. Read the work, and have the core propose the edition and check it.
//  3. Have the core judge it; what hinders ends it here.
//  4. Write it all, number it, announce it, in the one transaction.
func (a *Editions) Publish(ctx context.Context, who plan.Person, ask PublishAsk) (plan.Edition, error) {
	ask.Why, ask.Note = strings.TrimSpace(ask.Why), strings.TrimSpace(ask.Note)
	if len([]rune(ask.Note)) > longestNote {
		return plan.Edition{}, plan.Refuse("note", fmt.Sprintf("The note for readers can have up to %d characters.", longestNote))
	}
	if err := plan.CheckKey(ask.Key); err != nil {
		return plan.Edition{}, err
	}
	var out plan.Edition
	err := a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if done, err := tx.EditionByKey(ctx, ask.Key); err == nil {
			out = done
			return nil
		}
		if ask.Why == "" {
			return plan.Refuse("why", "Give a reason for this edition.")
		}
		var err error
		if s.Work, err = tx.LockDrafts(ctx); err != nil {
			return err
		}
		if ask.Form != nil {
			ask.Changes = Select{Own: true}
			if err := a.keepChoice(ctx, tx, s, who, *ask.Form); err != nil {
				return err
			}
		}
		n, err := a.next(ctx, tx, s, who, ask.Changes)
		if err != nil {
			return err
		}
		looked := ask.Reviewed
		if ask.Form != nil {
			looked = &ask.Form.Reviewed
		}
		if looked != nil {
			if err := n.checkUnchanged(*looked); err != nil {
				return err
			}
		}
		out, err = a.release(ctx, tx, n.judge(who, workflow.ByHand, a.Now()), plan.Edition{
			Number: s.Edition + 1, At: a.Now(), PersonID: who.ID, Why: ask.Why, Note: ask.Note, ActKey: ask.Key,
		}, ask.Progress)
		if err != nil {
			return err
		}
		if len(ask.Changes.Only) > 0 {
			return nil // what the person chose of the rest stays chosen
		}
		return tx.DropChoice(ctx, who.ID)
	})
	if err == nil {
		a.Counts.Editions.Add(1)
	}
	return out, err
}
