package pages

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

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
		c.After, c.Faults = templateOf(c.Draft, was)
		c.Words = content.TemplateWords(was, &c.After)
		c.Stale = was != nil && c.Draft.Version > 0 && c.Draft.Base != plan.BaseOf(was)
		if was == nil {
			return a.sampleOfNew(ctx, tx, s, trees, &c)
		}
		return a.effects(ctx, tx, s, trees, &c, sample)
	})
	return c, err
}

func (a *Pages) effects(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, c *TemplateCheck, sample string) error {
	var texts map[string]plan.PageVersion
	var err error
	if c.Told, texts, err = effectsOn(ctx, tx, trees, c.Template, c.After, c.People); err != nil {
		return err
	}
	for _, e := range c.Told {
		if len(e.Lacks) > 0 {
			c.Lacking++
		}
		if len(e.Aside) > 0 {
			c.Aside++
		}
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

// effectsOn tells what a change of a template does to each page of Next that has it.
func effectsOn(ctx context.Context, tx Tx, trees plan.Trees, was, is content.Template, people []plan.Person) ([]PageEffect, map[string]plan.PageVersion, error) {
	known := func(id string) bool {
		return slices.ContainsFunc(people, func(p plan.Person) bool { return p.ID == id })
	}
	used := plan.UsedBy(trees.Next, trees.Shapes.Next.Templates())[was.Key]
	ids := make([]string, len(used))
	for k, i := range used {
		ids[k] = trees.Next.Ref(i).ID
	}
	texts, err := plan.LatestTexts(ctx, tx, ids)
	if err != nil {
		return nil, nil, err
	}
	out := make([]PageEffect, len(used))
	for k, i := range used {
		out[k] = PageEffect{Entry: ids[k], Title: trees.Next.Ref(i).Title, Address: trees.Next.Address(i)}
		if v, written := texts[ids[k]]; written {
			out[k].Effect = content.EffectOn(was, is, content.Identified(v.Content, ids[k]), known)
		}
	}
	return out, texts, nil
}

// tellOfAside tells the owners of pages, and the site managers, that a change of a template
// keeps blocks of them aside.
func (a *Pages) tellOfAside(ctx context.Context, tx Tx, who plan.Person, trees plan.Trees, was, is content.Template) error {
	people, err := tx.People(ctx)
	if err != nil {
		return err
	}
	effects, _, err := effectsOn(ctx, tx, trees, was, is, people)
	if err != nil {
		return err
	}
	return tx.Notify(ctx, noticesOfAside(who, trees.Next, is, effects, people, a.Now()))
}

// noticesOfAside are the notices of that: one a page for its owner, one in all for managers.
func noticesOfAside(who plan.Person, next *sitemap.Tree, t content.Template, effects []PageEffect, people []plan.Person, now time.Time) (out []plan.Notice) {
	var titles []string
	for _, e := range effects {
		if len(e.Aside) == 0 {
			continue
		}
		titles = append(titles, "“"+e.Title+"”")
		for _, p := range plan.Called(people, plan.OwnerOf(next, next.Find(e.Entry))) {
			out = append(out, plan.Notice{PersonID: p.ID, Kind: plan.NoticePage, Subject: e.Entry, At: now, Words: fmt.Sprintf(
				"%s changed the template “%s”. On your page “%s”, what stands in “%s” is kept aside: no reader sees it with the next edition. Put it into another slot, or remove it.",
				who.Name, t.Name, e.Title, strings.Join(e.Aside, "” and “"))})
		}
	}
	if len(titles) == 0 {
		return nil
	}
	told := strings.Join(titles[:min(len(titles), 3)], ", ")
	if n := len(titles) - 3; n > 0 {
		told += fmt.Sprintf(" and %d more", n)
	}
	for _, p := range plan.Managers(people) {
		out = append(out, plan.Notice{PersonID: p.ID, Kind: plan.NoticeTemplate, Subject: t.Key, At: now, Words: fmt.Sprintf(
			"%s changed the template “%s”. Blocks of %d %s are kept aside: %s. Their owners were told.", who.Name, t.Name, len(titles), plan.Plural(len(titles), "page", "pages"), told)})
	}
	return out
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
