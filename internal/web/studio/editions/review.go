package editions

import (
	"cmp"
	"net/http"
	"slices"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/textdiff"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// reviewView is what waits for somebody's review, and what exactly changes of one thing of it.
type reviewView struct {
	shell.Frame
	Filters              []part.CountView
	Show                 string
	Rows                 []reviewRow
	Said, Problem        string
	Word                 string // what was written when it was refused
	Open                 *thingView
	Sending, Judging     bool // the list can be sent; it can be approved or sent back
	TakingBack           bool
	Timing, Lifting      bool
	MayTime              bool // the one that is open can be scheduled as it is: no review is asked
	Time, Lift           string
	TimeForm             editions.TimeAsk
	Zones                []string
	Send, Judge, Pass    string
	Remark, Settle       string
	Reviewers, Everybody []part.Option
	SendForm             sendForm
	Empty                string
	More                 string // what is not listed
	All, AllN            string // all that match, where not all are listed
	Rules                *rulesPart
	AsksURL, EditionURL  string
}

// sendForm is what was asked for when sending was refused.
type sendForm struct{ To, Message, Due string }

type reviewRow struct {
	ID, Stamp, Title, Mark, Words, From, Message, URL, State string
	Due                                                      string
	Late, Here, Ticked                                       bool
}

// thingView is one thing with what changes of it.
type thingView struct {
	reviewRow
	Views                  []part.CountView
	Words                  []string
	Fields                 []fieldView
	Shape                  []runView
	Blocks                 []blockView
	Before, After          []runView // side by side
	Sides                  bool
	New                    bool
	OpenURL, Opens         string // where it is made, and what that is
	ReadersURL, HistoryURL string
	By, Request            string
	StateWords             string // where it stands; in review: who has it, and until when
	Comes                  []comesView
	Remarks                []remarkView
	MayApprove             bool
	WhyNot                 string
	MayPass                bool
}

type fieldView struct {
	Label string
	Runs  []runView
}

type blockView struct {
	ID, What, Class string
	Runs            []runView
	Before, After   []string // pictures, where these differ
	Remarks         []remarkView
}

// runView is a run of text as it is marked.
type runView struct {
	Text       string
	Gone, Come bool
}

type comesView struct {
	Fine  bool
	Words string
	Rows  []string // one by one
	More  int      // that are not told
}

type remarkView struct {
	ID      int64
	place   string
	By      string
	When    part.Moment
	Words   string
	Quote   string
	Settled bool
	Answers []remarkView

	Show, Of, Remark, Settle string // of the forms
}

// rulesPart says where approval is asked.
type rulesPart struct {
	Site, Settings, URL string
	May                 bool
	Branches            []branchAsk
	Choices             []part.Option
}

type branchAsk struct{ ID, Title, Words string }

// review shows what waits for review.
func (s *Screens) review(r *shell.Request) error {
	return s.reviewPage(r, http.StatusOK, reviewView{Said: r.Query("said")}, nil)
}

func (s *Screens) reviewPage(r *shell.Request, status int, v reviewView, ticked []string) error {
	f, o, err := s.FrameFor(r, "For review")
	if err != nil {
		return err
	}
	q, err := s.App.Queue(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v.Frame, v.Show = f, part.OrElse(r.Query("show"), r.PostForm("show"))
	v.Send, v.Judge, v.Pass, v.Remark, v.Settle, v.EditionURL = urls.ReviewSend, urls.ReviewJudge, urls.ReviewPass, urls.ReviewRemark, urls.ReviewSettle, urls.Edition
	if id := r.Query("id"); id != "" && ticked == nil { // somebody came from there to send it
		ticked = []string{id}
	}
	if several := r.QueryArray("ids"); len(several) > 0 && ticked == nil {
		ticked = border.Texts(several)
	}
	if below := r.Query("below"); below != "" {
		for _, i := range q.Items {
			if q.AtOrBelow(i, below) {
				ticked = append(ticked, i.ID)
			}
		}
	}
	open, found := v.fill(q, r.Who, people, part.OrElse(r.Query("id"), r.PostForm("open")), r.Query("state"), ticked)
	if found {
		t, err := s.App.Thing(r.Ctx(), r.Who, q, open)
		if err != nil {
			return err
		}
		v.Open = newThing(q, t, r.Who, people, o, r.Query("as"), v.Show)
	}
	suggested := ""
	if v.Sending && found {
		suggested = q.Suggested(open, people)
	}
	v.MayTime = v.Sending && found && q.May(r.Who, open, workflow.ScheduleDraft) == ""
	v.Reviewers = reviewersOf(q, people, part.OrElse(v.SendForm.To, suggested), suggested)
	v.Zones, v.Everybody = zones, informable(people, r.Who, r.PostFormArray("informed"))
	v.Rules = newRules(q, r.Site, r.Who)
	return s.Show(r, status, "review", v)
}

// fill lists the things that a filter leaves, and gives the one that is open.
func (v *reviewView) fill(q editions.Queue, who plan.Person, people []plan.Person, id, state string, ticked []string) (open review.Item, found bool) {
	var shown []review.Item
	for _, f := range editions.QueueFilters() {
		n := 0
		for _, i := range q.Items {
			if f.Fits(q, who, i) {
				if n++; f.Key == v.Show {
					shown = append(shown, i)
				}
			}
		}
		v.Filters = append(v.Filters, part.CountView{Words: f.Words, N: part.Thousands(n), Here: f.Key == v.Show, URL: urls.ReviewAt(f.Key, "", "", "", "")})
	}
	v.Sending, v.TakingBack = v.Show == "drafts" || v.Show == "mine", v.Show == "from"
	v.Timing, v.Lifting, v.Time, v.Lift = v.Show == "ready", v.Show == "scheduled", urls.ReviewTime, urls.ReviewLift
	v.Judging = !v.Sending && !v.TakingBack && !v.Timing && !v.Lifting
	v.Empty = emptyQueues[v.Show]
	slices.SortStableFunc(shown, func(a, b review.Item) int { return compareDue(q.Request(a).Due, q.Request(b).Due) })
	if more := len(shown) - mostThings; more > 0 {
		v.More = part.Thousands(more) + " more appear as you work through these."
		v.AllN, v.All = part.Thousands(len(shown)), editions.AllOf(q.Matching(v.Show, who))
	}
	for _, i := range shown[:min(len(shown), mostThings)] {
		row := newReviewRow(q, i, people, v.Show)
		row.Ticked = slices.Contains(ticked, i.ID) && (v.Sending || v.Problem != "")
		if !found && (id == "" || i.ID == id) && (state == "" || string(i.State) == state) {
			row.Here, open, found = true, i, true
		}
		v.Rows = append(v.Rows, row)
	}
	return open, found
}

// mostThings is how many things are listed.
const mostThings = 500

// emptyQueues say what belongs into a list that is empty.
var emptyQueues = map[string]string{
	"": "Nothing is waiting for your review.", "from": "None of your changes are in review. Choose “My drafts” to send some.", "all": "Nothing is in review.",
	"overdue": "Nothing is overdue.", "ready": "No approved changes are waiting to be published.", "scheduled": "Nothing is scheduled. Choose “Approved” to schedule changes.",
	"mine": "You have no unsent changes.", "drafts": "There are no unsent changes.",
}

// compareDue puts what is due first first, and what has no day last.
func compareDue(a, b string) int {
	switch {
	case a == b:
		return 0
	case a == "" || b != "" && a > b:
		return 1
	}
	return -1
}

func newReviewRow(q editions.Queue, i review.Item, people []plan.Person, show string) reviewRow {
	r := q.Request(i)
	row := reviewRow{
		ID: i.ID, Stamp: i.Stamp, Title: q.Trees.Title(i.ID), Message: r.Message, State: string(i.State), Late: r.Overdue(q.Today),
		URL: urls.ReviewAt(show, i.ID, string(i.State), "", ""),
	}
	for k, c := range i.Changes {
		if k > 0 {
			row.Mark += ", "
		}
		row.Mark += c.Mark()
	}
	switch i.State {
	case workflow.InReview:
		row.From = "from " + part.PersonName(people, r.From) + ", to " + askedName(cmp.Or(r.To, editions.Anybody), people)
	case workflow.Draft:
		row.From = "by " + part.PersonName(people, q.Work.Makers[i.Changes[0].Key].PersonID)
		if s := q.ApprovalStates[i.Changes[0].Key]; s.State == workflow.Draft && s.Word != "" {
			row.From, row.Message = "sent back by "+part.PersonName(people, s.Person), s.Word
		}
	default:
		row.From = "approved by " + part.PersonName(people, q.ApprovalStates[i.Changes[0].Key].Person)
	}
	if i.State == workflow.Scheduled {
		at := q.GoAt(i)
		row.Due = "publishes " + part.At(at.GoAt).Words
		if at.Zone != "UTC" {
			row.Message = "scheduled for " + clockIn(at.GoAt, at.Zone)
		}
	}
	if r.Due != "" && i.State == workflow.InReview {
		row.Due = "due " + part.Day(r.Due)
	}
	return row
}

// stateWords say on screens where a change stands.
var stateWords = map[workflow.State]string{
	workflow.Draft: "draft", workflow.InReview: "in review", workflow.Ready: "approved", workflow.Scheduled: "scheduled", workflow.Live: "live",
}

func newThing(q editions.Queue, t editions.Thing, who plan.Person, people []plan.Person, o editions.Overview, as, show string) *thingView {
	v := &thingView{reviewRow: newReviewRow(q, t.Item, people, show), Words: t.Words, New: t.New && t.Written, Request: t.Item.Review, Sides: as == "sides"}
	for _, by := range q.Makers(t.Item) {
		if v.By != "" {
			v.By += ", "
		}
		v.By += part.PersonName(people, by)
	}
	if len(t.Whole) > 0 {
		for _, view := range [][2]string{{"", "Changes marked"}, {"sides", "Side by side"}} {
			v.Views = append(v.Views, part.CountView{Words: view[1], Here: view[0] == as, URL: urls.ReviewAt(show, t.Item.ID, string(t.Item.State), view[0], "")})
		}
	}
	v.StateWords = stateWords[t.Item.State]
	if r := q.Request(t.Item); t.Item.State == workflow.InReview {
		v.StateWords += ", sent by " + part.PersonName(people, r.From) + " to " + askedName(cmp.Or(r.To, editions.Anybody), people)
		if r.Due != "" {
			v.StateWords += ", due " + part.Day(r.Due)
		}
	}
	v.HistoryURL = urls.HistoryOf(t.Item.ID)
	page := q.Trees.Next.Find(t.Item.ID) != sitemap.None
	v.OpenURL, v.Opens = madeAt(t.Item.ID, page)
	if page && t.Written {
		v.ReadersURL = urls.OfPage(t.Item.ID, "look")
	}
	v.remarks(t.Remarks, people, show)
	for _, f := range t.Fields {
		v.Fields = append(v.Fields, fieldView{f.Label, runs(f.Runs)})
	}
	if v.Sides {
		before, after := textdiff.Sides(t.Whole)
		v.Before, v.After = runs(before), runs(after)
	}
	v.Shape = runs(t.Shape)
	for _, b := range t.Blocks {
		v.Blocks = append(v.Blocks, blockView{ID: b.ID, What: blockWords[b.What], Class: string(b.What), Runs: runs(b.Runs), Remarks: v.take(b.ID), Before: t.Shown[b.ID].Before, After: t.Shown[b.ID].After})
	}
	v.comes(t, o)
	v.WhyNot = string(q.May(who, t.Item, workflow.Approve))
	v.MayApprove = v.WhyNot == ""
	v.MayPass = t.Item.State == workflow.InReview && (v.MayApprove || q.Request(t.Item).From == who.ID)
	return v
}

// blockWords say what happened to a block.
var blockWords = map[content.BlockChangeKind]string{
	content.BlockCame: "added", content.BlockWent: "removed", content.BlockChanged: "changed", content.BlockMoved: "moved, text unchanged",
}

// mostSame is how many letters of words that stay are shown before and after those that change.
const mostSame = 160

// runs are the words as they are marked; of long stretches that stay only the ends.
func runs(list []textdiff.Run) (out []runView) {
	for i, r := range list {
		text := []rune(r.Text)
		if r.Kind == textdiff.Same && len(text) > 2*mostSame+40 {
			head, tail := string(text[:mostSame]), string(text[len(text)-mostSame:])
			if i == 0 {
				head = ""
			}
			if i == len(list)-1 {
				tail = ""
			}
			text = []rune(head + " … " + tail)
		}
		out = append(out, runView{Text: string(text), Gone: r.Kind == textdiff.Gone, Come: r.Kind == textdiff.Come})
	}
	return out
}

// remarks takes up what was said, with its answers.
func (v *thingView) remarks(list []editions.Remark, people []plan.Person, show string) {
	at := map[int64]int{}
	for _, r := range list {
		rv := remarkView{
			ID: r.ID, By: part.PersonName(people, r.Person), When: part.At(r.At), Words: r.Words, Quote: r.Quote, Settled: r.Settled,
			Show: show, Of: v.ID, Remark: urls.ReviewRemark, Settle: urls.ReviewSettle,
		}
		if r.Name != "" {
			rv.By = r.Name + ", through a shared link"
		}
		if i, answers := at[r.Answers]; answers {
			v.Remarks[i].Answers = append(v.Remarks[i].Answers, rv)
			continue
		}
		at[r.ID] = len(v.Remarks)
		rv.place = r.Place
		v.Remarks = append(v.Remarks, rv)
	}
}

// take gives the remarks on a block, which are told beside it.
func (v *thingView) take(block string) (out []remarkView) {
	v.Remarks = slices.DeleteFunc(v.Remarks, func(r remarkView) bool {
		if r.place != block || block == "" {
			return false
		}
		out = append(out, r)
		return true
	})
	return out
}

// madeAt is the screen on which something is made, and what it is; of what is no page any more, nothing.
func madeAt(id string, page bool) (at, what string) {
	if key := shape.TemplateOf(id); key != "" {
		return urls.Template(key), "template"
	}
	if key := shape.MenuOf(id); key != "" {
		return urls.Menu(key, ""), "menu"
	}
	if key := shape.TrailOf(id); key != "" {
		return urls.Trail(key), "trail"
	}
	if page {
		return urls.Page(id), "page"
	}
	return "", ""
}

// comes tells what comes along: addresses, and what preflight says of it.
// mostMoves is how many addresses are told one by one.
const mostMoves = 12

func (v *thingView) comes(t editions.Thing, o editions.Overview) {
	if o.Next == nil {
		return
	}
	if t.Follow > 0 {
		v.Comes = append(v.Comes, comesView{Words: part.Count(t.Follow, "page uses it and changes with it.", "pages use it and change with it.")})
	}
	addresses := 0
	var rows []string
	for _, g := range edition.Moves(o.Next.Trees.Live, o.Next.Draft, o.Next.All) {
		if g.ID == t.Item.ID {
			addresses = len(g.Moves)
			for _, m := range g.Moves[:min(len(g.Moves), mostMoves)] {
				r := part.NewRedirect(m.Row, o.Next.Draft.Tree)
				rows = append(rows, r.From+" → "+r.To)
			}
		}
	}
	if addresses > 0 {
		v.Comes = append(v.Comes, comesView{Words: part.Count(addresses, "address changes; the old one keeps working.", "addresses change; the old ones keep working."), Rows: rows, More: max(addresses-mostMoves, 0)})
	} else {
		v.Comes = append(v.Comes, comesView{Fine: true, Words: "No addresses change."})
	}
	if words := part.LossWords(t.Loss); words != "" {
		v.Comes = append(v.Comes, comesView{Words: words})
	}
	n := 0
	for _, f := range o.Next.Findings {
		if f.ID == t.Item.ID && f.Rule != preflight.ReviewMissing {
			n++
			v.Comes = append(v.Comes, comesView{Words: f.Message})
		}
	}
	if n == 0 {
		v.Comes = append(v.Comes, comesView{Fine: true, Words: "The checks found no problems."})
	}
}

// reviewersOf lists who may approve.
func reviewersOf(q editions.Queue, people []plan.Person, chosen, suggested string) []part.Option {
	out := []part.Option{{Label: "anyone who can publish"}}
	for _, role := range workflow.Roles() {
		if q.Site.Rights().May(role, workflow.Publish) {
			out = append(out, part.Option{Value: editions.GroupOfRole(role), Label: "any " + string(role)})
		}
	}
	for _, p := range people {
		if !p.Inactive && q.Site.Rights().May(p.Role, workflow.Publish) {
			label := p.Name
			if p.ID == suggested {
				label += " (looks after this branch)"
			}
			out = append(out, part.Option{Value: p.ID, Label: label})
		}
	}
	return part.Choose(out, chosen)
}

// informable lists who can be kept informed: all who work in the studio but the person.
func informable(people []plan.Person, who plan.Person, chosen []string) (out []part.Option) {
	for _, p := range people {
		if !p.Inactive && p.ID != who.ID && p.Role != workflow.Reader {
			out = append(out, part.Option{Value: p.ID, Label: p.Name, Chosen: slices.Contains(chosen, p.ID)})
		}
	}
	return out
}

// asksWords say what is asked.
var asksWords = map[workflow.ApprovalPolicy]string{
	workflow.NoApproval: "no approval needed", workflow.Approval: "approval", workflow.FourEyes: "approval by someone who did not make it",
}

func newRules(q editions.Queue, site plan.Site, who plan.Person) *rulesPart {
	v := &rulesPart{Site: asksWords[site.ApprovalPolicy()], Settings: urls.Settings, URL: urls.ReviewRules, May: site.Rights().May(who.Role, workflow.Govern)}
	for id, asks := range q.Rules.Branches {
		v.Branches = append(v.Branches, branchAsk{id, q.Trees.Title(id), asksWords[asks]})
	}
	slices.SortFunc(v.Branches, func(a, b branchAsk) int { return compareWords(a.Title, b.Title) })
	for _, a := range workflow.ApprovalPolicies() {
		v.Choices = append(v.Choices, part.Option{Value: string(a), Label: asksWords[a]})
	}
	return v
}

func compareWords(a, b string) int {
	if a < b {
		return -1
	}
	return 1
}
