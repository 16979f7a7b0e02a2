// Package preflight checks an edition before it goes out. Each rule has an id, a
// severity and a sentence that says what to do. Errors stop an edition, warnings do
// not.
//
// It looks at the edition as it will be, not at what is planned: a link to a page
// that this edition leaves out is broken, though the page stands in Next. A page
// that was wrong before and is not touched by the edition does not stop it.
package preflight

import (
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// The rules.
const (
	AddressClash    check.Rule = "address-clash"
	ReservedAddress check.Rule = "reserved-address"
	UndecidedPage   check.Rule = "undecided-removal"
	RedirectLoop    check.Rule = "redirect-loop"
	LinkToNothing   check.Rule = "link-to-nothing"
	RequiredField   check.Rule = "required-field"
	RequiredSlot    check.Rule = "required-slot"
	LostVisitors    check.Rule = "address-taken"
	UnfinishedBlock check.Rule = "unfinished-block"
	EmptyPage       check.Rule = "page-empty"
	ItemToNothing   check.Rule = "menu-item-to-nothing"
	StepToNothing   check.Rule = "trail-step-to-nothing"
	DuplicateTitles check.Rule = "same-title-beside"
	LongMenu        check.Rule = "menu-too-long"
	TemplateGone    check.Rule = "template-missing"
	TemplateAsks    check.Rule = "template-asks-more"
	KeptAside       check.Rule = "blocks-kept-aside"
	TemplateLink    check.Rule = "template-link-to-nothing"
	AddressLost     check.Rule = "address-lost"
	ReviewMissing   check.Rule = "review-missing"
	FileStops       check.Rule = "file-stops"
)

// mostOnTop is how many items of a top menu are still taken in at a glance.
const mostOnTop = 12

// rules is the table of rules.
var rules = check.Table{
	{Rule: AddressClash, Severity: check.Error, Words: "Two pages at one address", Mend: check.OpenEntry},
	{Rule: ReservedAddress, Severity: check.Error, Words: "Address of the program itself", Mend: check.OpenEntry},
	{Rule: UndecidedPage, Severity: check.Error, Words: "Addresses that need a decision", Mend: check.OpenDecide},
	{Rule: RedirectLoop, Severity: check.Error, Words: "Redirects in a ring", Mend: check.OpenDecide},
	{Rule: AddressLost, Severity: check.Error, Words: "Addresses that would stop answering", Mend: check.OpenTest},
	{Rule: ReviewMissing, Severity: check.Error, Words: "Changes that need approval", Mend: check.OpenSend},
	{Rule: LinkToNothing, Severity: check.Error, Words: "Links to nothing", Mend: check.OpenPage},
	{Rule: RequiredField, Severity: check.Error, Words: "Required fields that are empty", Mend: check.OpenPage},
	{Rule: RequiredSlot, Severity: check.Error, Words: "Required parts that are empty", Mend: check.OpenPage},
	{Rule: ItemToNothing, Severity: check.Error, Words: "Menu items to nothing", Mend: check.OpenWay},
	{Rule: TemplateGone, Severity: check.Error, Words: "Templates that are not there", Mend: check.OpenEntry},
	{Rule: TemplateLink, Severity: check.Error, Words: "Templates that lead to nothing", Mend: check.OpenWay},
	{Rule: LostVisitors, Severity: check.Warning, Words: "Addresses that another page takes", Mend: check.OpenEntry},
	{Rule: FileStops, Severity: check.Warning, Words: "Files that stop working", Mend: check.OpenFiles},
	{Rule: UnfinishedBlock, Severity: check.Warning, Words: "Blocks that are not finished", Mend: check.OpenPage},
	{Rule: KeptAside, Severity: check.Warning, Words: "Blocks that no slot shows", Mend: check.OpenPage},
	{Rule: TemplateAsks, Severity: check.Warning, Words: "Pages that lack what their template asks for now", Mend: check.OpenPage},
	{Rule: EmptyPage, Severity: check.Warning, Words: "Pages without a text", Mend: check.OpenPage},
	{Rule: StepToNothing, Severity: check.Warning, Words: "Trail steps to nothing", Mend: check.OpenWay},
	{Rule: DuplicateTitles, Severity: check.Warning, Words: "The same title side by side", Mend: check.OpenEntry},
	{Rule: LongMenu, Severity: check.Warning, Words: "Menus that are too long", Mend: check.OpenWay},
}

// Rules is the table of rules, in the order in which findings are told.
func Rules() check.Table { return rules }

// Page is the content that an entry will have from this edition on.
type Page struct {
	ID      string
	Follows bool // its text stays; its template is another
	Report  *content.Report
	Links   []content.FoundLink
}

// Edition is what is checked.
type Edition struct {
	Live      *sitemap.Tree
	Tree      *sitemap.Tree // as it will be
	Next      *sitemap.Tree // with what is planned besides; may be nil
	Plan      []redirect.Row
	PlanError error     // why there is no Plan
	Hosts     []string  // the site's own
	Pages     []Page    // that change
	Stay      *link.Map // the links of the others, as they are in Live; may be nil
	Shapes    shape.Set // as they will be
	Before    shape.Set // of Live
	Rollback  bool      // a rollback: undecided addresses become follow-ups

	FilesStop []string // names of files that no page shows any more

	// Answers is Plan over Tree, if that is known; Proof what asking it for every address that
	// ever answered came to.
	Answers *redirect.Table
	Proof   redirect.Proof

	// Unapproved holds what goes out and lacks the approval that is asked of it.
	Unapproved []Unapproved

	// Unvisited holds the pages of Live of which it is known that nobody ever
	// opened them.
	Unvisited map[string]bool
}

// Unapproved is a change that lacks the approval that is asked of it.
type Unapproved struct {
	ID, Title string
	Sent      bool // it is with a reviewer
}

// Check runs every rule.
func Check(e Edition) []check.Finding {
	c := checker{Edition: e}
	if c.answers = e.Answers; c.answers == nil {
		if t, err := redirect.NewTable(e.Plan, e.Tree); err == nil {
			c.answers = t
		}
	}
	c.addresses()
	c.lost()
	c.filesStop()
	c.unapproved()
	c.removals()
	c.templates()
	c.pages()
	c.titles()
	c.ways()
	rules.Sort(c.out)
	return c.out
}

type checker struct {
	Edition
	answers *redirect.Table // nil where the plan contradicts itself
	out     []check.Finding
}

func (c *checker) find(r check.Rule, id, format string, args ...any) {
	row, _ := rules.Row(r)
	c.out = append(c.out, check.Finding{Rule: r, Severity: row.Severity, ID: id, Message: fmt.Sprintf(format, args...), Mend: row.Mend})
}

// lost tells of addresses that answered once and would stop (R1), or need two hops (R3).
func (c *checker) lost() {
	for _, a := range c.Proof.Lost {
		c.find(AddressLost, a, "%s answered once and would stop. Add a redirect for it, or release it with a reason.", redirect.WrittenFrom(a))
	}
	if n := c.Proof.LostMore; n > 0 {
		c.find(AddressLost, "", "%d more addresses would stop answering.", n)
	}
}

// mostFiles is how many files are named.
const mostFiles = 5

// filesStop tells of files whose address answers that they are gone from this edition on.
func (c *checker) filesStop() {
	n := len(c.FilesStop)
	if n == 0 {
		return
	}
	names := strings.Join(c.FilesStop[:min(n, mostFiles)], ", ")
	if more := n - mostFiles; more > 0 {
		names += fmt.Sprintf(" and %d more", more)
	}
	if n == 1 {
		c.find(FileStops, "", "1 file stops working, because no page shows it any more: %s. Its address then says that it is gone.", names)
		return
	}
	c.find(FileStops, "", "%d files stop working, because no page shows them any more: %s. Their addresses then say that they are gone.", n, names)
}

// unapproved tells, once for each thing, of what needs approval first.
func (c *checker) unapproved() {
	told := map[string]bool{}
	for _, u := range c.Unapproved {
		switch {
		case told[u.ID]:
			continue
		case u.Sent:
			c.find(ReviewMissing, u.ID, "%q is in review. It can be published once it is approved.", u.Title)
		default:
			c.find(ReviewMissing, u.ID, "%q needs approval before it is published. Send it for review.", u.Title)
		}
		told[u.ID] = true
	}
}

// warn is find for what does not stop an edition in this case.
func (c *checker) warn(r check.Rule, id, format string, args ...any) {
	c.find(r, id, format, args...)
	c.out[len(c.out)-1].Severity = check.Warning
}

func (c *checker) addresses() {
	for _, clash := range c.Tree.Clashes() {
		c.find(AddressClash, c.Tree.Ref(clash.Second).ID, "%q and %q would both be at %s. Change the slug of one of them.",
			c.Tree.Ref(clash.First).Title, c.Tree.Ref(clash.Second).Title, clash.Address)
	}
	for i := range c.Tree.Len() {
		if a := c.Tree.Address(i); a != "" && address.Reserved(a) {
			c.find(ReservedAddress, c.Tree.Ref(i).ID, "%q would be at %s, where the program itself answers. Give it another slug.", c.Tree.Ref(i).Title, a)
		}
	}
}

func (c *checker) removals() {
	if c.PlanError != nil {
		c.find(RedirectLoop, "", "The redirects contradict each other: %s.", c.PlanError)
		return
	}
	for _, r := range c.Plan {
		switch {
		case r.Status == redirect.Undecided && !c.Rollback:
			i := c.Live.PageAt(r.From)
			switch {
			case i == sitemap.None:
			case c.Unvisited[c.Live.Ref(i).ID]:
				c.warn(UndecidedPage, c.Live.Ref(i).ID, "%q is removed from %s, which nobody ever opened. Its address will lead to %s unless you choose otherwise.", c.Live.Ref(i).Title, r.From, redirect.WrittenTo(r.To, c.Tree))
			default:
				c.find(UndecidedPage, c.Live.Ref(i).ID, "%q is removed from %s. Choose where its visitors should go: another page, another site, or gone.", c.Live.Ref(i).Title, r.From)
			}
		case r.Status == redirect.Dangling:
			if i := c.Live.PageAt(r.From); i != sitemap.None {
				c.find(UndecidedPage, c.Live.Ref(i).ID, "Visitors of %q should go to a page that does not exist. Choose another target.", c.Live.Ref(i).Title)
			}
		case r.Status == redirect.Blocked, r.Status == redirect.Retired:
			if i := c.Tree.PageAt(r.From); i != sitemap.None {
				c.find(LostVisitors, c.Tree.Ref(i).ID, "%q takes the address %s; visitors with old bookmarks land on it from now on.", c.Tree.Ref(i).Title, r.From)
			}
		}
	}
	for _, r := range c.Plan {
		if to := r.To.Entry; to != "" && !r.Status.IsReport() {
			if i := c.Tree.Find(to); i != sitemap.None && c.Tree.Served(i) == r.From && r.Match == redirect.Exact {
				c.find(RedirectLoop, to, "The redirect at %s leads to itself. Choose another target.", r.From)
			}
		}
	}
}

// pages finds what is wrong on pages, in the order of the tree.
func (c *checker) pages() {
	at := make([]int32, c.Tree.Len()) // which page changes at an index, from 1
	for k := range c.Pages {
		if i := c.Tree.Find(c.Pages[k].ID); i != sitemap.None {
			at[i] = int32(k + 1)
		}
	}
	stayed := c.suspects()
	for i, k := range at {
		switch {
		case k == 0 && stayed[i] == nil, c.Tree.Served(i) == "":
		case k == 0:
			c.links(i, stayed[i].Links)
		default:
			c.links(i, c.Pages[k-1].Links)
			c.filled(c.Pages[k-1], c.Tree.Ref(i).Title)
		}
	}
}

// suspects gives, by where they stand, the pages that stay as they are and have links
// that may lead to nothing now. Nearly all lead to a page that is there, which is seen
// without looking at the link.
func (c *checker) suspects() map[int]*link.Page {
	if c.Stay == nil {
		return nil
	}
	view, out := c.Stay.In(c.Tree), map[int]*link.Page{}
	fine := make([]bool, c.Tree.Len())
	for i := range fine {
		fine[i] = c.unreadable(i) == ""
	}
	lost := func(to int32) bool {
		i := view.Moved(to)
		return i == sitemap.None || !fine[i]
	}
	view.Each(func(i int, p *link.Page, to []int32) {
		if slices.ContainsFunc(to, lost) {
			out[i] = p
		}
	})
	return out
}

// links finds the links on the page at an index that lead to nothing.
func (c *checker) links(i int, links []content.FoundLink) {
	var told []string
	for _, l := range links {
		if what, broken := c.broken(l); broken && !slices.Contains(told, l.To) {
			told = append(told, l.To)
			if l.Text == "" { // a tile without words of its own, or a picture
				c.find(LinkToNothing, c.Tree.Ref(i).ID, "%q links to %s. Change or remove that link.", c.Tree.Ref(i).Title, what)
			} else {
				c.find(LinkToNothing, c.Tree.Ref(i).ID, "%q links to %s. Point %q somewhere else, or leave it out.", c.Tree.Ref(i).Title, what, l.Text)
			}
			c.out[len(c.out)-1].To, _ = l.Entry()
		}
	}
}

// unreadable says why readers get nothing of an entry; it is empty where they do.
func (c *checker) unreadable(i int) string {
	switch {
	case c.Tree.Ref(i).Withdrawn:
		return "withdrawn"
	case c.Tree.Served(i) == "" && c.Tree.Ref(i).Kind == sitemap.Group:
		return "a group without a page"
	}
	return ""
}

// broken tells whether a link leads nowhere, and words what it leads to.
func (c *checker) broken(l content.FoundLink) (string, bool) {
	if id, ok := l.Entry(); ok {
		i := c.Tree.Find(id)
		switch {
		case i == sitemap.None:
			if old := c.Live.Find(id); old != sitemap.None {
				return fmt.Sprintf("%q, which is removed", c.Live.Ref(old).Title), true
			}
			if title, ok := c.later(id); ok {
				return fmt.Sprintf("%q, which is not part of this edition", title), true
			}
			return "a page that is not there", true
		case c.unreadable(i) != "":
			return fmt.Sprintf("%q, which is %s", c.Tree.Ref(i).Title, c.unreadable(i)), true
		}
		return "", false
	}
	to := strings.TrimSpace(l.To)
	if path, own := address.PathOn(to, c.Hosts); own {
		to = path
	}
	if to == "" {
		return "nothing", true
	}
	return c.answered(to)
}

// later names an entry that is planned and not part of this edition.
func (c *checker) later(id string) (title string, ok bool) {
	if c.Next == nil || c.Tree.Find(id) != sitemap.None {
		return "", false
	}
	i := c.Next.Find(id)
	if i == sitemap.None {
		return "", false
	}
	return c.Next.Ref(i).Title, true
}

// answered tells whether an address written out in a link answers nothing.
func (c *checker) answered(to string) (string, bool) {
	if !strings.HasPrefix(to, "/") || c.answers == nil {
		return "", false
	}
	if n, err := address.Normal(pathOf(to)); err == nil && address.Reserved(n) {
		return "", false
	}
	switch c.answers.Resolve(to).Code {
	case 404:
		return to + ", where there is no page", true
	case redirect.Gone:
		return to + ", which is gone", true
	}
	return "", false
}

func pathOf(to string) string {
	path, _, _ := address.Split(to)
	return path
}

func (c *checker) filled(p Page, title string) {
	for _, pr := range p.Report.Problems {
		switch {
		case pr.What == content.KeptAside:
			c.find(KeptAside, p.ID, "On %q, %s.", title, pr.Text)
		case p.Follows && pr.What != content.Unfinished:
			c.find(TemplateAsks, p.ID, "%q stays as it is and follows its template, but %s. Its next edit has to mend that.", title, pr.Text)
		case p.Follows: // as in Live
		case pr.What == content.Unfinished, pr.What == content.TooMany:
			c.find(UnfinishedBlock, p.ID, "On %q, %s.", title, pr.Text)
		case pr.What == content.RequiredSlot:
			c.find(RequiredSlot, p.ID, "%q cannot be published: %s. Open the page and fill it in.", title, pr.Text)
		default:
			c.find(RequiredField, p.ID, "%q cannot be published: %s. Open the page and fill it in.", title, pr.Text)
		}
	}
	if len(p.Report.Problems) == 0 && p.Report.Empty && !p.Follows {
		c.find(EmptyPage, p.ID, "%q has no text yet; colleagues see only its title and what is below it.", title)
	}
}

// ways finds what editors put into menus and trails that leads to nothing.
func (c *checker) ways() {
	if c.Rollback {
		return // an earlier edition passed already
	}
	if n := len(menu.For(c.Tree, c.Shapes.Menus()).Top(sitemap.None)); n > mostOnTop {
		c.find(LongMenu, shape.MenuID(menu.Top), "The top menu has %d items beside each other; readers take in about %d. Leave some out, or put them below others.", n, mostOnTop)
	}
	for _, l := range c.Shapes.Lost(c.Tree) {
		what := "a page that is not there"
		if i := c.Live.Find(l.Entry); i != sitemap.None {
			what = fmt.Sprintf("%q, which is removed", c.Live.Ref(i).Title)
		}
		title := shape.Title(l.Way, c.Tree, c.Shapes)
		planned, later := c.later(l.Entry)
		if later {
			what = fmt.Sprintf("%q, which is not part of this edition", planned)
		}
		switch {
		case shape.TemplateOf(l.Way) != "":
			c.find(TemplateLink, l.Way, "%s leads to %s, and so does every page of it. Point it elsewhere, or keep the page.", title, what)
		case shape.TrailOf(l.Way) != "":
			c.find(StepToNothing, l.Way, "%s leads to %s; readers get one step less.", title, what)
		case l.Key == "":
			c.find(ItemToNothing, l.Way, "%s shows what is below %s. Choose another page to compute it from.", title, what)
		case later:
			c.find(ItemToNothing, l.Way, "%s has an item to %s. Choose that page too, or leave the menu out.", title, what)
		default:
			c.find(ItemToNothing, l.Way, "%s has an item to %s. Take the item out, or keep the page.", title, what)
		}
	}
}

// templates finds pages whose template the edition does not have.
func (c *checker) templates() {
	if c.Rollback || len(c.Shapes.Templates()) == 0 {
		return // an earlier edition passed already; a sitemap by itself has none
	}
	for i := range c.Tree.Len() {
		e := c.Tree.Ref(i)
		if e.Template == "" || !e.Kind.IsPage() || c.Shapes.Find(shape.TemplateID(e.Template)) != nil {
			continue
		}
		if j := c.Live.Find(e.ID); j == sitemap.None || c.Live.Ref(j).Template != e.Template || c.was(e.Template) {
			c.find(TemplateGone, e.ID, "%q has a template that is not part of this edition. Choose the template too, or give the page another one.", e.Title)
		}
	}
}

// was tells whether the templates of Live had one.
func (c *checker) was(template string) bool { return c.Before.Find(shape.TemplateID(template)) != nil }

func (c *checker) titles() {
	seen := map[string]bool{}
	for i := range c.Tree.Len() {
		if c.Tree.End(i) <= i+2 {
			continue // no two below it
		}
		clear(seen)
		for child := range c.Tree.Children(i) {
			title := strings.ToLower(c.Tree.Ref(child).Title)
			if seen[title] {
				c.find(DuplicateTitles, c.Tree.Ref(child).ID, "Two entries below %q are called %q. Give one another title.", c.Tree.Ref(i).Title, c.Tree.Ref(child).Title)
			}
			seen[title] = true
		}
	}
}
