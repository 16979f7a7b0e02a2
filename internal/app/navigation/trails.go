package navigation

import (
	"context"
	"errors"
	"fmt"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/shape"
)

// TrailAct is one act on a trail of Next.
type TrailAct struct {
	Key    string
	ID     string // empty: a new one
	Trail  shape.Trail
	Remove bool
	Seen   int64 // the plan version that the form was made of

	Confirmed bool // who stops being able to read pages was shown
}

// PlanTrail makes, changes or takes away a trail of Next. Its pages stay.
func (a *Navigation) PlanTrail(ctx context.Context, who plan.Person, act TrailAct) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, act.Key, act.ID, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		id := shape.TrailID(act.ID)
		was := trees.Shapes.Next.Find(id)
		if act.ID != "" && was == nil {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if err := a.CheckConflicts(ctx, tx, who, act.Seen, id); err != nil {
			return plan.PlanResult{}, err
		}
		if act.Remove {
			if was == nil {
				return plan.PlanResult{}, plan.ErrNotFound
			}
			return a.RecordShape(ctx, tx, s, who, act.Key, fmt.Sprintf("removed the trail %q; its pages stay", was.Trail.Title), trees, id, nil)
		}
		var before *shape.Trail
		if was != nil {
			before = was.Trail
		}
		known, err := plan.KnownReaders(ctx, tx)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if act.Trail.Readership, err = plan.ParseReadership(act.Trail.Readership, known); err != nil {
			return plan.PlanResult{}, err
		}
		tr, err := act.Trail.Cleaned(trees.Next, before)
		if err != nil {
			field := ""
			if errors.Is(err, shape.ErrNoTitle) || errors.Is(err, shape.ErrTitle) {
				field = "title"
			}
			return plan.PlanResult{}, plan.Refuse(field, plan.SentenceOf(err))
		}
		verb := "changed"
		if act.ID == "" {
			act.ID, verb = plan.NewID(), "made"
		}
		if !act.Confirmed {
			loss, err := a.lossBy(ctx, tx, trees, act.ID, &tr)
			if err != nil || loss.Pages > 0 {
				return plan.PlanResult{Loss: &loss}, err
			}
		}
		res, err := a.RecordShape(ctx, tx, s, who, act.Key, fmt.Sprintf("%s the trail %q", verb, tr.Title), trees, shape.TrailID(act.ID), &shape.Item{Trail: &tr})
		res.ID = act.ID
		return res, err
	})
}

// lossBy gives what readers of Live would lose by a trail as it is to be in Next.
func (a *Navigation) lossBy(ctx context.Context, tx Tx, trees plan.Trees, id string, tr *shape.Trail) (loss readership.Loss, err error) {
	after := trees
	after.Shapes.Next = trees.Shapes.Next.With(shape.TrailID(id), &shape.Item{Trail: tr})
	people, err := plan.Readers(ctx, tx)
	if err != nil {
		return loss, err
	}
	return readership.Losing(trees.MayBeRead(), after.MayBeRead(), trees.IsLive, people), nil
}
