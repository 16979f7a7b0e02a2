package editions

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/markup"
)

// EditionExport is an edition that a job writes out as a .zip, because nobody should wait for it. A
// person has one at a time; it is kept for a day.
type EditionExport struct {
	ID, PersonID string
	Edition      int
	As           string // login or role as whom it is read; empty: what everybody may read
	State        LargeState
	Done, Total  int // pages
	Bytes        int64
	Problem      string
	At           time.Time
	Readers      []readership.Reader // as whom it is read and who exports, as they were when it was begun
}

// Key is its name in the storage of files.
func (x EditionExport) Key() string { return exportPrefix + x.ID + ".zip" }

// Ends is when it is not kept any more.
func (x EditionExport) Ends() time.Time { return x.At.Add(exportsKept) }

const exportsKept = 24 * time.Hour

// ExportOutput is where an export is written to.
type ExportOutput struct {
	To       io.Writer // gets the .zip
	Parts    *ExportParts
	Progress func(done, total int) // is told how many of all pages are done
}

// WriteExport writes a state of the site as a .zip.
type WriteExport func(ctx context.Context, st plan.SiteState, as string, out ExportOutput) error

// BeginExport has an edition written out, as somebody may read it. What the person exported before
// is not kept any more; while that is being written, they wait for it.
func (a *Editions) BeginExport(ctx context.Context, who plan.Person, number, as string) (id string, err error) {
	st, err := a.StateOf(ctx, who, number)
	if err != nil {
		return "", err
	}
	if st.Planned {
		return "", plan.ErrNotFound
	}
	x := EditionExport{ID: plan.NewID(), PersonID: who.ID, Edition: st.Site.Edition, As: as, State: LargeWaiting, At: a.Now()}
	var before []EditionExport
	err = a.Store.Write(ctx, func(tx Tx, _ plan.Site) error {
		r, err := plan.ReaderCalled(ctx, tx, as)
		if err != nil {
			return err
		}
		x.Readers = []readership.Reader{r, who.Reader()}
		if before, err = tx.EditionExportsOf(ctx, who.ID); err != nil {
			return err
		}
		for _, b := range before {
			if b.State == LargeWaiting && b.Ends().After(a.Now()) {
				if x.ID = b.ID; b.Edition == x.Edition && b.As == as {
					return nil
				}
				return plan.Refuse("of", fmt.Sprintf("You are already exporting edition %d. Wait until it finishes.", b.Edition))
			}
			if err := tx.DropEditionExport(ctx, b.ID); err != nil {
				return err
			}
		}
		if err := tx.PutEditionExport(ctx, x); err != nil {
			return err
		}
		return tx.Enqueue(ctx, plan.Job{Kind: plan.JobExport, ID: x.ID})
	})
	if err != nil {
		return "", err
	}
	for _, b := range before {
		if b.ID != x.ID {
			err = errors.Join(err, a.Objects.Delete(ctx, b.Key()))
		}
	}
	return x.ID, err
}

// EditionExport tells how far an export is; only to who began it.
func (a *Editions) EditionExport(ctx context.Context, who plan.Person, id string) (x EditionExport, err error) {
	err = a.Store.Read(ctx, func(tx Tx, _ plan.Site) error {
		if x, err = tx.EditionExport(ctx, id); err == nil && x.PersonID != who.ID {
			err = plan.ErrNotFound
		}
		return err
	})
	return x, err
}

// OpenExport opens the file of an export that is written.
func (a *Editions) OpenExport(ctx context.Context, who plan.Person, id string) (EditionExport, io.ReadCloser, error) {
	x, err := a.EditionExport(ctx, who, id)
	if err == nil && x.State != LargeOut {
		err = plan.ErrNotFound
	}
	if err != nil {
		return x, nil, err
	}
	body, _, err := a.Objects.Get(ctx, x.Key())
	return x, body, err
}

// WriteOut writes an edition out, as its job. A job that is cut off goes on with the parts that are not
// written yet.
func (a *Editions) WriteOut(ctx context.Context, id string, write WriteExport) error {
	var x EditionExport
	var who plan.Person
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) (err error) {
		if x, err = tx.EditionExport(ctx, id); err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		who = people[x.PersonID]
		return err
	})
	if errors.Is(err, plan.ErrNotFound) || err == nil && x.State != LargeWaiting {
		return nil
	}
	if err != nil {
		return err
	}
	parts := &ExportParts{objects: a.Objects, id: x.ID}
	err = a.writeOut(ctx, who, &x, parts, write)
	if ctx.Err() != nil {
		return ctx.Err() // the program ends, and goes on when it begins again
	}
	dropErr := parts.drop(ctx)
	if errors.Is(err, errStopped) {
		return dropErr
	}
	x.State = LargeOut
	words := fmt.Sprintf("Edition %d is ready to download until %s.", x.Edition, x.Ends().Format("2 January, 15:04 UTC"))
	if err != nil {
		x.State, x.Problem = LargeStopped, "It could not be written. Try again. If this continues, tell your administrator, who finds the reason under Background jobs."
		words = fmt.Sprintf("Edition %d could not be exported.", x.Edition)
		err = errors.Join(plan.ErrGivenUp, err)
	}
	return errors.Join(err, dropErr, a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.EndEditionExport(ctx, x); err != nil {
			return err
		}
		return tx.Notify(ctx, []plan.Notice{{PersonID: x.PersonID, Kind: plan.NoticeExport, Subject: x.ID, At: a.Now(), Words: words}})
	}))
}

// writeOut writes to a file first: the storage gets it whole, or not at all.
func (a *Editions) writeOut(ctx context.Context, who plan.Person, x *EditionExport, parts *ExportParts, write WriteExport) (err error) {
	st, err := a.EditionState(ctx, who, x.Edition)
	if err != nil {
		return err
	}
	st.Only = append(slices.Clone(x.Readers), who.Reader())
	parts.of = fmt.Sprint(st.Key, st.Site.Work.Of(plan.PartEditions, plan.PartPeople, plan.PartFiles), st.Only, markup.Build())
	out, err := os.CreateTemp("", "export-*.zip")
	if err != nil {
		return fmt.Errorf("export an edition: %w", err)
	}
	defer func() { err = errors.Join(err, out.Close()) }()
	if err := os.Remove(out.Name()); err != nil { // it has no name from here on, so that nothing is left behind if the program is killed
		return fmt.Errorf("export an edition: %w", err)
	}
	within, end := context.WithCancelCause(ctx)
	defer end(nil)
	told := time.Time{}
	err = write(within, st, x.As, ExportOutput{To: out, Parts: parts, Progress: func(done, total int) {
		if now := time.Now(); now.Sub(told) > time.Second/2 {
			told = now
			_ = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { // the next one tells
				waits, err := tx.EditionExportProgress(ctx, x.ID, done, total)
				if err == nil && !waits {
					end(errStopped)
				}
				return err
			})
		}
		x.Done, x.Total = done, total
	}})
	if errors.Is(context.Cause(within), errStopped) {
		return errStopped
	}
	if err != nil {
		return err
	}
	if x.Bytes, err = out.Seek(0, io.SeekEnd); err != nil {
		return err
	}
	if _, err := out.Seek(0, io.SeekStart); err != nil {
		return err
	}
	return a.Objects.Put(ctx, x.Key(), out)
}

// errStopped says that the person who wanted something stopped it.
var errStopped = errors.New("stopped by the person")

// StopExport stops an export that one began. It is not tried again.
func (a *Editions) StopExport(ctx context.Context, who plan.Person, id string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		x, err := tx.EditionExport(ctx, id)
		if err == nil && x.PersonID != who.ID {
			err = plan.ErrNotFound
		}
		if err != nil {
			return err
		}
		x.State, x.Problem = LargeStopped, "You stopped it."
		return tx.EndEditionExport(ctx, x)
	})
}

// GiveUpExport frees the person of an export that will not be tried again.
func (a *Editions) GiveUpExport(ctx context.Context, id string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		x, err := tx.EditionExport(ctx, id)
		if errors.Is(err, plan.ErrNotFound) || err == nil && x.State != LargeWaiting {
			return nil
		}
		if err != nil {
			return err
		}
		x.State, x.Problem = LargeStopped, "It could not be written. Try again. If this continues, tell your administrator, who finds the reason under Background jobs."
		if err := tx.EndEditionExport(ctx, x); err != nil {
			return err
		}
		return tx.Notify(ctx, []plan.Notice{{PersonID: x.PersonID, Kind: plan.NoticeExport, Subject: x.ID, At: a.Now(), Words: fmt.Sprintf("Edition %d could not be exported.", x.Edition)}})
	})
}

// SweepExports deletes exports that are over.
func (a *Editions) SweepExports(ctx context.Context) error {
	var over []EditionExport
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) (err error) {
		over, err = tx.EditionExportsBefore(ctx, a.Now().Add(-exportsKept))
		return err
	})
	err = errors.Join(err, sweepExportParts(ctx, a.Objects, a.Now().Add(-exportsKept)))
	for _, x := range over {
		if err == nil {
			err = a.Objects.Delete(ctx, x.Key())
		}
		if err == nil {
			err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.DropEditionExport(ctx, x.ID) })
		}
	}
	return err
}
