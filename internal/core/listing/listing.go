// Package listing tells which pages a list inside a page shows: what is below a page, the
// pages of a topic, the newest, the most asked for.
//
// A list is worked out for each reader from the tree that they may read, so it follows
// every edition by itself and never names a page that the reader may not open. Groups have
// no page: what is in them counts as standing where the group stands.
package listing

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// Site is what lists are worked out from.
type Site struct {
	Tree    *sitemap.Tree // of what the reader may read
	Visits  func(entry string) int
	Changed func(entry string) time.Time // when the text came; zero: there is none
	News    func(entry string) string    // the day on which a page went out as news; empty: it did not
	Topics  func(i int) []string         // of an entry; nil: as the tree has them
}

// Pages gives the entries that a block lists on the page here, in the order in which they
// are shown; nil for kinds and boards that list nothing by themselves.
func (s Site) Pages(b content.Block, here int) []int {
	switch from(b) {
	case content.FromBelow:
		return s.below(b, here)
	case content.FromTopic:
		return s.most(b, s.ordered(b, s.ofTopic(b.Get("topic"), here)))
	case content.FromNewest:
		return s.most(b, s.newest(s.within(b, here)))
	case content.FromNews:
		return s.most(b, s.news(b.Get("topic")))
	case content.FromAsked:
		return s.most(b, s.asked(s.within(b, here)))
	}
	return nil
}

// from tells where a block takes its pages from; boards say it themselves.
func from(b content.Block) string {
	switch b.Type {
	case content.Below:
		return content.FromBelow
	case content.TopicList:
		return content.FromTopic
	case content.Newest:
		return content.FromNewest
	case content.NewsList:
		return content.FromNews
	case content.Asked:
		return content.FromAsked
	case content.Tiles:
		return b.Get("from")
	}
	return ""
}

// Opened tells whether a block lists what the reader opened last, which only the reader's
// own browser knows, and how many.
func Opened(b content.Block) (n int, is bool) {
	is = b.Type == content.Recent || b.Type == content.Tiles && b.Get("from") == content.FromRecent
	return Number(b, "count"), is
}

// Number gives a number that was set of a block; 0 where there is none.
func Number(b content.Block, key string) int {
	n, _ := strconv.Atoi(b.Get(key)) // what is no number was not kept
	return n
}

// shown tells whether lists show an entry.
func (s Site) shown(i int) bool {
	e := s.Tree.Ref(i)
	return !e.Unlisted && !e.Withdrawn && e.Kind != sitemap.Group
}

func (s Site) page(i int) bool {
	return s.shown(i) && s.Tree.Ref(i).Kind.IsPage() && s.Tree.Served(i) != ""
}

// of gives the page that a block names, or none.
func (s Site) of(b content.Block) int {
	id, ok := content.FoundLink{To: b.Get("of")}.Entry()
	if !ok {
		return sitemap.None
	}
	return s.Tree.Find(id)
}

func (s Site) below(b content.Block, here int) []int {
	if b.Get("of") != "" {
		here = s.of(b)
	}
	if here == sitemap.None {
		return nil
	}
	var out []int
	var visit func(at, depth int)
	visit = func(at, depth int) {
		var level []int
		s.children(at, func(i int) { level = append(level, i) })
		for _, i := range s.ordered(b, level) {
			out = append(out, i)
			if depth > 1 {
				visit(i, depth-1)
			}
		}
	}
	visit(here, max(Number(b, "depth"), 1))
	return s.most(b, out)
}

// children visits what is shown directly below an entry; groups are looked through.
func (s Site) children(at int, visit func(i int)) {
	for i := range s.Tree.Children(at) {
		switch e := s.Tree.Ref(i); {
		case e.Kind == sitemap.Group && !e.Unlisted && !e.Withdrawn:
			s.children(i, visit)
		case s.shown(i):
			visit(i)
		}
	}
}

// within gives the pages from which newest and most asked for are taken: below a page, or
// of the whole site, without the page here.
func (s Site) within(b content.Block, here int) []int {
	first, end := 0, s.Tree.Len()
	if b.Type != content.Tiles && b.Get("of") != "" {
		of := s.of(b)
		if of == sitemap.None {
			return nil
		}
		first, end = of+1, s.Tree.End(of)
	}
	var out []int
	for i := first; i < end; i++ {
		if s.page(i) && i != here {
			out = append(out, i)
		}
	}
	return out
}

// ofTopic gives the pages of a topic, without the page here.
func (s Site) ofTopic(topic string, here int) (out []int) {
	for i := range s.Tree.Len() {
		if i != here && s.page(i) && s.hasTopic(i, topic) {
			out = append(out, i)
		}
	}
	return out
}

// hasTopic tells whether an entry has a topic, however it is written.
func (s Site) hasTopic(i int, topic string) bool {
	topics := s.Topics
	if topics == nil {
		topics = func(i int) []string { return s.Tree.Ref(i).TopicList() }
	}
	return slices.ContainsFunc(topics(i), func(t string) bool { return strings.EqualFold(t, topic) })
}

func (s Site) newest(pages []int) []int {
	pages = slices.DeleteFunc(pages, func(i int) bool { return s.changed(i).IsZero() })
	slices.SortStableFunc(pages, func(a, b int) int { return s.changed(b).Compare(s.changed(a)) })
	return pages
}

// news gives the pages that went out as news, of a topic if one is given, the latest first.
func (s Site) news(topic string) (out []int) {
	if s.News == nil {
		return nil
	}
	day := map[int]string{}
	for i := range s.Tree.Len() {
		if d := s.News(s.Tree.Ref(i).ID); d != "" && s.page(i) && (topic == "" || s.hasTopic(i, topic)) {
			day[i], out = d, append(out, i)
		}
	}
	slices.SortStableFunc(out, func(a, b int) int { return strings.Compare(day[b], day[a]) })
	return out
}

func (s Site) asked(pages []int) []int {
	n := make(map[int]int, len(pages))
	for _, i := range pages {
		if s.Visits != nil {
			n[i] = s.Visits(s.Tree.Ref(i).ID)
		}
	}
	pages = slices.DeleteFunc(pages, func(i int) bool { return n[i] == 0 })
	slices.SortStableFunc(pages, func(a, b int) int { return cmp.Compare(n[b], n[a]) })
	return pages
}

func (s Site) changed(i int) time.Time {
	if s.Changed == nil {
		return time.Time{}
	}
	return s.Changed(s.Tree.Ref(i).ID)
}

// ordered brings pages, which come as in the sitemap, into the order that was chosen.
func (s Site) ordered(b content.Block, pages []int) []int {
	switch b.Get("order") {
	case content.ByTitle:
		slices.SortStableFunc(pages, func(a, b int) int {
			return cmp.Compare(strings.ToLower(s.Tree.Ref(a).Name()), strings.ToLower(s.Tree.Ref(b).Name()))
		})
	case content.ByChange:
		slices.SortStableFunc(pages, func(a, b int) int { return s.changed(b).Compare(s.changed(a)) })
	}
	return pages
}

// mostBelow is how many entries a list of what is below shows, which has no number.
const mostBelow = 200

func (s Site) most(b content.Block, pages []int) []int {
	n := Number(b, "count")
	if n == 0 {
		n = mostBelow
	}
	return pages[:min(len(pages), n)]
}
