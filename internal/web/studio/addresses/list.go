package addresses

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// listView is the form for many redirects, with what each of its lines would do.
type listView struct {
	shell.Frame
	Self, Back, Key, Text, Problem string
	Counts                         []part.CountView
	Rows                           []lineView
	More                           string
	Ready                          string // what the button plans; empty: nothing
	Judged                         bool
}

// lineView is one line of a list.
type lineView struct {
	Line                   int
	From, To, Code, Match  string
	Verdict, Said, Was     string
	Refused, Does, Changes bool
}

// redirectList is the empty form.
func (s *Screens) redirectList(r *shell.Request) error {
	return s.listPage(r, http.StatusOK, listView{})
}

func (s *Screens) listPage(r *shell.Request, status int, v listView) error {
	f, _, err := s.FrameFor(r, "Redirects")
	if err != nil {
		return err
	}
	v.Frame, v.Self, v.Back = f, urls.RedirectList, urls.Redirects
	if v.Key == "" {
		v.Key = part.NewKey()
	}
	return s.Show(r, status, "redirect-list", v)
}

// judgeList shows what each line of a list would do, or plans it.
func (s *Screens) judgeList(r *shell.Request) error {
	text, err := listOf(r)
	if err == nil && text == "" {
		err = plan.Refuse("list", "Paste a list, or choose a file.")
	}
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.listPage(r, http.StatusUnprocessableEntity, listView{Problem: invalid.Message})
	}
	if err != nil {
		return err
	}
	wishes := redirect.ParseLines(text)
	if r.PostForm("do") == "plan" {
		res, err := s.App.PlanRedirects(r.Ctx(), r.Who, r.PostForm("key"), wishes)
		if invalid := (*plan.Invalid)(nil); !errors.As(err, &invalid) {
			return s.did(r, res, err)
		}
	}
	p, err := s.App.PreviewRedirects(r.Ctx(), r.Who, wishes)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.listPage(r, http.StatusUnprocessableEntity, listView{Problem: invalid.Message, Text: text})
	}
	if err != nil {
		return err
	}
	return s.listPage(r, http.StatusOK, newListView(p, text))
}

// listOf gives the list of a form: what was pasted, or the rows of a file, a line each.
func listOf(r *shell.Request) (string, error) {
	if in, head, err := r.Request.FormFile("file"); err == nil {
		defer in.Close()
		rows, err := files.ReadRows(head.Filename, in)
		if err != nil {
			return "", plan.Refuse("file", part.Sentence(err))
		}
		var b strings.Builder
		for _, row := range rows {
			b.WriteString(strings.Join(row, "\t") + "\n")
		}
		return b.String(), nil
	} else if errors.As(err, new(*http.MaxBytesError)) {
		return "", err
	}
	return strings.TrimSpace(r.PostForm("list")), nil
}

// newListView shows the lines, those first that somebody has to look at.
func newListView(p addresses.Preview, text string) listView {
	v := listView{Text: text, Judged: true}
	for _, verdict := range redirect.Verdicts() {
		v.Counts = append(v.Counts, part.CountView{Words: string(verdict), N: part.Thousands(p.Count(verdict))})
	}
	if n := p.Count(redirect.New) + p.Count(redirect.Changes); n > 0 {
		v.Ready = part.Count(n, "redirect", "redirects")
	}
	hidden := 0
	for _, refused := range []bool{true, false} {
		for _, d := range p.Judged {
			if (d.Verdict == redirect.Refused) != refused {
				continue
			}
			if len(v.Rows) >= part.EntriesShown {
				hidden++
				continue
			}
			v.Rows = append(v.Rows, newLine(d, p))
		}
	}
	if hidden > 0 {
		v.More = part.Count(hidden, "more line does", "more lines do") + " what the counts say."
	}
	return v
}

func newLine(d redirect.Judged, p addresses.Preview) lineView {
	l := lineView{Line: d.Line, From: d.From, To: d.To, Verdict: string(d.Verdict), Said: d.Said, Refused: d.Verdict == redirect.Refused, Does: d.Verdict == redirect.New || d.Verdict == redirect.Changes}
	if l.Refused {
		return l
	}
	rv := part.NewRedirect(d.Row, p.Next)
	l.From, l.To, l.Code, l.Match = rv.From, rv.To, codeName(d.Row.Code), rv.Match
	if d.Was != nil && d.Verdict == redirect.Changes {
		l.Changes, l.Was = true, d.Was.Words(p.Next)
	}
	return l
}

// testView is the test of addresses.
type testView struct {
	shell.Frame
	Self, Back, Asked, Problem string
	Rows                       []testedView
	Alone                      bool
}

// testedView is what an address answers, in Live and in Next.
type testedView struct {
	Asked      string
	Live, Next answerView
	Same       bool
	History    []string
}

type answerView struct {
	Words, To string
	Bad       bool
	Steps     []stepView
}

type stepView struct {
	Said, Row string
	Ends      bool
}

// test tells what addresses answer.
func (s *Screens) test(r *shell.Request) error {
	asked := r.Query("asked")
	if r.Request.Method == http.MethodPost {
		asked = r.PostForm("asked")
	}
	f, _, err := s.FrameFor(r, "Test addresses")
	if err != nil {
		return err
	}
	v := testView{Frame: f, Self: urls.TestAt, Back: urls.Redirects, Asked: asked}
	list := addresses.AskedOf(asked)
	tested, trees, err := s.App.TestAddresses(r.Ctx(), r.Who, list)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		v.Problem = invalid.Message
		return s.Show(r, http.StatusUnprocessableEntity, "test", v)
	}
	if err != nil {
		return err
	}
	for _, t := range tested {
		live, next := newAnswer(t.Live, t.InLive, trees.Live), newAnswer(t.Next, t.InNext, trees.Next)
		v.Rows = append(v.Rows, testedView{Asked: t.Asked, Live: live, Next: next, Same: live.Words == next.Words && live.To == next.To, History: historyOf(t.History, trees)})
	}
	v.Alone = len(v.Rows) == 1
	return s.Show(r, http.StatusOK, "test", v)
}

// historyOf tells what an address answered in earlier editions, in words.
func historyOf(list []addresses.Once, trees plan.Trees) (out []string) {
	for _, o := range list {
		when := fmt.Sprintf("since edition %d", o.From)
		if o.To > 0 {
			when = fmt.Sprintf("editions %d to %d", o.From, o.To-1)
			if o.To-1 == o.From {
				when = fmt.Sprintf("edition %d", o.From)
			}
		}
		what := "the page “" + trees.Title(o.Entry) + "”"
		if o.Row != nil {
			what = string(o.Row.Match) + " redirect, " + o.Row.Words(trees.Live)
		}
		out = append(out, part.UpperFirst(when)+": "+what)
	}
	return out
}

func newAnswer(a redirect.Answer, steps []redirect.Step, pages *sitemap.Tree) answerView {
	v := answerView{To: a.Location, Bad: a.Code == http.StatusNotFound}
	switch a.Code {
	case http.StatusOK:
		if v.Words = "a page"; pages != nil {
			v.Words = "the page “" + pages.Ref(a.Page).Title + "”"
		}
	case redirect.Gone:
		v.Words = "gone (410)"
	case http.StatusNotFound:
		v.Words = "not found (404)"
	default:
		v.Words = codeName(a.Code) + " redirect"
	}
	for _, s := range steps {
		sv := stepView{Said: s.Said, Ends: s.Ends}
		if s.Row != nil {
			sv.Row = redirect.WrittenFrom(s.Row.From) + ", " + string(s.Row.Match) + ", " + codeName(s.Row.Code)
		}
		v.Steps = append(v.Steps, sv)
	}
	return v
}
