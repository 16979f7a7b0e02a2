package sitemap

import (
	"context"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// Checked is what the checks find in Next.
type Checked struct {
	Tree    *sitemap.Tree
	Found   []check.Finding
	options sitemap.CheckOptions
}

// Mend words the mend of a finding; "" where somebody has to decide.
func (c Checked) Mend(f check.Finding) string {
	m, _ := c.Tree.MendOf(f.Rule, f.ID, c.options)
	return m.Words
}

// Checks checks Next.
func (a *Sitemap) Checks(ctx context.Context, who plan.Person) (c Checked, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		var ok bool
		today := a.Now().UTC().Format(time.DateOnly)
		if c, ok = a.checked.Get(s, today); ok {
			return nil
		}
		options, err := a.CheckOptions(ctx, tx)
		if err != nil {
			return err
		}
		c = Checked{trees.Next, sitemap.Check(trees.Next, options), options}
		a.checked.Put(tx, s, today, c)
		return nil
	})
	return c, err
}

// MaxMended is the most findings that are mended in one act.
const MaxMended = 500

// mendAll mends what a rule finds in entries. One that an earlier mend took care
// of is passed over.
func mendAll(t *sitemap.Tree, rule check.Rule, ids []string, o sitemap.CheckOptions) (next *sitemap.Tree, done string, err error) {
	if len(ids) > MaxMended {
		return nil, "", plan.Refuse("ids", fmt.Sprintf("At most %d can be fixed at once.", MaxMended))
	}
	next = t
	for _, id := range ids {
		m, ok := next.MendOf(rule, id, o)
		if !ok {
			continue
		}
		mended, err := m.Apply()
		if err != nil {
			return nil, "", err
		}
		next, done = mended, m.Done
	}
	if next == t {
		return nil, "", sitemap.ErrNoMend
	}
	return next, done, nil
}
