package redirect

// neverThere is a segment that no address has: it is what a visitor might make up.
const neverThere = "\u2400"

// Spreads counts the rows of a compact table that also answer addresses which the table it was made of does not:
// those below their own that never existed.
func Spreads(given, compact []Row) (n int, err error) {
	t, err := NewTable(given, nil)
	if err != nil {
		return 0, err
	}
	for _, r := range compact {
		if r.Match != Exact && t.ResolveNormal(r.From+"/"+neverThere, "").Code == notFound().Code {
			n++
		}
	}
	return n, nil
}
