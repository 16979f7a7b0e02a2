package listing_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/core/listing"
	"candlepath/internal/core/sitemap"
)

func site(t *testing.T) listing.Site {
	e := func(id, title, parent, topics string, change func(*sitemap.Entry)) sitemap.Entry {
		e := sitemap.Entry{ID: id, Title: title, Slug: id, Kind: sitemap.Page, Parent: parent, Topics: topics, Rank: id}
		if change != nil {
			change(&e)
		}
		return e
	}
	tree, err := sitemap.New([]sitemap.Entry{
		e("home", "Home", "", "", func(e *sitemap.Entry) { e.Fixed = "/" }),
		e("garden", "Garden", "", "", nil),
		e("a-ponds", "Ponds", "garden", "water", nil),
		e("b-depth", "Depth", "a-ponds", "Water; safety", nil),
		e("c-group", "More", "garden", "", func(e *sitemap.Entry) { e.Kind = sitemap.Group }),
		e("d-compost", "Compost", "c-group", "", nil),
		e("e-quiet", "Quiet", "garden", "water", func(e *sitemap.Entry) { e.Unlisted = true }),
		e("f-away", "Away", "garden", "", func(e *sitemap.Entry) { e.Withdrawn = true }),
		e("g-out", "Weather", "garden", "", func(e *sitemap.Entry) { e.Kind, e.Target = sitemap.Outside, "https://weather.quillmere.example/" }),
	})
	require.NoError(t, err)
	day := func(d int) time.Time { return time.Date(2026, 11, d, 0, 0, 0, 0, time.UTC) }
	changed := map[string]time.Time{"a-ponds": day(2), "b-depth": day(9), "d-compost": day(5), "garden": day(1)}
	visits := map[string]int{"d-compost": 40, "a-ponds": 90, "e-quiet": 500}
	return listing.Site{Tree: tree, Visits: func(id string) int { return visits[id] }, Changed: func(id string) time.Time { return changed[id] }}
}

func TestListsShowWhatReadersMayFollow(t *testing.T) {
	s := site(t)
	for name, c := range map[string]struct {
		kind content.BlockType
		set  content.Values
		here string
		want []string
	}{
		"what is below, groups looked through":   {content.Below, nil, "garden", []string{"a-ponds", "d-compost", "g-out"}},
		"two levels":                             {content.Below, content.Values{"depth": "2"}, "garden", []string{"a-ponds", "b-depth", "d-compost", "g-out"}},
		"by title":                               {content.Below, content.Values{"order": content.ByTitle}, "garden", []string{"d-compost", "a-ponds", "g-out"}},
		"newest first":                           {content.Below, content.Values{"order": content.ByChange}, "garden", []string{"d-compost", "a-ponds", "g-out"}},
		"below another page":                     {content.Below, content.Values{"of": "page:a-ponds"}, "garden", []string{"b-depth"}},
		"below a page that is gone":              {content.Below, content.Values{"of": "page:nobody"}, "garden", nil},
		"a topic, however it is written":         {content.TopicList, content.Values{"topic": "WATER"}, "home", []string{"a-ponds", "b-depth"}},
		"a topic, from one of its pages":         {content.TopicList, content.Values{"topic": "water"}, "a-ponds", []string{"b-depth"}},
		"a topic, one of two":                    {content.TopicList, content.Values{"topic": "water", "count": "1"}, "home", []string{"a-ponds"}},
		"newest":                                 {content.Newest, content.Values{"count": "2"}, "home", []string{"b-depth", "d-compost"}},
		"newest below a page":                    {content.Newest, content.Values{"of": "page:a-ponds"}, "home", []string{"b-depth"}},
		"most asked for; what is hidden is not":  {content.Asked, nil, "home", []string{"a-ponds", "d-compost"}},
		"a board of what is below":               {content.Tiles, content.Values{"from": content.FromBelow}, "garden", []string{"a-ponds", "d-compost", "g-out"}},
		"a board of its own tiles lists nothing": {content.Tiles, nil, "garden", nil},
	} {
		var got []string
		for _, i := range s.Pages(content.Block{Type: c.kind, Set: c.set}, s.Tree.Find(c.here)) {
			got = append(got, s.Tree.Ref(i).ID)
		}
		require.Equal(t, c.want, got, name)
	}
	n, is := listing.Opened(content.Block{Type: content.Recent})
	require.True(t, is)
	require.Equal(t, 5, n)
	_, is = listing.Opened(content.Block{Type: content.Tiles})
	require.False(t, is)
}

func TestBoardsTellWhatIsWrong(t *testing.T) {
	s := site(t)
	tpl := content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}
	board := func(b content.Block) listing.Board {
		b.Type = content.Tiles
		p := content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Columns, Columns: [][]content.Block{{{Type: content.Text, Text: "x"}}, {b}}}}}}
		found := s.Boards(tpl, p, s.Tree.Find("garden"))
		require.Len(t, found, 1, "also in a column")
		return found[0]
	}
	for name, c := range map[string]struct {
		b      content.Block
		shows  int
		faults []string
	}{
		"fine":               {content.Block{Items: []content.Values{{"to": "page:a-ponds"}, {"to": "https://quillmere.example/"}}}, 2, nil},
		"empty":              {content.Block{}, 0, []string{"it has no tiles yet"}},
		"gone and nowhere":   {content.Block{Items: []content.Values{{"to": "page:nobody"}, {"title": "x"}}}, 0, []string{"tile 1 leads to a page that is gone; readers do not see it", "tile 2 leads nowhere"}},
		"withdrawn":          {content.Block{Items: []content.Values{{"to": "page:f-away"}}}, 0, []string{`tile 1 leads to "Away", which readers cannot open; they do not see it`}},
		"twice":              {content.Block{Items: []content.Values{{"to": "page:a-ponds"}, {"to": "page:a-ponds"}}}, 2, []string{"tile 2 leads where another does already"}},
		"below":              {content.Block{Set: content.Values{"from": content.FromBelow}}, 3, nil},
		"of a topic without": {content.Block{Set: content.Values{"from": content.FromTopic, "topic": "fire"}}, 0, []string{"it finds no page, so readers do not see it"}},
		"what was opened":    {content.Block{Set: content.Values{"from": content.FromRecent}}, 6, nil},
	} {
		got := board(c.b)
		require.Equal(t, c.shows, got.Shows, name)
		require.Equal(t, c.faults, got.Faults, name)
	}
}
