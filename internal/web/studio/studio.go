// Package studio is where editors, approvers and site managers work. Handlers
// decode, call one use case, build the view and render; they decide nothing
// about the job.
package studio

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/border"
	"candlepath/internal/web/render"
	"candlepath/internal/web/urls"
	"candlepath/web"
)

// Studio serves everything below /studio.
type Studio struct {
	app       *app.App
	set       *render.Set
	sessions  *scs.SessionManager
	log       *slog.Logger
	read      appsitemap.ReadSheet
	openOld   appsitemap.OpenOldSite
	published func(context.Context) // after an edition went out
	work      func(func(context.Context))
	forget    func() // who reads with which session
	setupCode string

	showPreview func(http.ResponseWriter, reading.Previewed) error
}

// Config is what a Studio needs.
type Config struct {
	App       *app.App
	Sessions  *scs.SessionManager
	Log       *slog.Logger
	Read      appsitemap.ReadSheet
	OpenOld   appsitemap.OpenOldSite
	Published func(context.Context)
	// Work runs something that outlives a request.
	Work func(func(context.Context))
	// Forget makes the reader site ask anew who reads with which session.
	Forget func()
	// SetupCode is what the first person of an empty site has to know.
	SetupCode string
	// Preview writes a page as a reader gets it.
	Preview func(http.ResponseWriter, reading.Previewed) error
}

// New makes a Studio.
func New(c Config) (*Studio, error) {
	set, err := render.Load(web.Files, "templates/layout/studio.html", "templates/screens/studio")
	if err != nil {
		return nil, err
	}
	return &Studio{app: c.App, set: set, sessions: c.Sessions, log: c.Log, read: c.Read, openOld: c.OpenOld, published: c.Published, work: c.Work, forget: c.Forget, setupCode: c.SetupCode, showPreview: c.Preview}, nil
}

// Screens lists the screens of the studio, for a test of completeness.
func (s *Studio) Screens() *render.Set { return s.set }

// request is one request of somebody signed in. What it says arrives as text.
type request struct {
	*gin.Context
	who  plan.Person
	site plan.Site
}

// PostForm, PostFormArray, Query and Param give what a request says, as text.
func (r *request) PostForm(key string) string { return border.Text(r.Context.PostForm(key)) }

func (r *request) PostFormArray(key string) []string {
	return border.Texts(r.Context.PostFormArray(key))
}

func (r *request) Query(key string) string { return border.Text(r.Context.Query(key)) }

// page is the page of a list that is asked for.
func (r *request) page() int {
	n, _ := strconv.Atoi(r.Query("page"))
	return n
}

func (r *request) Param(key string) string { return border.Text(r.Context.Param(key)) }

// Route is one line of the route table.
type Route struct {
	Method, Path, Screen string
	act                  workflow.Act
	handle               func(*Studio, *request) error

	large bool // brings a file, or takes one away
}

// Routes is the route table of the studio: method, path, the screen it shows
// and the right it wants.
func Routes() []Route {
	return []Route{
		{"GET", urls.Outline, "outline", workflow.Plan, (*Studio).outline, false},
		{"GET", urls.Rows, "", workflow.Plan, (*Studio).rows, false},
		{"POST", urls.Act, "", workflow.Plan, (*Studio).act, false},
		{"GET", urls.Since, "", workflow.Plan, (*Studio).since, false},
		{"POST", urls.Views, "", workflow.Plan, (*Studio).saveView, false},
		{"POST", urls.Views + "/drop", "", workflow.Plan, (*Studio).dropView, false},
		{"POST", urls.Undo, "", workflow.Plan, (*Studio).undo, false},
		{"POST", urls.Redo, "", workflow.Plan, (*Studio).redo, false},
		{"GET", urls.BesideOf, "outline", workflow.Plan, (*Studio).beside, false},
		{"GET", urls.Merge, "merge", workflow.Plan, (*Studio).merge, false},
		{"POST", urls.Merge, "merge", workflow.Plan, (*Studio).doMerge, false},
		{"GET", urls.Alike, "alike", workflow.Plan, (*Studio).alike, false},
		{"POST", urls.Alike, "", workflow.Plan, (*Studio).different, false},
		{"GET", urls.Map, "map", workflow.Plan, (*Studio).drawnMap, false},
		{"GET", urls.Drawing, "", workflow.Plan, (*Studio).drawing, true},
		{"GET", urls.Picture, "", workflow.Plan, (*Studio).picture, true},
		{"GET", urls.Compare, "compare", workflow.Plan, (*Studio).compare, false},
		{"GET", urls.Checks, "checks", workflow.Plan, (*Studio).checks, false},
		{"POST", urls.Checks, "checks", workflow.Plan, (*Studio).mend, false},
		{"GET", urls.BringIn, "bring-in", workflow.Plan, (*Studio).bringIn, false},
		{"POST", urls.BringIn, "", workflow.Plan, (*Studio).upload, true},
		{"GET", urls.BringIn + "/:id", "bring-in-file", workflow.Plan, (*Studio).bringFile, false},
		{"POST", urls.BringIn + "/:id/accept", "", workflow.Plan, (*Studio).acceptFile, true},
		{"GET", urls.TakeOutAt, "", workflow.Plan, (*Studio).takeOut, true},
		{"GET", urls.Find, "", workflow.Plan, (*Studio).find, false},
		{"GET", urls.Menus, "menus", workflow.Plan, (*Studio).menus, false},
		{"POST", urls.MenuAct, "", workflow.Plan, (*Studio).menuAct, false},
		{"GET", urls.MenuFind, "", workflow.Plan, (*Studio).findForMenu, false},
		{"GET", urls.Preview, "", workflow.Plan, (*Studio).preview, false},
		{"GET", urls.Trails, "trails", workflow.Plan, (*Studio).trails, false},
		{"GET", urls.Trails + "/:id", "trail", workflow.Plan, (*Studio).trail, false},
		{"POST", urls.Trails + "/:id", "trail", workflow.Plan, (*Studio).saveTrail, false},
		{"POST", urls.Reach + "/item", "reach", workflow.Plan, (*Studio).planItem, false},
		{"GET", urls.Reach, "reach", workflow.Plan, (*Studio).reach, false},
		{"POST", urls.Reach + "/tile", "", workflow.Plan, (*Studio).planTile, false},
		{"POST", urls.Reach + "/visits", "reach", workflow.Plan, (*Studio).bringVisits, false},
		{"GET", urls.Findability, "findability", workflow.Plan, (*Studio).findability, false},
		{"POST", urls.Findability, "findability", workflow.Govern, (*Studio).beginStudy, false},
		{"GET", urls.Findability + "/:id", "study", workflow.Plan, (*Studio).study, false},
		{"POST", urls.Findability + "/:id/drop", "", workflow.Govern, (*Studio).dropStudy, false},
		{"GET", urls.Pages, "inventory", workflow.Write, (*Studio).inventory, false},
		{"GET", urls.Pages + "/:id", "page", workflow.Write, (*Studio).page, false},
		{"POST", urls.Pages + "/:id/save", "", workflow.Write, (*Studio).savePage, false},
		{"POST", urls.Pages + "/:id/lock", "", workflow.Write, (*Studio).lockPage, false},
		{"POST", urls.Pages + "/:id/close", "", workflow.Write, (*Studio).closePage, false},
		{"POST", urls.Pages + "/:id/drop", "", workflow.Write, (*Studio).dropDraft, false},
		{"POST", urls.Pages + "/:id/kept", "", workflow.Write, (*Studio).dropKept, false},
		{"GET", urls.Pages + "/:id/look", "look", workflow.Write, (*Studio).lookPage, false},
		{"GET", urls.Pages + "/:id/source", "", workflow.Write, (*Studio).pageSource, false},
		{"GET", urls.Pages + "/:id/split", "split", workflow.Plan, (*Studio).split, false},
		{"POST", urls.Pages + "/:id/split", "split", workflow.Plan, (*Studio).doSplit, false},
		{"GET", urls.Removed, "removed", workflow.Plan, (*Studio).removed, false},
		{"POST", urls.Removed + "/keep", "removed", workflow.Govern, (*Studio).keepRemoved, false},
		{"POST", urls.Removed + "/delete", "removed", workflow.Govern, (*Studio).deleteRemoved, false},
		{"POST", urls.Removed + "/:id/back", "", workflow.Plan, (*Studio).bringBack, false},
		{"GET", urls.People, "people", workflow.Govern, (*Studio).people, false},
		{"POST", urls.People, "people", workflow.Govern, (*Studio).addPerson, false},
		{"POST", urls.People + "/:id", "people", workflow.Govern, (*Studio).changePerson, false},
		{"POST", urls.People + "/:id/password", "people", workflow.Govern, (*Studio).newPassword, false},
		{"GET", urls.Settings, "settings", workflow.Govern, (*Studio).settings, false},
		{"POST", urls.Settings, "settings", workflow.Govern, (*Studio).saveSettings, false},
		{"GET", urls.Moves, "moves", workflow.Plan, (*Studio).moves, false},
		{"GET", urls.Redirects, "redirects", workflow.Plan, (*Studio).redirects, false},
		{"POST", urls.Releases, "redirects", workflow.Govern, (*Studio).release, false},
		{"POST", urls.Releases + "/keep", "redirects", workflow.Govern, (*Studio).keepAddress, false},
		{"GET", urls.Edition, "edition", workflow.Plan, (*Studio).edition, false},
		{"POST", urls.Choice, "edition", workflow.Plan, (*Studio).choose, false},
		{"POST", urls.Decide, "edition", workflow.Plan, (*Studio).decide, false},
		{"POST", urls.MendLinks, "edition", workflow.Plan, (*Studio).mendLinks, false},
		{"POST", urls.Publish, "", workflow.Plan, (*Studio).publish, false},
		{"GET", urls.Past, "past", workflow.Plan, (*Studio).past, false},
		{"POST", urls.Past + "/:number/rollback", "", workflow.Plan, (*Studio).rollback, false},
		{"GET", urls.Shelf, "outline", workflow.Plan, (*Studio).shelf, false},
	}
}

// Register adds the routes to the engine.
func (s *Studio) Register(e *gin.Engine) {
	for _, begin := range []string{urls.Studio, urls.Studio + "/"} {
		get(e, begin, func(c *gin.Context) { c.Redirect(http.StatusSeeOther, urls.Outline) })
	}
	get(e, urls.Begin, s.adapt(s.beginForm))
	e.POST(urls.Begin, s.adapt(s.begin))
	get(e, urls.Password+"/:token", s.adapt(s.passwordForm))
	e.POST(urls.Password+"/:token", s.adapt(s.setPassword))
	get(e, urls.SignIn, s.adapt(s.signInForm))
	e.POST(urls.SignIn, s.adapt(s.signIn))
	e.POST(urls.SignOut, s.adapt(s.signOut))
	for _, r := range Routes() {
		if r.Method == http.MethodGet {
			get(e, r.Path, s.signedIn(r))
			continue
		}
		e.Handle(r.Method, r.Path, s.signedIn(r))
	}
}

// get answers whoever only asks for the head, too.
func get(e *gin.Engine, path string, h gin.HandlerFunc) {
	e.GET(path, h)
	e.HEAD(path, h)
}

const policy = "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

func secure(h http.Header) {
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cache-Control", "no-store")
}

// What a session holds: who signed in, and when.
const (
	sessionPerson = "person"
	sessionSince  = "since"
)

// PersonOf gives the id of whoever signed in to the session of a context, and when
// they did.
func PersonOf(ctx context.Context, sessions *scs.SessionManager) (id string, since time.Time) {
	return sessions.GetString(ctx, sessionPerson), time.UnixMicro(sessions.GetInt64(ctx, sessionSince)).UTC()
}

// signedIn lets only people in who may do what the route is for.
func (s *Studio) signedIn(r Route) gin.HandlerFunc {
	return s.adapt(func(c *gin.Context) error {
		id, since := PersonOf(c.Request.Context(), s.sessions)
		if id == "" {
			return s.askToSignIn(c)
		}
		who, site, err := s.app.Person(c.Request.Context(), id, since)
		if errors.Is(err, plan.ErrNotFound) {
			return s.askToSignIn(c)
		}
		if err != nil {
			return err
		}
		if !site.Rights.May(who.Role, r.act) {
			return plan.ErrForbidden
		}
		most := int64(usualBody)
		if r.large {
			most = appsitemap.MaxUpload + 1<<20
		}
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		asked := &request{c, who, site}
		if r.large {
			asked.slow()
		}
		return r.handle(s, asked)
	})
}

// usualBody is the most that a request may bring where no file is uploaded.
const usualBody = 12 << 20

// slow gives a request with a large file, or a large answer, more time.
func (r *request) slow() {
	const slowFor = 5 * time.Minute
	c := http.NewResponseController(r.Writer)
	for _, set := range []func(time.Time) error{c.SetReadDeadline, c.SetWriteDeadline} {
		if err := set(time.Now().Add(slowFor)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return // the connection is gone, which shows when it is used
		}
	}
}

func (s *Studio) askToSignIn(c *gin.Context) error {
	if wantsJSON(c.Request) || render.Fragment(c.Request) || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		return errSignedOut
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn+"?to="+c.Request.URL.EscapedPath())
	return nil
}

var errSignedOut = errors.New("you are signed out; sign in again in another tab and come back: nothing here is lost")

func wantsJSON(r *http.Request) bool { return r.Header.Get("Accept") == "application/json" }

// adapt is the one place where errors become statuses.
func (s *Studio) adapt(f func(*gin.Context) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		secure(c.Writer.Header())
		err := f(c)
		if err == nil {
			return
		}
		status, words := s.word(err)
		if status == http.StatusInternalServerError {
			id := border.ID(c.Writer)
			s.log.Error("request failed", "id", id, "method", c.Request.Method, "path", c.Request.URL.Path, "error", err)
			words = fmt.Sprintf("Something went wrong here, not with you. Nothing was changed. If it happens again, tell your site manager the number %s.", id)
		}
		if c.Writer.Written() {
			return
		}
		s.fail(c, status, words, err)
	}
}

func (s *Studio) fail(c *gin.Context, status int, words string, err error) {
	if wantsJSON(c.Request) {
		out := gin.H{"error": words}
		if f := (*plan.Invalid)(nil); errors.As(err, &f) {
			out["field"] = f.Field
		}
		c.JSON(status, out)
		return
	}
	v := problemView{Status: status, Words: words, Back: urls.Outline, BackWords: "Go to the outline"}
	if status == http.StatusForbidden || errors.Is(err, errLinkEnded) {
		v.Back, v.BackWords = "/", "Go to the reader site" // which is open to everybody
	}
	if e := s.set.Write(c.Writer, status, "problem", "plain", v); e != nil {
		http.Error(c.Writer, words, status)
	}
}

type problemView struct {
	Status                 int
	Words, Back, BackWords string
}

// word gives the status and the words of an error for people.
func (s *Studio) word(err error) (int, string) {
	var invalid *plan.Invalid
	var meanwhile *plan.Meanwhile
	var notReady *editions.NotReady
	var conflict *sitemap.ConflictError
	var refused *sitemap.Refused
	switch {
	case errors.As(err, &invalid), errors.As(err, &refused):
		return http.StatusUnprocessableEntity, sentence(err)
	case errors.As(err, &meanwhile):
		return http.StatusConflict, sentence(err)
	case errors.As(err, &notReady):
		return http.StatusConflict, sentence(err)
	case errors.As(err, &conflict):
		return http.StatusConflict, sentence(err) + " It stays as it is."
	case errors.Is(err, sitemap.ErrNoEntry), errors.As(err, new(*editions.Moved)):
		return http.StatusConflict, sentence(err)
	case errors.Is(err, errLinkEnded):
		return http.StatusNotFound, sentence(err)
	case errors.Is(err, plan.ErrNotFound):
		return http.StatusNotFound, "There is nothing here (any more)."
	case errors.Is(err, plan.ErrForbidden), errors.Is(err, editions.ErrOwnWork):
		return http.StatusForbidden, sentence(err)
	case errors.Is(err, errSignedOut):
		return http.StatusUnauthorized, sentence(err)
	case errors.Is(err, account.ErrSignIn):
		return http.StatusUnauthorized, "Name or password is not right."
	case errors.As(err, new(*account.TooSoon)):
		return http.StatusTooManyRequests, sentence(err)
	case errors.Is(err, account.ErrBusy):
		return http.StatusServiceUnavailable, sentence(err)
	case errors.Is(err, plan.ErrNothing), errors.Is(err, plan.ErrDone), errors.Is(err, redirect.ErrTable):
		return http.StatusConflict, sentence(err)
	case isEdit(err):
		return http.StatusUnprocessableEntity, sentence(err)
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

// sentence makes an error's text a sentence.
func sentence(err error) string {
	t := []rune(err.Error())
	if len(t) == 0 {
		return ""
	}
	if t[0] >= 'a' && t[0] <= 'z' {
		t[0] -= 'a' - 'A'
	}
	if last := t[len(t)-1]; last != '.' && last != '?' && last != '!' {
		t = append(t, '.')
	}
	return string(t)
}

// show renders a screen: the full page, or only the screen for htmx.
func (s *Studio) show(r *request, status int, screen string, view any) error {
	block := "layout"
	if render.Fragment(r.Request) {
		block = "screen"
	}
	return s.set.Write(r.Writer, status, screen, block, view)
}

func (r *request) json(into any) error {
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

func (r *request) ctx() context.Context { return r.Request.Context() }

// moment is how times are shown; a script turns them into the viewer's zone.
type moment struct{ ISO, Words string }

func at(t time.Time) moment {
	if t.IsZero() {
		return moment{}
	}
	return moment{t.UTC().Format(time.RFC3339), t.UTC().Format("2 Jan 2006, 15:04") + " UTC"}
}
