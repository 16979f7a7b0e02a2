package navigation

import (
	"context"
	"errors"
	"fmt"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/ways"
)

// TrailAct is one act on a trail of Next.
type TrailAct struct {
	Key    string
	ID     string // empty: a new one
	Trail  ways.Trail
	Remove bool
	Seen   int64 // the plan version that the form was made of
}

// PlanTrail makes, changes or takes away a trail of Next. Its pages stay.
func (a *Navigation) PlanTrail(ctx context.Context, who plan.Person, act TrailAct) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, act.Key, act.ID, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		id := ways.TrailID(act.ID)
		was := trees.Ways.Next.Find(id)
		if act.ID != "" && was == nil {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if err := a.Quicker(ctx, tx, who, act.Seen, id); err != nil {
			return plan.PlanResult{}, err
		}
		if act.Remove {
			if was == nil {
				return plan.PlanResult{}, plan.ErrNotFound
			}
			return a.RecordWay(ctx, tx, s, who, act.Key, fmt.Sprintf("removed the trail %q; its pages stay", was.Trail.Title), trees, id, nil)
		}
		var before *ways.Trail
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
			if errors.Is(err, ways.ErrNoTitle) || errors.Is(err, ways.ErrTitle) {
				field = "title"
			}
			return plan.PlanResult{}, plan.Refuse(field, plan.SentenceOf(err))
		}
		verb := "changed"
		if act.ID == "" {
			act.ID, verb = plan.NewID(), "made"
		}
		res, err := a.RecordWay(ctx, tx, s, who, act.Key, fmt.Sprintf("%s the trail %q", verb, tr.Title), trees, ways.TrailID(act.ID), &ways.Way{Trail: &tr})
		res.ID = act.ID
		return res, err
	})
}
