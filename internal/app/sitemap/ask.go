package sitemap

import (
	"context"
	"errors"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// askFirst tells the consequences of an act that changes addresses colleagues
// use, unless they were confirmed.
func (a *Sitemap) askFirst(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, next *sitemap.Tree, act PlanAct, res *plan.PlanResult) (bool, error) {
	if act.Confirmed {
		return false, nil
	}
	of, err := a.consequences(ctx, tx, s, trees, next, act.on())
	if err != nil || !of.AsksFirst() {
		return false, err
	}
	links, pages, err := tx.LinksTo(ctx, of.Readdressed)
	if err != nil {
		return false, err
	}
	*res = plan.PlanResult{Version: s.PlanVersion, ID: act.ID, Trees: trees, Confirm: &of, Links: links, LinkPages: pages}
	summaries, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return false, err
	}
	res.Reach = reach.Compare(a.ReachIn(trees.Next, trees.Live, trees.Shapes.Next, summaries, false), a.ReachIn(next, trees.Live, trees.Shapes.Next, summaries, false))
	before := trees.Shapes.Next.Lost(trees.Next)
	for _, l := range trees.Shapes.Next.Lost(next) {
		if title := trees.Title(l.Way); !slices.Contains(before, l) && !slices.Contains(res.Losing, title) {
			res.Losing = append(res.Losing, title)
		}
	}
	if res.Files, err = filesStop(ctx, tx, s, trees.Live, next, of.Readdressed); err != nil {
		return false, err
	}
	if i := next.Find(act.ID); i != sitemap.None {
		res.Spot = next.SpotOf(i)
	}
	return true, nil
}

// filesStop gives the names of files of Live that stop with some entries.
func filesStop(ctx context.Context, tx Tx, s plan.Site, live, next *sitemap.Tree, changed []string) ([]string, error) {
	leaves := map[string]bool{}
	for _, id := range changed {
		if next.ServedOf(id) == "" {
			leaves[id] = true
		}
	}
	if len(leaves) == 0 {
		return nil, nil
	}
	files, err := tx.FilesEver(ctx, 0)
	if err != nil {
		return nil, err
	}
	on, err := tx.FilesOn(ctx, s.Edition)
	if err != nil {
		return nil, err
	}
	now := func(entry string) bool { return live.ServedOf(entry) != "" }
	then := func(entry string) bool { return now(entry) && !leaves[entry] }
	return kept.Stopping(files, kept.Shown(on, s.IsMark, now), kept.Shown(on, s.IsMark, then)), nil
}

func (a *Sitemap) consequences(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, next *sitemap.Tree, ids []string) (consequence.Of, error) {
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return consequence.Of{}, err
	}
	return a.decidedConsequences(ctx, tx, s, trees, next, decisions, ids)
}

func (a *Sitemap) decidedConsequences(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, next *sitemap.Tree, decisions map[string]redirect.Decision, ids []string) (consequence.Of, error) {
	table, err := a.RedirectsOf(ctx, tx, s)
	if err != nil {
		return consequence.Of{}, err
	}
	of, err := consequence.Move(trees.Live, trees.Next, next, trees.Shapes.Next.Menus(), table, decisions, s.Answers(), ids...)
	if errors.Is(err, redirect.ErrTable) {
		return of, nil // preflight tells about the table
	}
	return of, err
}
