package review_test

import (
	"testing"

	"candlepath/internal/core/change"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

func tree(t *testing.T, below map[string]string) *sitemap.Tree {
	t.Helper()
	list := []sitemap.Entry{{ID: "home", Title: "Home", Kind: sitemap.Page, Fixed: "/"}}
	for _, id := range []string{"science", "seeds", "drying", "visitors"} {
		if parent, there := below[id]; there {
			list = append(list, sitemap.Entry{ID: id, Parent: parent, Title: id, Slug: id, Kind: sitemap.Page})
		}
	}
	out, err := sitemap.New(list)
	require.NoError(t, err)
	return out
}

// The nearest entry above that says something decides; who moves is under both branches.
func TestWhatIsAsked(t *testing.T) {
	live := tree(t, map[string]string{"science": "", "seeds": "", "drying": "seeds", "visitors": ""})
	next := tree(t, map[string]string{"science": "", "seeds": "science", "drying": "visitors", "visitors": ""})
	rules := review.Rules{Site: workflow.AsksApproval, Branches: map[string]workflow.Asks{"seeds": workflow.AsksFourEyes, "visitors": workflow.AsksNothing}}
	of := func(id string) workflow.Asks { return rules.Of(live, next, change.Key{ID: id, Aspect: change.Title}) }
	require.Equal(t, workflow.AsksFourEyes, of("seeds"))
	require.Equal(t, workflow.AsksFourEyes, of("drying"), "it moves out of the branch")
	require.Equal(t, workflow.AsksNothing, of("visitors"))
	require.Equal(t, workflow.AsksApproval, of("science"))
	require.Equal(t, workflow.AsksApproval, of("home"))
	require.Equal(t, workflow.AsksApproval, of("menu:top"), "what is no entry is under what the site says")
	require.False(t, rules.None())
	require.True(t, review.Rules{Branches: map[string]workflow.Asks{"seeds": workflow.AsksNothing}}.None())
	require.False(t, review.Rules{Branches: map[string]workflow.Asks{"seeds": workflow.AsksApproval}}.None())
}

// What is planned of one thing is reviewed together, as far as it stands in one place.
func TestItems(t *testing.T) {
	c := func(id string, a change.Aspect, after string) change.Change {
		return change.Change{Key: change.Key{ID: id, Aspect: a}, After: after}
	}
	list := []change.Change{c("drying", change.Title, "Drying"), c("seeds", change.Placement, "/science/seeds"), c("drying", change.Readdressed, "x"), c("drying", change.Content, ""), c("seeds", change.Title, "Seeds")}
	standings := map[change.Key]workflow.Standing{}
	items := func() []review.Item {
		return review.Items(list, func(c change.Change) (workflow.State, workflow.Standing) {
			s := standings[c.Key]
			return s.Now(review.Stamp(c, "1")), s
		})
	}
	before := items()
	require.Len(t, before, 2)
	require.Equal(t, []change.Key{list[0].Key, list[3].Key}, before[0].Keys())
	for _, i := range []int{0, 1, 4} {
		standings[list[i].Key] = workflow.Standing{State: workflow.WithReviewer, Stamp: review.Stamp(list[i], "1"), Review: "r"}
	}
	got := items()
	require.Len(t, got, 3)
	require.Equal(t, review.Item{ID: "drying", Changes: []change.Change{list[0]}, State: workflow.WithReviewer, Review: "r", Stamp: got[0].Stamp}, got[0])
	require.Equal(t, workflow.Draft, got[2].State, "its text was not sent")
	stamp := got[1].Stamp
	list[4].After = "Seed vault"
	got = items()
	require.Len(t, got, 4, "what was edited is a draft again")
	require.NotEqual(t, stamp, got[1].Stamp)
	require.NotEqual(t, review.Stamp(list[3], "1"), review.Stamp(list[3], "2"), "a text that was saved again")
}
