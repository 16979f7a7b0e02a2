package shape

import (
	"fmt"

	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
)

// Needs gives what chosen changes need of templates, or changes of templates need of
// entries, beyond what is chosen: a page that comes, or takes another template, needs the
// template to be there; a template that goes needs its pages to take another one or to go.
func Needs(live, next Set, liveTree, nextTree *sitemap.Tree, all []change.Change, chosen change.Set) (out []change.Dependency) {
	comes, goes := map[string]bool{}, map[string]bool{}
	for _, p := range Patches(live, next) {
		if key := TemplateOf(p.ID); key != "" {
			comes[key], goes[key] = p.Before == nil, p.After == nil
		}
	}
	if len(comes) == 0 {
		return nil
	}
	open := make(map[change.Key]bool, len(all))
	for _, c := range all {
		open[c.Key] = true
	}
	need := func(k, by change.Key, why string) {
		if open[k] && !chosen[k] {
			out = append(out, change.Dependency{Key: k, Needs: by, Why: why})
			open[k] = false
		}
	}
	for _, c := range all {
		if !chosen[c.Key] || c.Aspect != change.Added && c.Aspect != change.Template && c.Aspect != change.Returned {
			continue
		}
		if i := nextTree.Find(c.ID); i != sitemap.None && comes[nextTree.Ref(i).Template] {
			e := nextTree.Ref(i)
			need(change.Key{ID: TemplateID(e.Template), Aspect: change.Layout}, c.Key, fmt.Sprintf("%q has this template", e.Title))
		}
	}
	for i := range liveTree.Len() {
		e := liveTree.Ref(i)
		layout := change.Key{ID: TemplateID(e.Template), Aspect: change.Layout}
		if !goes[e.Template] || !chosen[layout] {
			continue
		}
		for _, a := range []change.Aspect{change.Template, change.Removed} {
			need(change.Key{ID: e.ID, Aspect: a}, layout, fmt.Sprintf("%q has the template that goes", e.Title))
		}
	}
	return out
}
