package shell

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/border"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

// request is one request of somebody signed in. What it says arrives as text.
type Request struct {
	*gin.Context
	Who  plan.Person
	Site plan.Site
}

// PostForm, PostFormArray, Query and Param give what a request says, as text.
func (r *Request) PostForm(key string) string { return border.Text(r.Context.PostForm(key)) }

func (r *Request) PostFormArray(key string) []string {
	return border.Texts(r.Context.PostFormArray(key))
}

func (r *Request) Query(key string) string { return border.Text(r.Context.Query(key)) }

// page is the page of a list that is asked for.
func (r *Request) Page() int {
	n, _ := strconv.Atoi(r.Query("page"))
	return n
}

func (r *Request) Param(key string) string { return border.Text(r.Context.Param(key)) }

const policy = "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

func secure(h http.Header) {
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cache-Control", "no-store")
}

// What a session holds: who signed in, and when.
const (
	SessionPerson = "person"
	SessionSince  = "since"
)

// PersonOf gives the id of whoever signed in to the session of a context, and when
// they did.
func PersonOf(ctx context.Context, sessions *scs.SessionManager) (id string, since time.Time) {
	return sessions.GetString(ctx, SessionPerson), time.UnixMicro(sessions.GetInt64(ctx, SessionSince)).UTC()
}

// signedIn lets only people in who may do what the route is for.
func (s *Shell) signedIn(r Route) gin.HandlerFunc {
	return s.Adapt(func(c *gin.Context) error {
		id, since := PersonOf(c.Request.Context(), s.Sessions)
		if id == "" {
			return s.askToSignIn(c)
		}
		who, site, err := s.App.Person(c.Request.Context(), id, since)
		if errors.Is(err, plan.ErrNotFound) {
			return s.askToSignIn(c)
		}
		if err != nil {
			return err
		}
		if !site.Rights.May(who.Role, r.Act) {
			return plan.ErrForbidden
		}
		most := int64(usualBody)
		if r.Large {
			most = appsitemap.MaxUpload + 1<<20
		}
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		asked := &Request{c, who, site}
		if r.Large {
			asked.slow()
		}
		return r.Handle(asked)
	})
}

// usualBody is the most that a request may bring where no file is uploaded.
const usualBody = 12 << 20

// slow gives a request with a large file, or a large answer, more time.
func (r *Request) slow() {
	const slowFor = 5 * time.Minute
	c := http.NewResponseController(r.Writer)
	for _, set := range []func(time.Time) error{c.SetReadDeadline, c.SetWriteDeadline} {
		if err := set(time.Now().Add(slowFor)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return // the connection is gone, which shows when it is used
		}
	}
}

func (s *Shell) askToSignIn(c *gin.Context) error {
	if wantsJSON(c.Request) || render.Fragment(c.Request) || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		return errSignedOut
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn+"?to="+c.Request.URL.EscapedPath())
	return nil
}

var errSignedOut = errors.New("you are signed out; sign in again in another tab and come back: nothing here is lost")

func wantsJSON(r *http.Request) bool { return r.Header.Get("Accept") == "application/json" }

// Adapt is the one place where errors become statuses.
func (s *Shell) Adapt(f func(*gin.Context) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		secure(c.Writer.Header())
		err := f(c)
		if err == nil {
			return
		}
		status, words := s.Word(err)
		if status == http.StatusInternalServerError {
			id := border.ID(c.Writer)
			s.Log.Error("request failed", "id", id, "method", c.Request.Method, "path", c.Request.URL.Path, "error", err)
			words = fmt.Sprintf("Something went wrong here, not with you. Nothing was changed. If it happens again, tell your site manager the number %s.", id)
		}
		if c.Writer.Written() {
			return
		}
		s.fail(c, status, words, err)
	}
}

func (s *Shell) fail(c *gin.Context, status int, words string, err error) {
	if wantsJSON(c.Request) {
		out := gin.H{"error": words}
		if f := (*plan.Invalid)(nil); errors.As(err, &f) {
			out["field"] = f.Field
		}
		c.JSON(status, out)
		return
	}
	v := problemView{Status: status, Words: words, Back: urls.Outline, BackWords: "Go to the outline"}
	if status == http.StatusForbidden || errors.Is(err, ErrLinkEnded) {
		v.Back, v.BackWords = "/", "Go to the reader site" // which is open to everybody
	}
	if e := s.Set.Write(c.Writer, status, "problem", "plain", v); e != nil {
		http.Error(c.Writer, words, status)
	}
}

type problemView struct {
	Status                 int
	Words, Back, BackWords string
}

// word gives the status and the words of an error for people.
func (s *Shell) Word(err error) (int, string) {
	var invalid *plan.Invalid
	var meanwhile *plan.Meanwhile
	var notReady *editions.NotReady
	var conflict *sitemap.ConflictError
	var refused *sitemap.Refused
	switch {
	case errors.As(err, &invalid), errors.As(err, &refused):
		return http.StatusUnprocessableEntity, part.Sentence(err)
	case errors.As(err, &meanwhile):
		return http.StatusConflict, part.Sentence(err)
	case errors.As(err, &notReady):
		return http.StatusConflict, part.Sentence(err)
	case errors.As(err, &conflict):
		return http.StatusConflict, part.Sentence(err) + " It stays as it is."
	case errors.Is(err, sitemap.ErrNoEntry), errors.As(err, new(*editions.Moved)):
		return http.StatusConflict, part.Sentence(err)
	case errors.Is(err, ErrLinkEnded):
		return http.StatusNotFound, part.Sentence(err)
	case errors.Is(err, plan.ErrNotFound):
		return http.StatusNotFound, "There is nothing here (any more)."
	case errors.Is(err, plan.ErrForbidden), errors.Is(err, editions.ErrOwnWork):
		return http.StatusForbidden, part.Sentence(err)
	case errors.Is(err, errSignedOut):
		return http.StatusUnauthorized, part.Sentence(err)
	case errors.Is(err, account.ErrSignIn):
		return http.StatusUnauthorized, "Name or password is not right."
	case errors.As(err, new(*account.TooSoon)):
		return http.StatusTooManyRequests, part.Sentence(err)
	case errors.Is(err, account.ErrBusy):
		return http.StatusServiceUnavailable, part.Sentence(err)
	case errors.Is(err, plan.ErrNothing), errors.Is(err, plan.ErrDone), errors.Is(err, redirect.ErrTable):
		return http.StatusConflict, part.Sentence(err)
	case isEdit(err):
		return http.StatusUnprocessableEntity, part.Sentence(err)
	case errors.As(err, new(*http.MaxBytesError)):
		return http.StatusRequestEntityTooLarge, fmt.Sprintf("This is more than %d MB. Split the file.", appsitemap.MaxUpload>>20)
	case errors.Is(err, context.Canceled):
		return 499, "You left before the answer."
	}
	return http.StatusInternalServerError, ""
}

func isEdit(err error) bool {
	for _, e := range []error{
		sitemap.ErrUnderSelf, sitemap.ErrNoChildren, sitemap.ErrHome, sitemap.ErrNoTitle, sitemap.ErrLongTitle,
		sitemap.ErrSlug, sitemap.ErrKind, sitemap.ErrNowhere, sitemap.ErrDeep, sitemap.ErrPastedNothing, sitemap.ErrPastedTooMuch,
		sitemap.ErrCopiedTooMuch, sitemap.ErrTreeFull, sitemap.ErrNothingBelow, sitemap.ErrNotSiblings, sitemap.ErrNotTwoPages, sitemap.ErrNoMend,
	} {
		if errors.Is(err, e) {
			return true
		}
	}
	return errors.As(err, new(*sitemap.LongTitleError))
}

// show renders a screen: the full page, or only the screen for htmx.
func (s *Shell) Show(r *Request, status int, screen string, view any) error {
	block := "layout"
	if render.Fragment(r.Request) {
		block = "screen"
	}
	return s.Set.Write(r.Writer, status, screen, block, view)
}

func (r *Request) Json(into any) error {
	body := http.MaxBytesReader(r.Writer, r.Request.Body, 4<<20)
	if err := json.NewDecoder(body).Decode(into); err != nil {
		if errors.As(err, new(*http.MaxBytesError)) {
			return plan.Refuse("", "This page has grown beyond 4 MB. Split it.")
		}
		return plan.Refuse("", "The request cannot be read. Load the page again.")
	}
	border.Deep(into)
	return nil
}

func (r *Request) Ctx() context.Context { return r.Request.Context() }
