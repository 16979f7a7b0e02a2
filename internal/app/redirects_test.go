package app_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
)

func (d *desk) redirects(login, list string) (plan.PlanResult, error) {
	return d.PlanRedirects(d.t.Context(), d.people[login], uuid.NewString(), redirect.ParseLines(list))
}

// answers tells where an address leads in Live and in Next.
func (d *desk) answers(addr string) [2]string {
	d.t.Helper()
	got, _, err := d.TestAddresses(d.t.Context(), d.people["ines"], []string{addr})
	require.NoError(d.t, err)
	told := func(a redirect.Answer) string {
		if a.Location != "" {
			return a.Location
		}
		return map[int]string{200: "page", 404: "nothing", 410: "gone"}[a.Code]
	}
	return [2]string{told(got[0].Live), told(got[0].Next)}
}

// A list of redirects is one act: planned, undone, done again, chosen, published, and kept by
// going back.
func TestRedirectsByHandAreChangesOfAnEdition(t *testing.T) {
	d := newDesk(t)
	_, err := d.redirects("noor", "/tea /visitors")
	require.ErrorIs(t, err, plan.ErrForbidden)
	res, err := d.redirects("ines", "/tea,/visitors\n/ponds,/grounds/ponds,302\n/old,/grounds,prefix\n/bad,/nowhere\n/visitors,/grounds")
	require.NoError(t, err)
	require.Equal(t, "redirected 3 addresses", res.Label)
	require.Equal(t, [2]string{"nothing", "/visitors"}, d.answers("/tea"))
	require.Equal(t, [2]string{"nothing", "/grounds/ponds"}, d.answers("old/ponds"))
	_, err = d.Undo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, [2]string{"nothing", "nothing"}, d.answers("/tea"))
	_, err = d.Redo(t.Context(), d.people["ines"])
	require.NoError(t, err)

	t.Log("what is left out stays planned; what goes is no longer planned, and answers")
	tea := change.Key{ID: "=/tea", Aspect: change.Redirect}
	require.True(t, d.look("marta").Chosen[tea])
	d.publish("marta", "Redirects", tea)
	require.Equal(t, [2]string{"nothing", "/visitors"}, d.answers("/tea"))
	require.Equal(t, [2]string{"/grounds/ponds", "/grounds/ponds"}, d.answers("/ponds"))
	d.publish("marta", "Tea, too")
	require.Equal(t, [2]string{"/visitors", "/visitors"}, d.answers("/tea"))
	require.Empty(t, d.look("marta").All)

	t.Log("a page that moves takes its redirect along, one hop; going back keeps it")
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: d.id("/visitors"), Value: "guests"})
	d.publish("marta", "Guests")
	require.Equal(t, "/guests", d.answers("/tea")[0])
	was, _, err := d.TestAddresses(t.Context(), d.people["ines"], []string{"/visitors"})
	require.NoError(t, err)
	require.Equal(t, []int{4, 0, 1, 4}, []int{was[0].History[0].From, was[0].History[0].To, was[0].History[1].From, was[0].History[1].To})
	require.Equal(t, d.id("/guests"), was[0].History[1].Entry)
	require.Equal(t, d.id("/guests"), was[0].History[0].Row.To.Entry)
	_, err = d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), 1, "As it was")
	require.NoError(t, err)
	require.Equal(t, "/visitors", d.answers("/tea")[0], "R1: it answered once")
	require.Equal(t, "/grounds/ponds", d.answers("/ponds")[0])
}

// A redirect to a page that is new pulls the page along; one that another person changed is
// not undone over it.
func TestRedirectsByHandMeetOthers(t *testing.T) {
	d := newDesk(t)
	d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Tea room", Parent: d.id("/visitors")})
	room := d.id("/visitors/tea-room")
	_, err := d.redirects("ines", "/tea,/visitors/tea-room")
	require.NoError(t, err)
	n := d.look("marta", change.Key{ID: room, Aspect: change.Added})
	require.True(t, n.Chosen[change.Key{ID: room, Aspect: change.Added}])
	require.Equal(t, "the redirect from /tea points to it", n.Dependencies[0].Why)

	_, err = d.redirects("marta", "/tea,/grounds")
	require.NoError(t, err)
	_, err = d.Undo(t.Context(), d.people["ines"])
	require.ErrorContains(t, err, "The redirect of /tea")
	_, err = d.DropRedirects(t.Context(), d.people["ines"], uuid.NewString(), []string{"=/tea"})
	require.NoError(t, err)
	require.Equal(t, [2]string{"nothing", "nothing"}, d.answers("/tea"))

	p, err := d.PreviewRedirects(t.Context(), d.people["ines"], redirect.ParseLines("/a,/b\n/b,/a\n/c,/grounds"))
	require.NoError(t, err)
	require.Equal(t, []int{1, 0, 0, 2}, []int{p.Count(redirect.New), p.Count(redirect.Changes), p.Count(redirect.Nothing), p.Count(redirect.Refused)})
	_, err = d.PlanRedirects(t.Context(), d.people["ines"], uuid.NewString(), []redirect.Wish{{From: "/grounds", To: "/visitors"}})
	require.ErrorContains(t, err, "is at this address")
	_, _, err = d.TestAddresses(t.Context(), d.people["ines"], make([]string, addresses.MostTested+1))
	require.Error(t, err)
}

// Every edition is proved for all addresses that ever answered, of pages and of redirects; one
// of which an address would stop cannot be published, by nobody.
func TestEditionsAreProved(t *testing.T) {
	d := newDesk(t)
	_, err := d.redirects("ines", "/tea,/visitors\n/cards,/grounds,branch")
	require.NoError(t, err)
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: d.id("/grounds"), Value: "outside"})
	n := d.look("marta")
	require.Equal(t, redirect.Proof{Asked: 6, Pages: 3, Led: 3, Longest: 1, Again: 3}, n.Proof, "three pages have another address; the redirects are new")
	d.publish("marta", "Outside")
	n = d.look("marta")
	require.Equal(t, 11, n.Proof.Asked, "six addresses of pages, three of before, two redirects")
	require.True(t, n.Proof.Holds())
	eds, _, err := d.PastEditions(t.Context(), d.people["marta"])
	require.NoError(t, err)
	require.Equal(t, "6 of 6 addresses answered, longest way one hop", eds[0].Proof.Words())

	t.Log("an address is lost behind the back of the program: nothing goes out until it answers")
	_, err = d.pool.Exec(t.Context(), `SET session_replication_role = replica; UPDATE redirects SET to_edition = 2 WHERE from_address = '/tea'; SET session_replication_role = DEFAULT`)
	require.NoError(t, err)
	d.restart()
	d.write("ines", d.id("/visitors"), "Something else.")
	_, err = d.tryPublish("marta", "A text")
	notReady := (*editions.NotReady)(nil)
	require.ErrorAs(t, err, &notReady)
	require.Contains(t, notReady.Findings[0].Message, "/tea answered once and would stop")
	_, err = d.redirects("ines", "/tea,/visitors")
	require.NoError(t, err)
	d.publish("marta", "Tea is back")
	list, err := d.ProofOfNext(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Len(t, list, 11)

	t.Log("addresses of an older site are told besides, and need not answer; a past edition is proved by what was asked then")
	d.olderLines("old.quillmere.example", [2]string{"/outside", ""}, [2]string{"/zzz", ""})
	n = d.look("marta")
	require.Equal(t, "11 of 11 addresses answered, longest way one hop; 1 of 2 addresses of older sites", n.Proof.Words())
	list, err = d.ProofOfNext(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Len(t, list, 13)
	require.Equal(t, []any{"/zzz", editions.OfOlderSite, 404}, []any{list[12].Address, list[12].Of, list[12].Code})
	list, err = d.ProofOf(t.Context(), d.people["ines"], 1)
	require.NoError(t, err)
	require.Len(t, list, 6)
	for _, p := range list {
		require.Equal(t, 200, p.Code, p.Address)
	}
	_, err = d.ProofOf(t.Context(), d.people["ines"], 99)
	require.ErrorIs(t, err, plan.ErrNotFound)
}

// Redirects that were decided until a day come up in the inbox on that day, once.
func TestRedirectsThatAreDue(t *testing.T) {
	d := newDesk(t)
	_, err := d.PlanRedirects(t.Context(), d.people["ines"], uuid.NewString(), []redirect.Wish{
		{From: "/tea", To: "/visitors", Code: "temporary", Review: "2026-11-26"}, {From: "/cards", To: "/visitors", Review: "2026-12-24"},
	})
	require.NoError(t, err)
	d.publish("marta", "Tea is away for now")
	inbox := func() (words []string) {
		require.NoError(t, d.TellDue(t.Context()))
		list, err := d.Inbox(t.Context(), d.people["marta"])
		require.NoError(t, err)
		for _, n := range list {
			words = append(words, n.Words)
		}
		return words
	}
	require.Empty(t, inbox(), "it is the 25th")
	d.now = d.now.AddDate(0, 0, 1)
	require.Equal(t, []string{"1 redirect is to be looked at again: /tea."}, inbox())
	d.now = d.now.AddDate(0, 0, 1)
	require.Len(t, inbox(), 1, "not told again")
	d.now = d.now.AddDate(0, 1, 0)
	require.Len(t, inbox(), 2)
}
