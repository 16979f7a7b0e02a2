package review_test

import (
	"testing"

	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
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
	rules := review.Rules{Site: workflow.Approval, Branches: map[string]workflow.ApprovalPolicy{"seeds": workflow.FourEyes, "visitors": workflow.NoApproval}}
	of := func(id string) workflow.ApprovalPolicy {
		return rules.Of(live, next, change.Key{ID: id, Aspect: change.Title})
	}
	require.Equal(t, workflow.FourEyes, of("seeds"))
	require.Equal(t, workflow.FourEyes, of("drying"), "it moves out of the branch")
	require.Equal(t, workflow.NoApproval, of("visitors"))
	require.Equal(t, workflow.Approval, of("science"))
	require.Equal(t, workflow.Approval, of("home"))
	require.Equal(t, workflow.Approval, of("menu:top"), "what is no entry is under what the site says")
	require.False(t, rules.None())
	require.True(t, review.Rules{Branches: map[string]workflow.ApprovalPolicy{"seeds": workflow.NoApproval}}.None())
	require.False(t, review.Rules{Branches: map[string]workflow.ApprovalPolicy{"seeds": workflow.Approval}}.None())
}

// What is planned of one thing is reviewed together, as far as it stands in one place.
func TestItems(t *testing.T) {
	c := func(id string, a change.Aspect, after string) change.Change {
		return change.Change{Key: change.Key{ID: id, Aspect: a}, After: after}
	}
	list := []change.Change{c("drying", change.Title, "Drying"), c("seeds", change.Placement, "/science/seeds"), c("drying", change.Readdressed, "x"), c("drying", change.Content, ""), c("seeds", change.Title, "Seeds")}
	one, standings := review.Of{Version: "1"}, map[change.Key]workflow.ApprovalState{}
	items := func() []review.Item {
		return review.Items(list, func(c change.Change) (workflow.State, workflow.ApprovalState) {
			s := standings[c.Key]
			return s.Now(review.Stamp(c, one)), s
		})
	}
	before := items()
	require.Len(t, before, 2)
	require.Equal(t, []change.Key{list[0].Key, list[3].Key}, before[0].Keys())
	for _, i := range []int{0, 1, 4} {
		standings[list[i].Key] = workflow.ApprovalState{State: workflow.InReview, Stamp: review.Stamp(list[i], one), Review: "r"}
	}
	got := items()
	require.Len(t, got, 3)
	require.Equal(t, review.Item{ID: "drying", Changes: []change.Change{list[0]}, State: workflow.InReview, Review: "r", Stamp: got[0].Stamp}, got[0])
	require.Equal(t, workflow.Draft, got[2].State, "its text was not sent")
	stamp := got[1].Stamp
	list[4].After = "Seed vault"
	got = items()
	require.Len(t, got, 4, "what was edited is a draft again")
	require.NotEqual(t, stamp, got[1].Stamp)
	require.NotEqual(t, review.Stamp(list[3], one), review.Stamp(list[3], review.Of{Version: "2"}), "a text that was saved again")
}

// Nothing of what is approved can be another afterwards: every field of a new entry, every lesser
// fact that is told together, the place of what moves, and where the visitors of what goes are led.
func TestStampsSayAll(t *testing.T) {
	base := sitemap.Entry{ID: "seeds", Parent: "science", Title: "Seeds", Slug: "seeds", Kind: sitemap.Page}
	added := change.Change{Key: change.Key{ID: "seeds", Aspect: change.Added}, After: "/science/seeds"}
	details := change.Change{Key: change.Key{ID: "seeds", Aspect: change.Details}, After: "Gwen", Because: "owner, notes"}
	moved := change.Change{Key: change.Key{ID: "seeds", Aspect: change.Placement}, Before: "/seeds", After: "/science/seeds", Because: "moved"}
	for name, alter := range map[string]func(*sitemap.Entry){
		"parent": func(e *sitemap.Entry) { e.Parent = "visitors" }, "title": func(e *sitemap.Entry) { e.Title = "Seed" }, "short": func(e *sitemap.Entry) { e.Short = "x" },
		"slug": func(e *sitemap.Entry) { e.Slug = "x" }, "fixed": func(e *sitemap.Entry) { e.Fixed = "/x" }, "kind": func(e *sitemap.Entry) { e.Kind = sitemap.Group },
		"target": func(e *sitemap.Entry) { e.Target = "x" }, "source": func(e *sitemap.Entry) { e.Source = "x" }, "template": func(e *sitemap.Entry) { e.Template = "x" },
		"owner": func(e *sitemap.Entry) { e.Owner = "x" }, "unlisted": func(e *sitemap.Entry) { e.Unlisted = true }, "topics": func(e *sitemap.Entry) { e.Topics = "x" },
		"readership": func(e *sitemap.Entry) { e.Readership = "x" }, "review": func(e *sitemap.Entry) { e.Review = "2026-12-01" }, "notes": func(e *sitemap.Entry) { e.Notes = "x" },
		"withdrawn": func(e *sitemap.Entry) { e.Withdrawn = true },
	} {
		other := base
		alter(&other)
		stamp := func(c change.Change, e *sitemap.Entry) string { return review.Stamp(c, review.Of{Entry: e}) }
		require.NotEqual(t, stamp(added, &base), stamp(added, &other), name)
		require.Equal(t, name == "owner" || name == "notes", stamp(details, &base) != stamp(details, &other), name)
		if name == "parent" || name == "slug" || name == "fixed" || name == "kind" || name == "target" || name == "source" {
			require.NotEqual(t, stamp(moved, &base), stamp(moved, &other), name)
		}
	}
	gone := change.Change{Key: change.Key{ID: "seeds", Aspect: change.Removed}, Before: "/seeds"}
	to := func(d redirect.Decision) string { return review.Stamp(gone, review.Of{Decision: &d}) }
	require.NotEqual(t, to(redirect.Decision{Code: 410}), to(redirect.Decision{To: redirect.Target{Entry: "home"}, Code: 301}))
	require.NotEqual(t, review.Stamp(gone, review.Of{}), to(redirect.Decision{Code: 410}))
	order := change.Change{Key: change.Key{ID: "seeds", Aspect: change.Reordered}}
	require.NotEqual(t, review.Stamp(order, review.Of{Entry: &sitemap.Entry{Rank: "a"}}), review.Stamp(order, review.Of{Entry: &sitemap.Entry{Rank: "b"}}))
}
