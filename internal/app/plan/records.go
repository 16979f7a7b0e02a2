package plan

import (
	"cmp"
	"errors"
	"slices"
	"strings"
	"time"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Errors by which callers branch.
var (
	ErrNotFound  = errors.New("not found")
	ErrDone      = errors.New("this was already done") // the same act, sent twice
	ErrForbidden = errors.New("your role does not allow this")
	ErrShown     = errors.New("pages show this file")
	ErrStale     = errors.New("somebody else has saved since")
)

// Site is one intranet: what was chosen for it and where it stands.
type Site struct {
	ID          string
	Hosts       []string
	Edition     int
	PlanVersion int64
	Settings    setting.Values
	Work        WorkVersions
}

// Name is what the site is called.
func (s Site) Name() string { return s.Settings.Text(setting.SiteName) }

// IsMark tells whether a file is the mark of the site.
func (s Site) IsMark(file string) bool {
	return strings.HasPrefix(s.Settings.Text(setting.Mark), FileAt(file, ""))
}

// OldHosts are names under which the site is asked for that are not its own any more. A site
// that does not know its own name has none.
func (s Site) OldHosts() (out []string) {
	if len(s.Hosts) == 0 {
		return nil
	}
	for host := range strings.FieldsSeq(s.Settings.Text(setting.OldHosts)) {
		if !slices.ContainsFunc(s.Hosts, func(own string) bool { return strings.EqualFold(own, host) }) {
			out = append(out, host)
		}
	}
	return out
}

// HostRows tells how many redirects are for one host name alone, and of which addresses some are.
type HostRows struct {
	Host      string
	Addresses []string
}

// Answers are all host names under which the site answers, its own first. A URL on one of them
// is an address of the site.
func (s Site) Answers() []string { return slices.Concat(s.Hosts, s.OldHosts()) }

// Rights are the choices that bear on who may do what.
func (s Site) Rights() workflow.Site {
	return workflow.Site{EditorsPublish: s.Settings.On(setting.EditorsPublish), OwnWork: s.Settings.On(setting.OwnWork)}
}

// ApprovalPolicy is what the site asks of a change before it goes out.
func (s Site) ApprovalPolicy() workflow.ApprovalPolicy {
	switch {
	case !s.Settings.On(setting.ReviewAsked):
		return workflow.NoApproval
	case s.Settings.On(setting.FourEyes):
		return workflow.FourEyes
	}
	return workflow.Approval
}

// Person works on the site.
type Person struct {
	ID, Login, Name string
	Role            workflow.Role
	PasswordHash    string    // empty: none was set yet
	Inactive        bool      // may not sign in any more
	SessionsSince   time.Time // sessions that began before are over
	Unread          int       // notices; only known of who is signed in
}

// Reader is the person as a reader of the site.
func (p Person) Reader() readership.Reader {
	return readership.Reader{Name: p.Name, Login: p.Login, Role: p.Role}
}

// Values that the core makes editions of, under the names by which all areas speak of them.
type (
	// Planned tells who planned something last.
	Planned = change.Planned
	// Trees are Live and Next.
	Trees = edition.Trees
	// Shapes are the menus that editors took over, the trails and the templates.
	Shapes = edition.Shapes
	// PageSummary is a version of a page without its text.
	PageSummary = edition.PageSummary
	// PlannedRedirect is a redirect planned by hand.
	PlannedRedirect = edition.PlannedRedirect
)

// ShapeVersion is what a menu, trail or template was from an edition on.
type ShapeVersion struct {
	shape.Item
	PersonID string // who published it; empty: the site began with it
	At       time.Time
	From     int // edition
	To       int // edition that ended it; 0: none did
}

// Overlay is how the planned rows change, and by whom.
type Overlay struct {
	sitemap.Overlay
	Makers map[string]Planned // who planned a row, where not whoever writes it
}

// Act is one planning act.
type Act struct {
	ID       int64
	Key      string
	PersonID string
	At       time.Time
	Label    string
	Patches  []sitemap.Patch
	Version  int64 // of the plan after it

	SideEffects // only when adding
}

// SideEffects is what an act did besides changing the sitemap.
type SideEffects struct {
	Texts     []TextPatch
	Decisions []DecisionPatch
	Shapes    []shape.Patch
	Redirects []RedirectPatch
}

// RedirectPatch is what an act did to a planned redirect; nil: none is planned.
type RedirectPatch struct {
	ID            string // of its key
	Before, After *redirect.Row
}

// TextPatch is what an act did to the draft of a page; nil: there is none.
type TextPatch struct {
	EntryID       string
	Before, After *content.Page
}

// DecisionPatch is what an act did to a decision; nil: there is none.
type DecisionPatch struct {
	EntryID       string
	Before, After *redirect.Decision
}

// ActState is where an act stands for undo.
type ActState string

// The act states.
const (
	ActDone    ActState = "done"
	ActUndone  ActState = "undone"
	ActDropped ActState = "dropped" // undone, and something else was done since
	ActSettled ActState = "settled" // published
)

// PageVersion is the content of a page, a draft or one that was published.
type PageVersion struct {
	ID       string
	EntryID  string
	Content  content.Page
	Body     []byte // rendered, gzipped; nil: not rendered yet
	Outline  []markup.Heading
	Slots    markup.Slots // where in Body what they hold stands
	Links    []content.FoundLink
	Follows  []string // pages that it takes something from; only when saving
	Files    []string // and pictures that it shows; only when saving
	Report   content.Report
	Excerpt  string
	Plain    string // words for search; only when saving
	Version  int    // counts saves of one draft
	PersonID string
	At       time.Time
}

// RenderedSlots is a version as it was rendered.
type RenderedSlots struct {
	Body    []byte
	Outline []markup.Heading
	Slots   markup.Slots
}

// As gives the version under the id, number, person and time of another one.
func (v PageVersion) As(head PageVersion) PageVersion {
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = head.ID, head.EntryID, head.Version, head.PersonID, head.At
	return v
}

// LiveBody is what readers get of a page, as stored.
type LiveBody struct {
	VersionID string
	Body      []byte
	HTML      string // the body with what is worked out for a reader; links have the form page:ID
	Outline   []markup.Heading
	Excerpt   string
	At        time.Time
	Reads     Reads // what was looked up to work HTML out
}

// Edition is one published state, as told in Past editions.
type Edition struct {
	Number   int
	At       time.Time
	PersonID string
	Why      string
	Note     string // what readers are told of it, if anything
	BackTo   int    // edition rolled back to, or 0
	Changes  []ChangeSummary
	ActKey   string
	Proof    *redirect.Proof // of all addresses that ever answered; nil: not known
}

// ChangeSummary is one change as an edition keeps it: the titles and places in its
// words are those of then.
type ChangeSummary struct {
	EntryID string        `json:"id"`
	Title   string        `json:"title"`
	Aspect  change.Aspect `json:"aspect"`
	How     string        `json:"how,omitempty"` // of a placement: moved, renamed address, turned into …
	Words   string        `json:"words"`

	ApprovedBy string `json:"approvedBy,omitempty"` // a person
}

// Change is the change without what it was before and is after.
func (s ChangeSummary) Change() change.Change {
	return change.Change{Key: change.Key{ID: s.EntryID, Aspect: s.Aspect}, Because: s.How}
}

// Mark is the change in a word or two.
func (s ChangeSummary) Mark() string { return s.Change().Mark() }

// PageSource is the page of an older site from which a text was brought in.
type PageSource struct {
	EntryID string
	File    string
	HTML    []byte   // gzipped; only where asked for
	Lost    []string // what could not be kept
	At      time.Time

	ImportID string // the import that it came with; where asked for it is empty
}

// KeptFile is a file that the site keeps; its id is made of what it holds, which is in the
// object storage.
type KeptFile struct {
	ID, Name, Type string
	Given          string // what it was called where it came from; empty: not known
	Bytes          int
	Width, Height  int   // of a picture
	Sizes          []int // widths in which there are smaller ones
	PersonID       string
	At             time.Time
	ReplacedBy     string // id of the file that took its place, if one did
}

// Called is what people call the file, and what a download is called.
func (f KeptFile) Called() string { return cmp.Or(f.Given, f.Name) }

// Address is the address of the file.
func (f KeptFile) Address() string { return FileAt(f.ID, f.Name) }

// RemovedEntry is an entry that left the site, as it was last.
type RemovedEntry struct {
	Entry    sitemap.Entry
	Address  string // the last it had, or empty
	Edition  int    // in which it left
	At       time.Time
	PersonID string // who published that
	Why      string
}

// ReleasedAddress is an address given up by name and reason.
type ReleasedAddress struct {
	Address, Why, PersonID string
	At                     time.Time
	Edition                int  // since which it answers nothing; 0: planned
	Below                  bool // a redirect that answered all below it, too, ends with it
}
