package edition

import (
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
)

// inverse is the aspect of the change that takes one back; any other is its own.
var inverse = map[change.Aspect]change.Aspect{
	change.Added: change.Removed, change.Removed: change.Added, change.Withdrawn: change.Returned, change.Returned: change.Withdrawn,
}

// TakeBack gives the patches that take some changes of an edition back, of which before and after
// are the trees, and the changes that have to be taken back with them. What changed in the same
// fields since is found where the patches are applied.
func TakeBack(before, after *sitemap.Tree, keys []change.Key) (patches []sitemap.Patch, pulled []change.Dependency, err error) {
	back := change.Diff(after, before)
	chosen := change.Set{}
	for _, c := range back {
		for _, k := range keys {
			if c.ID == k.ID && c.Aspect == inverseOf(k.Aspect) {
				chosen[c.Key] = true
			}
		}
	}
	set, pulled, applied := change.Closure(after, before, back, chosen)
	if applied == nil {
		if applied, err = change.Apply(after, before, set); err != nil {
			return nil, nil, err
		}
	}
	return sitemap.Patches(after, applied), pulled, nil
}

func inverseOf(a change.Aspect) change.Aspect {
	if other, ok := inverse[a]; ok {
		return other
	}
	return a
}
