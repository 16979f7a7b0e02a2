package plan

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/consequence"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
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
}

// Meanwhile says that somebody else changed the same entry after the client
// last looked.
type Meanwhile struct {
	Who, Label string
}

// Quicker tells the later of two planners: what the act changes, entries or a
// trail, was changed by somebody else after this client last looked.
func (a *Floor) Quicker(ctx context.Context, tx Tx, who Person, seen int64, changed ...string) error {
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
	return a.Meanwhile(ctx, tx, other)
}

func (a *Floor) Meanwhile(ctx context.Context, tx Tx, act Act) error {
	people, err := PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	return &Meanwhile{people[act.PersonID].Name, act.Label}
}

// Record writes the difference between two states of Next, and the act.
func (a *Floor) Record(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, next *sitemap.Tree) (PlanResult, error) {
	return a.RecordAlso(ctx, tx, s, who, key, label, trees, next, Also{})
}

// RecordAlso writes an act that did something besides to drafts and decisions.
func (a *Floor) RecordAlso(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, next *sitemap.Tree, also Also) (PlanResult, error) {
	patches := sitemap.Patches(trees.Next, next)
	if len(patches)+len(also.Texts)+len(also.Decisions)+len(also.Ways) == 0 {
		return PlanResult{Version: s.PlanVersion, Trees: trees, Label: label}, nil
	}
	var err error
	if trees.Ways, err = a.saveWays(ctx, tx, who, trees.Ways, also.Ways); err != nil {
		return PlanResult{}, err
	}
	trees, version, err := a.saveNext(ctx, tx, who, trees, next, patches)
	if err != nil {
		return PlanResult{}, err
	}
	if err := tx.DropUndone(ctx, who.ID); err != nil {
		return PlanResult{}, err
	}
	act := Act{Key: key, PersonID: who.ID, At: a.Now(), Label: label, Patches: patches, Version: version, Also: also}
	if err := tx.AddAct(ctx, act); err != nil {
		return PlanResult{}, err
	}
	return PlanResult{Version: version, Patches: patches, Trees: trees, Label: label}, nil
}

// RecordWay records an act that makes a menu or trail something else; nil takes
// it away.
func (a *Floor) RecordWay(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, id string, w *ways.Way) (PlanResult, error) {
	also := Also{Ways: ways.Patches(trees.Ways.Next, trees.Ways.Next.With(id, w))}
	return a.RecordAlso(ctx, tx, s, who, key, label, trees, trees.Next, also)
}

// saveNext writes patches to Next and gives the trees as they are then, and the
// new version of the plan.
func (a *Floor) saveNext(ctx context.Context, tx Tx, who Person, trees Trees, next *sitemap.Tree, patches []sitemap.Patch) (Trees, int64, error) {
	by := Planned{PersonID: who.ID, At: a.Now()}
	o := OverlayOf(trees.Live, patches)
	if err := tx.SaveOverlay(ctx, o, by); err != nil {
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
	return Trees{Live: trees.Live, Next: next, Planned: planned, Ways: trees.Ways}, version, nil
}

// overlay says which planned rows patches make and which they make needless.
func OverlayOf(live *sitemap.Tree, patches []sitemap.Patch) Overlay {
	var o Overlay
	for _, p := range patches {
		i := live.Find(p.ID)
		switch {
		case p.After == nil && i == sitemap.None:
			o.Forget = append(o.Forget, p.ID)
		case p.After == nil:
			o.Remove = append(o.Remove, live.At(i))
		case i != sitemap.None && live.At(i) == *p.After:
			o.Forget = append(o.Forget, p.ID)
		default:
			o.Put = append(o.Put, *p.After)
		}
	}
	return o
}

func (e *Meanwhile) Error() string {
	return fmt.Sprintf("%s changed this first: %s. Check it and try again.", e.Who, e.Label)
}
