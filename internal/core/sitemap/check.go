package sitemap

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
)

// The rules of Check.
const (
	AddressClash       check.Rule = "address-clash"
	ReservedAddress    check.Rule = "reserved-address"
	CannotHold         check.Rule = "cannot-hold"
	ReferenceToNothing check.Rule = "reference-to-nothing"
	ReferenceRing      check.Rule = "reference-ring"
	NoTarget           check.Rule = "no-target"
	NoSource           check.Rule = "no-source"
	NoHome             check.Rule = "no-home"
	SameTitle          check.Rule = "same-title"
	SimilarTitle       check.Rule = "similar-title"
	SameSource         check.Rule = "same-source"
	EmptyGroup         check.Rule = "empty-group"
	TooDeep            check.Rule = "too-deep"
	TooBroad           check.Rule = "too-broad"
	SingleChild        check.Rule = "single-child"
	Lopsided           check.Rule = "lopsided"
	NoOwner            check.Rule = "no-owner"
	UnknownOwner       check.Rule = "unknown-owner"
	ReviewPassed       check.Rule = "review-passed"
)

// rules is the table of rules.
var rules = check.Table{
	{Rule: AddressClash, Severity: check.Error, Words: "Two pages at one address", Mend: check.OpenEntry},
	{Rule: ReservedAddress, Severity: check.Error, Words: "Address of the program itself", Mend: check.OpenEntry},
	{Rule: CannotHold, Severity: check.Error, Words: "Entries below what cannot hold any", Mend: check.OpenEntry},
	{Rule: ReferenceToNothing, Severity: check.Error, Words: "References to nothing", Mend: check.OpenEntry},
	{Rule: ReferenceRing, Severity: check.Error, Words: "References in a ring", Mend: check.OpenEntry},
	{Rule: NoTarget, Severity: check.Error, Words: "Outside links without a URL", Mend: check.OpenEntry},
	{Rule: NoSource, Severity: check.Error, Words: "Carried pages without a source", Mend: check.OpenEntry},
	{Rule: NoHome, Severity: check.Warning, Words: "No home page", Mend: check.OpenEntry},
	{Rule: SameTitle, Severity: check.Warning, Words: "Same title", Mend: check.OpenEntry},
	{Rule: SimilarTitle, Severity: check.Warning, Words: "Nearly the same title", Mend: check.OpenEntry},
	{Rule: SameSource, Severity: check.Warning, Words: "Same source twice", Mend: check.OpenEntry},
	{Rule: EmptyGroup, Severity: check.Warning, Words: "Empty groups", Mend: check.OpenEntry},
	{Rule: TooDeep, Severity: check.Warning, Words: "Too deep", Mend: check.OpenEntry},
	{Rule: TooBroad, Severity: check.Warning, Words: "Too many side by side", Mend: check.OpenEntry},
	{Rule: SingleChild, Severity: check.Warning, Words: "One below one", Mend: check.OpenEntry},
	{Rule: Lopsided, Severity: check.Warning, Words: "Lopsided", Mend: check.OpenEntry},
	{Rule: NoOwner, Severity: check.Warning, Words: "No owner", Mend: check.OpenEntry},
	{Rule: UnknownOwner, Severity: check.Warning, Words: "Unknown owner", Mend: check.OpenEntry},
	{Rule: ReviewPassed, Severity: check.Warning, Words: "Review date passed", Mend: check.OpenEntry},
}

// Rules is the table of rules, in the order in which findings are told.
func Rules() check.Table { return rules }

// CheckOptions are the limits of a check and what it knows. The zero value uses the usual limits, knows no people and
// no day.
type CheckOptions struct {
	Line    []int           // of each entry in a file, or nil
	Deepest int             // the last level that is not too deep; 0: 6
	Most    int             // the most entries side by side; 0: 25
	People  map[string]bool // who can own a page; nil: anybody
	Today   string          // 2006-01-02; empty: no review date has passed
}

// Check looks for what is wrong with a tree by itself, without a Live to
// compare it with, in the order of Rules, then of the tree.
func Check(t *Tree, o CheckOptions) []check.Finding {
	o.Deepest, o.Most = cmp.Or(o.Deepest, 6), cmp.Or(o.Most, 25)
	c := checker{t: t, CheckOptions: o}
	titles, compared := c, make(chan struct{})
	go func() { // half of all the work
		defer close(compared)
		titles.titles()
	}()
	for _, clash := range t.Clashes() {
		c.find(clash.Second, AddressClash, "%q has the address %s, which %q has already. Change the slug of one of them.",
			t.entries[clash.Second].Title, clash.Address, t.entries[clash.First].Title)
	}
	owned := false
	for i := range t.entries {
		owned = owned || t.entries[i].Owner != ""
	}
	for i := range t.entries {
		c.links(i)
		c.shape(i)
		c.care(i, owned)
	}
	c.sources()
	c.balance()
	if t.home == None && t.Len() > 0 {
		c.out = append(c.out, check.Finding{Severity: check.Warning, Rule: NoHome, Message: "There is no home page: no entry has the address /."})
	}
	<-compared
	c.out = append(c.out, titles.out...)
	rules.Sort(c.out)
	return c.out
}

type checker struct {
	CheckOptions
	t    *Tree
	out  []check.Finding
	keys []string // of the titles, by entry
}

func (c *checker) find(i int, rule check.Rule, format string, args ...any) {
	row, _ := rules.Row(rule)
	f := check.Finding{Severity: row.Severity, Rule: rule, Mend: row.Mend, ID: c.t.entries[i].ID, From: address.Written(c.t.Address(i)), Message: fmt.Sprintf(format, args...)}
	if c.Line != nil {
		f.Line = c.Line[i]
	}
	c.out = append(c.out, f)
}

// links checks what an entry leads to.
func (c *checker) links(i int) {
	t, e := c.t, c.t.entries[i]
	if a := t.Address(i); a != "" && address.Reserved(a) {
		c.find(i, ReservedAddress, "%q cannot have the address %s: the program itself answers below /%s. Choose another slug.", e.Title, a, strings.Split(a, "/")[1])
	}
	switch {
	case e.Kind == Reference && t.Find(e.Target) == None:
		c.find(i, ReferenceToNothing, "%q refers to an entry that is not in the sitemap. Choose another.", e.Title)
	case e.Kind == Reference && t.Referred(i) == None:
		c.find(i, ReferenceRing, "%q refers to itself by way of others. Point one of them to a page.", e.Title)
	case e.Kind == Outside && !address.IsURL(e.Target):
		c.find(i, NoTarget, "%q is an outside link without a URL. Give it one that begins with https://.", e.Title)
	case e.Kind == Carried && e.Source == "":
		c.find(i, NoSource, "%q is a carried page without a source. Say which old page its content comes from.", e.Title)
	}
}

// shape checks where an entry stands and what is below it.
func (c *checker) shape(i int) {
	t, e := c.t, c.t.entries[i]
	children := 0
	only := None
	for child := range t.Children(i) {
		children, only = children+1, child
	}
	switch {
	case children > 0 && !e.Kind.HoldsChildren():
		c.find(i, CannotHold, "%q is a %s and cannot have entries below it. Move them or change its kind.", e.Title, e.Kind.Label())
	case children == 0 && e.Kind == Group:
		c.find(i, EmptyGroup, "The group %q is empty, so readers do not see it. Move entries into it, or remove it.", e.Title)
	case children > c.Most:
		c.find(i, TooBroad, "%d entries are side by side below %q; more than %d are hard to scan. Group some of them.", children, e.Title, c.Most)
	case children == 1 && i != t.home && t.HasChildren(only) && t.End(only) == t.End(i) && c.one(only):
		c.find(i, SingleChild, "%q has one entry below it, %q, which has only one below it as well. Remove a level.", e.Title, t.entries[only].Title)
	}
	if t.Level(i) == c.Deepest+1 {
		c.find(i, TooDeep, "%q is on level %d; readers seldom go below level %d. Move it up.", strings.Join(t.Path(i), " › "), t.Level(i), c.Deepest)
	}
}

// one tells whether an entry has exactly one below it.
func (c *checker) one(i int) bool {
	n := 0
	for range c.t.Children(i) {
		n++
	}
	return n == 1
}

// care checks who looks after an entry. Owners are asked for only where some
// are named.
func (c *checker) care(i int, owned bool) {
	e := c.t.entries[i]
	switch {
	case owned && ownerMissing(e):
		c.find(i, NoOwner, "%q has no owner. Choose one.", e.Title)
	case ownerUnknown(e, c.People):
		c.find(i, UnknownOwner, "%q is owned by %q, who is not a person here. Choose another owner.", e.Title, e.Owner)
	}
	if reviewPassed(e, c.Today) {
		c.find(i, ReviewPassed, "%q was due for review on %s. Review it and set the next date.", e.Title, e.Review)
	}
}

func (c *checker) sources() {
	first := map[string]int{}
	for i := range c.t.entries {
		e := c.t.entries[i]
		if e.Kind != Carried || e.Source == "" {
			continue
		}
		if f, twice := first[e.Source]; twice {
			c.find(i, SameSource, "%q and %q both have the source %s. Make one of them a reference.", c.t.entries[f].Title, e.Title, e.Source)
			continue
		}
		first[e.Source] = i
	}
}

// balance checks whether one branch holds most of the site.
func (c *checker) balance() {
	t, total, tops := c.t, c.t.Len(), 0
	largest := None
	for i := range t.Children(t.home) {
		tops++
		if largest == None || t.End(i)-i > t.End(largest)-largest {
			largest = i
		}
	}
	if tops >= 3 && total >= 40 {
		if n := t.End(largest) - largest; 2*n > total {
			c.find(largest, Lopsided, "%q holds %d of %d entries, more than half. Consider moving some of it to the top level.", t.entries[largest].Title, n, total)
		}
	}
}

// titles finds entries that are called the same or nearly so. References are
// meant to repeat a title.
func (c *checker) titles() {
	same := map[string]int{}
	near := map[uint64][]shortened{}
	c.keys = make([]string, c.t.Len())
	for i := range c.t.entries {
		e := c.t.entries[i]
		if e.Kind == Reference {
			continue
		}
		key := titleKey(e.Title)
		c.keys[i] = key
		if f, twice := same[key]; twice {
			c.find(i, SameTitle, "%q is also the title of %q. Rename one, or make it a reference to the other.", e.Title, c.where(f))
			continue
		}
		same[key] = i
		if f := c.nearly(i, near); f != None {
			c.find(i, SimilarTitle, "%q has nearly the same title as %q. Check whether both are needed.", c.where(i), c.where(f))
		}
	}
}

func (c *checker) where(i int) string {
	return strings.Join(append([]string{}, c.t.Path(i)...), " › ")
}

// titleKey is a title without case, punctuation and the order of its words.
func titleKey(title string) string {
	words := strings.Split(address.Slug(title), "-")
	if address.Slug(title) == "page" {
		words = strings.Fields(strings.ToLower(title))
	}
	slices.Sort(words)
	return strings.Join(words, " ")
}

// shortened is the key of a title without one letter, or whole where at is its
// length.
type shortened struct{ entry, at int }

// nearly finds an earlier entry whose key differs in one letter: both leave the
// same behind when one letter is taken out of either. Short titles and those
// that differ in a number are left alone. near holds what is left behind, by hash.
func (c *checker) nearly(i int, near map[uint64][]shortened) int {
	const shortest = 8
	key := c.keys[i]
	if len(key) < shortest {
		return None
	}
	const base = 1_000_003
	hash, power := make([]uint64, len(key)+1), uint64(1) // of what stands before each letter
	for k := range len(key) {
		hash[k+1] = hash[k]*base + uint64(key[k])
	}
	found := None
	number := uint64(0) // titles with other digits have other hashes
	for _, d := range []byte(digitsOf(c.t.entries[i].Title)) {
		number = number*base + uint64(d)
	}
	for k := len(key); k >= 0; k-- {
		h := hash[len(key)]
		if k < len(key) { // power is base to how many letters follow the one left out
			h = hash[k]*power + h - hash[k+1]*power
			power *= base
		}
		h ^= number * 0x9e3779b97f4a7c15
		for _, f := range near[h] {
			if (found == None || f.entry < found) && f.entry != i && c.without(f) == c.without(shortened{i, k}) && digitsOf(c.t.entries[f.entry].Title) == digitsOf(c.t.entries[i].Title) {
				found = f.entry
			}
		}
		if list := near[h]; len(list) < 4 && (len(list) == 0 || list[len(list)-1].entry != i) {
			near[h] = append(list, shortened{i, k})
		}
	}
	return found
}

func (c *checker) without(s shortened) string {
	key := c.keys[s.entry]
	if s.at == len(key) {
		return key
	}
	return key[:s.at] + key[s.at+1:]
}

// digitsOf gives the digits of a title: "Round 1" and "Round 2" differ on purpose.
func digitsOf(title string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' {
			return r
		}
		return -1
	}, title)
}
