package workflow

import (
	"time"
)

// TryWindow is how long a failed try to sign in counts.
const TryWindow = time.Hour

// Tries are the tries to sign in of late that failed or still run, and when the
// last of each sort was. A known browser is one in which the same person signed
// in before.
type Tries struct {
	Pair, Login, Host, Browser int // for this name from this client; this name; this client; in this known browser
	LastPair, LastLogin        time.Time
	LastHost, LastBrowser      time.Time
}

// How many tries are free, and how the wait grows then.
const (
	freePair, mostPair       = 5, 10 * time.Minute
	freeBrowser, mostBrowser = 8, time.Minute
	freeHost, mostHost       = 40, 30 * time.Second
	freeLogin, mostLogin     = 40, 10 * time.Second
)

// Wait tells how long the next try has to wait: zero where it need not. Nobody is
// shut out by what others try: whoever tries a name from one client is slowed
// down more and more, everybody together a little, and a known browser only by
// its own tries.
func (t Tries) Wait(now time.Time, known bool) time.Duration {
	if known {
		return left(t.Browser, freeBrowser, mostBrowser, t.LastBrowser, now)
	}
	return max(
		left(t.Pair, freePair, mostPair, t.LastPair, now),
		left(t.Host, freeHost, mostHost, t.LastHost, now),
		left(t.Login, freeLogin, mostLogin, t.LastLogin, now),
	)
}

// left is what is left of the pause after the last of n tries: a second, and
// twice as long after each further one.
func left(n, free int, most time.Duration, last, now time.Time) time.Duration {
	if n < free {
		return 0
	}
	pause := most
	if k := n - free; k < 20 {
		pause = min(time.Second<<k, most)
	}
	return max(0, last.Add(pause).Sub(now))
}
