package drawing

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Overlay is what boxes are shaded by.
type Overlay string

// The overlays.
const (
	ByChange Overlay = "changes"
	ByState  Overlay = "state"
	ByKind   Overlay = "kind"
	ByOwner  Overlay = "owner"
	ByAge    Overlay = "age"
	ByVisits Overlay = "visits"
	ByDepth  Overlay = "depth"
	ByClicks Overlay = "clicks"
)

// Overlays lists them in the order in which interfaces offer them.
func Overlays() []Overlay {
	return []Overlay{ByChange, ByState, ByKind, ByOwner, ByAge, ByVisits, ByDepth, ByClicks}
}

// Label is the overlay in a word.
func (o Overlay) Label() string { return strings.ToUpper(string(o[:1])) + string(o[1:]) }

// Tone is a look that a writer gives colours to. Tones of a ramp go from
// little to much; tones of a set only differ.
type Tone int

// The tones.
const (
	Plain   Tone = iota
	Fresh        // planned, not there yet
	Moved        // planned to stand elsewhere
	Touched      // planned otherwise
	Faint        // the overlay says nothing of it
	Wrong        // asks for attention
	Set1
	Set2
	Set3
	Set4
	Set5
	Set6
	Ramp1
	Ramp2
	Ramp3
	Ramp4
	Ramp5
	Tones // how many there are
)

// Shade is how an entry looks under an overlay: a tone and a short text, so
// that nothing is told by colour alone.
type Shade struct {
	Label string
	Tag   string
	Tone  Tone
}

// Facts are what overlays look at besides the entries.
type Facts struct {
	Marks   map[string][]string            // planned changes, by entry
	State   func(i int) workflow.PageState // of the entry at an index
	Written map[string]time.Time           // when the text of a page was last changed
	Visits  map[string]int                 // of the last 30 days; nil: not counted yet
	Clicks  func(i int) int                // from home, below 0: never; nil: not computed
	Now     time.Time
}

// Key is a line of the legend.
type Key struct {
	Shade
	N int // entries
}

// Shades gives the shade of every entry under an overlay, and the legend with
// how many entries of the sitemap have each.
func Shades(t *sitemap.Tree, o Overlay, f Facts) ([]Shade, []Key) {
	shade := shaders[o]
	if shade == nil {
		shade = shaders[ByChange]
	}
	of := shade(t, f)
	shades := make([]Shade, t.Len())
	var legend []Key
	at := map[string]int{}
	for i := range shades {
		s := of(i)
		shades[i] = s
		k, ok := at[s.Label]
		if !ok {
			k = len(legend)
			at[s.Label] = k
			if s.Tone == Ramp1 || o == ByDepth || o == ByAge || o == ByVisits || o == ByClicks || o == ByChange {
				s.Tag = "" // it differs within the line
			}
			legend = append(legend, Key{Shade: s})
		}
		legend[k].N++
	}
	slices.SortStableFunc(legend, func(a, b Key) int { return cmp.Compare(a.Tone.order(), b.Tone.order()) })
	return shades, legend
}

// order puts what says something before what is as usual.
func (t Tone) order() int {
	if t == Plain || t == Faint {
		return int(Tones) + int(t)
	}
	return int(t)
}

// shaders make, for each overlay, the shade of the entry at an index.
var shaders = map[Overlay]func(*sitemap.Tree, Facts) func(int) Shade{
	ByChange: byChange, ByState: byState, ByKind: byKind, ByOwner: byOwner, ByAge: byAge, ByVisits: byVisits, ByDepth: byDepth,
	ByClicks: byClicks,
}

func byChange(t *sitemap.Tree, f Facts) func(int) Shade {
	return func(i int) Shade {
		marks := f.Marks[t.Ref(i).ID]
		has := func(m string) bool { return slices.Contains(marks, m) }
		switch {
		case len(marks) == 0:
			return Shade{"unchanged", "", Plain}
		case has("new"):
			return Shade{"new", "new", Fresh}
		case has("moved"):
			return Shade{"moved", "moved", Moved}
		case has("new address"):
			return Shade{"new address", "address", Touched}
		}
		return Shade{"changed otherwise", marks[0], Set1}
	}
}

var stateTones = map[workflow.StatusIcon]Tone{workflow.Unlit: Fresh, workflow.HalfLit: Moved, workflow.Lit: Set1, workflow.Barred: Wrong}

func byState(t *sitemap.Tree, f Facts) func(int) Shade {
	return func(i int) Shade {
		if !t.Ref(i).Kind.IsPage() {
			return Shade{"not a page", "", Faint}
		}
		s := f.State(i)
		return Shade{string(s), string(s), stateTones[s.Icon()]}
	}
}

func byKind(t *sitemap.Tree, _ Facts) func(int) Shade {
	tones := map[sitemap.Kind]Tone{}
	for k, kind := range sitemap.Kinds() {
		tones[kind] = Set1 + Tone(k)
	}
	tones[sitemap.Page] = Plain
	return func(i int) Shade {
		k := t.Ref(i).Kind
		if k == sitemap.Page {
			return Shade{k.Label(), "", Plain}
		}
		return Shade{k.Label(), k.Label(), tones[k]}
	}
}

// byOwner gives the busiest owners a tone of their own.
func byOwner(t *sitemap.Tree, _ Facts) func(int) Shade {
	tones := map[string]Tone{}
	for _, c := range sitemap.ShapeOf(t, 0).Owners {
		if c.Name != "" && len(tones) < int(Set6-Set1) {
			tones[c.Name] = Set1 + Tone(len(tones))
		}
	}
	return func(i int) Shade {
		e := t.Ref(i)
		tone, own := tones[e.Owner]
		switch {
		case e.Owner == "" && !e.Kind.IsPage():
			return Shade{"not a page", "", Faint}
		case e.Owner == "":
			return Shade{"nobody", "nobody", Wrong}
		case own:
			return Shade{e.Owner, initials(e.Owner), tone}
		}
		return Shade{"somebody else", initials(e.Owner), Set6}
	}
}

func initials(name string) string {
	var out []rune
	for _, w := range strings.Fields(name) {
		if r, _ := utf8.DecodeRuneInString(w); unicode.IsLetter(r) && len(out) < 3 {
			out = append(out, unicode.ToUpper(r))
		}
	}
	return string(out)
}

// byAge looks at when the text of a page was last changed.
func byAge(t *sitemap.Tree, f Facts) func(int) Shade {
	return func(i int) Shade {
		e := t.Ref(i)
		at, written := f.Written[e.ID]
		switch months := int(f.Now.Sub(at).Hours() / 24 / 30.44); {
		case !e.Kind.IsPage():
			return Shade{"not a page", "", Faint}
		case !written:
			return Shade{"no text yet", "no text", Fresh}
		case months < 1:
			return Shade{"under a month", "new", Ramp1}
		case months < 6:
			return Shade{"under 6 months", strconv.Itoa(months) + " mo", Ramp2}
		case months < 12:
			return Shade{"under a year", strconv.Itoa(months) + " mo", Ramp3}
		case months < 24:
			return Shade{"under 2 years", "1 y", Ramp4}
		default:
			return Shade{"2 years and more", strconv.Itoa(months/12) + " y", Ramp5}
		}
	}
}

// byVisits looks at the visits of 30 days.
func byVisits(t *sitemap.Tree, f Facts) func(int) Shade {
	return func(i int) Shade {
		e := t.Ref(i)
		if !e.Kind.IsPage() {
			return Shade{"not a page", "", Faint}
		}
		n := f.Visits[e.ID]
		tag := short(n)
		switch {
		case n == 0:
			return Shade{"no visit", "0", Wrong}
		case n < 10:
			return Shade{"1 to 9", tag, Ramp1}
		case n < 100:
			return Shade{"10 to 99", tag, Ramp2}
		case n < 1000:
			return Shade{"100 to 999", tag, Ramp3}
		case n < 10_000:
			return Shade{"1,000 to 9,999", tag, Ramp4}
		default:
			return Shade{"10,000 and more", tag, Ramp5}
		}
	}
}

func short(n int) string {
	if n < 1000 {
		return strconv.Itoa(n)
	}
	return fmt.Sprintf("%.1f k", float64(n)/1000)
}

func byDepth(t *sitemap.Tree, _ Facts) func(int) Shade {
	return func(i int) Shade {
		switch l := t.Level(i); {
		case l == 0:
			return Shade{"home", "home", Plain}
		case l < 5:
			return Shade{"level " + strconv.Itoa(l), strconv.Itoa(l), Ramp1 + Tone(l-1)}
		default:
			return Shade{"level 5 and deeper", strconv.Itoa(l), Ramp5}
		}
	}
}

// byClicks looks at how far a page is from home for a reader.
func byClicks(t *sitemap.Tree, f Facts) func(int) Shade {
	return func(i int) Shade {
		if t.Served(i) == "" || f.Clicks == nil {
			return Shade{"not a page", "", Faint}
		}
		switch n := f.Clicks(i); {
		case n < 0:
			return Shade{"no way leads here", "!", Wrong}
		case n == 0:
			return Shade{"home", "home", Plain}
		case n < 5:
			return Shade{strconv.Itoa(n) + map[bool]string{true: " click", false: " clicks"}[n == 1], strconv.Itoa(n), Ramp1 + Tone(n-1)}
		default:
			return Shade{"5 clicks and more", strconv.Itoa(n), Ramp5}
		}
	}
}
