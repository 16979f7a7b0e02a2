package menu

import "strconv"

// Met is what two editors changed at once, each to another value.
type Met struct{ What, Theirs, Mine string }

// TheSource is what is met where two said differently whose children a menu lists: ids of entries.
const TheSource = "source"

// Meet puts what an editor changed of an item, who saw it as was and wants it as wanted, upon what stands there now: what
// they left alone stays as others made it. What both changed is met, the label first.
func (o ItemOverride) Meet(was, wanted ItemOverride) (ItemOverride, *Met) {
	var met *Met
	for _, f := range []struct {
		what         string
		now, was, to *string
	}{
		{"label", &o.Title, &was.Title, &wanted.Title},
		{"link", &o.URL, &was.URL, &wanted.URL},
		{"symbol", &o.Symbol, &was.Symbol, &wanted.Symbol},
	} {
		met = first(met, meet(f.what, f.now, *f.was, *f.to, func(s string) string { return s }))
	}
	met = first(met, meet("levels below it", &o.Levels, was.Levels, wanted.Levels, strconv.Itoa))
	return o, met
}

// Meet is the same for what is said about a menu as a whole.
func (s Settings) Meet(was, wanted Settings) (Settings, *Met) {
	met := meet(TheSource, &s.Of, was.Of, wanted.Of, func(s string) string { return s })
	met = first(met, meet("levels", &s.Levels, was.Levels, wanted.Levels, strconv.Itoa))
	met = first(met, meet("order", &s.AZ, was.AZ, wanted.AZ, func(az bool) string {
		return map[bool]string{true: "A–Z", false: "as in the sitemap"}[az]
	}))
	met = first(met, meet("new pages", &s.Wait, was.Wait, wanted.Wait, func(wait bool) string {
		return map[bool]string{true: "wait", false: "are shown"}[wait]
	}))
	return s, met
}

func meet[T comparable](what string, now *T, was, wanted T, words func(T) string) *Met {
	switch {
	case wanted == was || wanted == *now:
		return nil
	case *now != was:
		return &Met{what, words(*now), words(wanted)}
	}
	*now = wanted
	return nil
}

func first(a, b *Met) *Met {
	if a != nil {
		return a
	}
	return b
}
