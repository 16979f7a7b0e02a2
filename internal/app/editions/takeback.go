package editions

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// TakenBack is what was planned to take changes of an edition back.
type TakenBack struct {
	plan.PlanResult
	Along []string // what had to be taken back with it, in words
}

// TakeBack plans the inverse of changes of an edition: those of some things, or single ones of
// them. What they need comes along. Where something changed since, nothing is planned, and the
// first such thing is told.
func (a *Editions) TakeBack(ctx context.Context, who plan.Person, key string, number int, keys []change.Key) (out TakenBack, err error) {
	if len(keys) == 0 {
		return out, plan.Refuse("change", "Select the changes to revert.")
	}
	out.PlanResult, err = a.OnNext(ctx, who, key, "", func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if number < 2 || number > s.Edition {
			return plan.PlanResult{}, plan.Refuse("change", "There is no earlier edition to restore.")
		}
		b := back{a: a, tx: tx, who: who, trees: trees, number: number}
		for _, step := range []func(context.Context, []change.Key) error{b.tree, b.texts, b.shapes, b.redirects} {
			if err := step(ctx, keys); err != nil {
				return plan.PlanResult{}, a.changedSince(err)
			}
		}
		out.Along = b.along
		return a.RecordWith(ctx, tx, s, who, key, fmt.Sprintf("reverted %s of edition %d", listed(b.titles(keys)), number), trees, b.writer.Next, b.writer.SideEffects)
	})
	return out, err
}

// changedSince words a conflict for somebody who takes back.
func (a *Editions) changedSince(err error) error {
	if c := (*sitemap.ConflictError)(nil); errors.As(err, &c) {
		return plan.Refuse("change", fmt.Sprintf("%q has changed again since then. Revert the later change first, or edit it yourself.", c.Title))
	}
	return err
}

// back is a taking back while it is worked out.
type back struct {
	a      *Editions
	tx     Tx
	who    plan.Person
	trees  plan.Trees
	number int
	after  *sitemap.Tree
	before *sitemap.Tree
	writer *plan.Writer
	along  []string
}

func (b *back) titles(keys []change.Key) (out []string) {
	for _, k := range keys {
		title := b.trees.Title(k.ID)
		if i := b.before.Find(k.ID); (title == k.ID || title == edition.RemovedTitle) && i != sitemap.None {
			title = b.before.Ref(i).Title
		}
		if !slices.Contains(out, title) {
			out = append(out, title)
		}
	}
	return out
}

// tree takes back what changed of entries.
func (b *back) tree(ctx context.Context, keys []change.Key) error {
	var err error
	if b.before, err = b.tx.TreeAt(ctx, b.number-1); err != nil {
		return err
	}
	if b.after, err = b.tx.TreeAt(ctx, b.number); err != nil {
		return err
	}
	patches, pulled, err := edition.TakeBack(b.before, b.after, keys)
	if err != nil {
		return err
	}
	for _, p := range pulled {
		b.along = append(b.along, fmt.Sprintf("%s (%s): %s", b.trees.Title(p.ID), p.Aspect.Label(), p.Why))
	}
	next, err := b.trees.Next.Apply(patches)
	if err != nil {
		return err
	}
	b.writer, err = b.a.Writer(ctx, b.tx, b.who, next)
	return err
}

// texts takes back what was written, and gives pages that return the text that they had.
func (b *back) texts(ctx context.Context, keys []change.Key) error {
	var ids []string
	edited := map[string]bool{}
	for _, k := range keys {
		if k.Aspect == change.Content {
			ids, edited[k.ID] = append(ids, k.ID), true
		}
	}
	for i := range b.writer.Next.Len() {
		if id := b.writer.Next.Ref(i).ID; b.trees.Next.Find(id) == sitemap.None {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	was, err := b.tx.TextsIn(ctx, b.number-1, ids)
	if err != nil {
		return err
	}
	then, err := b.tx.TextsIn(ctx, b.number, ids)
	if err != nil {
		return err
	}
	now, err := plan.LatestTexts(ctx, b.tx, ids)
	if err != nil {
		return err
	}
	for _, id := range ids {
		old, had := was[id]
		if edited[id] && !content.Same(now[id].Content, then[id]) {
			return &sitemap.ConflictError{ID: id, Title: b.trees.Title(id)}
		}
		if !had && !edited[id] {
			continue
		}
		if err := b.writer.Set(ctx, id, &old); err != nil {
			return err
		}
	}
	return nil
}

// shapes takes back what changed of menus, trails and templates.
func (b *back) shapes(ctx context.Context, keys []change.Key) error {
	if !slices.ContainsFunc(keys, func(k change.Key) bool { return isShape(k.Aspect) }) {
		return nil
	}
	was, err := b.tx.ShapesAt(ctx, b.number-1)
	if err != nil {
		return err
	}
	then, err := b.tx.ShapesAt(ctx, b.number)
	if err != nil {
		return err
	}
	for _, k := range keys {
		if !isShape(k.Aspect) {
			continue
		}
		now := b.trees.Shapes.Next
		if !shape.Same(now.Find(k.ID), then.Find(k.ID)) {
			return &sitemap.ConflictError{ID: k.ID, Title: b.trees.Title(k.ID)}
		}
		b.writer.SideEffects.Shapes = append(b.writer.SideEffects.Shapes, shape.Patch{ID: k.ID, Before: now.Find(k.ID), After: was.Find(k.ID)})
	}
	return nil
}

func isShape(a change.Aspect) bool {
	return a == change.Menu || a == change.Trail || a == change.Layout
}

// redirects plans the rows of before anew. An address that answers goes on answering, so one that
// was new stays.
func (b *back) redirects(ctx context.Context, keys []change.Key) error {
	var was []redirect.Row
	for _, k := range keys {
		switch k.Aspect {
		case change.Released:
			return plan.Refuse("change", "A released address cannot be restored here. Add a redirect from it instead.")
		case change.Redirect:
		default:
			continue
		}
		if was == nil {
			var err error
			if was, err = b.tx.TableAt(ctx, b.number-1); err != nil {
				return err
			}
		}
		i := slices.IndexFunc(was, func(r redirect.Row) bool { return r.Key().ID() == k.ID })
		if i < 0 {
			return plan.Refuse("change", fmt.Sprintf("%s was added here and must keep working. Change where it redirects, or release it.", b.trees.Title(k.ID)))
		}
		planned, err := b.tx.PlannedRedirects(ctx)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(planned, func(p plan.PlannedRedirect) bool { return p.Key().ID() == k.ID }) {
			return &sitemap.ConflictError{ID: k.ID, Title: b.trees.Title(k.ID)}
		}
		row := was[i]
		row.Status = ""
		b.writer.SideEffects.Redirects = append(b.writer.SideEffects.Redirects, plan.RedirectPatch{ID: k.ID, After: &row})
	}
	return nil
}
