package sitemap

// Restore puts entries back that were removed, in document order, the first
// being the one that is asked for. Each goes below its former parent where that
// is in the tree (again), else below the nearest of the former ancestors of the
// first that is, else to the top; last among those who are there. It keeps its
// address where that is free, and gets another slug where it is not.
func (t *Tree) Restore(entries []Entry, ancestors []string) (*Tree, error) {
	next := t
	for _, e := range entries {
		if next.Find(e.ID) != None {
			continue
		}
		e.Rank, e.Withdrawn = "", false
		if e.Fixed != "" && next.ClaimedBy(e.Fixed) != None {
			e.Fixed = ""
		}
		var err error
		if next, err = next.Add(e, next.Last(next.holder(append([]string{e.Parent}, ancestors...)))); err != nil {
			return nil, err
		}
	}
	return next, nil
}

// holder gives the first of the ids that can have entries below it; "" is the
// top.
func (t *Tree) holder(ids []string) string {
	for _, id := range ids {
		if i := t.Find(id); i != None && i != t.home && t.entries[i].Kind.HoldsChildren() {
			return id
		}
	}
	return ""
}
