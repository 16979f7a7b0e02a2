package match

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Old is an address of an older site.
type Old struct {
	Address string // normal, with "?" and the sorted query where one counts
	Title   string
	Text    string // what stood there, where it came along
	To      string // the entry to which it was decided to lead; empty: none yet
}

// Candidate is a page of Next to which an old address may lead.
type Candidate struct {
	Page  int
	Score float64 // 0 to 1
	Why   string  // in a few words
}

// Decision says what a program may do with an old address without asking.
type Decision string

// The decisions.
const (
	Accept Decision = "accept" // the first candidate is a clear winner
	Look   Decision = "look"   // somebody has to choose
	None   Decision = "none"   // no page is near
)

// Matched is what was found for one old address: up to three candidates, the best first.
type Matched struct {
	Best     []Candidate
	Decision Decision
}

// Limits by which a candidate is told, and wins. They were set on invented lists whose answers
// are known (TestOlderSite).
const (
	candidates = 3
	nearest    = 0.30 // below, a page is not near
	clear      = 0.72 // a winner has this at least,
	ahead      = 0.12 // is so far before the second,
	byItself   = 0.55 // and has so much without what siblings teach;
	dateToo    = 0.85 // below, what stands in the folder of a year is taken for news
)

// Older matches old addresses against the pages of a sitemap. Make it once for a sitemap; it is
// safe for use by several.
type Older struct {
	t      *sitemap.Tree
	names  *bags // of pages, by what they are called
	around *bags // by what stands above them
	texts  *bags // by what they say
	at     map[string]int
	from   map[string]int   // carried pages by their source
	title  map[string][]int // by all words of the title
}

// NewOlder reads the pages of a sitemap. text gives what a page says, and may be nil.
func NewOlder(t *sitemap.Tree, text func(id string) string) *Older {
	o := &Older{t: t, names: newBags(), around: newBags(), texts: newBags(), at: map[string]int{}, title: map[string][]int{}}
	for i := range t.Len() {
		at := t.Served(i)
		if at == "" {
			continue
		}
		e := t.Ref(i)
		o.at[at] = i
		last := at[strings.LastIndexByte(at, '/')+1:]
		o.names.add(i, tokens(e.Title+" "+e.Short+" "+last))
		all := strings.Join(tokens(e.Title), " ")
		o.title[all] = append(o.title[all], i)
		above := strings.TrimSuffix(at, last)
		for up := t.Parent(i); up != sitemap.None; up = t.Parent(up) {
			above += " " + t.Ref(up).Title
		}
		o.around.add(i, tokens(above+" "+e.Title))
		if text != nil {
			if said := text(e.ID); said != "" {
				o.texts.add(i, tokens(said))
			}
		}
	}
	o.from = Sources(t)
	o.names.weigh()
	o.around.weigh()
	o.texts.weigh()
	return o
}

// Sources gives the pages that were carried from older sites, by the addresses there.
func Sources(t *sitemap.Tree) map[string]int {
	out := map[string]int{}
	for i := range t.Len() {
		if e := t.Ref(i); e.Source != "" && t.Served(i) != "" {
			if from, err := (address.Options{}).Key(pathOf(e.Source)); err == nil {
				out[from] = i
			}
		}
	}
	return out
}

func pathOf(source string) string {
	if _, rest, ok := strings.Cut(source, "://"); ok {
		if _, path, ok := strings.Cut(rest, "/"); ok {
			return "/" + path
		}
		return "/"
	}
	return source
}

// Match finds the best pages for each old address, in their order. What was decided for some,
// and is clear for others, raises the pages near those for their siblings, the addresses in
// the same folder.
func (o *Older) Match(list []Old) []Matched {
	return o.taught(list, o.Alone(list))
}

// Alone finds the best pages for each address by itself. It is the slow part of Match, and
// does not change with decisions.
func (o *Older) Alone(list []Old) [][]Candidate {
	out, s := make([][]Candidate, len(list)), o.newSearch()
	for k := range list {
		out[k] = s.alone(&list[k])
	}
	return out
}

// Near gives up to three pages that are near each address by itself, the best first.
func (o *Older) Near(list []Old) [][]Candidate {
	out := o.Alone(list)
	for i, found := range out {
		end := 0
		for end < min(len(found), candidates) && found[end].Score >= nearest {
			end++
		}
		out[i] = found[:end]
	}
	return out
}

// Taught is the other part of Match.
func (o *Older) Taught(list []Old, alone [][]Candidate) []Matched { return o.taught(list, alone) }

// wide is how many candidates are kept until it is known what siblings teach.
const wide = 12

// search looks for one address after another, over the same memory.
type search struct {
	*Older

	byTitle, byPath, both, above, said *tally
	found                              []Candidate
}

func (o *Older) newSearch() *search {
	n := o.t.Len()
	return &search{Older: o, byTitle: newTally(o.names, n), byPath: newTally(o.names, n), both: newTally(o.names, n), above: newTally(o.around, n), said: newTally(o.texts, n)}
}

func (s *search) alone(old *Old) []Candidate {
	path, _, _ := strings.Cut(old.Address, "?")
	if i, ok := s.at[old.Address]; ok {
		return []Candidate{{i, 1, "same address"}}
	}
	if i, ok := s.from[old.Address]; ok {
		return []Candidate{{i, 1, "carried from there"}}
	}
	if home, ok := s.at["/"]; ok && path != "/" && isFront(path) && strings.LastIndexByte(path, '/') == 0 {
		return []Candidate{{home, 0.95, "stands for the home page"}}
	}
	own, above := segments(path)
	title := tokens(old.Title)
	all := union(title, own)
	s.byTitle.like(title)
	s.byPath.like(own)
	s.both.like(all)
	s.above.covered(above)
	s.said.like(tokens(old.Text))
	same := s.title[strings.Join(title, " ")]
	if len(title) == 0 {
		same = nil
	}
	s.found = s.found[:0]
	for _, t := range []*tally{s.both, s.said} { // what is in both is of the others, too
		for _, i := range t.pages {
			if t == s.said && s.both.score[i] > 0 {
				continue
			}
			s.keep(s.candidate(int(i), len(title) > 0, len(above) > 0, slices.Contains(same, int(i))))
		}
	}
	out := slices.Clone(s.found)
	for k := range out {
		out[k].Why = s.why(out[k].Page, all, slices.Contains(same, out[k].Page))
	}
	return out
}

// keep puts a candidate in its place among the best.
func (s *search) keep(c Candidate) {
	if len(s.found) == wide && !better(c, s.found[wide-1]) {
		return
	}
	at := len(s.found)
	for at > 0 && better(c, s.found[at-1]) {
		at--
	}
	s.found = slices.Insert(s.found[:min(len(s.found), wide-1)], min(at, wide-1), c)
}

func better(a, b Candidate) bool { return a.Score > b.Score || a.Score == b.Score && a.Page < b.Page }

// candidate scores one page.
func (s *search) candidate(i int, titled, placed, same bool) Candidate {
	pathAlone := 0.92
	if titled {
		pathAlone = 0.75 // the title says otherwise
	}
	score := max(s.byTitle.score[i], s.byPath.score[i]*pathAlone, s.both.score[i]) * 0.93
	if same {
		score = max(score, 0.84)
	}
	if under := s.above.score[i]; placed && len(s.above.pages) > 0 {
		score = score*0.82 + 0.18*under
		if same {
			score = max(score, 0.80+0.18*under)
		}
	}
	if said := s.said.score[i]; said > 0 {
		score += (1 - score) * 0.85 * said * said
	}
	return Candidate{Page: i, Score: score}
}

// why says what speaks for a page.
func (s *search) why(i int, words []string, same bool) string {
	var why []string
	switch {
	case same:
		why = append(why, "same title")
	case s.byTitle.score[i] > 0 && s.byTitle.score[i] >= s.byPath.score[i]*0.6:
		why = append(why, "title")
	}
	if s.byPath.score[i] > 0.5 {
		why = append(why, "path")
	}
	if s.above.score[i] > 0.4 {
		why = append(why, "what stands above")
	}
	if s.said.score[i] > 0.4 {
		why = append(why, "text")
	}
	if len(why) > 0 {
		return strings.Join(why, ", ")
	}
	if rare := s.names.rarest(words, i); rare != "" {
		return "the word “" + rare + "”"
	}
	return "a word like it"
}

func byScore(list []Candidate) {
	slices.SortFunc(list, func(a, b Candidate) int {
		return cmp.Or(cmp.Compare(b.Score, a.Score), cmp.Compare(a.Page, b.Page))
	})
}

// example is an old address of which it is known, or quite sure, where it leads.
type example struct {
	page   int
	weight float64
}

// folders knows of an older site what is in its folders.
type folders struct {
	there map[string]bool      // folders that hold something, with a slash at their end
	known map[string][]example // in a folder
	below map[string][]example // in it or below
}

// of gives the folder of an address, and whether the address is that of the folder itself, or
// of the page that stands for it.
func (f *folders) of(addr string) (dir string, front bool) {
	if strings.Contains(addr, "?") {
		return folder(addr), false
	}
	if own := strings.TrimSuffix(addr, "/") + "/"; f.there[own] {
		return own, true
	}
	return folder(addr), isFront(addr)
}

// taught raises candidates by what siblings teach.
func (o *Older) taught(list []Old, base [][]Candidate) []Matched {
	f := folders{map[string]bool{}, map[string][]example{}, map[string][]example{}}
	for k := range list {
		f.there[folder(list[k].Address)] = true
	}
	for k := range list {
		e := example{page: sitemap.None}
		if i := o.t.Find(list[k].To); list[k].To != "" && i != sitemap.None {
			e = example{i, 1}
		} else if list[k].To == "" && isClear(base[k]) {
			e = example{base[k][0].Page, 0.5}
		}
		if e.page == sitemap.None {
			continue
		}
		dir := folder(list[k].Address)
		f.known[dir] = append(f.known[dir], e)
		for up := dir; up != ""; up = folder(up[:len(up)-1]) {
			f.below[up] = append(f.below[up], e)
		}
	}
	out := make([]Matched, len(list))
	for k := range list {
		found := slices.Clone(base[k])
		if len(found) == 0 || found[0].Score < 1 {
			found = o.raise(&list[k], found, &f)
		}
		out[k] = decide(&list[k], found, base[k])
	}
	return out
}

// raise puts candidates up that stand where those of siblings do, and adds the page above
// these.
func (o *Older) raise(old *Old, found []Candidate, f *folders) []Candidate {
	dir, front := f.of(old.Address)
	from, told := f.known[dir], dir
	if front { // its own page is above those in it
		from = f.below[dir]
	}
	for up := dir; len(from) < 2 && up != "/"; {
		if up = folder(up[:len(up)-1]); up != "/" {
			from, told = f.below[up], up
		}
	}
	if len(from) == 0 || told == "/" { // what stands at the top has nothing in common
		return found
	}
	total, parents, roots := 0.0, map[int]float64{}, map[int]float64{}
	for _, e := range from {
		total += e.weight
		parents[o.t.Parent(e.page)] += e.weight
		for up := e.page; up != sitemap.None; up = o.t.Parent(up) {
			roots[up] += e.weight
		}
	}
	sure := total / (total + 1.5)
	for k := range found {
		c := &found[k]
		up := o.t.Parent(c.Page)
		share := max(parents[up], 0.8*parents[c.Page], 0.7*roots[up]*notHome(o.t, c.Page)) / total
		if front {
			share = roots[c.Page] / total
		}
		if share > 0.2 {
			c.Score += (1 - c.Score) * 0.45 * share * sure
			c.Why = added(c.Why, "siblings lead there")
		}
	}
	found = o.addAbove(found, roots, total, front && told == dir, fmt.Sprintf("%d of %s lead there or below", len(from), told))
	byScore(found)
	return found
}

// addAbove adds the page above those to which siblings lead.
func (o *Older) addAbove(found []Candidate, roots map[int]float64, total float64, front bool, why string) []Candidate {
	top, share := o.mostBelow(roots, total)
	if top == sitemap.None {
		return found
	}
	sure := total / (total + 1.5)
	score := 0.30 + 0.15*share*sure
	if front {
		score = 0.35 + 0.4*share*sure
	}
	at := slices.IndexFunc(found, func(c Candidate) bool { return c.Page == top })
	switch {
	case at < 0:
		return append(found, Candidate{top, score, why})
	case found[at].Score < score:
		found[at] = Candidate{top, score, why}
	}
	return found
}

func notHome(t *sitemap.Tree, i int) float64 {
	if up := t.Parent(i); up == sitemap.None || t.Served(up) == "/" {
		return 0
	}
	return 1
}

// mostBelow gives the page that is above most of some pages, the nearest of these.
func (o *Older) mostBelow(roots map[int]float64, total float64) (top int, share float64) {
	top = sitemap.None
	depth := -1
	for i, w := range roots {
		at := o.t.Served(i)
		if at == "" || at == "/" || w < total*0.6 {
			continue
		}
		d := strings.Count(at, "/")
		if d > depth || d == depth && (w/total > share || w/total == share && i < top) {
			top, share, depth = i, w/total, d
		}
	}
	return top, share
}

func added(why, more string) string {
	if why == "" {
		return more
	}
	return why + ", " + more
}

func isClear(found []Candidate) bool {
	switch {
	case len(found) == 0 || found[0].Score < clear:
		return false
	case len(found) == 1:
		return true
	}
	return found[0].Score-found[1].Score >= ahead
}

func decide(old *Old, found, base []Candidate) Matched {
	end := slices.IndexFunc(found, func(c Candidate) bool { return c.Score < nearest })
	if end < 0 {
		end = len(found)
	}
	m := Matched{Best: found[:min(end, candidates)], Decision: Look}
	switch {
	case len(m.Best) == 0:
		m.Decision = None
	case isClear(found) && scoreOf(base, found[0].Page) >= byItself && (!dated(old.Address) || found[0].Score >= dateToo):
		m.Decision = Accept
	}
	return m
}

func scoreOf(list []Candidate, page int) float64 {
	for _, c := range list {
		if c.Page == page {
			return c.Score
		}
	}
	return 0
}

// folder is what of an address stands before its last segment, with the slash.
func folder(addr string) string {
	path, _, _ := strings.Cut(addr, "?")
	return path[:strings.LastIndexByte(path, '/')+1]
}

// isFront tells whether an address is that of a page that stands for its folder.
func isFront(addr string) bool { return stands[bare(addr[strings.LastIndexByte(addr, '/')+1:])] }

// dated tells whether a folder above an address is a year.
func dated(addr string) bool {
	for seg := range strings.SplitSeq(folder(addr), "/") {
		if len(seg) == 4 && (seg[:2] == "19" || seg[:2] == "20") && strings.Trim(seg, "0123456789") == "" {
			return true
		}
	}
	return false
}

func union(a, b []string) []string {
	out := slices.Clone(a)
	for _, w := range b {
		if !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	return out
}
