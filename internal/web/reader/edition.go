package reader

import (
	"html/template"
	"maps"
	"slices"
	"sync"
	"sync/atomic"

	"golang.org/x/sync/singleflight"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	coreedition "candlepath/internal/core/edition"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/render"
)

// edition is the current edition as an instance keeps it.
type edition struct {
	full       reading.LiveSite
	set        *render.Set
	restricted bool  // something is not for everybody
	public     *view // what everybody may read
	uses       *uses

	kinds  []string // of readership, by which views differ
	mu     sync.Mutex
	sights map[readership.Reader]string // what they may read
	views  map[string]func() *view      // by what may be read
}

// view is an edition as it is for some readers: what they may not read is not
// in it.
type view struct {
	reading.LiveSite
	menus   *menu.Maker
	trails  []shape.Named // that these readers may follow
	cache   *cache
	differs bool // from what other readers get: something is not for everybody
	uses    *uses
	bare    bool     // without search and sign-in: it is shown, or written out
	old     []string // hosts whose visitors are led to the site's own

	set   *render.Set
	drawn sync.Map // menus as they are sent, by block and marks
	kept  atomic.Int32

	composing singleflight.Group // pages that are on their way into the cache
	hidden    func() []string    // what these readers get no page of
	withheld  int                // redirects of removed pages that these readers could not read
}

// mostDrawn is how many looks of its menus a view keeps.
const mostDrawn = 64

// menu gives a menu of a page as it is sent. It is drawn once for all pages on
// which it looks the same.
func (v *view) menu(block, id string, page int, items func(int) []menu.Item) (template.HTML, error) {
	key := block + " " + v.menus.Marks(id, page)
	if html, ok := v.drawn.Load(key); ok {
		return html.(template.HTML), nil
	}
	out, err := v.set.Bytes("page", block, items(page))
	if err != nil {
		return "", err
	}
	html := template.HTML(out) //nolint:gosec // a template made it
	if v.kept.Add(1) <= mostDrawn {
		v.drawn.Store(key, html)
	}
	return html, nil
}

const (
	publicCache  = 128 << 20
	privateCache = 8 << 20
	mostViews    = 200 // readers whose own view is kept
)

// newEdition takes up an edition. What was composed of the one before, if there was
// one, is kept of all pages that look the same.
func newEdition(live reading.LiveSite, set *render.Set, before *edition) (*edition, error) {
	also := live.Readerships()
	e := &edition{full: live, set: set, kinds: readership.Kinds(live.Tree, also), uses: newUses(live.Table.Rows()), views: map[string]func() *view{}, sights: map[readership.Reader]string{}}
	for _, tr := range live.Shapes.Trails() {
		if !slices.Contains(e.kinds, tr.Readership) {
			e.kinds = append(e.kinds, tr.Readership)
		}
	}
	for _, list := range live.Withheld {
		for _, names := range list {
			if !slices.Contains(e.kinds, names) {
				e.kinds = append(e.kinds, names)
			}
		}
	}
	e.restricted = readership.Restricted(live.Tree, also) || len(live.Withheld) > 0
	var err error
	if e.public, err = e.newView(publicCache, readership.Reader{}); err != nil {
		return nil, err
	}
	if before != nil && sameAround(before.full, live) && before.restricted == e.restricted {
		e.public.takeOver(before.public)
	}
	return e, nil
}

// warm draws a page without a text, so that what all pages share is there before
// somebody waits for it.
func (v *view) warm() error {
	home := v.Tree.Home()
	if home == sitemap.None {
		return nil
	}
	p, err := v.pageView(home, plan.LiveBody{})
	if err == nil {
		_, err = v.set.Bytes("page", "layout", p)
	}
	return err
}

// sameAround tells whether what stands around the content of pages is the same.
func sameAround(was, is reading.LiveSite) bool {
	return maps.Equal(was.Site.Settings, is.Site.Settings) && slices.Equal(was.Site.Hosts, is.Site.Hosts) &&
		len(shape.Patches(was.Shapes, is.Shapes)) == 0
}

// takeOver takes the pages of an earlier view that look the same in this one: of which neither their
// own entry and text, nor anything that composing them looked up, differs.
func (v *view) takeOver(was *view) {
	stale, all := coreedition.Stale(was.Tree, v.Tree)
	if all {
		return
	}
	changed := make(map[string]bool, len(stale))
	for _, id := range stale {
		changed[id] = true
	}
	differs := reading.Between(was.LiveSite, v.LiveSite)
	v.cache.takeOver(was.cache, func(key string, reads plan.Reads) bool {
		return key != listKey("new") && !changed[key] && !differs.Text(key) && !differs.Of(reads)
	})
}

// same tells whether readers would see nothing new.
func (e *edition) same(now plan.Site) bool {
	was := e.full.Site
	return was.ID == now.ID && was.Edition == now.Edition && maps.Equal(was.Settings, now.Settings) &&
		slices.Equal(was.Hosts, now.Hosts) && was.Work[plan.PartPeople] == now.Work[plan.PartPeople]
}

// newView makes the edition as each of some readers may see it.
func (e *edition) newView(room int, readers ...readership.Reader) (*view, error) {
	v := &view{LiveSite: e.full, cache: newCache(room), set: e.set, differs: e.restricted}
	v.Tree = readership.VisibleToAll(e.full.Tree, readers, e.full.Readerships())
	v.uses, v.old = e.uses, e.full.Site.OldHosts()
	v.hidden = sync.OnceValue(func() []string { return reading.Hidden(e.full.Tree, v.Tree) })
	v.menus = menu.For(v.Tree, e.full.Shapes.Menus())
	v.trails = trailsFor(e.full.Shapes, v.Tree, readers)
	// What a removed page redirects to would betray it to those who could not read it. A redirect that somebody
	// made by hand speaks for itself.
	rows := slices.DeleteFunc(slices.Clone(e.full.Table.Rows()), func(r redirect.Row) bool {
		return r.Match == redirect.Exact && r.Origin != redirect.ByHand && readership.Withholds(e.full.Withheld[r.From], readers)
	})
	v.withheld = len(e.full.Table.Rows()) - len(rows)
	var err error
	if v.Tree != e.full.Tree || v.withheld > 0 {
		v.Table, err = redirect.NewTable(rows, v.Tree)
	}
	return v, err
}

// trailsFor gives the trails that readers may follow: those that name them and
// have a page that they may read.
func trailsFor(set shape.Set, t *sitemap.Tree, readers []readership.Reader) []shape.Named {
	return slices.DeleteFunc(set.Trails(), func(tr shape.Named) bool {
		return slices.ContainsFunc(readers, func(r readership.Reader) bool { return !r.In(tr.Readership) }) || len(tr.Steps(t)) == 0
	})
}

// viewOf gives the view of a reader. Those who may read the same share one, and those
// who may read no more than everybody the public one. It is made once, while others go
// on reading.
func (e *edition) viewOf(r readership.Reader) *view {
	e.mu.Lock()
	sight, met := e.sights[r]
	if !met {
		if len(e.sights) >= mostViews {
			clear(e.sights)
		}
		sight = r.Sight(e.kinds)
		e.sights[r] = sight
	}
	made, known := e.views[sight]
	if !known {
		if len(e.views) >= mostViews {
			clear(e.views)
		}
		made = sync.OnceValue(func() *view {
			v, err := e.newView(privateCache, r)
			if err != nil || v.Tree.Len() == e.public.Tree.Len() && v.withheld == e.public.withheld && len(v.trails) == len(e.public.trails) {
				return e.public
			}
			return v
		})
		e.views[sight] = made
	}
	e.mu.Unlock()
	return made()
}
