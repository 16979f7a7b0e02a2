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

func (c *choosing) pick(choice change.Choice, kept change.Set) ([]string, map[string]change.BeneathKind) {
	chosen, beneath := choice.Pick(c.next, c.all, c.stateOf, "marta", kept)
	told := map[string]change.BeneathKind{}
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
	require.Equal(t, map[string]change.BeneathKind{"lawns": change.Came, "ponds": change.Another}, told)

	everything := c.choose(maps.Collect(maps.All(change.All(c.all))))
	c.plan("walls", change.Content, "noor", "1")
	c.drop("compost")
	ids, told = c.pick(everything, nil)
	require.Contains(t, ids, "walls", "who left nothing out gets what comes")
	require.Equal(t, map[string]change.BeneathKind{"walls": change.Came, "compost": change.Went}, told)
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
