package shell

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/platform/background"
)

// Live tells the windows of the studio what others do, by server-sent events: one connection a
// window. It keeps nothing but who is connected to this instance; what is told comes from the
// database, and every instance is told of it there.
type Live struct {
	app  liveApp
	work *background.Group

	mu      sync.Mutex
	windows map[string]*window
	waiting map[string]bool // what is told in a moment
	ended   chan struct{}
	end     sync.Once
}

// liveApp is what it asks for.
type liveApp interface {
	Come(ctx context.Context, who plan.Person, windows ...account.Window) error
	Leave(ctx context.Context, who plan.Person, ids []string) error
	StillOpen(ctx context.Context, ids []string) error
	WhoIsHere(ctx context.Context) ([]account.Here, error)
	SiteNow(ctx context.Context) (plan.Site, error)
}

// window is a connection. What it is told last of a kind is all that counts, so a slow one misses
// nothing that matters.
type window struct {
	id, person string
	wake       chan struct{}
	over       chan struct{} // closed when the window has another connection
	mu         sync.Mutex
	news       map[string]string // by event
}

const (
	mostWindows   = 2000 // of an instance
	mostOfPerson  = 20
	mostOfBrowser = 100
	liveFor       = 10 * time.Minute // then a window connects again, and is asked again who it is
	alive         = 20 * time.Second
	tellAfter     = 150 * time.Millisecond // so that many acts at a time are told once
)

// NewLive makes it.
func NewLive(app liveApp, work *background.Group) *Live {
	return &Live{app: app, work: work, windows: map[string]*window{}, waiting: map[string]bool{}, ended: make(chan struct{})}
}

// End ends all connections, so that the program may.
func (l *Live) End() { l.end.Do(func() { close(l.ended) }) }

// Watch tells that the windows are open still, until the context ends.
func (l *Live) Watch(ctx context.Context) error {
	tick := time.NewTicker(alive)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-tick.C:
			if ids := l.ids(); len(ids) > 0 {
				_ = l.app.StillOpen(ctx, ids) // the next time tells
			}
		}
	}
}

// Connections counts those that are open.
func (l *Live) Connections() int { return len(l.ids()) }

func (l *Live) ids() (ids []string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for id := range l.windows {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return ids
}

// Announced takes up what was announced: "plan", "here", or "lock" and an entry.
func (l *Live) Announced(ctx context.Context, what string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.windows) == 0 || l.waiting[what] {
		return
	}
	l.waiting[what] = true
	time.AfterFunc(tellAfter, func() {
		l.mu.Lock()
		delete(l.waiting, what)
		l.mu.Unlock()
		_ = l.work.Run("tell windows", func() error { l.tell(ctx, what); return nil }) // a panic is noted
	})
}

func (l *Live) tell(ctx context.Context, what string) {
	event, data, err := l.news(ctx, what)
	if err != nil {
		return // the next announcement tells; windows look by themselves, too
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, w := range l.windows {
		w.say(event, data)
	}
}

// news gives what windows are told.
func (l *Live) news(ctx context.Context, what string) (event, data string, err error) {
	if entry, ok := strings.CutPrefix(what, "lock "); ok {
		return "lock", jsonOf(entry), nil
	}
	if what == "plan" {
		s, err := l.app.SiteNow(ctx)
		return "plan", fmt.Sprintf(`{"version":%d,"edition":%d}`, s.PlanVersion, s.Edition), err
	}
	list, err := l.app.WhoIsHere(ctx)
	return "here", hereJSON(list), err
}

func hereJSON(list []account.Here) string {
	type line struct {
		Person string `json:"person"`
		Name   string `json:"name"`
		Window string `json:"window,omitempty"`
		Screen string `json:"screen"`
		Entry  string `json:"entry,omitempty"`
		Since  string `json:"since"`
		Writes bool   `json:"writes,omitempty"`
	}
	lines := make([]line, len(list))
	for i, h := range list {
		lines[i] = line{h.Person, h.Name, h.Window, h.Screen, h.Entry, h.Since.UTC().Format(time.RFC3339), h.Writes}
	}
	return jsonOf(lines)
}

func jsonOf(v any) string {
	b, _ := json.Marshal(v)
	return string(b)
}

func (w *window) say(event, data string) {
	w.mu.Lock()
	w.news[event] = data
	w.mu.Unlock()
	select {
	case w.wake <- struct{}{}:
	default:
	}
}

func (w *window) take() map[string]string {
	w.mu.Lock()
	defer w.mu.Unlock()
	news := w.news
	w.news = map[string]string{}
	return news
}

// errFull says that a window has to do without.
var errFull = errors.New("too many windows are open")

func (l *Live) open(id, person string) (*window, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	before := l.windows[id]
	if before != nil && before.person != person {
		return nil, errFull // nobody else opens it
	}
	own := 0
	for _, w := range l.windows {
		if w.person == person && w != before {
			own++
		}
	}
	if own >= mostOfPerson || len(l.windows) >= mostWindows {
		return nil, errFull
	}
	if before != nil {
		close(before.over) // one connection a window
	}
	w := &window{id: id, person: person, wake: make(chan struct{}, 1), over: make(chan struct{}), news: map[string]string{}}
	l.windows[id] = w
	return w, nil
}

// close ends a connection. The window may have another by now.
func (l *Live) close(w *window) (gone bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if gone = l.windows[w.id] == w; gone {
		delete(l.windows, w.id)
	}
	return gone
}

var (
	windowID   = regexp.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)
	screenName = regexp.MustCompile(`^[a-z-]{0,20}$`)
)

// place reads where a window is.
func place(r *Request, id, screen, entry string) (account.Window, error) {
	if !windowID.MatchString(id) || !screenName.MatchString(screen) || len(entry) > 100 {
		return account.Window{}, plan.ErrNotFound
	}
	return account.Window{ID: id, Screen: screen, Entry: entry}, nil
}

// live is the connection of a window.
func (s *Shell) live(r *Request) error {
	at, err := place(r, r.Query("window"), r.Query("screen"), r.Query("entry"))
	if err != nil {
		return err
	}
	if r.Request.Method == http.MethodHead {
		return nil
	}
	w, err := s.Live.open(at.ID, r.Who.ID)
	if err != nil {
		r.Header("Retry-After", "60")
		r.Status(http.StatusServiceUnavailable)
		return nil
	}
	ctx, shared := r.Ctx(), r.Query("shared") != "" // by windows that say themselves where they are
	defer func() {
		if s.Live.close(w) && !shared {
			_ = s.App.Leave(context.WithoutCancel(ctx), r.Who, []string{w.id}) // else it is forgotten after a while
		}
	}()
	if !shared {
		if err := s.App.Come(ctx, r.Who, at); err != nil {
			return err
		}
	}
	r.Header("Content-Type", "text/event-stream; charset=utf-8")
	r.Header("Cache-Control", "no-store")
	r.Header("X-Accel-Buffering", "no")
	for _, what := range []string{"plan", "here"} {
		event, data, err := s.Live.news(ctx, what)
		if err != nil {
			return err
		}
		w.say(event, data)
	}
	return w.send(ctx, r.Writer, s.Live.ended)
}

// send writes what a window is told, until it is closed or its time is over.
func (w *window) send(ctx context.Context, out http.ResponseWriter, ended <-chan struct{}) error {
	c := http.NewResponseController(out)
	if err := c.SetReadDeadline(time.Time{}); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return nil // the connection is gone
	}
	over, beat := time.NewTimer(liveFor), time.NewTicker(alive)
	defer over.Stop()
	defer beat.Stop()
	text := "retry: 2000\n\n"
	for {
		if err := c.SetWriteDeadline(time.Now().Add(10 * time.Second)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return nil // the connection is gone
		}
		if _, err := out.Write([]byte(text)); err != nil {
			return nil
		}
		if err := c.Flush(); err != nil {
			return nil
		}
		text = ""
		select {
		case <-ctx.Done():
			return nil
		case <-ended:
			return nil
		case <-w.over:
			return nil
		case <-over.C:
			return nil
		case <-beat.C:
			text = ": still here\n\n"
		case <-w.wake:
		}
		for event, data := range w.take() {
			text += "event: " + event + "\ndata: " + data + "\n\n"
		}
	}
}

// liveAt notes where windows are, which is their sign of life as well, and which were closed.
func (s *Shell) liveAt(r *Request) error {
	var f struct {
		Windows []struct{ Window, Screen, Entry string }
		Gone    []string
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	if len(f.Windows) > mostOfBrowser || len(f.Gone) > mostOfBrowser {
		return plan.ErrNotFound
	}
	var windows []account.Window
	for _, w := range f.Windows {
		at, err := place(r, w.Window, w.Screen, w.Entry)
		if err != nil {
			return err
		}
		windows = append(windows, at)
	}
	r.Status(http.StatusNoContent)
	if len(f.Gone) > 0 {
		if err := s.App.Leave(r.Ctx(), r.Who, f.Gone); err != nil {
			return err
		}
	}
	return s.App.Come(r.Ctx(), r.Who, windows...)
}
