package pages

import (
	"cmp"
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// TemplateCheck is what a change of a template does, before it is saved.
type TemplateCheck struct {
	TemplateView
	After   content.Template
	Words   string
	Stale   bool         // somebody changed the template since the draft was begun
	Told    []PageEffect // pages on which something is to be told, then others
	Lacking int          // pages that lack what it asks for
	Aside   int          // pages of which blocks are kept aside
	Sample  PageSample
}

// PageEffect is what the change does to one page.
type PageEffect struct {
	Entry, Title, Address string
	content.Effect
}

// PageSample is a page before and after the change.
type PageSample struct {
	Entry, Title  string
	Before, After string // HTML, as readers of Next get it
}

// CheckTemplate tells what a draft of a template does to the pages of Next, one of them drawn
// before and after.
func (a *Pages) CheckTemplate(ctx context.Context, who plan.Person, key, person, sample string) (c TemplateCheck, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		if c.TemplateView, err = a.templateView(ctx, tx, s, trees, who, key, cmp.Or(person, who.ID)); err != nil {
			return err
		}
		var was *content.Template
		if w := trees.Shapes.Next.Find(shape.TemplateID(key)); w != nil {
			was = w.Template
		}
		c.After, c.Faults = c.Draft.template(was)
		c.Words = content.TemplateWords(was, &c.After)
		c.Stale = was != nil && c.Draft.Version > 0 && c.Draft.Base != baseOf(was)
		if was == nil {
			return a.sampleOfNew(ctx, tx, s, trees, &c)
		}
		return a.effects(ctx, tx, s, trees, &c, sample)
	})
	return c, err
}

func (a *Pages) effects(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, c *TemplateCheck, sample string) error {
	known := func(id string) bool {
		return slices.ContainsFunc(c.People, func(p plan.Person) bool { return p.ID == id })
	}
	used := usedBy(trees.Next, trees.Shapes.Next.Templates())[c.Template.Key]
	ids := make([]string, len(used))
	for k, i := range used {
		ids[k] = trees.Next.Ref(i).ID
	}
	texts, err := plan.LatestTexts(ctx, tx, ids)
	if err != nil {
		return err
	}
	for k, i := range used {
		e := PageEffect{Entry: ids[k], Title: trees.Next.Ref(i).Title, Address: trees.Next.Address(i)}
		if v, written := texts[ids[k]]; written {
			e.Effect = content.EffectOn(c.Template, c.After, content.Identified(v.Content, ids[k]), known)
		}
		if len(e.Lacks) > 0 {
			c.Lacking++
		}
		if len(e.Aside) > 0 {
			c.Aside++
		}
		c.Told = append(c.Told, e)
	}
	slices.SortStableFunc(c.Told, func(x, y PageEffect) int { return cmp.Compare(weight(y), weight(x)) })
	at := slices.IndexFunc(c.Told, func(e PageEffect) bool { return e.Entry == sample })
	if at < 0 {
		at = slices.IndexFunc(c.Told, func(e PageEffect) bool { _, written := texts[e.Entry]; return written })
	}
	if at < 0 {
		return nil
	}
	e := c.Told[at]
	c.Sample = PageSample{Entry: e.Entry, Title: e.Title}
	page := content.Identified(texts[e.Entry].Content, e.Entry)
	if c.Sample.Before, err = a.drawn(ctx, tx, s, trees, e.Entry, c.Template, page); err != nil {
		return err
	}
	c.Sample.After, err = a.drawn(ctx, tx, s, trees, e.Entry, c.After, page)
	return err
}

func weight(e PageEffect) int { return 2*len(e.Aside) + len(e.Lacks) + len(e.Unshown) }

// sampleOfNew draws what a page of a new template begins with.
func (a *Pages) sampleOfNew(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, c *TemplateCheck) (err error) {
	home := trees.Next.Home()
	if home == sitemap.None {
		return nil
	}
	c.Sample.After, err = a.drawn(ctx, tx, s, trees, trees.Next.Ref(home).ID, c.After, c.After.Begin("new"))
	return err
}
