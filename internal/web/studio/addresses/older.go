package addresses

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// olderView is an older site: its addresses, and what is selected of them.
type olderView struct {
	shell.Frame
	Self, Import, Decide, Accept, Folder, Drop, Undo string
	Said, Problem                                    string
	Sites                                            []part.Option
	Host, Show, Q, Was                               string
	Key                                              string
	Filters                                          []part.CountView
	Rows                                             []olderRow
	part.Pager
	RulesURL, PictureURL string
	Clear                string // how many have a clear winner, in words
	Any                  bool
	Cover                []coverView
	Selected             *olderDetail
}

// olderRow is one address of the list.
type olderRow struct {
	Address, Title, Visits, URL string
	Guesses                     []olderGuess
	State, Class, Leads         string
	Here                        bool
}

// olderGuess is a page that was found for an address.
type olderGuess struct {
	N                     int
	Title, Score, Why, To string
	Percent               int
	At                    string
}

// olderDetail is what is selected, with what can be done about it.
type olderDetail struct {
	olderRow
	From, Then, ID string // its address as it is kept, the one after it
	Prev, Next     string // where those before and after are
	Decided        bool
	Words          string // what it answers with the next edition
	TestURL        string
	Rules          []olderRule
	Below          string
}

// olderRule is one redirect that answers for a folder.
type olderRule struct {
	Folder, Entry, Title, Words string
	Prefix                      bool
	Key                         string
	Differs                     []string
}

// coverView is a bar of how much answers: of addresses, or of visits.
type coverView struct {
	Words string
	Parts []coverPart
}

type coverPart struct {
	X, Width int // of 1000
	Class    string
}

// olderStates is how people call the states, and how they are drawn.
var olderStates = map[match.State]struct{ words, class string }{
	match.Led: {"answers", "led"}, match.OnPurpose: {"gone", "gone"}, match.Clear: {"clear", "clear"}, match.Open: {"to choose", "look"},
	match.Far: {"nowhere yet", "far"}, match.Later: {"later", "far"},
}

// olderFilters is the table of filters.
var olderFilters = []struct {
	key, words string
	states     []match.State
}{
	{"", "All", match.States()},
	{"open", "Not decided", []match.State{match.Clear, match.Open, match.Far, match.Later}},
	{"clear", "Clear", []match.State{match.Clear}},
	{"look", "To choose", []match.State{match.Open}},
	{"none", "Nowhere yet", []match.State{match.Far, match.Later}},
	{"led", "Answers", []match.State{match.Led}},
	{"gone", "Gone", []match.State{match.OnPurpose}},
}

// older shows the addresses of an older site.
func (s *Screens) older(r *shell.Request) error {
	return s.olderPage(r, http.StatusOK, olderView{Said: r.Query("said"), Was: r.Query("was"), Host: r.Query("host"), Show: r.Query("show"), Q: strings.TrimSpace(r.Query("q"))}, r.Query("at"))
}

func (s *Screens) olderPage(r *shell.Request, status int, v olderView, at string) error {
	f, _, err := s.FrameFor(r, "Older site")
	if err != nil {
		return err
	}
	w, err := s.App.Older(r.Ctx(), r.Who, v.Host)
	if err != nil {
		return err
	}
	v.Frame, v.Key, v.RulesURL = f, part.NewKey(), urls.RulesOf(v.Host)
	v.PictureURL = urls.FlowsOf(w.Host, "")
	v.Self, v.Import, v.Decide, v.Accept, v.Folder, v.Drop, v.Undo = urls.Older, urls.OlderImport, urls.OlderDecide, urls.OlderAccept, urls.OlderFolder, urls.OlderDrop, urls.OlderUndo
	v.fill(w, at, r.Page())
	return s.Show(r, status, "older", v)
}

// fill shows a page of the addresses that a filter and words leave, and the one selected.
func (v *olderView) fill(w addresses.OlderWork, at string, page int) {
	v.Host, v.Any = w.Host, len(w.Lines) > 0
	for _, h := range w.Hosts {
		v.Sites = append(v.Sites, part.Option{Value: h.Host, Label: h.Host + ", " + part.Count(h.N, "address", "addresses"), Chosen: h.Host == w.Host})
	}
	if !v.Any {
		return
	}
	cover := match.Cover(w.Lines, w.States)
	if n := cover.Addresses[match.Clear]; n > 0 {
		v.Clear = part.Count(n, "clear one", "clear ones")
	}
	v.Cover = []coverView{newCover("addresses", cover.Addresses), newCover("visits", cover.Visits)}
	shown := v.filtered(w)
	sel := selected(w, shown, at)
	if page == 0 {
		page = max(sel, 0)/pageRows + 1
	}
	v.Pager = part.NewPager(page, len(shown), func(n int) string { return urls.OlderAt(v.Host, v.Show, v.Q, "", n) })
	for k := max(v.First-1, 0); k < max(v.Last, 0); k++ {
		row := v.row(w, shown[k])
		row.Here = k == sel
		v.Rows = append(v.Rows, row)
	}
	if sel >= 0 {
		v.Selected = v.detail(w, shown, sel)
	}
}

const pageRows = 100

// filtered gives the lines that the filter and the words leave, and counts what each filter would.
func (v *olderView) filtered(w addresses.OlderWork) (shown []int) {
	counts := map[match.State]int{}
	q := strings.ToLower(v.Q)
	var fits []match.State
	for _, f := range olderFilters {
		if f.key == v.Show {
			fits = f.states
		}
	}
	for i := range w.Lines {
		if q != "" && !strings.Contains(strings.ToLower(redirect.WrittenFrom(w.Lines[i].Address)), q) && !strings.Contains(strings.ToLower(w.Lines[i].Title), q) {
			continue
		}
		counts[w.States[i]]++
		for _, s := range fits {
			if s == w.States[i] {
				shown = append(shown, i)
			}
		}
	}
	for _, f := range olderFilters {
		v.Filters = append(v.Filters, part.CountView{Words: f.words, N: part.Thousands(match.Sum(counts, f.states...)), Here: f.key == v.Show, URL: urls.OlderAt(v.Host, f.key, v.Q, "", 0)})
	}
	return shown
}

// selected gives which of the shown lines is selected: that of an address, else the first that
// is not decided.
func selected(w addresses.OlderWork, shown []int, at string) int {
	first := -1
	for k, i := range shown {
		if at != "" && w.Lines[i].Address == at {
			return k
		}
		if first < 0 && !w.States[i].Answers() {
			first = k
		}
	}
	if first < 0 && len(shown) > 0 {
		return 0
	}
	return first
}

func (v *olderView) row(w addresses.OlderWork, i int) olderRow {
	l, s := w.Lines[i], olderStates[w.States[i]]
	row := olderRow{
		Address: redirect.WrittenFrom(l.Address), Title: l.Title, Visits: part.Thousands(l.Visits), State: s.words, Class: s.class,
		URL: urls.OlderAt(v.Host, v.Show, v.Q, l.Address, 0),
	}
	if w.States[i].Answers() {
		row.Leads = leadsTo(w, i)
		return row
	}
	for n, c := range w.Found[i].Best {
		e := w.Trees.Next.Ref(c.Page)
		row.Guesses = append(row.Guesses, olderGuess{
			N: n + 1, Title: e.Title, Score: scoreWords(c.Score), Percent: int(c.Score * 100), Why: c.Why, To: "page:" + e.ID, At: address.Written(w.Trees.Next.Served(c.Page)),
		})
	}
	return row
}

// scoreWords writes a score as people read it: ".93".
func scoreWords(score float64) string {
	if score >= 0.995 {
		return "1"
	}
	return strings.TrimPrefix(strconv.FormatFloat(score, 'f', 2, 64), "0")
}

// leadsTo says where a decided address leads.
func leadsTo(w addresses.OlderWork, i int) string {
	switch a := w.Next[i]; {
	case a.Code == redirect.Gone:
		return "gone on purpose"
	case w.To[i] != sitemap.None:
		return w.Trees.Next.Ref(w.To[i]).Title
	default:
		return a.Location
	}
}

func (v *olderView) detail(w addresses.OlderWork, shown []int, k int) *olderDetail {
	i := shown[k]
	d := &olderDetail{olderRow: v.row(w, i), From: w.Lines[i].Address, ID: "o" + strconv.Itoa(i), Decided: w.States[i].Answers(), TestURL: urls.TestOf(redirect.WrittenFrom(w.Lines[i].Address))}
	if k > 0 {
		d.Prev = urls.OlderAt(v.Host, v.Show, v.Q, w.Lines[shown[k-1]].Address, 0)
	}
	if k+1 < len(shown) {
		d.Then = w.Lines[shown[k+1]].Address
		d.Next = urls.OlderAt(v.Host, v.Show, v.Q, d.Then, 0)
	}
	for _, j := range shown[k+1:] { // go on with what is not decided
		if !w.States[j].Answers() {
			d.Then = w.Lines[j].Address
			break
		}
	}
	if d.Decided {
		a := w.Next[i]
		d.Words = "Its visitors get “" + d.Leads + "”."
		if a.By == redirect.ByPage {
			d.Words = "A page has this address: “" + d.Leads + "”."
		} else if a.Rule != "" && a.Rule != w.Lines[i].Address {
			d.Words += " The rule for " + redirect.WrittenFrom(a.Rule) + " says so."
		}
		return d
	}
	v.rules(w, i, d)
	return d
}

// rules offers one redirect for all of the folder, to each page found.
func (v *olderView) rules(w addresses.OlderWork, i int, d *olderDetail) {
	for _, c := range w.Found[i].Best[:min(1, len(w.Found[i].Best))] {
		for _, prefix := range []bool{false, true} {
			r := w.Rule(i, c.Page, prefix)
			if r.Folder == "" || r.Answers < 2 {
				continue
			}
			if d.Below == "" {
				d.Below = fmt.Sprintf("%s in %s. %s, %d of these lead to “%s” or below.", part.Count(r.Below, "address", "addresses"), redirect.WrittenFrom(r.Folder),
					part.Count(r.Decided, "is decided", "are decided"), r.Agree, w.Trees.Next.Ref(c.Page).Title)
			}
			e := w.Trees.Next.Ref(c.Page)
			rv := olderRule{Folder: r.Folder, Entry: e.ID, Title: e.Title, Prefix: prefix, Key: part.NewKey()}
			rv.Words = fmt.Sprintf("answers %d of %d that are not decided", r.Answers, r.Below-r.Decided)
			if prefix {
				rv.Words += ", each at the same place below"
			}
			for _, j := range r.Differs[:min(len(r.Differs), 5)] {
				rv.Differs = append(rv.Differs, redirect.WrittenFrom(w.Lines[j].Address)+" is rather “"+w.Trees.Next.Ref(w.Found[j].Best[0].Page).Title+"”")
			}
			if more := len(r.Differs) - 5; more > 0 {
				rv.Differs = append(rv.Differs, part.Count(more, "more", "more")+" clear ones would lead there instead")
			}
			d.Rules = append(d.Rules, rv)
		}
	}
}

func newCover(what string, of map[match.State]int) coverView {
	total := match.Sum(of, match.States()...)
	v := coverView{Words: fmt.Sprintf("%s: %s of %s", what, part.Thousands(match.Sum(of, match.Led, match.OnPurpose)), part.Thousands(total))}
	at := 0
	for _, s := range match.States() {
		if n := of[s]; n > 0 && total > 0 {
			width := int(int64(n) * 1000 / int64(total))
			v.Parts = append(v.Parts, coverPart{at, width, olderStates[s].class})
			at += width
		}
	}
	return v
}

// importOlder takes up the list of an older site. A long one goes on behind the request.
func (s *Screens) importOlder(r *shell.Request) error {
	in, head, err := r.Request.FormFile("file")
	if errors.As(err, new(*http.MaxBytesError)) {
		return err
	}
	if err != nil {
		return s.olderPage(r, http.StatusUnprocessableEntity, olderView{Problem: "Choose a file."}, "")
	}
	defer in.Close()
	id, err := s.App.PutOlder(r.Ctx(), r.Who, head.Filename, r.PostForm("host"), in)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.olderPage(r, http.StatusUnprocessableEntity, olderView{Problem: invalid.Message}, "")
	}
	if err != nil {
		return err
	}
	i, err := s.App.AwaitOlder(r.Ctx(), r.Who, id)
	switch {
	case err != nil:
		return err
	case i.State == addresses.OlderRefused:
		return s.olderPage(r, http.StatusUnprocessableEntity, olderView{Problem: i.Said}, "")
	case i.State == addresses.OlderDone:
		r.Redirect(http.StatusSeeOther, urls.OlderSaid(i.Host, "", "", "", "", i.Said))
	default:
		r.Redirect(http.StatusSeeOther, urls.OlderImportOf(id))
	}
	return nil
}

// olderImportView is the list of an older site on its way in.
type olderImportView struct {
	shell.Frame
	Self, File, Words, Problem string
	Working                    bool
	Percent                    int
	Older                      string
}

// olderImport tells how far the list of an older site is.
func (s *Screens) olderImport(r *shell.Request) error {
	i, err := s.App.OlderImport(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	v := newOlderImport(i)
	if v.Frame, _, err = s.FrameFor(r, "Older site"); err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "older-import", v)
}

func newOlderImport(i addresses.OlderImport) olderImportView {
	v := olderImportView{Self: urls.OlderImportOf(i.ID), File: i.FileName, Percent: i.Percent, Working: !i.Ended(), Older: urls.OlderAt(i.Host, "", "", "", 1)}
	switch i.State {
	case addresses.OlderReading:
		v.Words = fmt.Sprintf("Reading: %d %%", i.Percent)
	case addresses.OlderWriting:
		v.Words = "Read. Its addresses are being compared and kept."
	case addresses.OlderRefused:
		v.Problem = i.Said
	case addresses.OlderDone:
		v.Words = i.Said
	}
	return v
}

// decideOlder plans where one address leads.
func (s *Screens) decideOlder(r *shell.Request) error {
	to := r.PostForm("to")
	switch {
	case r.PostForm("to-id") != "" && to == "":
		to = "page:" + r.PostForm("to-id")
	case to == "":
		to = strings.TrimSpace(r.PostForm("elsewhere"))
	}
	from := r.PostForm("from")
	res, err := s.App.DecideOlder(r.Ctx(), r.Who, r.PostForm("key"), r.PostForm("host"), map[string]string{from: to})
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.olderPage(r, http.StatusUnprocessableEntity, s.asked(r, invalid.Message), from)
	}
	return s.olderDid(r, res, err, r.PostForm("then"))
}

func (s *Screens) asked(r *shell.Request, problem string) olderView {
	return olderView{Problem: problem, Host: r.PostForm("host"), Show: r.PostForm("show"), Q: r.PostForm("q")}
}

// acceptOlder plans the redirects of all that have a clear winner.
func (s *Screens) acceptOlder(r *shell.Request) error {
	res, err := s.App.AcceptOlder(r.Ctx(), r.Who, r.PostForm("key"), r.PostForm("host"))
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.olderPage(r, http.StatusUnprocessableEntity, s.asked(r, invalid.Message), "")
	}
	return s.olderDid(r, res, err, "")
}

// decideFolder plans one redirect for a folder.
func (s *Screens) decideFolder(r *shell.Request) error {
	res, err := s.App.DecideFolder(r.Ctx(), r.Who, r.PostForm("key"), r.PostForm("host"), r.PostForm("folder"), r.PostForm("entry"), r.PostForm("prefix") != "")
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.olderPage(r, http.StatusUnprocessableEntity, s.asked(r, invalid.Message), r.PostForm("from"))
	}
	return s.olderDid(r, res, err, r.PostForm("then"))
}

// undoOlder takes the last act back.
func (s *Screens) undoOlder(r *shell.Request) error {
	res, err := s.App.Undo(r.Ctx(), r.Who)
	return s.olderDid(r, res, err, r.PostForm("from"))
}

// dropOlder forgets the list of an older site.
func (s *Screens) dropOlder(r *shell.Request) error {
	if err := s.App.DropOlder(r.Ctx(), r.Who, r.PostForm("host")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.OlderSaid("", "", "", "", "", "The list of "+r.PostForm("host")+" is removed. What was decided stays."))
	return nil
}

func (s *Screens) olderDid(r *shell.Request, res plan.PlanResult, err error, at string) error {
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.OlderSaid(r.PostForm("host"), r.PostForm("show"), r.PostForm("q"), at, r.PostForm("from"), part.UpperFirst(res.Label)+"."))
	return nil
}
