package content

import "candlepath/internal/core/textdiff"

// FieldChange is how one fact differs between two texts of a page.
type FieldChange struct {
	Label string
	Runs  []textdiff.Run
}

// ChangedFields tells which facts of a page differ, as people read them, in the order of the
// template. What the template does not ask for is left out.
func ChangedFields(t Template, before, after Page, person func(id string) string) (out []FieldChange) {
	for _, f := range t.Fields() {
		if was, is := before.Fields[f.Key], after.Fields[f.Key]; was != is {
			out = append(out, FieldChange{f.Label, textdiff.Compare(f.Told(was, person), f.Told(is, person))})
		}
	}
	if was, is := NewsDay(before), NewsDay(after); was != is {
		out = append(out, FieldChange{"Goes out as news on", textdiff.Compare(was, is)})
	}
	return out
}
