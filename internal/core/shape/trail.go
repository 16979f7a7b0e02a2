package shape

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"candlepath/internal/core/sitemap"
)

// Trail is an ordered run of pages. Who may read its pages is what it and all
// other trails that they are on allow, and the tree.
type Trail struct {
	Title      string   `json:"title"`
	About      string   `json:"about,omitempty"`
	Readership string   `json:"readership,omitempty"`
	Pages      []string `json:"pages,omitempty"`
}

// The bounds of a trail.
const (
	MostSteps  = 100
	mostTitle  = 200
	mostAbout  = 2000
	mostReader = 2000
)

// The reasons for which a trail cannot be had.
var (
	ErrNoTitle = errors.New("give the trail a title")
	ErrTitle   = fmt.Errorf("the title of a trail has at most %d characters", mostTitle)
	ErrAbout   = fmt.Errorf("the description of a trail has at most %d characters", mostAbout)
	ErrSteps   = fmt.Errorf("a trail has at most %d pages; make two of it", MostSteps)
	ErrNoPage  = errors.New("this page no longer exists")
	ErrReaders = errors.New("the list of readers is too long")
)

// Cleaned holds a trail against what it can be. Pages come once each; those that
// are gone stay only where was, the trail until now, had them.
func (tr Trail) Cleaned(t *sitemap.Tree, was *Trail) (Trail, error) {
	tr.Title = strings.Join(strings.Fields(tr.Title), " ")
	tr.About, tr.Readership = strings.TrimSpace(tr.About), strings.TrimSpace(tr.Readership)
	seen := map[string]bool{}
	tr.Pages = slices.DeleteFunc(slices.Clone(tr.Pages), func(id string) bool {
		again := seen[id]
		seen[id] = true
		return again
	})
	switch {
	case tr.Title == "":
		return tr, ErrNoTitle
	case utf8.RuneCountInString(tr.Title) > mostTitle:
		return tr, ErrTitle
	case utf8.RuneCountInString(tr.About) > mostAbout:
		return tr, ErrAbout
	case len(tr.Readership) > mostReader:
		return tr, ErrReaders
	case len(tr.Pages) > MostSteps:
		return tr, ErrSteps
	}
	for _, id := range tr.Pages {
		i := t.Find(id)
		known := was != nil && slices.Contains(was.Pages, id)
		if i == sitemap.None && !known || i != sitemap.None && !t.Ref(i).Kind.IsPage() && !known {
			return tr, ErrNoPage
		}
	}
	return tr, nil
}

// Named is a trail with its id.
type Named struct {
	ID string
	Trail
}

// Trails lists all trails by title.
func (s Set) Trails() []Named {
	var out []Named
	for _, id := range slices.Sorted(maps.Keys(s)) {
		if tr := s[id].Trail; tr != nil {
			out = append(out, Named{TrailOf(id), *tr})
		}
	}
	slices.SortStableFunc(out, func(a, b Named) int {
		return cmp.Compare(strings.ToLower(a.Title), strings.ToLower(b.Title))
	})
	return out
}

// Steps gives the pages of a trail that are there to be read, in order.
func (tr Trail) Steps(t *sitemap.Tree) []int {
	var out []int
	for _, id := range tr.Pages {
		if i := t.Find(id); i != sitemap.None && t.Served(i) != "" {
			out = append(out, i)
		}
	}
	return out
}

// Readerships gives what the trails that an entry is on allow, by entry.
func (s Set) Readerships() map[string][]string {
	var out map[string][]string
	for _, tr := range s.Trails() {
		if tr.Readership == "" {
			continue
		}
		if out == nil {
			out = map[string][]string{}
		}
		for _, id := range tr.Pages {
			out[id] = append(out[id], tr.Readership)
		}
	}
	return out
}

// Standing is where a page stands on a trail.
type Standing struct {
	Named
	Steps []int // of the trail, by index of the tree
	At    int   // of the page in Steps
}

// On tells on which of some trails a page of the tree is, and where.
func On(trails []Named, t *sitemap.Tree, page int) []Standing {
	var out []Standing
	id := t.Ref(page).ID
	for _, tr := range trails {
		if !slices.Contains(tr.Pages, id) {
			continue
		}
		steps := tr.Steps(t)
		if at := slices.Index(steps, page); at >= 0 {
			out = append(out, Standing{tr, steps, at})
		}
	}
	return out
}

func (tr Trail) replaced(gone, kept string) (Trail, bool) {
	i := slices.Index(tr.Pages, gone)
	if i < 0 {
		return tr, false
	}
	tr.Pages = slices.Clone(tr.Pages)
	if slices.Contains(tr.Pages, kept) {
		tr.Pages = slices.Delete(tr.Pages, i, i+1)
	} else {
		tr.Pages[i] = kept
	}
	return tr, true
}

func pages(n int) string {
	if n == 1 {
		return "one page"
	}
	return fmt.Sprintf("%d pages", n)
}

// trailWords tells what was done to a trail.
func trailWords(before, after *Item) string {
	switch {
	case before == nil:
		return "new, with " + pages(len(after.Trail.Pages))
	case after == nil:
		return "taken away; its pages stay"
	}
	a, b := before.Trail, after.Trail
	var parts []string
	if a.Title != b.Title {
		parts = append(parts, fmt.Sprintf("renamed from %q", a.Title))
	}
	if a.About != b.About {
		parts = append(parts, "another description")
	}
	if a.Readership != b.Readership {
		parts = append(parts, "other readers")
	}
	added, gone := 0, 0
	for _, id := range b.Pages {
		if !slices.Contains(a.Pages, id) {
			added++
		}
	}
	for _, id := range a.Pages {
		if !slices.Contains(b.Pages, id) {
			gone++
		}
	}
	if added > 0 {
		parts = append(parts, pages(added)+" added")
	}
	if gone > 0 {
		parts = append(parts, pages(gone)+" taken off")
	}
	if added+gone == 0 && !slices.Equal(a.Pages, b.Pages) {
		parts = append(parts, "another order")
	}
	return strings.Join(parts, ", ")
}
