package app_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
)

// olderLines imports addresses of an older site.
func (d *desk) olderLines(host string, lines ...[2]string) addresses.ImportedOlder {
	d.t.Helper()
	var l match.List
	for i, line := range lines {
		l.Add(i+1, line[0], line[1], "", "", 10*(len(lines)-i))
	}
	done, err := d.ImportOlder(d.t.Context(), d.people["ines"], &l, host)
	require.NoError(d.t, err)
	return done
}

func (d *desk) olderStates(host string) (out []match.State) {
	d.t.Helper()
	w, err := d.Older(d.t.Context(), d.people["ines"], host)
	require.NoError(d.t, err)
	return w.States
}

// Decisions on an older site are redirects of the next edition; the list that comes again
// decides nothing anew, and two older sites stand side by side.
func TestOlderSites(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	done := d.olderLines("Old.Quillmere.example", [2]string{"/wasser/pond.html", "Ponds"}, [2]string{"/wasser/x17.html", ""}, [2]string{"/grounds", ""}, [2]string{"/zzz", "Qqq"})
	require.Equal(t, addresses.ImportedOlder{Host: "old.quillmere.example", Fresh: 4}, done)
	require.Equal(t, []match.State{match.Clear, match.Open, match.Led, match.Far}, d.olderStates(""), "what a page has already is answered")
	require.Equal(t, 1, d.olderLines("wiki.quillmere.example", [2]string{"/Main", "Main page"}).Fresh)
	require.Len(t, d.olderStates("wiki.quillmere.example"), 1)

	res, err := d.AcceptOlder(ctx, ines, uuid.NewString(), "old.quillmere.example")
	require.NoError(t, err)
	require.Equal(t, "redirected /wasser/pond.html", res.Label)
	_, err = d.AcceptOlder(ctx, ines, uuid.NewString(), "old.quillmere.example")
	require.ErrorContains(t, err, "clear winner")
	_, err = d.DecideOlder(ctx, ines, uuid.NewString(), "old.quillmere.example", map[string]string{"/zzz": "gone"})
	require.NoError(t, err)
	_, err = d.DecideFolder(ctx, ines, uuid.NewString(), "old.quillmere.example", "/wasser/", d.id("/grounds"), false)
	require.NoError(t, err)
	_, err = d.DecideFolder(ctx, ines, uuid.NewString(), "old.quillmere.example", "/", d.id("/grounds"), false)
	require.ErrorContains(t, err, "Choose a folder")
	settled := []match.State{match.Led, match.Led, match.Led, match.OnPurpose}
	require.Equal(t, settled, d.olderStates(""))

	t.Log("the list comes again, with a title and more visits: nothing is decided twice")
	require.Equal(t, 4, d.olderLines("old.quillmere.example", [2]string{"/zzz", "Another"}, [2]string{"/wasser/pond.html", ""}, [2]string{"/grounds", ""}, [2]string{"/wasser/x17.html", "Ponds"}).Known)
	w, err := d.Older(ctx, ines, "")
	require.NoError(t, err)
	require.Equal(t, "Another", w.Lines[0].Title)
	require.Equal(t, "Ponds", w.Lines[w.At("/wasser/pond.html")].Title, "a list without titles takes none away")
	require.Equal(t, match.OnPurpose, w.States[0])

	d.publish("marta", "The old site is answered")
	_, live := d.live(), d.live().Table
	got := live.ResolveNormal("/wasser/anything", "")
	require.Equal(t, []any{301, "/grounds"}, []any{got.Code, got.Location})
	rows, err := d.RulesTable(ctx, ines, addresses.RulesAsk{Live: true, Host: "old.quillmere.example", Base: true})
	require.NoError(t, err)
	require.Contains(t, rows, redirect.Row{From: "/grounds", To: redirect.Target{Address: "/grounds"}, Code: 301, Match: redirect.Exact, Status: redirect.Kept})
	require.NoError(t, d.DropOlder(ctx, ines, "old.quillmere.example"))
	w, err = d.Older(ctx, ines, "old.quillmere.example")
	require.NoError(t, err)
	require.Equal(t, "wiki.quillmere.example", w.Host)

	t.Log("who only reads may do nothing of it")
	_, err = d.Older(ctx, plan.Person{ID: ines.ID, Role: "reader"}, "")
	require.ErrorIs(t, err, plan.ErrForbidden)
	require.ErrorIs(t, d.DropOlder(ctx, plan.Person{ID: ines.ID, Role: "reader"}, "x"), plan.ErrForbidden)
	_, err = d.ImportOlder(ctx, ines, &match.List{Lines: []match.Line{{}}}, "")
	require.ErrorContains(t, err, "host")
}

// What was carried from an older site is linked to it by itself, unless it was decided otherwise.
func TestCarriedPagesAreLinked(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	for _, source := range []string{"http://old.quillmere.example/Water/Ponds.html", "http://old.quillmere.example/compost.asp?id=2"} {
		id := d.id("/grounds/ponds")
		if source[len(source)-1] == '2' {
			id = d.id("/grounds/compost")
		}
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: id, Field: "kind", Value: "carried"})
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: id, Field: "source", Value: source})
	}
	_, err := d.redirects("ines", "/compost.asp?id=2,/visitors")
	require.NoError(t, err)
	done := d.olderLines("old.quillmere.example", [2]string{"/water/ponds.html", ""}, [2]string{"/compost.asp?id=2", ""})
	require.Equal(t, 1, done.Carried)
	w, err := d.Older(ctx, ines, "")
	require.NoError(t, err)
	require.Equal(t, []string{"/grounds/ponds", "/visitors"}, []string{w.Next[0].Location, w.Next[1].Location})
	require.Zero(t, d.olderLines("old.quillmere.example", [2]string{"/water/ponds.html", ""}).Carried, "not again")
}
