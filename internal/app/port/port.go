// Package port names what use cases need from the outside: records as they are
// kept, and the transaction that reads and writes them.
package port

import (
	"context"
	"errors"
	"time"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/findability"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Errors by which callers branch.
var (
	ErrNotFound = errors.New("not found")
	ErrDone     = errors.New("this was done already") // the same act, sent twice
	ErrStale    = errors.New("somebody else saved since")
)

// Site is the settings of one intranet and where it stands.
type Site struct {
	ID          string
	Name        string
	Hosts       []string
	Edition     int
	PlanVersion int64
	Rights      workflow.Site
	KeepRemoved int // days for which removed pages are kept at least

	Accent, Mark, Foot string // of the reader site
	MostClicks         int    // from home that are not too many
}

// Look is how the site is called and looks, and how far its pages may be.
type Look struct {
	Name, Accent, Mark, Foot string
	MostClicks               int
}

// Person works on the site.
type Person struct {
	ID, Login, Name string
	Role            workflow.Role
	PasswordHash    string    // empty: none was set yet
	Inactive        bool      // may not sign in any more
	SessionsSince   time.Time // sessions that began before are over
}

// Planned tells who planned something last.
type Planned struct {
	PersonID string
	At       time.Time
}

// Trees are the two states of the sitemap, and of the ways in that editors shape
// beside it.
type Trees struct {
	Live, Next *sitemap.Tree
	Planned    map[string]Planned // entries whose row in Next differs from Live
	Ways       Ways
}

// Ways are the menus that were taken over and the trails.
type Ways struct {
	Live, Next ways.Set
	Planned    map[string]Planned // those that differ
}

// Title names an entry, menu or trail of Next, else of Live.
func (t Trees) Title(id string) string {
	for _, tree := range []*sitemap.Tree{t.Next, t.Live} {
		if i := tree.Find(id); i != sitemap.None {
			return tree.Ref(i).Title
		}
	}
	if ways.MenuOf(id)+ways.TrailOf(id) != "" {
		return ways.Title(id, t.Next, t.Ways.Next, t.Ways.Live)
	}
	return id
}

// Overlay is how Next's rows differ from Live's: what to write and what to
// forget.
type Overlay struct {
	Put    []sitemap.Entry
	Remove []sitemap.Entry    // planned ends
	Forget []string           // ids whose row is Live's again
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

	Also // only when adding
}

// Also is what an act did besides changing the sitemap.
type Also struct {
	Texts     []TextPatch
	Decisions []DecisionPatch
	Ways      []ways.Patch
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
	Body     []byte // rendered, gzipped
	Outline  []markup.Heading
	Links    []content.FoundLink
	Report   content.Report
	Excerpt  string
	Plain    string // words for search; only when saving
	Version  int    // counts saves of one draft
	PersonID string
	At       time.Time
}

// LiveBody is what readers get of a page, as stored.
type LiveBody struct {
	VersionID string
	Body      []byte
	Outline   []markup.Heading
	Excerpt   string
	At        time.Time
}

// PageHead is what lists need of a version, and what checks need of it.
type PageHead struct {
	EntryID   string
	VersionID string
	Version   int // counts saves of one draft
	PersonID  string
	At        time.Time
	Draft     bool
	Report    content.Report      // only from CheckedHeads
	Links     []content.FoundLink // only from CheckedHeads
}

// KeptText is a text that met another and waits for a choice.
type KeptText struct {
	ID, EntryID, PersonID string
	Content               content.Page
	At                    time.Time
}

// Edition is one published state, as told in Past editions.
type Edition struct {
	Number   int
	At       time.Time
	PersonID string
	Why      string
	BackTo   int // edition rolled back to, or 0
	Told     []Told
	ActKey   string
}

// Told is one change of an edition in words.
type Told struct {
	EntryID string `json:"id"`
	Title   string `json:"title"`
	Aspect  string `json:"aspect"`
	Words   string `json:"words"`
}

// SavedView is how somebody looks at the outline: filters, columns and sorting,
// as they stand in its URL.
type SavedView struct {
	Name  string `json:"name"`
	Query string `json:"query"`
}

// Release is everything that publishing an edition writes.
type Release struct {
	Edition   Edition
	Before    *sitemap.Tree // Live until now
	After     *sitemap.Tree
	Table     []redirect.Row
	Drafts    []string      // entries whose draft goes live
	Rendered  []PageVersion // rendered again, because their entry has another template now
	Restored  int           // edition whose content is restored, or 0
	Overlay   Overlay
	Decisions []string // entries whose decision is used up
	Released  []string // addresses that are given up

	WaysBefore ways.Set // Live until now
	Ways       Ways     // as they are then
}

// BringIn is a file on its way in.
type BringIn struct {
	ID, PersonID string
	At           time.Time
	FileName     string
	Data         []byte
	State        string
	Done, Total  int
	Message      string
	Way, Place   string
	Follow       bool      // an older site: pages get the addresses that follow from their place
	Texts        bool      // an older site: the texts of pages come along
	Sheet        []byte    // what was understood of it
	Seen         time.Time // last sign of life of whoever reads or writes it
}

// PageSource is the page of an older site from which a text was brought in.
type PageSource struct {
	EntryID string
	File    string
	HTML    []byte   // gzipped; only where asked for
	Lost    []string // what could not be kept
	At      time.Time
}

// Picture is a kept picture; its id is made of what it holds.
type Picture struct {
	ID string
	content.Picture
	At time.Time
}

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
	Edition                int // since which it answers nothing; 0: planned
}

// Choice is what a person picked for the next edition, and why it is to go out.
type Choice struct {
	change.Choice
	Why string
}

// Study is tasks put to colleagues: where would something be?
type Study struct {
	ID, Title string
	Nodes     []findability.Node
	Tasks     []StudyTask
	Source    string // which state of the sitemap it is of, in words
	Secret    string // in its address
	Ends      time.Time
	PersonID  string
	At        time.Time
	People    int // who answered
}

// StudyTask is one question, and the pages that answer it.
type StudyTask struct {
	Question string   `json:"question"`
	Right    []string `json:"right"`
	Closed   bool     `json:"-"` // none of the right pages is for everybody any more
}

// Store opens transactions.
type Store interface {
	// Write runs f in a transaction that holds the site's row: structure edits
	// and publishing of one site happen one after another.
	Write(ctx context.Context, f func(Tx, Site) error) error
	// Read runs f in a read-only transaction with one view of the data.
	Read(ctx context.Context, f func(Tx, Site) error) error
	// Note runs f in a short transaction that does not hold the site, for
	// drafts, locks and sign-in.
	Note(ctx context.Context, f func(Tx, Site) error) error
}

// Tx is what use cases do inside a transaction.
type Tx interface {
	// Steady tells whether all that is read is of one moment and committed, so
	// that it may be kept.
	Steady() bool
	PeopleTx
	PlanTx
	PageTx
	EditionTx
	BringInTx
	VisitTx
	StudyTx
}

// StudyTx keeps findability studies.
type StudyTx interface {
	Studies(ctx context.Context) ([]Study, error)
	Study(ctx context.Context, id string) (Study, error)
	StudyBySecret(ctx context.Context, secret string) (Study, error)
	AddStudy(ctx context.Context, s Study) error
	DropStudy(ctx context.Context, id string) error
	CountVisitors(ctx context.Context, study, host string, since time.Time) (all, here int, err error)
	AddVisitor(ctx context.Context, study, visitor, host string, at time.Time) error
	CountTries(ctx context.Context, study, visitor string) (int, error)
	KnowsVisitor(ctx context.Context, study, visitor string) (bool, error)
	AddTry(ctx context.Context, study string, task int, visitor string, try findability.Try, at time.Time) error
	Tries(ctx context.Context, study string) (map[int][]findability.Try, error)
}

// VisitTx keeps how often readers opened pages.
type VisitTx interface {
	AddVisits(ctx context.Context, day time.Time, n map[string]int) error
	Visits(ctx context.Context, from time.Time) (map[string]int, error)
	// NeverVisited gives those of the entries that surely nobody ever opened.
	NeverVisited(ctx context.Context, entries []string) (map[string]bool, error)
}

// PeopleTx keeps people and sign-in.
type PeopleTx interface {
	People(ctx context.Context) ([]Person, error)
	Person(ctx context.Context, id string) (Person, error)
	PersonByLogin(ctx context.Context, login string) (Person, error)
	AddPerson(ctx context.Context, p Person) error
	SetPerson(ctx context.Context, p Person) error
	// TellPeople tells every instance that who is who may have changed.
	TellPeople(ctx context.Context) error

	LockTries(ctx context.Context, login, host string) error
	SignInTries(ctx context.Context, login, host string, browser []byte, since time.Time) (workflow.Tries, error)
	AddSignInTry(ctx context.Context, login, host string, browser []byte, at time.Time) (id int64, err error)
	ForgetTry(ctx context.Context, id int64) error
	ForgetTries(ctx context.Context, login, host string, browser []byte) error
	KnowsBrowser(ctx context.Context, browser []byte, person string) (bool, error)
	KnowBrowser(ctx context.Context, browser []byte, person string, at time.Time) error

	PutPasswordLink(ctx context.Context, token []byte, person string, ends time.Time) error
	PasswordLink(ctx context.Context, token []byte, now time.Time) (Person, error)
	DropPasswordLinks(ctx context.Context, person string) error

	// CleanUp deletes what nobody needs any more.
	CleanUp(ctx context.Context, now time.Time) error
	CreateSite(ctx context.Context, s Site) error
}

// PlanTx keeps the planned sitemap, its acts and the decisions.
type PlanTx interface {
	Trees(ctx context.Context) (Trees, error)
	SaveOverlay(ctx context.Context, o Overlay, by Planned) error
	BumpPlan(ctx context.Context) (int64, error)
	RemovedEntries(ctx context.Context) ([]RemovedEntry, error)
	// LinkedBefore gives the pages that linked to each entry until an edition.
	LinkedBefore(ctx context.Context, until map[string]int) (map[string][]string, error)
	DeleteEntries(ctx context.Context, entries []string, person string, at time.Time) error
	SetLook(ctx context.Context, look Look) error
	SetKeepRemoved(ctx context.Context, days int) error
	SaveWays(ctx context.Context, w Ways) error
	AddAct(ctx context.Context, a Act) error
	ActAlso(ctx context.Context, id int64) (Also, error)
	ActByKey(ctx context.Context, key string) (Act, error)
	NextUndo(ctx context.Context, person string) (Act, error)
	NextRedo(ctx context.Context, person string) (Act, error)
	SetActState(ctx context.Context, id int64, s ActState, version int64) error
	DropUndone(ctx context.Context, person string) error
	// ActsAfter gives up to n acts after a version of the plan, in their order.
	ActsAfter(ctx context.Context, version int64, n int) ([]Act, error)
	// ActOn gives the latest act of others than a person since a version of the
	// plan that changed one of the entries, or took one away.
	ActOn(ctx context.Context, since int64, notBy string, entries []string, gone bool) (Act, error)
	SettleActs(ctx context.Context, stillPlanned func(id string) bool) error
	Decisions(ctx context.Context) (map[string]redirect.Decision, error)
	PutDecision(ctx context.Context, entry string, d redirect.Decision, person string) error
	DropDecision(ctx context.Context, entry string) error
	Views(ctx context.Context, person string) ([]SavedView, error)
	PutView(ctx context.Context, person string, v SavedView) error
	DropView(ctx context.Context, person, name string) error
	Releases(ctx context.Context) ([]ReleasedAddress, error)
	PutRelease(ctx context.Context, r ReleasedAddress) error
	DropRelease(ctx context.Context, address string) error
	// WorkStamp differs whenever something did of what the next edition would hold,
	// beside the plan itself.
	WorkStamp(ctx context.Context) (string, error)
	EverAnswered(ctx context.Context, address string) (bool, error)
	LeftOut(ctx context.Context) ([]change.Key, error)
	SetLeftOut(ctx context.Context, keys []change.Key) error
	Choice(ctx context.Context, person string) (Choice, error)
	PutChoice(ctx context.Context, person string, c Choice) error
	DropChoice(ctx context.Context, person string) error
}

// PageTx keeps pages, locks and templates.
type PageTx interface {
	Templates(ctx context.Context) ([]content.Template, error)
	PutTemplates(ctx context.Context, ts []content.Template) error
	Draft(ctx context.Context, entry string) (PageVersion, error)
	LivePage(ctx context.Context, entry string) (PageVersion, error)
	LiveBody(ctx context.Context, entry string) (LiveBody, error)
	PagesOf(ctx context.Context, entries []string, drafts bool) ([]PageVersion, error)
	SaveDraft(ctx context.Context, v PageVersion, base int) error
	// LockDraft holds the draft of a page until the transaction ends, LockDrafts
	// all of them.
	LockDraft(ctx context.Context, entry string) error
	LockDrafts(ctx context.Context) error
	DropDraft(ctx context.Context, entry string) error
	BringDraftsBack(ctx context.Context, entries []string) error
	// Heads gives every draft and what is live; CheckedHeads with what checks need.
	Heads(ctx context.Context) ([]PageHead, error)
	CheckedHeads(ctx context.Context) ([]PageHead, error)
	LinksTo(ctx context.Context, entries []string) (links, pages int, err error)
	// PagesLinking gives the pages whose draft or live text links to an entry.
	PagesLinking(ctx context.Context, entry string) ([]string, error)
	// Words gives the words of every page, of its draft where there is one.
	Words(ctx context.Context) (map[string]string, error)
	DifferentPages(ctx context.Context) ([][2]string, error)
	PutDifferent(ctx context.Context, a, b, person string, at time.Time) error
	Lock(ctx context.Context, entry string) (workflow.Lock, error)
	PutLock(ctx context.Context, entry string, l workflow.Lock) error
	DropLock(ctx context.Context, entry, window string) error
	Keep(ctx context.Context, k KeptText) error
	Kept(ctx context.Context, entry, person string) ([]KeptText, error)
	DropKept(ctx context.Context, id, person string) error
}

// EditionTx keeps editions and what readers see.
type EditionTx interface {
	Table(ctx context.Context) ([]redirect.Row, error)
	Release(ctx context.Context, r Release) error
	Editions(ctx context.Context) ([]Edition, error)
	LatestEditions(ctx context.Context, n int) ([]Edition, error)
	Edition(ctx context.Context, number int) (Edition, error)
	EditionByKey(ctx context.Context, key string) (Edition, error)
	TreeAt(ctx context.Context, edition int) (*sitemap.Tree, error)
	WaysAt(ctx context.Context, edition int) (ways.Set, error)
	// ContentDiffers gives the entries whose content is another in one edition than
	// in the other; an edition of 0 is what is planned.
	ContentDiffers(ctx context.Context, a, b int) ([]string, error)
	AddressesEver(ctx context.Context) ([]string, error)
	Search(ctx context.Context, q string, limit int) ([]Hit, error)
}

// Hit is one page that a search found.
type Hit struct {
	EntryID string
	Snippet string // matches between the marks \x01 and \x02
	Rank    float64
}

// BringInTx keeps files on their way in.
type BringInTx interface {
	PutBringIn(ctx context.Context, b BringIn) error
	BringIn(ctx context.Context, id string, data bool) (BringIn, error)
	SetBringIn(ctx context.Context, id, state string, done, total int, message string, at time.Time) error
	SetSheet(ctx context.Context, id string, sheet []byte) error
	ChooseWay(ctx context.Context, b BringIn) error
	BroughtIDs(ctx context.Context) (map[string]string, error)
	RememberIDs(ctx context.Context, ids map[string]string) error
	PutSource(ctx context.Context, s PageSource) error
	Source(ctx context.Context, entry string, html bool) (PageSource, error)
	PutPicture(ctx context.Context, p Picture) error
	Picture(ctx context.Context, id string) (Picture, error)
	// PictureShown gives the live pages that show a picture, and whether any
	// edition ever did.
	PictureShown(ctx context.Context, id string) (live []string, ever bool, err error)
}
