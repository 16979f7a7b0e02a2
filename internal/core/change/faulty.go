package change

// Faulty gives the selected changes that faults are about, and those that need one of them. A fault names its
// entry, or entry and target where a link is at fault: where the page that links is not selected, the target is
// (a page that the edition removes while another goes on linking to it).
func Faulty(selected Set, deps []Dependency, faults [][2]string) Set {
	of := map[string][]Key{}
	for k := range selected {
		of[k.ID] = append(of[k.ID], k)
	}
	var all []Key
	for _, f := range faults {
		about := of[f[0]]
		if len(about) == 0 && f[1] != "" {
			about = of[f[1]]
		}
		all = append(all, about...)
	}
	return WithNeeding(deps, all...)
}

// WithNeeding gives changes with all that need one of them, directly or not.
func WithNeeding(deps []Dependency, keys ...Key) Set {
	needs := map[Key][]Key{}
	for _, p := range deps {
		needs[p.Key] = append(needs[p.Key], p.Needs)
	}
	out := Set{}
	var add func(Key)
	add = func(k Key) {
		if out[k] {
			return
		}
		out[k] = true
		for _, by := range needs[k] {
			add(by)
		}
	}
	for _, k := range keys {
		add(k)
	}
	return out
}
