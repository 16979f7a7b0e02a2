package addresses

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
)

// OlderImport is the list of an older site on its way in.
type OlderImport struct {
	ID, PersonID   string
	At             time.Time
	FileName, Host string
	State          OlderState
	Percent        int    // of the file that is read
	Said           string // what became of it
}

// OlderState is how far a list is.
type OlderState string

// The states.
const (
	OlderReading OlderState = "reading"
	OlderWriting OlderState = "writing"
	OlderDone    OlderState = "done"
	OlderRefused OlderState = "refused"
)

// Ended tells whether nothing more becomes of it.
func (i OlderImport) Ended() bool { return i.State == OlderDone || i.State == OlderRefused }

// ReadOlder reads the list of an older site; files provides it. What cannot be read is told
// by an error that is a sentence for people.
type ReadOlder func(name string, r io.Reader) (*match.List, error)

const (
	olderLook  = 50 * time.Millisecond
	olderSoon  = 3 * time.Second // no notice tells of what takes no longer
	olderKey   = "older/"        // in the storage of files
	olderEvery = time.Second / 2 // the progress is noted
	olderStays = 24 * time.Hour  // what became of a list can be seen
)

// PutOlder keeps the list of an older site, which a job then reads and imports. Addresses of
// which the list does not tell the host are those of the host given.
func (a *Addresses) PutOlder(ctx context.Context, who plan.Person, name, host string, list io.Reader) (id string, err error) {
	if host, err = hostOf(host); err != nil {
		return "", err
	}
	i := OlderImport{ID: plan.NewID(), PersonID: who.ID, At: a.Now(), FileName: name, Host: host, State: OlderReading}
	if err := a.Objects.Put(ctx, olderKey+i.ID, list); err != nil {
		return "", err
	}
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		if err := tx.PutOlderImport(ctx, i); err != nil {
			return err
		}
		return tx.Enqueue(ctx, plan.Job{Kind: plan.JobReadOlder, ID: i.ID})
	})
	if err != nil {
		err = errors.Join(err, a.Objects.Delete(ctx, olderKey+i.ID))
	}
	return i.ID, err
}

// OlderImport tells how far a list is.
func (a *Addresses) OlderImport(ctx context.Context, who plan.Person, id string) (i OlderImport, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		i, err = tx.OlderImport(ctx, id)
		return err
	})
	return i, err
}

// AwaitOlder waits a little for a list, which most are short enough for, and tells how far it is.
func (a *Addresses) AwaitOlder(ctx context.Context, who plan.Person, id string) (i OlderImport, err error) {
	until := time.Now().Add(olderSoon)
	for {
		if i, err = a.OlderImport(ctx, who, id); err != nil || i.Ended() || time.Now().After(until) {
			return i, err
		}
		select {
		case <-ctx.Done():
			return i, ctx.Err()
		case <-time.After(olderLook):
		}
	}
}

// ReadOlder reads a kept list and takes it up, and tells who brought it. Where it ends before it is through, it can begin again.
func (a *Addresses) ReadOlder(ctx context.Context, id string, read ReadOlder) error {
	var i OlderImport
	var who plan.Person
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) (err error) {
		if i, err = tx.OlderImport(ctx, id); err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		who = people[i.PersonID]
		return err
	})
	if errors.Is(err, plan.ErrNotFound) || err == nil && i.Ended() {
		return a.Objects.Delete(ctx, olderKey+id)
	}
	if err != nil {
		return err
	}
	done, err := a.readOlder(ctx, who, i, read)
	invalid := (*plan.Invalid)(nil)
	switch {
	case errors.As(err, &invalid):
		i.State, i.Said = OlderRefused, invalid.Message
	case err != nil:
		return err // it is tried again
	default:
		i.State, i.Percent, i.Said = OlderDone, 100, done.Words()
	}
	i.Host = cmp.Or(done.Host, i.Host)
	if err := a.endOlder(ctx, i); err != nil {
		return err
	}
	return a.Objects.Delete(ctx, olderKey+id)
}

// GiveUpOlder ends the import of a list whose job will not be tried again.
func (a *Addresses) GiveUpOlder(ctx context.Context, id string) error {
	var i OlderImport
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) (err error) {
		i, err = tx.OlderImport(ctx, id)
		return err
	})
	if errors.Is(err, plan.ErrNotFound) || err == nil && i.Ended() {
		return nil
	}
	if err != nil {
		return err
	}
	i.State, i.Said = OlderRefused, "The list could not be read: Candle Path stopped while it was reading it. Split it and import the parts."
	if err := a.endOlder(ctx, i); err != nil {
		return err
	}
	return a.Objects.Delete(ctx, olderKey+id)
}

// endOlder notes what became of a list, and tells who brought it.
func (a *Addresses) endOlder(ctx context.Context, i OlderImport) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.SetOlderImport(ctx, i); err != nil {
			return err
		}
		if a.Now().Sub(i.At) < olderSoon {
			return nil // who brought it still looks at it
		}
		return tx.Notify(ctx, []plan.Notice{{PersonID: i.PersonID, Kind: plan.NoticeOlder, Subject: i.Host, At: a.Now(), Words: i.FileName + ": " + i.Said}})
	})
}

func (a *Addresses) readOlder(ctx context.Context, who plan.Person, i OlderImport, read ReadOlder) (ImportedOlder, error) {
	held, size, err := a.Objects.Get(ctx, olderKey+i.ID)
	if errors.Is(err, fs.ErrNotExist) {
		return ImportedOlder{}, plan.Refuse("file", "The file is not there any more. Import it again.")
	}
	if err != nil {
		return ImportedOlder{}, err
	}
	defer held.Close()
	note := func(state OlderState, percent int) {
		i.State, i.Percent = state, percent
		_ = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.SetOlderImport(ctx, i) }) // progress only
	}
	list, err := read(i.FileName, &watched{r: held, ctx: ctx, size: size, told: time.Now(), tell: func(percent int) { note(OlderReading, percent) }})
	if ctx.Err() != nil {
		return ImportedOlder{}, ctx.Err()
	}
	if err != nil {
		return ImportedOlder{}, plan.Refuse("file", sentence(err))
	}
	note(OlderWriting, 100)
	return a.ImportOlder(ctx, who, list, i.Host)
}

// sentence makes an error of a reader one.
func sentence(err error) string {
	s := strings.TrimSuffix(err.Error(), ".")
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// watched is a file that ends with its context, and tells how much of it was read.
type watched struct {
	r          io.Reader
	ctx        context.Context
	size, done int64
	told       time.Time
	tell       func(percent int)
}

func (w *watched) Read(p []byte) (int, error) {
	if err := w.ctx.Err(); err != nil {
		return 0, err
	}
	n, err := w.r.Read(p)
	if w.done += int64(n); time.Since(w.told) > olderEvery {
		w.told = time.Now()
		w.tell(int(w.done * 100 / max(w.size, 1)))
	}
	return n, err
}

// Words says it.
func (d ImportedOlder) Words() string {
	said := fmt.Sprintf("%s read: %d new.", counted(d.Fresh+d.Known, "address was", "addresses were"), d.Fresh)
	if d.Carried > 0 {
		said += fmt.Sprintf(" %s to the pages that were carried from there.", counted(d.Carried, "leads", "lead"))
	}
	if n := len(d.Refused); n > 0 {
		said += fmt.Sprintf(" %s left out; the first is line %d, %s: %s.", counted(n, "line was", "lines were"), d.Refused[0].Line, d.Refused[0].Text, d.Refused[0].Of)
	}
	return said
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// SweepOlder deletes files of lists of which nothing more becomes.
func (a *Addresses) SweepOlder(ctx context.Context) error {
	return a.Objects.Older(ctx, a.Now().Add(-olderStays), func(key string) error {
		if !strings.HasPrefix(key, olderKey) {
			return nil
		}
		return a.Objects.Delete(ctx, key)
	})
}
