package plan

import (
	"context"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// PlannedSince is what happened to Next since a version of the plan.
type PlannedSince struct {
	Version int64
	Patches []sitemap.Patch
	Others  []string // what others did, in words, with who
	All     bool     // too much to tell one by one, or an edition went out
}

// mostSince is how many acts are told one by one.
const mostSince = 50

// Since tells what changed since somebody's window saw a version of the plan.
func (a *Floor) Since(ctx context.Context, who Person, edition int, version int64) (out PlannedSince, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s Site) error {
		if err := May(s, who, workflow.Plan); err != nil {
			return err
		}
		out.Version = s.PlanVersion
		if s.PlanVersion <= version {
			return nil
		}
		acts, err := tx.ActsAfter(ctx, version, mostSince+1)
		if err != nil {
			return err
		}
		if out.All = len(acts) > mostSince || s.Edition != edition; out.All {
			return nil
		}
		people, err := PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		for _, act := range acts {
			out.Patches = append(out.Patches, act.Patches...)
			if act.PersonID != who.ID {
				out.Others = append(out.Others, people[act.PersonID].Name+": "+act.Label)
			}
		}
		return nil
	})
	return out, err
}
