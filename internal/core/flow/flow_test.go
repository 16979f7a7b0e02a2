package flow_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/flow"
)

func TestBusyFoldersAreOpened(t *testing.T) {
	leads := []flow.Lead{
		{From: "/dept/seed/a", To: "/seed-vault/a", Visits: 90},
		{From: "/dept/seed/b", To: "/seed-vault/b", Visits: 50},
		{From: "/dept", To: "/", Visits: 5},
		{From: "/hr/x", To: "/working-here", Visits: 1},
		{From: "/hr/y", To: "gone", Visits: 0},
		{From: "/shop", To: "shop.quillmere.example", Visits: 3},
	}
	labels := func(list []flow.Node) (out []string) {
		for _, n := range list {
			out = append(out, fmt.Sprint(n.Label, " ", n.Leads, " ", n.Total))
		}
		return out
	}
	p := flow.Draw(leads, 5)
	require.Equal(t, []string{"/dept 1 5", "/dept/seed/a 1 90", "/dept/seed/b 1 50", "/hr/… 2 1", "/shop 1 3"}, labels(p.Left))
	require.Equal(t, []string{"/ 1 5", "/seed-vault/… 2 140", "/working-here 1 1", "gone 1 0", "shop.quillmere.example 1 3"}, labels(p.Right))
	require.Equal(t, []string{"/dept/… 3 145", "/hr/… 2 1", "/shop 1 3"}, labels(flow.Draw(leads, 3).Left))
	require.Equal(t, []string{"/dept/… 3 145", "others 3 4"}, labels(flow.Draw(leads, 2).Left))
	require.Empty(t, flow.Draw(nil, 5).Bands)
}

// Thousands of addresses that nobody visited leave the room to the few that are.
func TestQuietAddressesAreThin(t *testing.T) {
	leads := []flow.Lead{{From: "/busy", To: "/a", Visits: 30}}
	for i := range 5000 {
		leads = append(leads, flow.Lead{From: fmt.Sprintf("/archive/%d", i), To: "/b"})
	}
	p := flow.Draw(leads, 2)
	require.Equal(t, []string{"/archive/…", "/busy"}, []string{p.Left[0].Label, p.Left[1].Label})
	require.Greater(t, p.Left[1].H, p.Left[0].H)
	leads[0].Visits = 0
	p = flow.Draw(leads, 2)
	require.Greater(t, p.Left[0].H, p.Left[1].H, "where nothing was visited, addresses count")
}

// Whatever leads where: no side has more nodes than asked for, nothing overlaps, and bands hold
// all visits and fill their nodes.
func TestEveryVisitIsDrawn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		address := rapid.StringMatching(`(/[a-d]{1,2}){1,4}`)
		leads := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) flow.Lead {
			return flow.Lead{From: address.Draw(t, "from"), To: rapid.OneOf(address, rapid.Just("gone"), rapid.Just("/")).Draw(t, "to"), Visits: rapid.IntRange(0, 900).Draw(t, "visits")}
		}), 0, 60).Draw(t, "leads")
		const most = 8
		p := flow.Draw(leads, most)
		visits := 0
		for _, l := range leads {
			visits += l.Visits
		}
		for _, side := range [][]flow.Node{p.Left, p.Right} {
			require.LessOrEqual(t, len(side), most)
			total, y := 0, -1.0
			for _, n := range side {
				require.Greater(t, n.Y, y)
				y = n.Y + n.H
				require.LessOrEqual(t, y, p.Height+1e-6)
				total += n.Total
			}
			require.Equal(t, visits, total)
		}
		left, right, total := make([]float64, len(p.Left)), make([]float64, len(p.Right)), 0
		for _, b := range p.Bands {
			left[b.Left] += b.H1
			right[b.Right] += b.H2
			total += b.Total
		}
		require.Equal(t, visits, total)
		for i, h := range left {
			require.InDelta(t, p.Left[i].H, h, 1e-6)
		}
		for i, h := range right {
			require.InDelta(t, p.Right[i].H, h, 1e-6)
		}
	})
}
