package app_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
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

// A page goes out as news from its day on, with its edition: in lists of news, by topic, and told to
// readers; a draft tells nobody.
func TestPagesGoOutAsNews(t *testing.T) {
	d := newDesk(t)
	d.now = time.Date(2026, 11, 27, 10, 0, 0, 0, time.UTC)
	ponds, compost, grounds := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/grounds")
	news := func(entry, text, day string) {
		d.writePage("ines", entry, content.Page{Fields: map[string]string{content.NewsField: day}, Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: text}}}})
	}
	d.writePage("ines", grounds, content.Page{Slots: map[string][]content.Block{"main": {
		{Type: content.NewsList, Set: content.Values{"figures": content.Yes}}, {Type: content.NewsList, Set: content.Values{"topic": "Water"}},
	}}})
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "topics", Value: "Water"})
	news(ponds, "Frogs.", "2026-11-27")
	news(compost, "Heaps.", "2026-12-01")
	before := d.live()
	require.Empty(t, before.Announced)
	d.publish("marta", "News")
	l := d.live()
	require.Equal(t, []reading.Announced{{EntryID: compost, Day: "2026-12-01"}, {EntryID: ponds, Day: "2026-11-27"}}, l.Announced)
	require.Equal(t, time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC), l.NextNews(d.now))
	require.Zero(t, l.NextNews(time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC)))
	body := d.body(grounds)
	require.Equal(t, 2, strings.Count(body, "Ponds"), "once in all news, once by topic: %s", body)
	require.Contains(t, body, "27 Nov 2026")
	require.NotContains(t, body, "Compost", "its day is to come")
	d.now = time.Date(2026, 12, 1, 0, 5, 0, 0, time.UTC)
	require.Contains(t, d.body(grounds), "Compost")

	news(ponds, "Frogs.", "")
	require.Contains(t, d.body(grounds), "Ponds", "a draft changes nothing")
	d.publish("marta", "No news")
	require.NotContains(t, d.body(grounds), "Ponds")
	news(ponds, "Frogs.", "tomorrow")
	d.publish("marta", "No day")
	require.Len(t, d.live().Announced, 1)
}
