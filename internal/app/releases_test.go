package app_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/markup"
)

// Only a release lets an address go, and only with a reason, by a site manager,
// with an edition.
func TestReleasingAnAddress(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds := t.Context(), d.people["marta"], d.id("/grounds/ponds")
	answers := func(a string) int { return d.live().Table.Resolve(a).Code }
	require.ErrorIs(t, d.ReleaseAddresses(ctx, d.people["anselm"], []string{"/grounds/ponds"}, "x"), plan.ErrForbidden)
	for addr, why := range map[string]string{"/grounds/ponds": "a page has it", "/never": "nothing was there", "/grounds/ponds2": " ", "": "x", "/a\x00": "x"} {
		require.ErrorAs(t, d.ReleaseAddresses(ctx, marta, []string{addr}, why), new(*plan.Invalid), addr)
	}
	d.act("marta", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "pools"})
	d.publish("marta", "Pools")
	require.Equal(t, 301, answers("/grounds/ponds"))

	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{" /Grounds/Ponds/ "}, "Nobody asked for it in a year"))
	require.Equal(t, 301, answers("/grounds/ponds"), "planned is not released")
	n, _ := d.own("anselm")
	require.True(t, n.Chosen[change.Key{ID: "/grounds/ponds", Aspect: change.Released}])
	require.NoError(t, d.KeepAddress(ctx, marta, "/grounds/ponds"))
	n, _ = d.own("anselm")
	require.Empty(t, n.All)

	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"/grounds/ponds"}, "Nobody asked for it in a year"))
	d.act("marta", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Pools"})
	d.publish("marta", "Other things only", change.Key{ID: "/grounds/ponds", Aspect: change.Released})
	require.Equal(t, 301, answers("/grounds/ponds"), "what is left out stays")
	d.publish("marta", "It goes")
	require.Equal(t, 404, answers("/grounds/ponds"))
	all, err := d.Redirects(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, []int{4}, []int{all.Released[0].Edition})
	eds, _, err := d.PastEditions(ctx, marta)
	require.NoError(t, err)
	require.Contains(t, eds[0].Changes[0].Words, "Nobody asked for it in a year")

	d.act("marta", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "ponds"})
	d.publish("marta", "Ponds again")
	require.Equal(t, 200, answers("/grounds/ponds"))
	require.Equal(t, 301, answers("/grounds/pools"))
	d.act("marta", appsitemap.PlanAct{Do: "remove", ID: ponds})
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"/grounds/ponds"}, "Never again"))
	d.publish("marta", "A page that is removed needs no decision where its address is released", change.Key{})
	require.Equal(t, 404, answers("/grounds/ponds"))
}

// Who releases the address of a redirect that answers a whole branch is told that it ends for all
// of it.
func TestReleasingABranch(t *testing.T) {
	d := newDesk(t)
	_, err := d.redirects("ines", "/cards,/grounds,branch\n/tea,/visitors")
	require.NoError(t, err)
	d.publish("marta", "Cards and tea")
	require.NoError(t, d.ReleaseAddresses(t.Context(), d.people["marta"], []string{"/cards", "/tea"}, "They were printed once"))
	below := func() map[string]bool {
		all, err := d.Redirects(t.Context(), d.people["ines"])
		require.NoError(t, err)
		out := map[string]bool{}
		for _, r := range all.Released {
			out[r.Address] = r.Below
		}
		return out
	}
	require.Equal(t, map[string]bool{"/cards": true, "/tea": false}, below())
	d.publish("marta", "Nobody needs them")
	require.Equal(t, map[string]bool{"/cards": true, "/tea": false}, below())
	require.Equal(t, 404, d.live().Table.Resolve("/cards/may").Code)
}

// An instance keeps the addresses that ever answered, and reads those of new editions: it proves as many as one that has
// just begun, whatever was moved, added or released meanwhile.
func TestAddressesThatEverAnsweredAreKept(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	begin := func() *app.App {
		return app.New(d.store, markup.New(), memory(t), func() time.Time { return d.now })
	}
	proved := func(a *app.App) int {
		t.Helper()
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/visitors"), Field: "notes", Value: uuid.NewString()})
		n, err := a.LookAhead(ctx, marta, editions.Select{})
		require.NoError(t, err)
		return n.Proof.Asked
	}
	old, ponds := begin(), d.id("/grounds/ponds")
	was := proved(old)
	for _, slug := range []string{"waters", "pools"} {
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "slug", Value: slug, Confirmed: true})
		d.publish("marta", "Ponds are "+slug)
		now := proved(old)
		require.Equal(t, proved(begin()), now)
		require.Greater(t, now, was)
		was = now
	}
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"/grounds/waters"}, "Nobody asked for it in a year"))
	d.publish("marta", "Released")
	require.Equal(t, proved(begin()), proved(old))
	require.Less(t, proved(old), was)
}

// An old host name that redirects are for is given up like an address: its rows are released, by the
// name or one by one, and until that is published the name cannot be taken out.
func TestOldHostNamesAreGivenUpLikeAddresses(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	_, err := d.pool.Exec(ctx, `UPDATE sites SET hosts = '{inside.quillmere.example}'`)
	require.NoError(t, err)
	d.restart()
	hosts := func(names string) error {
		return d.SaveSettings(ctx, marta, setting.Values{setting.OldHosts: names}, nil)
	}
	code := func(key string) int { return d.live().Table.Proven(key).Code }
	require.NoError(t, hosts("staff.quillmere.example barn.quillmere.example"))
	for _, from := range []string{"//staff.quillmere.example/tea", "//staff.quillmere.example/forms?id=7", "//barn.quillmere.example/hay"} {
		_, err := d.PlanRedirects(ctx, marta, uuid.NewString(), []redirect.Wish{{From: from, To: "/grounds"}})
		require.NoError(t, err, from)
	}
	require.ErrorContains(t, hosts("barn.quillmere.example"), "would stop: https://staff.quillmere.example/forms?id=7 and 1 more", "what is planned counts")
	d.publish("marta", "Old names")
	require.ErrorContains(t, hosts(""), "barn.quillmere.example alone and would stop: https://barn.quillmere.example/hay.")
	rules, err := d.RuleHosts(ctx, marta)
	require.NoError(t, err)
	require.Equal(t, []string{"barn.quillmere.example", "staff.quillmere.example"}, rules, "rules can be had for a name that has rows")

	require.ErrorContains(t, d.ReleaseAddresses(ctx, marta, []string{"https://mill.quillmere.example"}, "x"), "No redirect is for mill")
	require.ErrorContains(t, d.ReleaseAddresses(ctx, marta, []string{"https://staff.quillmere.example/cake"}, "x"), "Nothing ever answered at https://staff.quillmere.example/cake")
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"https://Staff.quillmere.example/forms/?id=7"}, "Nobody asks"))
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"//barn.quillmere.example"}, "The barn is sold"))
	require.Error(t, hosts(""), "planned is not released")
	d.publish("marta", "Some end")
	require.Equal(t, []int{404, 301, 404}, []int{code("//staff.quillmere.example/forms?id=7"), code("//staff.quillmere.example/tea"), code("//barn.quillmere.example/hay")})
	require.NoError(t, hosts("staff.quillmere.example"), "nothing is for the barn any more")
	require.ErrorContains(t, hosts(""), "staff.quillmere.example/tea")
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"https://staff.quillmere.example/tea"}, "The last one"))
	d.publish("marta", "All end")
	require.NoError(t, hosts(""))
}
