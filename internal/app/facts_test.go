package app_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// Several entries get a value each in one act; what cannot be read changes none.
func TestFactsOfManyAtOnce(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	fill := func(field, a, b string) (plan.PlanResult, error) {
		return d.try("ines", appsitemap.PlanAct{Do: "facts", Field: field, Values: map[string]string{ponds: a, compost: b}})
	}
	at := func(id string) sitemap.Entry { n := d.next(); return n.At(n.Find(id)) }

	for _, c := range []struct {
		field, a, b string
		got         func(sitemap.Entry) string
		want        [2]string
	}{
		{"review", "2027-03-01", "1 March 2028", func(e sitemap.Entry) string { return e.Review }, [2]string{"2027-03-01", "2028-03-01"}},
		{"topics", "water, frogs", "", func(e sitemap.Entry) string { return e.Topics }, [2]string{"water; frogs", ""}},
		{"template", "Procedure", "topic", func(e sitemap.Entry) string { return e.Template }, [2]string{"procedure", "topic"}},
		{"title", "Ponds  and bogs", "Heaps", func(e sitemap.Entry) string { return e.Title }, [2]string{"Ponds and bogs", "Heaps"}},
		{"listed", "not listed", "yes", func(e sitemap.Entry) string { return map[bool]string{true: "no"}[e.Unlisted] }, [2]string{"no", ""}},
		{"kind", "carried page", "group", func(e sitemap.Entry) string { return string(e.Kind) }, [2]string{"carried", "group"}},
	} {
		_, err := fill(c.field, c.a, c.b)
		require.NoError(t, err, c.field)
		require.Equal(t, c.want, [2]string{c.got(at(ponds)), c.got(at(compost))}, c.field)
	}
	was := d.next().Entries()
	for _, c := range [][3]string{
		{"review", "2027-03-01", "soon"},
		{"template", "topic", "poster"},
		{"title", "Ponds", ""},
		{"kind", "page", "banner"},
		{"nothing", "a", "b"},
		{"notes", "a", strings.Repeat("n", 4001)},
		{"slug", "", "heaps"},
	} {
		_, err := fill(c[0], c[1], c[2])
		require.Error(t, err, c[0])
		require.Equal(t, was, d.next().Entries(), c[0])
	}
	_, err := d.try("ines", appsitemap.PlanAct{Do: "facts", Field: "notes"})
	require.Error(t, err)

	_, err = d.Undo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, []sitemap.Kind{sitemap.Page, sitemap.Page}, []sitemap.Kind{at(ponds).Kind, at(compost).Kind}, "one step back for both")
}

// A page that stands in two places becomes one page and a reference in one act.
func TestOneOfTwoBecomesAReference(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("ines", appsitemap.PlanAct{Do: "refer", ID: compost, Value: ponds})
	n := d.next()
	e := n.At(n.Find(compost))
	require.Equal(t, []string{"reference", ponds}, []string{string(e.Kind), e.Target})
	_, err := d.try("ines", appsitemap.PlanAct{Do: "refer", ID: ponds, Value: ponds})
	require.ErrorIs(t, err, sitemap.ErrNotTwoPages)
	_, err = d.Undo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, compost, d.id("/grounds/compost"))
}

func TestKeptViewsAreOnesOwn(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	views, err := d.SaveView(ctx, d.people["ines"], appsitemap.SavedView{Name: " No  owner ", Query: "?show=no-owner&at=x"})
	require.NoError(t, err)
	require.Equal(t, []appsitemap.SavedView{{Name: "No owner", Query: "show=no-owner"}}, views)
	views, err = d.SaveView(ctx, d.people["ines"], appsitemap.SavedView{Name: "No owner", Query: "only=kind:page"})
	require.NoError(t, err)
	require.Equal(t, []appsitemap.SavedView{{Name: "No owner", Query: "only=kind%3Apage"}}, views, "in place of the one before")
	others, err := d.SavedViews(ctx, d.people["marta"])
	require.NoError(t, err)
	require.Empty(t, others)
	for _, bad := range []appsitemap.SavedView{{Name: "  "}, {Name: strings.Repeat("n", 61)}, {Name: "x", Query: "%zz"}, {Name: "x", Query: "a=" + strings.Repeat("b", 2000)}} {
		_, err := d.SaveView(ctx, d.people["ines"], bad)
		require.Error(t, err)
	}
	views, err = d.DropView(ctx, d.people["ines"], appsitemap.SavedView{Name: "No owner"})
	require.NoError(t, err)
	require.Empty(t, views)
}

func TestOwnersThatMatchNobodyStayAsText(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	id, err := d.KeepFile(ctx, ines, "plan.csv", []byte("level,title,owner\n1,Roses,Old Tom\n2,Climbers,ines of Quillmere\n2,Ramblers,Old Tom\n"))
	require.NoError(t, err)
	require.NoError(t, d.ReadFile(ctx, id, readSheet))
	p, err := d.PreviewFile(ctx, ines, id, appsitemap.ImportChoice{Mode: sheet.Update})
	require.NoError(t, err)
	require.Equal(t, 1, p.ImportResult.Count[sheet.IsAnnotate])
	require.Contains(t, p.ImportResult.Lines[1].Why, `the owner "Old Tom", named 2 times`)
	_, err = d.AcceptFile(ctx, ines, id)
	require.NoError(t, err)
	n := d.next()
	require.Equal(t, "Old Tom", n.At(n.Find(d.id("/roses"))).Owner)
	checked, err := d.Checks(ctx, ines)
	require.NoError(t, err)
	var unknown int
	for _, f := range checked.Found {
		if f.Rule == sitemap.UnknownOwner {
			unknown++
		}
	}
	require.Equal(t, 2, unknown)
}
