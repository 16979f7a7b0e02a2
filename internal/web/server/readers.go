package server

import (
	"net/http"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"

	"candlepath/internal/app"
	"candlepath/internal/core/readership"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// readers names who reads, from the session of the studio. What it found out it
// keeps for a moment, so that neither somebody who is signed in nor a cookie that
// means nothing asks the database for every page.
type readers struct {
	app      *app.App
	sessions *scs.SessionManager

	mu    sync.RWMutex
	known map[string]knownReader
	round int // counts how often all was forgotten
}

type knownReader struct {
	readership.Reader
	until time.Time
}

const (
	readerKept  = 5 * time.Second
	mostReaders = 10_000
	tokenLength = 43 // 32 bytes in base64
)

func newReaders(a *app.App, sessions *scs.SessionManager) *readers {
	return &readers{app: a, sessions: sessions, known: map[string]knownReader{}}
}

// of gives the reader of a request; the zero one if nobody is signed in.
func (k *readers) of(r *http.Request) readership.Reader {
	name := k.sessions.Cookie.Name
	if urls.Scheme(r) == "https" {
		name = secureName(name)
	}
	token := sessionToken(r, name)
	if token == "" {
		return readership.Reader{}
	}
	now := time.Now()
	k.mu.RLock()
	kept, ok := k.known[token]
	round := k.round
	k.mu.RUnlock()
	if ok && now.Before(kept.until) {
		return kept.Reader
	}
	reader, err := k.ask(r, token)
	if err != nil {
		return readership.Reader{}
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.round == round { // else it may be another by now
		if len(k.known) >= mostReaders {
			clear(k.known)
		}
		k.known[token] = knownReader{reader, now.Add(readerKept)}
	}
	return reader
}

func (k *readers) ask(r *http.Request, token string) (readership.Reader, error) {
	ctx, err := k.sessions.Load(r.Context(), token)
	if err != nil {
		return readership.Reader{}, err
	}
	id, since := shell.PersonOf(ctx, k.sessions)
	if id == "" {
		return readership.Reader{}, nil
	}
	p, _, err := k.app.Person(ctx, id, since)
	if err != nil {
		return readership.Reader{}, err
	}
	return p.Reader(), nil
}

// forget makes everybody be asked for anew.
func (k *readers) forget() {
	k.mu.Lock()
	defer k.mu.Unlock()
	clear(k.known)
	k.round++
}

// sessionToken gives the token of a session as a cookie holds it, if it looks like
// one.
func sessionToken(r *http.Request, name string) string {
	if len(r.Header["Cookie"]) == 0 {
		return ""
	}
	c, err := r.Cookie(name)
	if err != nil || len(c.Value) != tokenLength {
		return ""
	}
	for i := range len(c.Value) {
		switch b := c.Value[i]; {
		case 'a' <= b && b <= 'z', 'A' <= b && b <= 'Z', '0' <= b && b <= '9', b == '-', b == '_':
		default:
			return ""
		}
	}
	return c.Value
}
