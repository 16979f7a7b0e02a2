package editions

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// sendForReview gives what is ticked to a reviewer.
func (s *Screens) sendForReview(r *shell.Request) error {
	days, _ := strconv.Atoi(r.PostForm("days")) // none: a day is given, or no end
	list, err := s.ticked(r)
	ask := editions.SendAsk{Days: days, IDs: idsOf(list), To: r.PostForm("to"), Message: r.PostForm("message"), Due: r.PostForm("due"), Informed: r.PostFormArray("informed")}
	n := 0
	if err == nil {
		n, err = s.App.SendForReview(r.Ctx(), r.Who, ask)
	}
	return s.reviewed(r, err, reviewView{SendForm: sendForm{ask.To, ask.Message, ask.Due}}, ask.IDs, func() string {
		return fmt.Sprintf("Sent %s for review.", part.Count(n, "item", "items"))
	})
}

// judge approves or sends back one thing or those that are ticked, as they were looked at.
func (s *Screens) judge(r *shell.Request) error {
	step := workflow.Step(r.PostForm("do"))
	list, err := s.ticked(r)
	if one := r.PostForm("one"); one != "" {
		step = workflow.Step(one)
	}
	if r.PostForm("which") == "one" || r.PostForm("one") != "" {
		list, err = judgedList(r, []string{r.PostForm("open")}), nil
	}
	var done []string
	if err == nil {
		done, err = s.App.Judge(r.Ctx(), r.Who, step, list, r.PostForm("word"))
	}
	return s.reviewed(r, err, reviewView{Word: r.PostForm("word")}, idsOf(list), func() string {
		return fmt.Sprintf("%s %s.", part.UpperFirst(judged[step]), part.Count(len(done), "item", "items"))
	})
}

// zones are offered; any other that the program knows can be written.
var zones = []string{
	"UTC", "Europe/London", "Europe/Dublin", "Europe/Lisbon", "Europe/Berlin", "Europe/Paris", "Europe/Athens", "America/New_York", "America/Chicago", "America/Denver",
	"America/Los_Angeles", "America/Sao_Paulo", "Africa/Johannesburg", "Asia/Kolkata", "Asia/Tokyo", "Australia/Sydney", "Pacific/Auckland",
}

// clockIn is a moment as clocks of a zone show it.
func clockIn(at time.Time, zone string) string {
	in, err := time.LoadLocation(zone)
	if err != nil {
		in = time.UTC
	}
	return at.In(in).Format("2 January 2006, 15:04") + " in " + zone
}

// ticked is what was ticked, or everything that the filter leaves, as it was looked at.
func (s *Screens) ticked(r *shell.Request) ([]editions.Judged, error) {
	if all := r.PostForm("all"); all != "" {
		return s.App.AllMatching(r.Ctx(), r.Who, r.PostForm("show"), all)
	}
	return judgedList(r, r.PostFormArray("id")), nil
}

func idsOf(list []editions.Judged) []string {
	ids := make([]string, len(list))
	for i, j := range list {
		ids[i] = j.ID
	}
	return ids
}

// judgedList is what is ticked, as it was looked at.
func judgedList(r *shell.Request, ids []string) []editions.Judged {
	list := make([]editions.Judged, len(ids))
	for i, id := range ids {
		list[i] = editions.Judged{ID: id, Stamp: r.PostForm("stamp:" + id)}
	}
	return list
}

func (s *Screens) timeChanges(r *shell.Request) error {
	list, err := s.ticked(r)
	ask := editions.TimeAsk{List: list, At: r.PostForm("at"), Zone: strings.TrimSpace(r.PostForm("zone")), Which: r.PostForm("which-of-two")}
	var done editions.Scheduling
	if err == nil {
		done, err = s.App.TimeChanges(r.Ctx(), r.Who, ask)
	}
	return s.reviewed(r, err, reviewView{TimeForm: ask}, idsOf(list), func() string { return scheduledWords(done, ask.Zone) })
}

// scheduledWords say what came of giving changes a date, and what they need.
func scheduledWords(s editions.Scheduling, zone string) string {
	words := fmt.Sprintf("%s scheduled for %s.", part.Count(s.N, "change", "changes"), clockIn(s.At, zone))
	if len(s.Along) > 0 {
		words += " Included, because they need it: " + quoted(s.Along) + "."
	}
	if len(s.Waits) > 0 {
		words += " They also need " + quoted(s.Waits) + ", which cannot go with them as it stands: it is not approved, it is scheduled for later, or it is your own work and nobody else approved it. Until that changes, they will not be published."
	}
	return words
}

// quoted names the first of some titles.
func quoted(titles []string) string {
	const most = 5
	more := ""
	if n := len(titles) - most; n > 0 {
		titles, more = titles[:most], fmt.Sprintf(" and %d more", n)
	}
	return "“" + strings.Join(titles, "”, “") + "”" + more
}

func (s *Screens) liftChanges(r *shell.Request) error {
	list, err := s.ticked(r)
	n := 0
	if err == nil {
		n, err = s.App.LiftChanges(r.Ctx(), r.Who, list)
	}
	return s.reviewed(r, err, reviewView{}, idsOf(list), func() string {
		return fmt.Sprintf("Unscheduled %s.", part.Count(n, "item", "items"))
	})
}

// judged says what was done.
var judged = map[workflow.Step]string{workflow.Approve: "approved", workflow.SendBack: "sent back", workflow.Recall: "recalled"}

func (s *Screens) passOn(r *shell.Request) error {
	err := s.App.PassOn(r.Ctx(), r.Who, r.PostForm("request"), r.PostForm("to"))
	return s.reviewed(r, err, reviewView{}, nil, func() string { return "Reassigned." })
}

func (s *Screens) remark(r *shell.Request) error {
	answers, _ := strconv.ParseInt(r.PostForm("answers"), 10, 64) // none: it answers nothing
	err := s.App.Remark(r.Ctx(), r.Who, r.PostForm("open"), editions.Remark{Place: r.PostForm("place"), Answers: answers, Quote: r.PostForm("quote"), Words: r.PostForm("words")})
	return s.reviewed(r, err, reviewView{}, nil, func() string { return "Comment added." })
}

func (s *Screens) settle(r *shell.Request) error {
	id, err := strconv.ParseInt(r.PostForm("remark"), 10, 64)
	if err != nil {
		return plan.ErrNotFound
	}
	settled := r.PostForm("settled") == "1"
	err = s.App.SettleRemark(r.Ctx(), r.Who, r.PostForm("open"), id, settled)
	return s.reviewed(r, err, reviewView{}, nil, func() string {
		if settled {
			return "Resolved."
		}
		return "Reopened."
	})
}

// branchAsks says what a branch asks of changes.
func (s *Screens) branchAsks(r *shell.Request) error {
	asks := workflow.ApprovalPolicy(r.PostForm("asks"))
	into := &asks
	if r.PostForm("do") == "forget" {
		into = nil
	}
	err := s.App.BranchAsks(r.Ctx(), r.Who, r.PostForm("entry"), into)
	return s.reviewed(r, err, reviewView{}, nil, func() string { return "Saved." })
}

// reviewed shows the list again with what was done, or with why it was not.
func (s *Screens) reviewed(r *shell.Request, err error, v reviewView, ticked []string, said func() string) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		v.Problem = invalid.Message
		return s.reviewPage(r, http.StatusUnprocessableEntity, v, ticked)
	}
	if err != nil {
		return err
	}
	open := r.PostForm("open")
	if slices.Contains([]string{urls.ReviewJudge, urls.ReviewSend, urls.ReviewTime, urls.ReviewLift}, r.Route.Path) {
		open = "" // the next one
	}
	r.Redirect(http.StatusSeeOther, urls.ReviewAt(r.PostForm("show"), open, "", "", said()))
	return nil
}
