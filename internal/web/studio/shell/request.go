package shell

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/plan"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// request is one request of somebody signed in. What it says arrives as text.
type Request struct {
	*gin.Context
	Who   plan.Person
	Site  plan.Site
	Route Route
}

// baseOf is what links to this site begin with, as it is reached here.
func BaseOf(r *Request) string { return urls.Base(r.Request, r.Site.Hosts) }

// usualBody is the most that a request may bring where no file is uploaded.
const usualBody = 12 << 20

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
