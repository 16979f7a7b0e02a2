package reader

import (
	"errors"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"time"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/findability"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// whereView is one step of somebody who says where they would look.
type whereView struct {
	Site, Title, Style string
	Self               string
	Ended, Done, Intro bool
	Full, Again        bool // enough people answered; this browser did
	Problem            string
	Number, Of         int
	Question           string
	Visitor, Began     string
	Task               int
	Opened             string
	Way                []findability.Node
	Here               findability.Node
	Below              []findability.Node
}

// Where asks colleagues, without an account, where in the bare hierarchy they
// would look for something. All that is known of a visit stands in its form.
func (s *Site) Where(w http.ResponseWriter, r *http.Request, secret string) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	if !secretForm.MatchString(secret) {
		s.notFound(w, r, snap)
		return
	}
	st, err := s.app.OpenStudy(r.Context(), secret)
	v := whereView{Site: snap.Site.Name(), Title: st.Title, Style: snap.frame("", -1).Style, Self: r.URL.Path, Of: len(st.Tasks), Intro: true}
	switch {
	case errors.Is(err, appnavigation.ErrEnded):
		v.Ended = true
		s.where(w, http.StatusGone, v)
		return
	case errors.Is(err, plan.ErrNotFound):
		s.notFound(w, r, snap)
		return
	case err != nil:
		s.log.Error("study", "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	status := http.StatusOK
	if r.Method == http.MethodPost {
		r.Body = http.MaxBytesReader(w, r.Body, 64<<10)
		err := s.step(w, r, st, &v)
		if errors.Is(err, appnavigation.ErrFull) {
			v.Full, v.Intro, err = true, false, nil
		}
		if err != nil {
			invalid := (*plan.Invalid)(nil)
			if !errors.As(err, &invalid) {
				s.log.Error("study", "id", border.ID(w), "error", err)
				s.unavailable(w)
				return
			}
			v, status = whereView{Site: v.Site, Title: v.Title, Style: v.Style, Self: v.Self, Of: v.Of, Intro: true, Problem: invalid.Message}, http.StatusUnprocessableEntity
		}
	}
	s.where(w, status, v)
}

func (s *Site) where(w http.ResponseWriter, status int, v whereView) {
	body, err := s.set.Bytes("where", "plain", v)
	if err != nil {
		s.log.Error("render", "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	pageHeaders(w.Header())
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(body)
}

// step goes on from what a form says.
func (s *Site) step(w http.ResponseWriter, r *http.Request, st appnavigation.Study, v *whereView) error {
	h := findability.New(st.Nodes)
	form := func(name string) string { return border.Text(r.PostFormValue(name)) }
	did, on, _ := strings.Cut(form("do"), ":")
	task, _ := strconv.Atoi(form("task"))
	v.Visitor, v.Began, v.Intro = form("visitor"), form("began"), false
	var opened []string
	if list := form("opened"); list != "" {
		opened = strings.Split(list, ",")
	}
	at := ""
	if len(opened) > 0 {
		at = opened[len(opened)-1]
	}
	began, _ := strconv.ParseInt(v.Began, 10, 64)
	answer := func(chosen string) error {
		try := findability.Try{Opened: passed(opened), Chosen: chosen, Took: time.Since(time.UnixMilli(began))}
		err := s.app.AnswerTask(r.Context(), st.Secret, task, v.Visitor, try)
		task, opened, at, v.Began = task+1, nil, "", ""
		return err
	}
	var err error
	switch did {
	case "start":
		v.Began = ""
		if v.Visitor, task, err = s.visitor(w, r, st); err == nil && task > 0 && task >= len(st.Tasks) {
			v.Again = true
		}
	case "open":
		if on == "" || h.Has(on) {
			opened, at = append(opened, orTop(on)), on
		}
	case "here":
		err = answer(at)
	case "give-up":
		err = answer("")
	}
	if err != nil {
		return err
	}
	for task >= 0 && task < len(st.Tasks) && st.Tasks[task].Closed {
		task++
	}
	if task < 0 || task >= len(st.Tasks) {
		v.Done = true
		return nil
	}
	if v.Began == "" {
		v.Began = strconv.FormatInt(time.Now().UnixMilli(), 10)
	}
	if at == top || !h.Has(at) {
		at = ""
	}
	v.Task, v.Number, v.Question, v.Opened = task, task+1, st.Tasks[task].Question, strings.Join(opened, ",")
	v.Way, v.Below = h.Way(at), h.Below(at)
	if n := len(v.Way); n > 0 {
		v.Here, v.Way = v.Way[n-1], v.Way[:n-1]
	}
	return nil
}

// visitorCookie remembers in a browser that it answers a study, so that it counts
// once.
const visitorCookie = "candlepath-study"

// visitor gives the number under which a browser answers, and the task at which it
// goes on.
func (s *Site) visitor(w http.ResponseWriter, r *http.Request, st appnavigation.Study) (visitor string, task int, err error) {
	if c, err := r.Cookie(visitorCookie); err == nil {
		n, known, err := s.app.Answered(r.Context(), st, c.Value)
		if err != nil || known {
			return c.Value, n, err
		}
	}
	if visitor, err = s.app.BeginVisit(r.Context(), st, border.Host(r)); err != nil {
		return "", 0, err
	}
	http.SetCookie(w, &http.Cookie{
		Name: visitorCookie, Value: visitor, Path: r.URL.Path, Expires: st.Ends.AddDate(0, 0, 2), HttpOnly: true,
		SameSite: http.SameSiteLaxMode, Secure: urls.Scheme(r) == "https",
	})
	return visitor, 0, nil
}

// secretForm is how the secret in the address of a study looks.
var secretForm = regexp.MustCompile(`^[a-z0-9]{20,40}$`)

// top stands for going back to the top in the list of what was opened.
const top = "top"

func orTop(id string) string {
	if id == "" {
		return top
	}
	return id
}

// passed leaves the returns to the top out: what is opened next tells of them.
func passed(opened []string) []string {
	out := []string{}
	for _, id := range opened {
		if id != top {
			out = append(out, id)
		}
	}
	return out
}
