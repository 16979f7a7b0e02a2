package editions

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/textdiff"
	"candlepath/internal/core/workflow"
)

// QueueFilter shows some of what is planned.
type QueueFilter struct {
	Key, Words string
	Fits       func(q Queue, who plan.Person, i review.Item) bool
}

// QueueFilters is the table of filters, in the order in which they are offered.
func QueueFilters() []QueueFilter {
	waits := func(i review.Item) bool { return i.State == workflow.InReview }
	asked := func(q Queue, who plan.Person, i review.Item) bool {
		return q.Request(i).asks(q.Site.Rights(), who)
	}
	return []QueueFilter{
		{"", "Sent to me", func(q Queue, who plan.Person, i review.Item) bool { return waits(i) && asked(q, who, i) }},
		{"from", "Sent by me", func(q Queue, who plan.Person, i review.Item) bool { return waits(i) && q.Request(i).From == who.ID }},
		{"all", "Everyone's", func(_ Queue, _ plan.Person, i review.Item) bool { return waits(i) }},
		{"overdue", "Overdue", func(q Queue, _ plan.Person, i review.Item) bool {
			return waits(i) && q.Request(i).Overdue(q.Today)
		}},
		{"ready", "Approved", func(_ Queue, _ plan.Person, i review.Item) bool { return i.State == workflow.Ready }},
		{"scheduled", "Scheduled", func(_ Queue, _ plan.Person, i review.Item) bool { return i.State == workflow.Scheduled }},
		{"mine", "My drafts", func(q Queue, who plan.Person, i review.Item) bool {
			return i.State == workflow.Draft && q.MadeBy(who, i)
		}},
		{"drafts", "All drafts", func(_ Queue, _ plan.Person, i review.Item) bool { return i.State == workflow.Draft }},
	}
}

// AtOrBelow tells whether an item is of an entry of a branch, in Next or, where it goes, in Live.
func (q Queue) AtOrBelow(i review.Item, branch string) bool {
	for _, t := range []*sitemap.Tree{q.Trees.Next, q.Trees.Live} {
		for at := t.Find(i.ID); at != sitemap.None; at = t.Parent(at) {
			if t.Ref(at).ID == branch {
				return true
			}
		}
	}
	return false
}

// MadeBy tells whether a person made something of an item.
func (q Queue) MadeBy(who plan.Person, i review.Item) bool {
	return slices.Contains(q.Makers(i), who.ID)
}

// Matching gives what a filter leaves of a queue.
func (q Queue) Matching(filter string, who plan.Person) (out []review.Item) {
	for _, f := range QueueFilters() {
		if f.Key != filter {
			continue
		}
		for _, i := range q.Items {
			if f.Fits(q, who, i) {
				out = append(out, i)
			}
		}
	}
	return out
}

// AllOf names a list of things as they were looked at.
func AllOf(list []review.Item) string {
	sum := sha256.New()
	for _, i := range list {
		fmt.Fprintf(sum, "%s %s %s\n", i.ID, i.State, i.Stamp)
	}
	return hex.EncodeToString(sum.Sum(nil)[:16])
}

// AllMatching gives everything that a filter leaves, if it is still what somebody looked at under
// the name of AllOf.
func (a *Editions) AllMatching(ctx context.Context, who plan.Person, filter, looked string) ([]Judged, error) {
	q, err := a.Queue(ctx, who)
	if err != nil {
		return nil, err
	}
	list := q.Matching(filter, who)
	if AllOf(list) != looked {
		return nil, plan.Refuse("all", "The list has changed. Check it again, then select all.")
	}
	out := make([]Judged, len(list))
	for i, item := range list {
		out[i] = Judged{ID: item.ID, Stamp: item.Stamp}
	}
	return out, nil
}

// Thing is what changes of one thing, to be reviewed.
type Thing struct {
	Item    review.Item
	Words   []string // one for each change
	Fields  []content.FieldChange
	Blocks  []content.BlockChange
	Whole   []textdiff.Run           // all of its text, as it is written
	Shape   []textdiff.Run           // of a menu or trail: as readers get it
	Shown   map[string]ShownPictures // by block
	New     bool                     // it has no text in Live
	Written bool                     // its text changes
	Follow  int                      // how many pages of Next follow it, of a template
	Loss    readership.Loss          // what readers of Live lose by it
	Remarks []Remark
}

// ShownPictures are the pictures of a block, before and after.
type ShownPictures struct{ Before, After []string }

// Thing tells exactly what changes of one of the things in a queue.
func (a *Editions) Thing(ctx context.Context, who plan.Person, q Queue, item review.Item) (t Thing, err error) {
	t.Item = item
	for _, c := range item.Changes {
		t.Words = append(t.Words, change.Words(c, q.Trees.Live, q.Trees.Next))
		t.Written = t.Written || c.Aspect == change.Content || c.Aspect == change.Added
	}
	live, next := q.Trees.Shapes.Live, q.Trees.Shapes.Next
	if before, after := shape.Written(live, q.Trees.Live, item.ID), shape.Written(next, q.Trees.Next, item.ID); before != after {
		t.Shape = textdiff.Compare(before, after)
		t.Whole = t.Shape
	}
	if key := shape.TemplateOf(item.ID); key != "" {
		t.Fields, t.Blocks, t.Whole = content.ChangedTemplate(templateIn(live, key), templateIn(next, key))
		t.Follow = len(plan.UsedBy(q.Trees.Next, next.Templates())[key])
	}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		if t.Remarks, err = tx.Remarks(ctx, item.ID); err != nil {
			return err
		}
		if t.Loss, err = lossBy(ctx, tx, q.Trees, item); err != nil {
			return err
		}
		if !t.Written {
			return nil
		}
		return a.texts(ctx, tx, q, &t)
	})
	return t, err
}

// lossBy gives what readers of Live lose where an item goes out: of its entry and what is below it, or of the pages
// of its trail and what is below them.
func lossBy(ctx context.Context, tx Tx, trees plan.Trees, item review.Item) (loss readership.Loss, err error) {
	roots := map[string]bool{}
	for _, c := range item.Changes {
		switch c.Aspect {
		case change.Readership, change.Placement:
			roots[item.ID] = true
		case change.Trail:
			if w := trees.Shapes.Next.Find(item.ID); w != nil {
				for _, id := range w.Trail.Pages {
					roots[id] = true
				}
			}
		}
	}
	if len(roots) == 0 {
		return loss, nil
	}
	people, err := plan.Readers(ctx, tx)
	if err != nil {
		return loss, err
	}
	of := func(id string) bool {
		for i := trees.Next.Find(id); i != sitemap.None; i = trees.Next.Parent(i) {
			if roots[trees.Next.Ref(i).ID] {
				return true
			}
		}
		return false
	}
	return readership.Losing(trees.LiveMayBeRead(), trees.MayBeRead(), of, people), nil
}

// templateIn gives a template of a set; an empty one where it has none of that key.
func templateIn(set shape.Set, key string) content.Template {
	for _, t := range set.Templates() {
		if t.Key == key {
			return t
		}
	}
	return content.Template{Key: key}
}

// texts compares the text that is planned with what colleagues see.
func (a *Editions) texts(ctx context.Context, tx Tx, q Queue, t *Thing) error {
	id := []string{t.Item.ID}
	live, err := tx.PagesOf(ctx, id, false)
	if err != nil {
		return err
	}
	drafts, err := tx.PagesOf(ctx, id, true)
	if err != nil || len(drafts) == 0 {
		t.Written = false
		return err
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	var before content.Page
	if t.New = len(live) == 0; !t.New {
		before = content.Identified(content.Clean(live[0].Content), t.Item.ID)
	}
	after := content.Identified(content.Clean(drafts[0].Content), t.Item.ID)
	template := q.Trees.TemplateOf(t.Item.ID)
	t.Fields = content.ChangedFields(template, before, after, func(id string) string { return people[id].Name })
	t.Blocks = content.Changes(before, after)
	t.Shown = shownPictures(t.Blocks, before, after)
	t.Whole = textdiff.Compare(content.Written(template, before), content.Written(template, after))
	return nil
}

// shownPictures gives the pictures of the blocks that differ, where these differ.
func shownPictures(blocks []content.BlockChange, before, after content.Page) map[string]ShownPictures {
	was, is := content.PicturesByBlock(before), content.PicturesByBlock(after)
	out := map[string]ShownPictures{}
	for _, b := range blocks {
		s := ShownPictures{After: is[b.ID]}
		switch {
		case b.What == content.BlockWent:
			s = ShownPictures{Before: was[b.ID]}
		case b.Was != "":
			s.Before = was[b.Was]
		}
		if !slices.Equal(s.Before, s.After) {
			out[b.ID] = s
		}
	}
	return out
}
