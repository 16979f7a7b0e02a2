package sitemap

import (
	"bytes"
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/platform/background"
)

// MaxUpload is the largest file that is taken.
const MaxUpload = 64 << 20

// ReadSheet reads a sitemap file until the context ends; files provides it.
type ReadSheet func(ctx context.Context, name string, r io.Reader, progress func(rows int)) (*sheet.Sheet, error)

// How many files are read at a time, and how long reading one may take.
const (
	readAtOnce  = 2
	longestRead = 2 * time.Minute
)

// readAside reads a file beside whoever asks, so that a reader that does not come
// to an end is given up. It waits until few enough are read at a time.
func (a *Sitemap) readAside(ctx context.Context, b Import, read ReadSheet, progress func(int)) (*sheet.Sheet, error) {
	select {
	case a.reading <- struct{}{}:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	within, cancel := context.WithTimeout(ctx, longestRead)
	defer cancel()
	type outcome struct {
		given *sheet.Sheet
		err   error
	}
	done := make(chan outcome, 1)
	go func() {
		defer func() { <-a.reading }()
		var out outcome
		func() {
			defer background.Recovered(&out.err)
			out.given, out.err = read(within, b.FileName, bytes.NewReader(b.Data), progress)
		}()
		done <- out
	}()
	select {
	case out := <-done:
		if out.err == nil || within.Err() == nil {
			return out.given, out.err
		}
	case <-within.Done():
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return nil, &sheet.Refused{Problem: fmt.Sprintf("reading it took more than %d minutes", int(longestRead.Minutes())), Advice: "split the file"}
}

// PutFile keeps an uploaded file, which a job then reads.
func (a *Sitemap) PutFile(ctx context.Context, who plan.Person, name string, data []byte) (string, error) {
	return a.keepFile(ctx, who, name, data, func(tx Tx, id string) error {
		return tx.Enqueue(ctx, plan.Job{Kind: plan.JobReadFile, ID: id})
	})
}

// KeepFile keeps a file that the caller reads, by ReadFile.
func (a *Sitemap) KeepFile(ctx context.Context, who plan.Person, name string, data []byte) (string, error) {
	return a.keepFile(ctx, who, name, data, func(Tx, string) error { return nil })
}

func (a *Sitemap) keepFile(ctx context.Context, who plan.Person, name string, data []byte, kept func(Tx, string) error) (string, error) {
	b := Import{ID: plan.NewID(), PersonID: who.ID, At: a.Now(), FileName: name, Data: data, State: ImportReading, Mode: string(sheet.Below), Texts: true}
	return b.ID, a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if err := tx.PutImport(ctx, b); err != nil {
			return err
		}
		return kept(tx, b.ID)
	})
}

// ReadFile reads a kept file to its end, telling how far it got. It writes
// nothing to the plan.
func (a *Sitemap) ReadFile(ctx context.Context, id string, read ReadSheet) error {
	b, err := a.loadImport(ctx, id, true)
	if err != nil || b.State != ImportReading {
		return err
	}
	given, err := a.readAside(ctx, b, read, func(rows int) {
		_, _ = a.setImport(ctx, id, ImportReading, ImportStep{State: ImportReading, Done: rows}) // progress only
	})
	if refused := (*sheet.Refused)(nil); errors.As(err, &refused) {
		_, err = a.setImport(ctx, id, ImportReading, ImportStep{State: ImportRefused, Message: b.FileName + ": " + refused.Error() + "."})
		return err
	}
	if ctx.Err() != nil {
		return ctx.Err() // the program ends; it is read when it begins again
	}
	if err != nil {
		_, told := a.setImport(ctx, id, ImportReading, ImportStep{State: ImportFailed, Message: "The file could not be read. Nothing was changed."})
		return errors.Join(plan.ErrGivenUp, err, told)
	}
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		still, err := tx.SetImport(ctx, id, ImportReading, ImportStep{State: ImportReady, Total: given.Tree.Len(), At: a.Now()})
		if err != nil || !still {
			return err // somebody else read it, too
		}
		return tx.SetSheet(ctx, id, packSheet(given))
	})
}

// GiveUpImport ends an import whose job will not be tried again, so that nobody waits for it.
func (a *Sitemap) GiveUpImport(ctx context.Context, id string) error {
	for state, message := range map[string]string{
		ImportReading: "The file could not be read: Candle Path stopped while it was reading it. Nothing was changed. If this happens again, save the file as .csv.",
		ImportTexts:   "The entries are in the plan; some of their texts could not be read.",
	} {
		if _, err := a.setImport(ctx, id, state, ImportStep{State: ImportFailed, Message: message}); err != nil && !errors.Is(err, plan.ErrNotFound) {
			return err
		}
	}
	return nil
}

// keptSheet is a sheet as it is kept beside its file.
type keptSheet struct {
	Entries  []sitemap.Entry
	Line     []int
	Given    []bool
	Has      map[string]bool
	Findings []check.Finding
}

func packSheet(s *sheet.Sheet) []byte {
	var b bytes.Buffer
	if err := gob.NewEncoder(&b).Encode(keptSheet{s.Tree.Entries(), s.Line, s.Given, s.Has, s.Findings}); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// sheetOf is what a file was understood as, with the addresses that were chosen.
func sheetOf(b Import) (*sheet.Sheet, error) {
	var k keptSheet
	if err := gob.NewDecoder(bytes.NewReader(b.Sheet)).Decode(&k); err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	t, err := sitemap.New(k.Entries)
	if err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	s := &sheet.Sheet{Tree: t, Line: k.Line, Given: k.Given, Has: k.Has, Findings: k.Findings}
	if b.Follow {
		return s.FollowTree()
	}
	return s, nil
}
