package shell

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

var errSignedOut = errors.New("you are signed out; sign in again in another tab and come back, nothing here is lost")

var ErrLinkEnded = errors.New("this link was already used or has expired; ask a site manager for a new one")

// WantsJSON tells whether a script asks.
func (r *Request) WantsJSON() bool { return wantsJSON(r.Request) }

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
		if away := (*plan.StorageError)(nil); errors.As(err, &away) {
			s.Log.Error("storage of files", "id", border.ID(c.Writer), "error", away.Err)
		}
		if c.Writer.Written() {
			return
		}
		c.Writer.Header().Del("Content-Disposition") // what was to be downloaded is not; this is read
		c.Writer.Header().Del("Content-Type")
		s.fail(c, status, words, err)
	}
}

func (s *Shell) fail(c *gin.Context, status int, words string, err error) {
	if wantsJSON(c.Request) {
		out := gin.H{"error": words}
		if f := (*plan.Invalid)(nil); errors.As(err, &f) {
			out["field"] = f.Field
		}
		if met := (*plan.EditConflict)(nil); errors.As(err, &met) && met.Both != nil {
			out["both"] = gin.H{"who": met.Who, "theirs": met.Both.Theirs, "mine": met.Both.Mine}
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
	var meanwhile *plan.EditConflict
	var away *plan.StorageError
	var notReady *editions.NotReady
	var conflict *sitemap.ConflictError
	var refused *sheet.Refused
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
		return http.StatusNotFound, "There is nothing here, or not any more."
	case errors.Is(err, plan.ErrForbidden), errors.Is(err, editions.ErrOwnWork):
		return http.StatusForbidden, part.Sentence(err)
	case errors.Is(err, errSignedOut):
		return http.StatusUnauthorized, part.Sentence(err)
	case errors.Is(err, account.ErrSignIn):
		return http.StatusUnauthorized, "The name or the password is wrong."
	case errors.As(err, new(*account.TooSoon)):
		return http.StatusTooManyRequests, part.Sentence(err)
	case errors.As(err, &away):
		return http.StatusServiceUnavailable, part.Sentence(away)
	case errors.Is(err, plan.ErrDatabaseFull):
		return http.StatusServiceUnavailable, part.Sentence(plan.ErrDatabaseFull)
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
		sitemap.ErrSlug, sitemap.ErrKind, sitemap.ErrNowhere, sitemap.ErrDeep, sheet.ErrPastedNothing, sheet.ErrPastedTooMuch,
		sitemap.ErrCopiedTooMuch, sitemap.ErrTreeFull, sitemap.ErrNothingBelow, sitemap.ErrNotSiblings, sitemap.ErrNotTwoPages, sitemap.ErrNoMend,
	} {
		if errors.Is(err, e) {
			return true
		}
	}
	return errors.As(err, new(*sheet.LongTitleError))
}
