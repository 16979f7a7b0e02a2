package sitemap

import (
	"bytes"
	"cmp"
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// States of a file on its way in.
const (
	BringReading = "reading"
	BringReady   = "ready"
	BringRefused = "refused"
	BringWriting = "writing"
	BringTexts   = "texts" // the entries are in the plan, the texts of an older site follow
	BringWritten = "written"
	BringFailed  = "failed"
)

// MaxUpload is the largest file that is taken.
const MaxUpload = 64 << 20

// ReadSheet reads a sitemap file until the context ends; files provides it.
type ReadSheet func(ctx context.Context, name string, r io.Reader, progress func(rows int)) (*sitemap.Sheet, error)

// How many files are read at a time, and how long reading one may take.
const (
	readAtOnce  = 2
	longestRead = 2 * time.Minute
)

// readAside reads a file beside whoever asks, so that a reader that does not come
// to an end is given up. It waits until few enough are read at a time.
func (a *Sitemap) readAside(ctx context.Context, b BringIn, read ReadSheet, progress func(int)) (*sitemap.Sheet, error) {
	select {
	case a.reading <- struct{}{}:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	within, cancel := context.WithTimeout(ctx, longestRead)
	defer cancel()
	type outcome struct {
		sheet *sitemap.Sheet
		err   error
	}
	done := make(chan outcome, 1)
	go func() {
		defer func() { <-a.reading }()
		sheet, err := read(within, b.FileName, bytes.NewReader(b.Data), progress)
		done <- outcome{sheet, err}
	}()
	select {
	case out := <-done:
		if out.err == nil || within.Err() == nil {
			return out.sheet, out.err
		}
	case <-within.Done():
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return nil, &sitemap.Refused{Problem: fmt.Sprintf("reading it took more than %d minutes", int(longestRead.Minutes())), Advice: "split the file"}
}

// PutFile keeps an uploaded file, to be read by ReadFile.
func (a *Sitemap) PutFile(ctx context.Context, who plan.Person, name string, data []byte) (string, error) {
	b := BringIn{ID: plan.NewID(), PersonID: who.ID, At: a.Now(), FileName: name, Data: data, State: BringReading, Way: string(sitemap.Below), Texts: true}
	return b.ID, a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		return tx.PutBringIn(ctx, b)
	})
}

// ReadFile reads a kept file to its end, telling how far it got. It writes
// nothing to the plan.
func (a *Sitemap) ReadFile(ctx context.Context, id string, read ReadSheet) error {
	b, err := a.bringIn(ctx, id, true)
	if err != nil {
		return err
	}
	sheet, err := a.readAside(ctx, b, read, func(rows int) {
		_ = a.setBringIn(ctx, id, BringReading, rows, 0, "") // progress only
	})
	if refused := (*sitemap.Refused)(nil); errors.As(err, &refused) {
		return a.setBringIn(ctx, id, BringRefused, 0, 0, b.FileName+": "+refused.Error()+".")
	}
	if ctx.Err() != nil {
		return ctx.Err() // the program ends; it is read when it begins again
	}
	if err != nil {
		return errors.Join(err, a.setBringIn(ctx, id, BringFailed, 0, 0, "The file could not be read. Nothing was changed."))
	}
	return a.Store.Note(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.SetSheet(ctx, id, packSheet(sheet)); err != nil {
			return err
		}
		return tx.SetBringIn(ctx, id, BringReady, 0, sheet.Tree.Len(), "", a.Now())
	})
}

// keptSheet is a sheet as it is kept beside its file.
type keptSheet struct {
	Entries  []sitemap.Entry
	Line     []int
	Given    []bool
	Has      map[string]bool
	Findings []sitemap.Finding
}

func packSheet(s *sitemap.Sheet) []byte {
	var b bytes.Buffer
	if err := gob.NewEncoder(&b).Encode(keptSheet{s.Tree.Entries(), s.Line, s.Given, s.Has, s.Findings}); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// sheetOf is what a file was understood as, with the addresses that were chosen.
func sheetOf(b BringIn) (*sitemap.Sheet, error) {
	var k keptSheet
	if err := gob.NewDecoder(bytes.NewReader(b.Sheet)).Decode(&k); err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	t, err := sitemap.New(k.Entries)
	if err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	s := &sitemap.Sheet{Tree: t, Line: k.Line, Given: k.Given, Has: k.Has, Findings: k.Findings}
	if b.Follow {
		return s.FollowTree()
	}
	return s, nil
}

func (a *Sitemap) setBringIn(ctx context.Context, id, state string, done, total int, message string) error {
	return a.Store.Note(ctx, func(tx Tx, _ plan.Site) error {
		return tx.SetBringIn(ctx, id, state, done, total, message, a.Now())
	})
}

func (a *Sitemap) bringIn(ctx context.Context, id string, data bool) (BringIn, error) {
	var b BringIn
	err := a.Store.Note(ctx, func(tx Tx, _ plan.Site) error {
		var err error
		b, err = tx.BringIn(ctx, id, data)
		return err
	})
	return b, err
}

// BringPreview is what a file would do.
type BringPreview struct {
	File    BringIn
	Brought *sitemap.Brought
	Problem string // why the chosen way is not possible
	Older   bool   // it is an older site, whose texts can come along
	Next    *sitemap.Tree
	Version int64
}

// BringChoice is how a file is to be brought in. The zero value stands for what
// was chosen before.
type BringChoice struct {
	Way    sitemap.Way
	Place  string
	Follow bool // an older site: new addresses follow from the place of a page
	Texts  bool // an older site: the texts of pages come along, as drafts
}

// PreviewFile computes what a file would do to Next in a way, and remembers
// the choice. Nothing is written to the plan.
func (a *Sitemap) PreviewFile(ctx context.Context, who plan.Person, id string, choice BringChoice) (BringPreview, error) {
	var p BringPreview
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		b, err := tx.BringIn(ctx, id, true)
		if err != nil || b.PersonID != who.ID {
			return cmp.Or(err, plan.ErrNotFound)
		}
		if p.File = b; b.State != BringReady {
			return nil
		}
		if choice.Way != "" {
			b.Way, b.Place, b.Follow, b.Texts = string(choice.Way), choice.Place, choice.Follow, choice.Texts
			if err := tx.ChooseWay(ctx, b); err != nil {
				return err
			}
		}
		sheet, err := sheetOf(b)
		if err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		b.Data, b.Sheet = nil, nil
		p.File, p.Next, p.Version, p.Older = b, trees.Next, s.PlanVersion, isOlder(b.FileName, sheet)
		p.Brought, err = a.brought(ctx, tx, trees.Next, sheet, sitemap.Way(b.Way), b.Place)
		if p.Problem = bringProblem(err); p.Problem != "" {
			return nil
		}
		if err != nil {
			return err
		}
		o, err := a.CheckOptions(ctx, tx)
		if err != nil {
			return err
		}
		p.Brought.TellOwners(sheet, o.People)
		known, err := plan.KnownReaders(ctx, tx)
		p.Brought.TellReaders(sheet, func(v string) string {
			if _, err := readership.Parse(v, known); err != nil {
				return err.Error()
			}
			return ""
		})
		return err
	})
	return p, err
}

// isOlder tells whether a file holds the pages of an older site: an archive can
// also hold nothing but lists of addresses.
func isOlder(name string, s *sitemap.Sheet) bool {
	carried := func(e sitemap.Entry) bool { return e.Kind == sitemap.Carried && e.Source != "" }
	return IsOldSite(name) && slices.ContainsFunc(s.Tree.Entries(), carried)
}

func bringProblem(err error) string {
	refused := (*sitemap.Refused)(nil)
	switch {
	case errors.As(err, &refused):
		return refused.Error()
	case errors.Is(err, sitemap.ErrNoEntry):
		return "the entry that you chose cannot hold others or is not there any more; choose another"
	}
	return ""
}

func (a *Sitemap) brought(ctx context.Context, tx Tx, next *sitemap.Tree, sheet *sitemap.Sheet, way sitemap.Way, place string) (*sitemap.Brought, error) {
	known, err := tx.BroughtIDs(ctx)
	if err != nil {
		return nil, err
	}
	return sitemap.BringIn(next, sheet, way, place, known, plan.NewID)
}

// AcceptFile brings a file in as it was previewed, as one act that can be
// undone. Accepting twice acts once. Where texts come along they follow: see
// BringTexts.
func (a *Sitemap) AcceptFile(ctx context.Context, who plan.Person, id string) (plan.PlanResult, error) {
	b, err := a.bringIn(ctx, id, true)
	if err != nil {
		return plan.PlanResult{}, err
	}
	if b.PersonID != who.ID {
		return plan.PlanResult{}, plan.ErrNotFound
	}
	if b.State != BringReady {
		return plan.PlanResult{}, plan.ErrDone
	}
	sheet, err := sheetOf(b)
	if err != nil {
		return plan.PlanResult{}, err
	}
	if err := a.setBringIn(ctx, id, BringWriting, 0, sheet.Tree.Len(), ""); err != nil {
		return plan.PlanResult{}, err
	}
	var res plan.PlanResult
	var site plan.Site
	err = a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		site = s
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if _, err := tx.ActByKey(ctx, id); err == nil {
			return nil
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		got, err := a.brought(ctx, tx, trees.Next, sheet, sitemap.Way(b.Way), b.Place)
		if err != nil {
			return err
		}
		if err := tx.RememberIDs(ctx, got.IDs); err != nil {
			return err
		}
		res, err = a.Record(ctx, tx, s, who, id, fmt.Sprintf("brought in %s", b.FileName), trees, got.Tree)
		if err != nil {
			return err
		}
		words := fmt.Sprintf("%d added, %d changed, %d removed, %d refused.", got.Count[sitemap.IsAdded], got.Count[sitemap.IsChanged], got.Count[sitemap.IsRemoved], got.Count[sitemap.IsRefused])
		if b.Texts && isOlder(b.FileName, sheet) {
			return tx.SetBringIn(ctx, id, BringTexts, 0, sheet.Tree.Len(), words, a.Now())
		}
		return tx.SetBringIn(ctx, id, BringWritten, sheet.Tree.Len(), sheet.Tree.Len(), words, a.Now())
	})
	if err != nil {
		message := "The file could not be brought in. Nothing was changed."
		if p := bringProblem(err); p != "" {
			message = p
		}
		return res, errors.Join(err, a.setBringIn(ctx, id, BringFailed, 0, 0, message))
	}
	if res.Trees.Next != nil { // not where it was in already
		a.KeepTrees(site, res.Version, res.Trees)
	}
	return res, nil
}

// stalled is how long reading or writing a file may give no sign of life before
// its process counts as killed.
const stalled = time.Minute

// BringState tells how far a file is. A file whose process was killed can be
// brought in again, or, if it was still being read or its texts were on their
// way, has to be gone on with: again says so.
func (a *Sitemap) BringState(ctx context.Context, who plan.Person, id string) (b BringIn, again bool, err error) {
	b, err = a.bringIn(ctx, id, false)
	if err != nil {
		return b, false, err
	}
	if b.PersonID != who.ID {
		return BringIn{}, false, plan.ErrNotFound
	}
	if a.Now().Sub(b.Seen) < stalled {
		return b, false, nil
	}
	switch b.State {
	case BringWriting: // nothing of it was written, since that is one transaction
		b.State = BringReady
		return b, false, a.setBringIn(ctx, id, BringReady, 0, b.Total, "")
	case BringReading:
		return b, true, a.setBringIn(ctx, id, BringReading, 0, 0, "")
	case BringTexts:
		return b, true, a.setBringIn(ctx, id, BringTexts, b.Done, b.Total, b.Message)
	}
	return b, false, nil
}

// TakeOut gives the tree to write to a file: Live or Next.
func (a *Sitemap) TakeOut(ctx context.Context, who plan.Person, live bool) (*sitemap.Tree, plan.Site, error) {
	var t *sitemap.Tree
	var site plan.Site
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		t, site = trees.Next, s
		if live {
			t = trees.Live
		}
		return err
	})
	return t, site, err
}
