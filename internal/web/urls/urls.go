// Package urls builds every link of the studio, so that templates and handlers
// agree on them.
package urls

import (
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
)

// The fixed addresses of the studio.
const (
	Studio           = "/studio"
	SignIn           = "/studio/sign-in"
	SignOut          = "/studio/sign-out"
	Outline          = "/studio/sitemap"
	Rows             = "/studio/sitemap/rows"
	Act              = "/studio/sitemap/act"
	Since            = "/studio/sitemap/since"
	Undo             = "/studio/sitemap/undo"
	Redo             = "/studio/sitemap/redo"
	Similar          = "/studio/sitemap/similar"
	Merge            = "/studio/sitemap/merge"
	Views            = "/studio/sitemap/views"
	BesideOf         = "/studio/sitemap/beside"
	Import           = "/studio/sitemap/import"
	ExportAt         = "/studio/sitemap/export"
	Checks           = "/studio/sitemap/checks"
	Compare          = "/studio/sitemap/compare"
	Map              = "/studio/sitemap/map"
	Drawing          = "/studio/sitemap/map/drawing"
	Picture          = "/studio/sitemap/map/picture"
	Find             = "/studio/find"
	Live             = "/studio/live"
	LiveAt           = "/studio/live/at"
	Reach            = "/studio/menus/reach"
	Findability      = "/studio/menus/findability"
	Where            = "/search/where"
	Tell             = "/search/tell"
	Ahead            = "/search/ahead" // what is planned, by a link with a secret
	Menus            = "/studio/menus"
	Pages            = "/studio/pages"
	NewPage          = "/studio/pages/new"
	Templates        = "/studio/templates"
	Removed          = "/studio/removed"
	Moves            = "/studio/addresses"
	Redirects        = "/studio/addresses/redirects"
	Edition          = "/studio/edition"
	Choice           = "/studio/edition/choice"
	Decide           = "/studio/edition/decide"
	MendLinks        = "/studio/edition/links"
	Publish          = "/studio/edition/publish"
	Past             = "/studio/edition/past"
	History          = "/studio/edition/history"
	Schedule         = "/studio/edition/schedule"
	Retime           = Schedule + "/move"
	WithdrawAt       = Schedule + "/withdraw"
	Freeze           = Schedule + "/freeze"
	EndFreeze        = Schedule + "/thaw"
	See              = "/studio/edition/see" // the whole reader site of a state
	Shown            = "/studio/edition/shown"
	ShareState       = See + "/share"
	EndLink          = See + "/end"
	Review           = "/studio/edition/review"
	Mine             = "/studio/mine"
	PublishOne       = "/studio/edition/now"
	ReviewSend       = Review + "/send"
	ReviewJudge      = Review + "/judge"
	ReviewPass       = Review + "/pass"
	ReviewRemark     = Review + "/remark"
	ReviewSettle     = Review + "/settle"
	ReviewRules      = Review + "/rules"
	ReviewTime       = Review + "/time"
	ReviewLift       = Review + "/lift"
	ProofExport      = "/studio/edition/proof.csv"
	Exports          = "/studio/edition/exports"
	Shelf            = "/studio/shelf"
	Parts            = "/studio/parts"
	Settings         = "/studio/settings"
	People           = "/studio/people"
	Jobs             = "/studio/jobs"
	Inbox            = "/studio/inbox"
	Password         = "/studio/password"
	Begin            = "/studio/begin"
	Releases         = "/studio/addresses/release"
	RedirectAct      = Redirects + "/plan"
	RedirectDrop     = Redirects + "/drop"
	RedirectUndo     = Redirects + "/undo"
	RedirectList     = Redirects + "/list"
	MovesExport      = "/studio/addresses/moves.csv"
	TestAt           = "/studio/addresses/test"
	Unanswered       = "/studio/addresses/unanswered"
	RedirectBulk     = Redirects + "/many"
	Covers           = Redirects + "/covers"
	AddressesOf      = "/studio/addresses/of"
	MovesKeep        = "/studio/addresses/keep"
	MovesUndo        = MovesKeep + "/undo"
	WhereTo          = "/studio/addresses/decide"
	WhereToUndo      = WhereTo + "/undo"
	Rules            = "/studio/addresses/rules"
	RulesFile        = Rules + "/file"
	UnansweredIgnore = Unanswered + "/ignore"
	Flows            = "/studio/addresses/picture"
	FlowsFile        = Flows + ".svg"
	Older            = "/studio/addresses/older"
	OlderImport      = Older + "/import"
	OlderImportAt    = OlderImport + "/:id"
	OlderDecide      = Older + "/decide"
	OlderAccept      = Older + "/accept"
	OlderFolder      = Older + "/folder"
	OlderDrop        = Older + "/drop"
	OlderUndo        = Older + "/undo"
	Style            = "/files/style.css"
	Search           = "/search"
	Index            = "/search/a-z"
	Overview         = "/search/overview"
	New              = "/search/new"
	TrailList        = "/search/trails"
	Trails           = "/studio/menus/trails"
	MenuAct          = "/studio/menus/act"
	MenuFind         = "/studio/menus/find"
	Boards           = "/studio/menus/boards"
	Files            = "/studio/files"
	FileFind         = "/studio/files/find"
	FileRows         = "/studio/files/rows"
	Preview          = "/studio/menus/preview"
	Feed             = "/feed.atom"
)

// Scheme is that of the address to which a request was sent, also where a server
// in front of this one took it.
func Scheme(r *http.Request) string {
	if r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https" {
		return "https"
	}
	return "http"
}

// Base is what links to this site begin with: the host that was asked for where
// it is one of the site's own, or of this machine, else the first of its own.
func Base(r *http.Request, hosts []string) string {
	host := r.Host
	if len(hosts) > 0 && !slices.ContainsFunc(hosts, func(h string) bool { return strings.EqualFold(h, host) }) && !onThisMachine(host) {
		host = hosts[0]
	}
	return Scheme(r) + "://" + host
}

// WithoutTLS tells whether a host is reached by http: one with a port of its own, or on this machine.
func WithoutTLS(host string) bool {
	_, port, err := net.SplitHostPort(host)
	return err == nil && port != "443" || onThisMachine(host)
}

func onThisMachine(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	a, err := netip.ParseAddr(strings.Trim(name, "[]"))
	return err == nil && a.IsLoopback() || name == "localhost"
}

// Local gives a path of this site as it was asked for, if it is one: what a
// browser could take for another site is none.
func Local(to string) (string, bool) {
	bad := func(c rune) bool { return c <= ' ' || c == 0x7f || c == '\\' }
	u, err := url.Parse(to)
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || u.Opaque != "" || strings.ContainsFunc(to, bad) {
		return "", false
	}
	if !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(u.Path, "//") || strings.HasPrefix(to, "//") || strings.ContainsFunc(u.Path, func(c rune) bool { return c < ' ' || c == 0x7f || c == '\\' }) {
		return "", false
	}
	return to, true
}

func with(path string, pairs ...string) string {
	q := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		if pairs[i+1] != "" {
			q.Set(pairs[i], pairs[i+1])
		}
	}
	if len(q) == 0 {
		return path
	}
	return path + "?" + q.Encode()
}

// At is the outline with an entry selected.
func At(id string) string { return with(Outline, "at", id) }

// Comparison is two states of the sitemap compared, with what stays the same,
// or as a file.
func Comparison(from, to string, all bool, as string) string {
	everything := ""
	if all {
		everything = "1"
	}
	return with(Compare, "from", from, "to", to, "all", everything, "as", as)
}

// ChecksOf is the findings of one rule.
func ChecksOf(rule string) string { return with(Checks, "rule", rule) }

// ChecksPage is a page of the findings of one rule, or of all.
func ChecksPage(rule string, page int) string {
	return with(Checks, "rule", rule, "page", pageNumber(page))
}

// pageNumber is a page of a list as an address tells it: nothing for the first.
func pageNumber(page int) string {
	if page <= 1 {
		return ""
	}
	return strconv.Itoa(page)
}

// Merging is where two pages are merged.
func Merging(kept, gone string) string { return with(Merge, "keep", kept, "gone", gone) }

// Menu is one menu, and an item of it if key names one.
func Menu(id, key string) string {
	if id == "top" && key == "" {
		return Menus
	}
	return with(Menus, "menu", id, "item", key)
}

// Trail is one trail.
func Trail(id string) string { return Trails + "/" + url.PathEscape(id) }

// Study is one study of findability, beside another if with names it.
func Study(id, other string) string {
	return with(Findability+"/"+url.PathEscape(id), "with", other)
}

// Beside is the facts of an entry.
func Beside(id string) string { return with(BesideOf, "id", id) }

// Page is the page editor of an entry.
func Page(id string) string { return Pages + "/" + url.PathEscape(id) }

// OfPage is one of the page editor's acts.
func OfPage(id, act string) string { return Page(id) + "/" + act }

// NewPageAt is the form of a new page below an entry, with a title.
func NewPageAt(parent, title string) string { return with(NewPage, "parent", parent, "title", title) }

// NewPageBelow is the form of a new page below an entry.
func NewPageBelow(id string) string { return with(NewPage, "parent", id) }

// Template is the editor of a template.
func Template(key string) string { return Templates + "/" + url.PathEscape(key) }

// TemplateOf is the draft that somebody makes of a template; of nobody in particular: of who
// looks.
func TemplateOf(key, person string) string { return with(Template(key), "of", person) }

// OfTemplate is one of the acts on a template.
func OfTemplate(key, act string) string { return Template(key) + "/" + act }

// TemplateCheck is what a draft of a template does, looked at on a page.
func TemplateCheck(key, person, page string) string {
	return with(OfTemplate(key, "check"), "of", person, "page", page)
}

// TemplateCompare compares a version of a template with the one before.
func TemplateCompare(key string, at int) string {
	return with(OfTemplate(key, "versions"), "compare", strconv.Itoa(at))
}

// RedirectsPage is a page of the list of redirects, filtered.
func RedirectsPage(show, q, before string, page int) string {
	return with(Redirects, "show", show, "q", q, "before", before, "page", pageNumber(page))
}

// RedirectsSaid is the list of redirects, with what was done.
func RedirectsSaid(words string) string { return with(Redirects, "said", words) }

// RedirectEdit is the list with the redirect of a key in the form.
func RedirectEdit(id string) string { return with(Redirects, "edit", id) + "#one" }

// RedirectEditAt is a page of the list with the redirect of a key in the form, in its row.
func RedirectEditAt(show, q, before string, page int, id string) string {
	return with(Redirects, "show", show, "q", q, "before", before, "page", pageNumber(page), "edit", id) + "#one"
}

// RedirectFrom is the list with an address in the form.
func RedirectFrom(from string) string { return with(Redirects, "from", from) + "#one" }

// OlderImportOf tells how far the list of an older site is.
func OlderImportOf(id string) string { return OlderImport + "/" + id }

// PublishNow publishes what is planned of one thing, and nothing else.
func PublishNow(id string) string { return with(PublishOne, "id", id) }

// ReviewBelow is what is not sent, with what is planned at and below an entry ticked.
func ReviewBelow(id string) string { return with(Review, "show", "drafts", "below", id) }

// ReviewAt is what is for review, filtered, with a thing open in a view of its text.
func ReviewAt(show, id, state, as, said string) string {
	return with(Review, "show", show, "id", id, "state", state, "as", as, "said", said)
}

// OlderAt is the list of an older site, filtered, with an address selected.
func OlderAt(host, show, q, at string, page int) string {
	return with(Older, "host", host, "show", show, "q", q, "at", at, "page", pageNumber(page))
}

// CoveredBy lists the addresses that a redirect covers.
func CoveredBy(id string) string { return with(Covers, "id", id) }

// AddressesOfPage lists the addresses that a page ever had.
func AddressesOfPage(id string) string { return AddressesOf + "/" + url.PathEscape(id) }

// ProofOf is the proof of a past edition, as .csv.
func ProofOf(edition int) string { return with(ProofExport, "edition", strconv.Itoa(edition)) }

// FlowsOf draws where addresses at and below one lead.
func FlowsOf(host, below string) string { return with(Flows, "host", host, "below", below) }

// FlowsSVG is the same as a file.
func FlowsSVG(host, below string) string {
	return with(FlowsFile, "host", host, "below", below)
}

// MovesSaid is the list of moves, with what was done.
func MovesSaid(said string) string { return with(Moves, "said", said) }

// WhereToPage is a page of the pages that go, filtered.
func WhereToPage(show string, page int) string {
	return with(WhereTo, "show", show, "page", pageNumber(page))
}

// WhereToSaid is the list of them, with what was done.
func WhereToSaid(said string) string { return with(WhereTo, "said", said) }

// RulesOf is the form for the rules of an old host.
func RulesOf(host string) string { return with(Rules, "host", host) }

// OlderSaid is the same, with what was done, and to which address.
func OlderSaid(host, show, q, at, was, said string) string {
	return with(Older, "host", host, "show", show, "q", q, "at", at, "was", was, "said", said)
}

// TestOf is the test of an address.
func TestOf(address string) string { return with(TestAt, "asked", address) }

// BoardsPage is a page of the list of tile boards: of all, or of those with something wrong.
func BoardsPage(onlyWrong bool, page int) string {
	only := ""
	if onlyWrong {
		only = "wrong"
	}
	return with(Boards, "only", only, "page", pageNumber(page))
}

// Facts is a page of the table of facts of a template's pages.
func Facts(key, q string, page int) string {
	return with(OfTemplate(key, "facts"), "q", q, "page", pageNumber(page))
}

// FactsExport is that table as a file.
func FactsExport(key, q string) string { return with(OfTemplate(key, "facts.csv"), "q", q) }

// TemplatesSaid is the list of templates, with what was done.
func TemplatesSaid(words string) string { return with(Templates, "said", words) }

// File is a file on its way in.
func File(id string) string { return Import + "/" + url.PathEscape(id) }

// FileIn is a file previewed in a way and at a place.
func FileIn(id, way, place string) string { return with(File(id), "way", way, "place", place) }

// AcceptFile imports a file.
func AcceptFile(id string) string { return File(id) + "/accept" }

// ShelfOf is the shelf, and what waits at the stops, beside a screen of a stop.
func ShelfOf(stop string) string { return with(Shelf, "stop", stop) }

// Export is the sitemap as a file; of is "live" or "next".
func Export(format, of string) string { return with(ExportAt, "format", format, "of", of) }

// RemovedLike is the list of removed pages, searched.
func RemovedLike(q string) string { return with(Removed, "q", q) }

// BringBack is the act of planning a removed page again.
func BringBack(id string) string { return Removed + "/" + url.PathEscape(id) + "/back" }

// Inventory is the list of pages, filtered, searched and paged.
func Inventory(filter, q string, page int) string {
	return with(Pages, "show", filter, "q", q, "page", pageNumber(page))
}

// PastEdition is one past edition, opened.
func PastEdition(n int) string { return with(Past, "edition", strconv.Itoa(n)) }

// EditionWaiting is the next edition, however long it takes to work out.
const EditionWaiting = Edition + "?wait=1"

// Rollback is the act of going back to an edition.
func Rollback(n int) string { return Past + "/" + strconv.Itoa(n) + "/rollback" }

// TakeBack plans changes of an edition back.
func TakeBack(n int) string { return Past + "/" + strconv.Itoa(n) + "/take-back" }

// ExportEdition is the act of writing an edition out as files.
func ExportEdition(n int) string { return Past + "/" + strconv.Itoa(n) + "/export" }

// EditionExport tells how far an export is, ExportedFile is what it gave.
func EditionExport(id string) string { return Exports + "/" + id }

// ExportedFile is the file that an export gave.
func ExportedFile(id string) string { return EditionExport(id) + "/file" }

// Stop stops what is done behind a screen.
func Stop(screen string) string { return screen + "/stop" }

// HistoryOf tells what became of a page or of whatever else is planned.
func HistoryOf(id string) string { return with(History, "id", id) }

// LargeEdition tells how far an edition is that is published behind the screen.
func LargeEdition(id string) string { return Publish + "/" + id }

// EditionAt is the next edition with its changes filtered and grouped.
func EditionAt(show, by string) string { return with(Edition, "show", show, "by", by) }

// SeeAt is a state of the site at one of its addresses, as a login or a role gets it, at a width.
func SeeAt(of, as, at, width string) string {
	return with(See, "of", of, "as", as, "at", at, "width", width)
}

// ShownBelow is where the home page of a state of the site stands, without a slash at the end.
func ShownBelow(of, as string) string {
	if as == "" {
		as = Nobody
	}
	return Shown + "/" + of + "/" + url.PathEscape(as)
}

// Nobody stands in an address for somebody who did not sign in.
const Nobody = "-"

// AheadAt is the address of a link with a secret.
func AheadAt(secret string) string { return Ahead + "/" + secret }

// ScheduleAt is the calendar of the week or the month of a day, in a zone; withdraw is a page
// that somebody wants to time.
func ScheduleAt(by, day, zone, withdraw, said string) string {
	return with(Schedule, "by", by, "day", day, "zone", zone, "withdraw", withdraw, "said", said)
}
