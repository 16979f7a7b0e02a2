package account

import (
	"fmt"
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type inboxView struct {
	shell.Frame
	Self, Says string
	Latest     string // the latest notice, where some are not read
	Rows       []noticeView
}

type noticeView struct {
	Words     string
	URL, Goes string // to what it is about
	When      part.Moment
	Unread    bool
	Read      string // where to mark it as read
}

// inbox shows what a person was told.
func (s *Screens) inbox(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Inbox")
	if err != nil {
		return err
	}
	list, err := s.App.Inbox(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := newInbox(list)
	v.Frame = f
	return s.Show(r, http.StatusOK, "inbox", v)
}

func (s *Screens) readNotice(r *shell.Request) error { return s.markRead(r, r.Param("id"), false) }

func (s *Screens) readNotices(r *shell.Request) error { return s.markRead(r, r.PostForm("to"), true) }

func (s *Screens) markRead(r *shell.Request, notice string, all bool) error {
	id, err := strconv.ParseInt(notice, 10, 64)
	if err != nil {
		return plan.ErrNotFound
	}
	if err := s.App.MarkRead(r.Ctx(), r.Who, id, all); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Inbox)
	return nil
}

// goesTo is where a notice leads, by its kind, and how the link reads.
func goesTo(n plan.Notice) (url, words string) {
	switch n.Kind {
	case plan.NoticePage:
		return urls.Page(n.Subject), "Open the page"
	case plan.NoticeTemplate:
		return urls.Edition, "See what the next edition says"
	case plan.NoticeDue:
		return urls.RedirectsPage("due", "", "", 1), "See the redirects that are due"
	case plan.NoticeReview:
		return urls.Review, "Review it"
	case plan.NoticeReviewed:
		return urls.ReviewAt("mine", "", "", "", ""), "See your drafts"
	case plan.NoticeEdition:
		if number, err := strconv.Atoi(n.Subject); err == nil {
			return urls.PastEdition(number), "See the edition"
		}
		return urls.Edition, "See what the next edition says"
	case plan.NoticeExport:
		return urls.EditionExport(n.Subject), "See the export"
	case plan.NoticeOlder:
		return urls.OlderAt(n.Subject, "", "", "", 1), "See the older site"
	case plan.NoticeAddress:
		return urls.TestOf(n.Subject), "See what it answers, and add a redirect"
	}
	return "", ""
}

func newInbox(list []plan.Notice) inboxView {
	v := inboxView{Self: urls.Inbox, Says: "Everything is read."}
	unread, latest := 0, int64(0)
	for _, n := range list {
		row := noticeView{Words: n.Words, When: part.At(n.At), Unread: !n.Read, Read: fmt.Sprintf("%s/%d", urls.Inbox, n.ID)}
		row.URL, row.Goes = goesTo(n)
		if row.Unread {
			unread, latest = unread+1, max(latest, n.ID)
		}
		v.Rows = append(v.Rows, row)
	}
	if unread > 0 {
		v.Says, v.Latest = part.Count(unread, "notice is not read.", "notices are not read."), strconv.FormatInt(latest, 10)
	}
	return v
}
