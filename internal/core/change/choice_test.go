package change_test

import (
	"maps"
	"slices"
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
)

// choosing is a plan in which ines added machines > mowers > small, and retitled
// ponds, and noor retitled compost.
type choosing struct {
	next  *sitemap.Tree
	all   []change.Change
	state map[change.Key]change.State
}

func newChoosing(t *testing.T) *choosing {
	c := &choosing{state: map[change.Key]change.State{}}
	var list []sitemap.Entry
	for _, e := range [][2]string{{"ponds", ""}, {"compost", ""}, {"machines", ""}, {"mowers", "machines"}, {"small", "mowers"}} {
		list = append(list, sitemap.Entry{ID: e[0], Parent: e[1], Title: e[0], Slug: e[0], Kind: sitemap.Page})
	}
	var err error
	c.next, err = sitemap.New(list)
	require.NoError(t, err)
	c.plan("ponds", change.Title, "ines", "1")
	c.plan("compost", change.Title, "noor", "1")
	for _, id := range []string{"machines", "mowers", "small"} {
		c.plan(id, change.Added, "ines", "1")
	}
	return c
}

func (c *choosing) plan(id string, a change.Aspect, by, mark string) change.Key {
	k := change.Key{ID: id, Aspect: a}
	if _, known := c.state[k]; !known {
		c.all = append(c.all, change.Change{Key: k})
	}
	c.state[k] = change.State{Mark: mark, By: by, Title: id}
	return k
}

func (c *choosing) drop(id string) {
	c.all = slices.DeleteFunc(c.all, func(ch change.Change) bool { return ch.ID == id })
}

func (c *choosing) stateOf(k change.Key) change.State { return c.state[k] }

// choose is what is kept when marta picks these.
func (c *choosing) choose(chosen change.Set) change.Choice {
	out := change.Choice{Out: change.Set{}, Seen: maps.Clone(c.state)}
	for _, ch := range c.all {
		if !chosen[ch.Key] {
			out.Out[ch.Key] = true
		}
	}
	return out
}

func (c *choosing) pick(choice change.Choice, kept change.Set) ([]string, map[string]change.ChangedSinceKind) {
	chosen, beneath := choice.Pick(c.next, c.all, c.stateOf, "marta", kept)
	told := map[string]change.ChangedSinceKind{}
	for _, b := range beneath {
		told[b.Title] = b.What
	}
	var ids []string
	for k := range chosen {
		ids = append(ids, k.ID)
	}
	slices.Sort(ids)
	return ids, told
}

func TestAChoiceIsKeptWhateverComesBeneathIt(t *testing.T) {
	c := newChoosing(t)
	ponds := change.Key{ID: "ponds", Aspect: change.Title}
	ids, told := c.pick(change.Choice{}, nil)
	require.Equal(t, []string{"compost", "machines", "mowers", "ponds", "small"}, ids)
	require.Empty(t, told, "who never chose is told nothing")

	only := c.choose(change.Set{ponds: true})
	ids, told = c.pick(only, nil)
	require.Equal(t, []string{"ponds"}, ids)
	require.Empty(t, told)

	c.plan("lawns", change.Content, "noor", "1")
	c.plan("paths", change.Content, "marta", "1")
	c.plan("ponds", change.Title, "noor", "2")
	ids, told = c.pick(only, nil)
	require.Equal(t, []string{"paths", "ponds"}, ids, "what is one's own is in, what others planned waits to be ticked")
	require.Equal(t, map[string]change.ChangedSinceKind{"lawns": change.Came, "ponds": change.Another}, told)

	everything := c.choose(maps.Collect(maps.All(change.All(c.all))))
	c.plan("walls", change.Content, "noor", "1")
	c.drop("compost")
	ids, told = c.pick(everything, nil)
	require.Contains(t, ids, "walls", "who left nothing out gets what comes")
	require.Equal(t, map[string]change.ChangedSinceKind{"walls": change.Came, "compost": change.Went}, told)
}

func TestWhatARollbackTookBackStaysOutUntilTicked(t *testing.T) {
	c := newChoosing(t)
	ponds := change.Key{ID: "ponds", Aspect: change.Title}
	ids, _ := c.pick(change.Choice{}, change.Set{ponds: true})
	require.NotContains(t, ids, "ponds")
	ids, _ = c.pick(c.choose(change.All(c.all)), change.Set{ponds: true})
	require.Contains(t, ids, "ponds")
}

func TestBranchesAreTickedAnywhere(t *testing.T) {
	c := newChoosing(t)
	key := func(id string) change.Key { return change.Key{ID: id, Aspect: change.Added} }
	all := change.All(c.all)
	without := change.Toggle(c.next, c.all, all, nil, []change.Key{key("mowers")})
	require.True(t, without[key("machines")])
	require.False(t, without[key("mowers")] || without[key("small")], "what is below goes with it")
	again := change.Toggle(c.next, c.all, change.Set{}, []change.Key{key("mowers")}, nil)
	require.Equal(t, change.Set{key("machines"): true, key("mowers"): true, key("small"): true}, again, "what it needs comes with it")
	require.Equal(t, all, change.All(c.all), "the set given is not changed")
}

// However boxes are pressed, nothing new is in without what is new above it, so
// the closure never brings back an entry that somebody left out.
func TestNothingStandsBelowWhatIsLeftOut(t *testing.T) {
	c := newChoosing(t)
	rapid.Check(t, func(t *rapid.T) {
		chosen := change.All(c.all)
		for range rapid.IntRange(1, 8).Draw(t, "presses") {
			k := []change.Key{rapid.SampledFrom(c.all).Draw(t, "change").Key}
			if rapid.Bool().Draw(t, "on") {
				chosen = change.Toggle(c.next, c.all, chosen, k, nil)
			} else {
				chosen = change.Toggle(c.next, c.all, chosen, nil, k)
			}
		}
		complete := maps.Clone(chosen)
		change.Complete(c.next, c.all, complete)
		require.Equal(t, chosen, complete)
	})
}

// Boxes press what they name, and wholesale what has no box of its own.
func TestBoxes(t *testing.T) {
	c := newChoosing(t)
	key := func(id string, a change.Aspect) change.Key { return change.Key{ID: id, Aspect: a} }
	ponds, compost := key("ponds", change.Title), key("compost", change.Title)
	machines, mowers, small := key("machines", change.Added), key("mowers", change.Added), key("small", change.Added)
	everything := []change.Key{ponds, compost, machines, mowers, small}
	for what, x := range map[string]struct {
		boxes  change.Boxes
		chosen []change.Key
		want   []change.Key
	}{
		"nothing pressed":                       {change.Boxes{}, everything, everything},
		"one out":                               {change.Boxes{Off: []change.Key{ponds}}, everything, []change.Key{compost, machines, mowers, small}},
		"a branch goes with its top":            {change.Boxes{Off: []change.Key{mowers}}, everything, []change.Key{ponds, compost, machines}},
		"what is below needs what is above":     {change.Boxes{On: []change.Key{small}}, nil, []change.Key{machines, mowers, small}},
		"every out":                             {change.Boxes{Every: change.Out}, everything, nil},
		"every in":                              {change.Boxes{Every: change.In}, nil, everything},
		"the rest out spares what had a box":    {change.Boxes{Listed: []change.Key{ponds}, Rest: change.Out}, everything, []change.Key{ponds}},
		"the rest in spares a folded branch":    {change.Boxes{Listed: []change.Key{machines}, Rest: change.In}, nil, []change.Key{ponds, compost}},
		"a folded branch goes with its one box": {change.Boxes{Listed: []change.Key{machines}, Off: []change.Key{machines}, Rest: change.Out}, everything, nil},
	} {
		chosen, want := change.Set{}, change.Set{}
		for _, k := range x.chosen {
			chosen[k] = true
		}
		for _, k := range x.want {
			want[k] = true
		}
		require.Equal(t, want, x.boxes.Press(c.next, c.all, chosen), what)
	}
}

// What changed after somebody looked is told until they have looked at it.
func TestKeptTellsWhatWasNotLookedAt(t *testing.T) {
	c := newChoosing(t)
	none := change.Set{}
	looked := change.Review(c.all, c.stateOf, nil)
	ponds := change.Key{ID: "ponds", Aspect: change.Title}
	compost := change.Key{ID: "compost", Aspect: change.Title}
	first := change.Choice{}.Kept(c.all, c.stateOf, looked, change.Set{ponds: true}, nil)
	require.False(t, first.Out[ponds])
	require.True(t, first.Out[compost])
	require.Len(t, first.Seen, 5)

	c.plan("ponds", change.Title, "noor", "2")
	fresh := c.plan("small", change.Title, "noor", "1")
	again := first.Kept(c.all, c.stateOf, looked, change.Set{ponds: true}, nil)
	require.Equal(t, "1", again.Seen[ponds].Mark, "the state that was looked at stays known")
	require.NotContains(t, again.Seen, fresh, "what nobody looked at stays unknown")
	_, beneath := again.Pick(c.next, c.all, c.stateOf, "marta", none)
	require.Len(t, beneath, 2, "%v", beneath)
	title, moved := looked.Moved(c.all, c.stateOf, change.Set{ponds: true}, nil)
	require.True(t, moved)
	require.Equal(t, "ponds", title)
	_, moved = looked.Moved(c.all, c.stateOf, change.Set{compost: true}, nil)
	require.False(t, moved, "only what is chosen counts")

	c.drop("compost")
	open := change.Choice{Out: change.Set{}, Seen: first.Seen}
	_, beneath = open.Pick(c.next, c.all, c.stateOf, "marta", none)
	kept := open.Kept(c.all, c.stateOf, looked, none, beneath)
	require.Contains(t, kept.Seen, compost, "that it went is still to be told")
	kept = open.Kept(c.all, c.stateOf, change.Review(c.all, c.stateOf, beneath), none, beneath)
	require.NotContains(t, kept.Seen, compost, "it was told")
	_, moved = looked.Moved(c.all, c.stateOf, none, beneath)
	require.True(t, moved, "what was chosen is missing")
}

func TestLookedTravels(t *testing.T) {
	c := newChoosing(t)
	looked := change.Review(c.all, c.stateOf, []change.ChangedSince{{Key: change.Key{ID: "x", Aspect: change.Title}, What: change.Went}})
	require.Len(t, looked, 6)
	require.Equal(t, looked, change.ParseReviewed(looked.Text()))
	require.Empty(t, change.ParseReviewed("no such thing"))
}

func TestStaysOut(t *testing.T) {
	key := func(id string) change.Key { return change.Key{ID: id, Aspect: change.Title} }
	list := func(ids ...string) (out []change.Change) {
		for _, id := range ids {
			out = append(out, change.Change{Key: key(id)})
		}
		return out
	}
	planned := append(list("a", "b", "c"), change.Change{Key: change.Key{ID: "d", Aspect: change.Readdressed}})
	require.Empty(t, change.StaysOut(planned, nil, false, nil), "what is new in the plan goes")
	require.Equal(t, []change.Key{key("b")}, change.StaysOut(planned, []change.Key{key("b"), key("z")}, false, nil), "what was left out and is planned still")
	require.Equal(t, []change.Key{key("b"), key("c")}, change.StaysOut(planned, nil, true, list("a")), "what was taken back")
}

func TestTextGoes(t *testing.T) {
	for aspect, goes := range map[change.Aspect]bool{change.Content: true, change.Added: true, change.Title: false} {
		require.Equal(t, goes, change.TextGoes(change.Set{{ID: "a", Aspect: aspect}: true}, "a"), aspect)
	}
	require.False(t, change.TextGoes(change.Set{{ID: "b", Aspect: change.Content}: true}, "a"))
}
