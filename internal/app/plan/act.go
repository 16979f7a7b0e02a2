package plan

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/consequence"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// PlanResult is what an act did.
type PlanResult struct {
	Version   int64
	ID        string // what is to be selected now
	Patches   []sitemap.Patch
	Trees     Trees
	Label     string
	Confirm   *consequence.Of // set: nothing was done, confirmation is wanted
	Links     int             // with Confirm: links that follow by themselves
	LinkPages int
	Reach     reach.Moved  // with Confirm: pages that come nearer to home, or farther
	Spot      sitemap.Spot // with Confirm: where the entry would go
	Losing    []string     // with Confirm: titles of menus and trails that lead to what goes
	Files     []string     // with Confirm: names of files that only pages show which leave the site

	Loss *readership.Loss // what readers lose; set on its own: nothing was done, confirmation is wanted
}

// EditConflict says that somebody else changed the same entry after the client
// last looked.
type EditConflict struct {
	Who, Label string
	Both       *BothValues // where one fact is what was to be changed
}

// BothValues are what stands in a fact and what somebody else wanted to put there.
type BothValues struct{ Field, Theirs, Mine string }

// CheckConflicts tells the later of two planners: what the act changes, entries or a
// trail, was changed by somebody else after this client last looked.
func (a *Floor) CheckConflicts(ctx context.Context, tx Tx, who Person, seen int64, changed ...string) error {
	if seen == 0 {
		return nil
	}
	other, err := tx.ActOn(ctx, seen, who.ID, changed, false)
	switch {
	case errors.Is(err, ErrNotFound):
		return nil
	case err != nil:
		return err
	}
	return a.ConflictWith(ctx, tx, other)
}

// ConflictWith makes the refusal of an act that met another one, with who did that
// and what it was.
func (a *Floor) ConflictWith(ctx context.Context, tx Tx, act Act) error {
	people, err := PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	return &EditConflict{Who: people[act.PersonID].Name, Label: act.Label}
}

// Record writes the difference between two states of Next, and the act.
func (a *Floor) Record(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, next *sitemap.Tree) (PlanResult, error) {
	return a.RecordWith(ctx, tx, s, who, key, label, trees, next, SideEffects{})
}

// RecordWith writes an act that did something besides to drafts and decisions.
func (a *Floor) RecordWith(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, next *sitemap.Tree, also SideEffects) (PlanResult, error) {
	patches := sitemap.Patches(trees.Next, next)
	if len(patches)+len(also.Texts)+len(also.Decisions)+len(also.Shapes)+len(also.Redirects) == 0 {
		return PlanResult{Version: s.PlanVersion, Trees: trees, Label: label}, nil
	}
	was, at := trees, a.Now() // before anybody is recorded as an author, see authorAgain
	var err error
	if trees.Shapes, err = a.saveShapes(ctx, tx, who, trees.Shapes, also.Shapes); err != nil {
		return PlanResult{}, err
	}
	if err := a.saveRedirects(ctx, tx, who, also.Redirects); err != nil {
		return PlanResult{}, err
	}
	trees, version, err := a.saveNext(ctx, tx, who, trees, next, patches)
	if err != nil {
		return PlanResult{}, err
	}
	if err := a.Author(ctx, tx, who, titleIn(trees, was), authored(trees, patches, also)); err != nil {
		return PlanResult{}, err
	}
	if err := tx.DropUndone(ctx, who.ID); err != nil {
		return PlanResult{}, err
	}
	act := Act{Key: key, PersonID: who.ID, At: at, Label: label, Patches: patches, Version: version, SideEffects: also}
	if err := tx.AddAct(ctx, act); err != nil {
		return PlanResult{}, err
	}
	return PlanResult{Version: version, Patches: patches, Trees: trees, Label: label}, nil
}

// RecordShape records an act that makes a menu or trail something else; nil takes
// it away.
func (a *Floor) RecordShape(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, id string, w *shape.Item) (PlanResult, error) {
	also := SideEffects{Shapes: shape.Patches(trees.Shapes.Next, trees.Shapes.Next.With(id, w))}
	return a.RecordWith(ctx, tx, s, who, key, label, trees, trees.Next, also)
}

// saveNext writes patches to Next and gives the trees as they are then, and the
// new version of the plan.
func (a *Floor) saveNext(ctx context.Context, tx Tx, who Person, trees Trees, next *sitemap.Tree, patches []sitemap.Patch) (Trees, int64, error) {
	by := Planned{PersonID: who.ID, At: a.Now()}
	o := sitemap.OverlayOf(trees.Live, patches)
	if err := tx.SaveOverlay(ctx, Overlay{Overlay: o}, by); err != nil {
		return trees, 0, fmt.Errorf("save plan: %w", err)
	}
	version, err := tx.BumpPlan(ctx)
	if err != nil {
		return trees, 0, fmt.Errorf("save plan: %w", err)
	}
	planned := make(map[string]Planned, len(trees.Planned))
	for id, p := range trees.Planned {
		planned[id] = p
	}
	for _, id := range o.Forget {
		delete(planned, id)
	}
	for _, e := range slices.Concat(o.Put, o.Remove) {
		planned[e.ID] = by
	}
	return Trees{Live: trees.Live, Next: next, Planned: planned, Shapes: trees.Shapes}, version, nil
}

func (e *EditConflict) Error() string {
	if b := e.Both; b != nil {
		return fmt.Sprintf("%s changed the %s first, to %s. You wrote %s. Choose which one stays.", e.Who, b.Field, quotedOrNothing(b.Theirs), quotedOrNothing(b.Mine))
	}
	return fmt.Sprintf("%s changed this first: %s. Check it and try again.", e.Who, e.Label)
}

func quotedOrNothing(v string) string {
	if v == "" {
		return "nothing"
	}
	return fmt.Sprintf("%q", v)
}

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
