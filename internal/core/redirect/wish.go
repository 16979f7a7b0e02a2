package redirect

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Origin tells where a row comes from.
type Origin string

// The origins.
const (
	ByMove Origin = ""     // it follows from a move or a decision
	ByHand Origin = "hand" // somebody added it, or changed it

	FromOlder Origin = "older" // it was decided for an address of an older site
)

// Key is what a table holds once: an address that is redirected, exactly or with all below.
type Key struct {
	From   string
	Spread bool // a prefix or branch row
}

// Key gives the key of a row.
func (r Row) Key() Key { return Key{r.From, r.Match != Exact} }

// ID writes the key as changes and acts name it: "=/tea/menu", or "^/tea" with all below.
func (k Key) ID() string {
	if k.Spread {
		return "^" + k.From
	}
	return "=" + k.From
}

// ParseKey reads what ID wrote.
func ParseKey(id string) (Key, bool) {
	if len(id) < 2 || id[1] != '/' || id[0] != '=' && id[0] != '^' {
		return Key{}, false
	}
	return Key{From: id[1:], Spread: id[0] == '^'}, true
}

// Title is what people see of the key.
func (k Key) Title() string {
	if k.Spread {
		return WrittenFrom(k.From) + " and below"
	}
	return WrittenFrom(k.From)
}

// With gives a table with rows put over those of the same key; others are added.
func With(table []Row, put []Row) []Row {
	if len(put) == 0 {
		return table
	}
	out, at := slices.Clone(table), make(map[Key]int, len(table))
	for i, r := range out {
		at[r.Key()] = i
	}
	for _, r := range put {
		if i, ok := at[r.Key()]; ok {
			out[i] = r
			continue
		}
		at[r.Key()] = len(out)
		out = append(out, r)
	}
	return out
}

// Words says what a row does.
func (r Row) Words(pages *sitemap.Tree) string {
	if r.Code == Gone {
		return "is gone on purpose"
	}
	how := "leads to "
	if temporary(r.Code) {
		how = "leads for now to "
	}
	if r.Match == Prefix {
		how += "the same place below "
	}
	return how + WrittenTo(r.To, pages)
}

// Wish is a row as somebody writes it, in a form or a list.
type Wish struct {
	Line                                int    // in the list; 0: it is alone
	Host                                string // an older site of which it is an address; its name alone, if need be
	From, To, Code, Match, Note, Review string
	Says                                string // what readers are told where it is gone
	Star                                bool   // the list has a star there; it is read as a prefix
	Origin                              Origin // empty: by hand
}

// AsWish writes a row as a wish that changes nothing.
func (r Row) AsWish(pages *sitemap.Tree) Wish {
	host, _, _ := address.CutHost(r.From)
	w := Wish{Host: host, From: WrittenFrom(r.From), To: WrittenTo(r.To, pages), Code: strconv.Itoa(r.Code), Match: string(r.Match), Note: r.Note, Review: r.Review, Says: r.Says, Origin: r.Origin}
	if r.Code == Gone {
		w.To = ""
	} else if r.To.Entry != "" && r.To.Suffix == "" {
		w.To = "page:" + r.To.Entry
	}
	return w
}

// Verdict says what a wish would do.
type Verdict string

// The verdicts.
const (
	New     Verdict = "new"
	Changes Verdict = "changes one"
	Nothing Verdict = "does nothing"
	Refused Verdict = "refused"
)

// Verdicts lists them in the order in which they are counted.
func Verdicts() []Verdict { return []Verdict{New, Changes, Nothing, Refused} }

// Judged is a wish with what it would do.
type Judged struct {
	Wish
	Verdict Verdict
	Row     Row    // of what is not refused
	Was     *Row   // the row that it changes
	Said    string // why, or what is to know about it; a sentence
}

// Ground is what wishes are judged against: the sitemap and the table as they will be.
type Ground struct {
	Live, Next *sitemap.Tree
	Table      []Row // of Next
	Hosts      []string
	OldHosts   []string // of Hosts, those that are not the site's own any more
}

// Judge tells what each of some wishes would do, in their order. A wish may lead to an
// address that another one redirects; both then lead to where that one does.
//
// Targets are settled at once: a page is kept as its entry (R4), an address that is itself
// redirected gives way to where it leads (R3). What nothing answers is refused, and so is
// what would hide a page (R2) or end an address that answers (R1).
func (g Ground) Judge(wishes []Wish) ([]Judged, error) {
	table, err := NewTable(g.Table, g.Next)
	if err != nil {
		return nil, err
	}
	j := judge{Ground: g, table: table, rows: make(map[Key]*Row, len(g.Table)), mine: map[Key]int{}, pending: map[string]int{}, out: make([]Judged, len(wishes))}
	for i := range g.Table {
		if r := &g.Table[i]; !r.Status.IsReport() {
			j.rows[r.Key()] = r
		}
	}
	open := make([]int, len(wishes))
	for i, w := range wishes {
		j.out[i].Wish, open[i] = w, i
		if from, err := j.from(w, Exact); err == nil {
			if _, twice := j.pending[from]; !twice {
				j.pending[from] = i
			}
		}
	}
	for len(open) > 0 { // those that lead to a wish wait for it
		var later []int
		for _, i := range open {
			if !j.settle(i, false) {
				later = append(later, i)
			}
		}
		if len(later) == len(open) {
			for _, i := range later { // they lead to each other, or to nothing
				j.settle(i, true)
			}
			break
		}
		open = later
	}
	return j.out, nil
}

type judge struct {
	Ground
	table *Table
	rows  map[Key]*Row // of the table
	mine  map[Key]int  // accepted wishes
	out   []Judged

	pending map[string]int // wishes that are not judged yet, by their address
	now     int            // the wish that is judged
	last    bool           // it waits for no other
}

// refusal is why a wish cannot be; it is a sentence.
type refusal string

func (r refusal) Error() string { return string(r) }

func refuse(format string, args ...any) error { return refusal(fmt.Sprintf(format, args...)) }

var errLater = errors.New("it leads to an address that nothing answers yet")

// settle judges a wish; false where it has to wait for another one, unless it is the last
// chance.
func (j *judge) settle(i int, last bool) bool {
	d := &j.out[i]
	j.now, j.last = i, last
	r, err := j.row(d.Wish)
	if errors.Is(err, errLater) {
		if !last {
			return false
		}
		err = refuse("Nothing answers at %s. Choose a page, or an address that answers.", strings.TrimSpace(d.To))
	}
	if err == nil {
		err = j.place(d, r)
	}
	if at, ok := j.pending[r.From]; ok && at == i && !last {
		delete(j.pending, r.From)
	}
	if err != nil {
		d.Verdict, d.Said = Refused, err.Error()
		return true
	}
	if d.Star {
		d.Said = strings.TrimSpace("The star is read as: this address and below (prefix). " + d.Said)
	}
	if d.Verdict == New || d.Verdict == Changes {
		j.mine[r.Key()] = i
	}
	return true
}

// row reads a wish by itself.
func (j *judge) row(w Wish) (Row, error) {
	r := Row{Match: Exact, Code: 301, Status: Kept, Origin: cmp.Or(w.Origin, ByHand), Note: oneLine(w.Note), Review: w.Review, Line: w.Line}
	if w.Match != "" {
		if r.Match = Match(strings.ToLower(w.Match)); r.Match != Exact && r.Match != Prefix && r.Match != Branch {
			return r, refuse("%q is no kind of match. Write exact, prefix or branch.", w.Match)
		}
	}
	var err error
	if r.From, err = j.from(w, r.Match); err != nil {
		return r, err
	}
	if r.Code, err = codeOf(w.Code, w.To); err != nil {
		return r, err
	}
	if r.Code == Gone {
		r.Says = oneLine(w.Says)
		return r, nil
	}
	r.To, err = j.target(w, r)
	return r, err
}

// codes are the words that stand for codes.
var codes = map[string]int{
	"": 301, "permanent": 301, "temporary": 302, "gone": Gone,
	"301": 301, "302": 302, "307": 307, "308": 308, "410": Gone,
}

func codeOf(code, to string) (int, error) {
	n, ok := codes[strings.ToLower(strings.TrimSpace(code))]
	gone := strings.EqualFold(strings.TrimSpace(to), "gone")
	switch {
	case !ok:
		return 0, refuse("%q is not a redirect type. Use permanent, temporary, gone or a code (301, 302, 307, 308, 410), and exact, prefix or branch.", code)
	case gone && strings.TrimSpace(code) == "":
		return Gone, nil
	case n == Gone && strings.TrimSpace(to) != "" && !gone:
		return 0, refuse("An address that is gone leads nowhere. Leave out the target, or choose another code.")
	case gone && n != Gone:
		return 0, refuse("“gone” has the code 410. Leave out the code, or write a target.")
	}
	return n, nil
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

func unwrapped(err error) string {
	return strings.TrimPrefix(err.Error(), address.ErrRefused.Error()+": ")
}

// target settles where a wish leads.
func (j *judge) target(w Wish, r Row) (Target, error) {
	text := strings.TrimSpace(w.To)
	switch {
	case text == "":
		return Target{}, refuse("It is not said where the address leads. Choose a page, an address or a URL, or make it gone.")
	case strings.ContainsFunc(text, unicode.IsControl):
		return Target{}, refuse("The target has a line break or another character that no address has.")
	case strings.HasPrefix(text, "//"):
		return Target{}, refuse("%s begins with two slashes, which browsers take for another host. Write https:// or one slash.", text)
	}
	if id, ok := strings.CutPrefix(text, "page:"); ok {
		if i := j.Next.Find(id); i != sitemap.None && j.Next.Served(i) != "" {
			return j.entry(id, "", r)
		}
		return Target{}, refuse("The page is not there any more. Choose another one.")
	}
	to, err := ParseTo(text, j.Hosts)
	switch {
	case err != nil:
		return Target{}, refuse("%q is neither an address of the site nor a URL that begins with https:// or http://.", text)
	case to.URL != "" && !strings.HasPrefix(strings.ToLower(to.URL), "http"):
		return Target{}, refuse("%q is no page that a browser can be led to.", text)
	case to.URL != "":
		return to, nil
	}
	return j.onSite(to, r)
}

func (j *judge) entry(id, suffix string, r Row) (Target, error) {
	if err := besides(r, j.Next.Served(j.Next.Find(id))); err != nil {
		return Target{}, err
	}
	return Target{Entry: id, Suffix: suffix}, nil
}

// besides refuses a prefix row that leads to where it leads from.
func besides(r Row, at string) error {
	if _, below := address.Below(r.From, at); r.Match == Prefix && below {
		return refuse("%s is at or below the address itself, so it would lead in a ring. Use a branch.", address.Written(at))
	}
	return nil
}

// onSite settles an address of the site: the page there, or where its redirect leads.
func (j *judge) onSite(to Target, r Row) (Target, error) {
	if i := j.Next.PageAt(to.Address); i != sitemap.None {
		return j.entry(j.Next.Ref(i).ID, to.Suffix, r)
	}
	if to.Address == r.From {
		return Target{}, refuse("It leads to itself.")
	}
	if address.Reserved(to.Address) {
		if strings.HasPrefix(to.Address, "/files/") {
			return to, nil
		}
		return Target{}, refuse("%s is the program's own. Choose a page.", address.Written(to.Address))
	}
	if r.Match == Prefix && below(j.Next, to.Address) {
		return to, besides(r, to.Address)
	}
	if i, ok := j.pending[to.Address]; ok && i != j.now {
		if j.last {
			return Target{}, refuse("It leads in a ring with line %d. Point one of them to a page.", j.out[i].Line)
		}
		return Target{}, errLater
	}
	if i, ok := j.mine[Key{From: to.Address}]; ok {
		return j.through(j.out[i].Row, r)
	}
	if a := j.table.ResolveNormal(to.Address, ""); a.row >= 0 {
		return j.through(Row{From: a.Rule, To: a.target, Code: a.Code}, r)
	}
	if j.Live != nil {
		if i := j.Live.PageAt(to.Address); i != sitemap.None && j.Next.Find(j.Live.Ref(i).ID) == sitemap.None {
			return Target{}, refuse("%q is removed with the next edition. Choose where its visitors belong.", j.Live.Ref(i).Title)
		}
	}
	return Target{}, errLater
}

// through gives way to where a row leads that answers at the target.
func (j *judge) through(over, r Row) (Target, error) {
	switch {
	case over.Code == Gone:
		return Target{}, refuse("The address that it leads to is gone. Choose another one, or make this one gone, too.")
	case over.From == r.From:
		return Target{}, refuse("It leads in a ring: %s leads back to it.", WrittenFrom(over.From))
	case over.To.Address != "" && j.Next.PageAt(over.To.Address) == sitemap.None && !address.Reserved(over.To.Address):
		return Target{}, errLater // that row leads to nothing itself
	}
	return over.To, nil
}

// place holds a row against the one that is there.
func (j *judge) place(d *Judged, r Row) error {
	if i, twice := j.mine[r.Key()]; twice {
		return refuse("Line %d has this address already. Keep one of the two.", j.out[i].Line)
	}
	d.Row, d.Verdict = r, New
	was := j.rows[r.Key()]
	if was != nil {
		d.Was, d.Verdict = was, Changes
		if same(was.To, r.To, j.table) && was.Code == r.Code && was.Match == r.Match && (was.Note == r.Note || r.Note == "") && (was.Says == r.Says || r.Says == "") && (was.Review == r.Review || r.Review == "") {
			d.Verdict, d.Said = Nothing, "It is there already."
			return nil
		}
		if r.Note == "" {
			d.Row.Note = was.Note
		}
		if r.Says == "" && r.Code == Gone {
			d.Row.Says = was.Says
		}
		if err := j.keepsAnswering(*was, r); err != nil {
			return err
		}
	} else if r.Match == Exact && !strings.Contains(r.From, "?") {
		a := j.table.ResolveNormal(r.From, "")
		if a.row >= 0 && a.Code == r.Code && same(a.target, r.To, j.table) {
			d.Verdict, d.Said = Nothing, fmt.Sprintf("The redirect of %s does this already.", WrittenFrom(a.Rule))
			return nil
		}
		if a.By == ByPage && j.Next.Ref(a.Page).ID == r.To.Entry && r.To.Suffix == "" {
			d.Verdict, d.Said = Nothing, "The page at this address answers it already."
			return nil
		}
	}
	d.Said = j.told(r)
	return nil
}

// told says what is to know about a row that is accepted.
func (j *judge) told(r Row) string {
	var said []string
	if host, _, named := address.CutHost(r.From); named {
		said = append(said, fmt.Sprintf("It is for %s alone.", host))
	}
	if strings.ContainsAny(r.From, "*$^|()[]") {
		said = append(said, "The signs in it are taken literally; it is no pattern.")
	}
	if r.Match != Exact {
		if i := j.Next.PageAt(r.From); i != sitemap.None || below(j.Next, r.From) {
			said = append(said, "Pages at and below this address stay as they are; only what has no page is led on.")
		}
	}
	return strings.Join(said, " ")
}

// spreadOver tells whether a row other than that of a from answers at an address and below.
func (j *judge) spreadOver(at, but string) bool {
	for base, more := at, true; more; base, more = up(base) {
		if _, ok := j.table.spread[base]; ok && base != but {
			return true
		}
	}
	return false
}

// keepsAnswering refuses to change a row that spreads so that addresses it answers end.
func (j *judge) keepsAnswering(was, r Row) error {
	if was.Match == Exact || r.Match == Branch || r.Code == Gone || r.To.URL != "" {
		return nil
	}
	at, ok := j.table.addressOf(was.To)
	if was.Match == Branch || was.Code == Gone || was.To.URL != "" || ok && j.spreadOver(at, was.From) {
		return refuse("It answers everything below %s now. As a prefix it would answer only what has a page. Keep it a branch.", WrittenFrom(was.From))
	}
	if !ok {
		return nil
	}
	now, err := NewTable([]Row{r}, j.Next)
	if err != nil {
		return err
	}
	lost, first := 0, ""
	for rest := range under(locatePages(j.Next), at) {
		old := address.Join(was.From, rest)
		if now.ResolveNormal(old, "").Code == 404 && j.rows[Key{From: old}] == nil {
			if lost++; first == "" {
				first = old
			}
		}
	}
	if lost == 0 {
		return nil
	}
	return refuse("%s, as %s, would stop answering. Make it a branch, or lead to a place with the same pages below.", cmp.Or(map[bool]string{true: "One address"}[lost == 1], fmt.Sprint(lost, " addresses")), address.Written(first))
}
