package app_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	appsitemap "candlepath/internal/app/sitemap"
)

// What colleagues are told of editions: one line a page, the latest that became
// of it.
func TestNews(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	kinds := func() map[string]string {
		out := map[string]string{}
		for _, n := range d.live().News {
			require.Empty(t, out[n.EntryID], "a page is told once")
			out[n.EntryID] = string(n.Kind)
		}
		return out
	}
	require.Equal(t, "new", kinds()[ponds])
	d.write("marta", ponds, "Another text")
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: ponds, Parent: ""})
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: compost, Parent: ""})
	d.act("marta", appsitemap.PlanAct{Do: "fact", Field: "owner", ID: d.id("/visitors"), Value: "ines of Quillmere"})
	d.publish("marta", "Moves")
	got := kinds()
	require.Equal(t, []string{"changed", "moved", "new"}, []string{got[ponds], got[compost], got[d.id("/visitors")]}, "an owner is no news")
	require.Equal(t, 2, d.live().News[0].Edition)
}
