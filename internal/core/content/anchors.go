package content

import (
	"slices"
	"strings"
)

// Anchor is a heading that links can lead to: its id on the page, and its words.
type Anchor struct{ ID, Words string }

// Parted is a page that was split in two: what stays on the old page, and what
// leaves to the new one.
type Parted struct {
	Old, New string // ids of the pages
	Pieces   []Piece
	Goes     []int // the pieces that leave, in order
	Titled   bool  // the first heading that leaves is the title of the new page
}

// Anchors tells for every heading that the page had where it is now, as a link.
// Headings of the same words follow each other in the same order on both sides; one
// that is no heading any more leads to its page.
func (p Parted) Anchors(was, stays, leaves []Anchor) map[string]string {
	left := map[bool][]Anchor{false: stays, true: leaves}
	page := map[bool]string{false: Scheme + p.Old, true: Scheme + p.New}
	take := func(goes bool, words string) string {
		at := left[goes]
		k := slices.IndexFunc(at, func(a Anchor) bool { return a.Words == words })
		if k < 0 {
			return page[goes]
		}
		left[goes] = slices.Delete(slices.Clone(at), k, k+1)
		return page[goes] + "#" + at[k].ID
	}
	sides := map[string][]bool{} // by words, in order
	for i, piece := range p.Pieces {
		if piece.Level > 0 {
			sides[piece.Heading] = append(sides[piece.Heading], slices.Contains(p.Goes, i))
		}
	}
	out, top := make(map[string]string, len(was)), p.Titled
	for _, a := range was {
		goes := false
		if s := sides[a.Words]; len(s) > 0 {
			goes, sides[a.Words] = s[0], s[1:]
		}
		if goes && top {
			top = false
			out[a.ID] = page[true]
			continue
		}
		out[a.ID] = take(goes, a.Words)
	}
	return out
}

// Link gives a link, on the page holder, to a heading of the old page as it is now,
// by what Anchors told. Within a page it stays short.
func (p Parted) Link(holder, link string, anchors map[string]string) string {
	page, anchor, ok := strings.Cut(link, "#")
	if page != Scheme+p.Old && (page != "" || holder != p.Old) || !ok {
		return link
	}
	to, known := anchors[anchor]
	if !known {
		return link
	}
	if short, own := strings.CutPrefix(to, Scheme+holder+"#"); own && (page == "" || holder != p.Old) {
		return "#" + short
	}
	return to
}

// LinkOfLeaving gives a link of the text that leaves. A short one was to a heading
// of the old page.
func (p Parted) LinkOfLeaving(link string, anchors map[string]string) string {
	if strings.HasPrefix(link, "#") {
		link = Scheme + p.Old + link
	}
	return p.Link(p.New, link, anchors)
}
