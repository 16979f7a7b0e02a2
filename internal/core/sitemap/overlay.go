package sitemap

// Overlay is how the planned rows of entries change with an act: Next is Live with
// the planned rows laid over it.
type Overlay struct {
	Put    []Entry  // rows to write
	Remove []Entry  // planned ends, of entries of Live
	Forget []string // ids whose row is Live's again
}

// OverlayOf gives the planned rows that patches of Next make, and those that they
// make needless.
func OverlayOf(live *Tree, patches []Patch) Overlay {
	var o Overlay
	for _, p := range patches {
		i := live.Find(p.ID)
		switch {
		case p.After == nil && i == None:
			o.Forget = append(o.Forget, p.ID)
		case p.After == nil:
			o.Remove = append(o.Remove, live.At(i))
		case i != None && live.At(i) == *p.After:
			o.Forget = append(o.Forget, p.ID)
		default:
			o.Put = append(o.Put, *p.After)
		}
	}
	return o
}
