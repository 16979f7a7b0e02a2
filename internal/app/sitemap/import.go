package sitemap

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Import is a file on its way in.
type Import struct {
	ID, PersonID string
	At           time.Time
	FileName     string
	Data         []byte
	State        string
	Done, Total  int
	Message      string
	Mode, Place  string
	Follow       bool      // an older site: pages get the addresses that follow from their place
	Texts        bool      // an older site: the texts of pages come along
	Sheet        []byte    // what was understood of it
	Seen         time.Time // last sign of life of whoever reads or writes it
}

// ImportStep is how far a file is from now on.
type ImportStep struct {
	State       string
	Done, Total int
	Message     string
	At          time.Time
}

// States of a file on its way in.
const (
	ImportReading = "reading"
	ImportReady   = "ready"
	ImportRefused = "refused"
	ImportWriting = "writing"
	ImportTexts   = "texts" // the entries are in the plan, the texts of an older site follow
	ImportWritten = "written"
	ImportFailed  = "failed"
)

// ImportPreview is what a file would do.
type ImportPreview struct {
	File         Import
	ImportResult *sheet.ImportResult
	Problem      string // why the chosen way is not possible
	Older        bool   // it is an older site, whose texts can come along
	Next         *sitemap.Tree
	Version      int64
}

// ImportChoice is how a file is to be imported. The zero value stands for what
// was chosen before.
type ImportChoice struct {
	Mode   sheet.ImportMode
	Place  string
	Follow bool // an older site: new addresses follow from the place of a page
	Texts  bool // an older site: the texts of pages come along, as drafts
}

// PreviewFile computes what a file would do to Next in a way, and remembers
// the choice. Nothing is written to the plan.
func (a *Sitemap) PreviewFile(ctx context.Context, who plan.Person, id string, choice ImportChoice) (ImportPreview, error) {
	var p ImportPreview
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		b, err := tx.Import(ctx, id, true)
		if err != nil || b.PersonID != who.ID {
			return cmp.Or(err, plan.ErrNotFound)
		}
		if p.File = b; b.State != ImportReady {
			return nil
		}
		if choice.Mode != "" {
			b.Mode, b.Place, b.Follow, b.Texts = string(choice.Mode), choice.Place, choice.Follow, choice.Texts
			if err := tx.ChooseMode(ctx, b); err != nil {
				return err
			}
		}
		given, err := sheetOf(b)
		if err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		b.Data, b.Sheet = nil, nil
		p.File, p.Next, p.Version, p.Older = b, trees.Next, s.PlanVersion, isOlder(b.FileName, given)
		p.ImportResult, err = a.computeImport(ctx, tx, trees.Next, given, sheet.ImportMode(b.Mode), b.Place)
		if p.Problem = importProblem(err); p.Problem != "" {
			return nil
		}
		if err != nil {
			return err
		}
		o, err := a.CheckOptions(ctx, tx)
		if err != nil {
			return err
		}
		p.ImportResult.TellOwners(given, o.People)
		known, err := plan.KnownReaders(ctx, tx)
		p.ImportResult.TellReaders(given, func(v string) string {
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
func isOlder(name string, s *sheet.Sheet) bool {
	carried := func(e sitemap.Entry) bool { return e.Kind == sitemap.Carried && e.Source != "" }
	return IsOldSite(name) && slices.ContainsFunc(s.Tree.Entries(), carried)
}

func importProblem(err error) string {
	refused := (*sheet.Refused)(nil)
	switch {
	case errors.As(err, &refused):
		return refused.Error()
	case errors.Is(err, sitemap.ErrNoEntry):
		return "the entry that you chose cannot hold others or is not there any more; choose another"
	}
	return ""
}

func (a *Sitemap) computeImport(ctx context.Context, tx Tx, next *sitemap.Tree, given *sheet.Sheet, mode sheet.ImportMode, place string) (*sheet.ImportResult, error) {
	known, err := tx.ImportedIDs(ctx)
	if err != nil {
		return nil, err
	}
	return sheet.Import(next, given, mode, place, known, plan.NewID)
}

// AcceptFile imports a file as it was previewed, as one act that can be
// undone. Accepting twice acts once. Where texts come along they follow: see
// ImportTexts.
func (a *Sitemap) AcceptFile(ctx context.Context, who plan.Person, id string) (plan.PlanResult, error) {
	b, err := a.loadImport(ctx, id, true)
	if err != nil {
		return plan.PlanResult{}, err
	}
	if b.PersonID != who.ID {
		return plan.PlanResult{}, plan.ErrNotFound
	}
	if b.State != ImportReady {
		return plan.PlanResult{}, plan.ErrDone
	}
	given, err := sheetOf(b)
	if err != nil {
		return plan.PlanResult{}, err
	}
	if mine, err := a.setImport(ctx, id, ImportReady, ImportStep{State: ImportWriting, Total: given.Tree.Len()}); err != nil || !mine {
		return plan.PlanResult{}, cmp.Or(err, plan.ErrDone)
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
		got, err := a.computeImport(ctx, tx, trees.Next, given, sheet.ImportMode(b.Mode), b.Place)
		if err != nil {
			return err
		}
		res, err = a.Record(ctx, tx, s, who, id, fmt.Sprintf("imported %s", b.FileName), trees, got.Tree)
		if err != nil {
			return err
		}
		if err := tx.RememberIDs(ctx, got.IDs); err != nil {
			return err
		}
		words := fmt.Sprintf("%d added, %d changed, %d removed, %d refused.", got.Count[sheet.IsAdded], got.Count[sheet.IsChanged], got.Count[sheet.IsRemoved], got.Count[sheet.IsRefused])
		step := ImportStep{State: ImportWritten, Done: given.Tree.Len(), Total: given.Tree.Len(), Message: words, At: a.Now()}
		if b.Texts && isOlder(b.FileName, given) {
			step.State, step.Done = ImportTexts, 0
			if err := tx.Enqueue(ctx, plan.Job{Kind: plan.JobImportTexts, ID: id}); err != nil {
				return err
			}
		}
		if _, err = tx.SetImport(ctx, id, ImportWriting, step); err != nil {
			return err
		}
		site.Work, err = tx.WorkAfter(ctx)
		return err
	})
	if err != nil {
		message := "The file could not be imported. Nothing was changed."
		if p := importProblem(err); p != "" {
			message = p
		}
		_, told := a.setImport(ctx, id, ImportWriting, ImportStep{State: ImportFailed, Message: message})
		return res, errors.Join(err, told)
	}
	a.CacheTrees(site, res.Trees)
	return res, nil
}

// stalled is how long reading or writing a file may give no sign of life before
// its process counts as killed.
const stalled = time.Minute

// ImportState tells how far a file is. A file whose process was killed can be
// accepted again, or, if it was still being read or its texts were on their way, is
// gone on with.
func (a *Sitemap) ImportState(ctx context.Context, who plan.Person, id string) (Import, error) {
	b, err := a.loadImport(ctx, id, false)
	if err != nil {
		return b, err
	}
	if b.PersonID != who.ID {
		return Import{}, plan.ErrNotFound
	}
	if a.Now().Sub(b.Seen) < stalled {
		return b, nil
	}
	switch b.State {
	case ImportWriting: // nothing of it was written, since that is one transaction
		_, err = a.setImport(ctx, id, ImportWriting, ImportStep{State: ImportReady, Total: b.Total})
		b.State = ImportReady
	case ImportReading:
		err = a.goOn(ctx, b, plan.JobReadFile)
	case ImportTexts:
		err = a.goOn(ctx, b, plan.JobImportTexts)
	}
	return b, err
}

// goOn has a job begin again that gives no sign of life.
func (a *Sitemap) goOn(ctx context.Context, b Import, kind plan.JobKind) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		still, err := tx.SetImport(ctx, b.ID, b.State, ImportStep{b.State, b.Done, b.Total, b.Message, a.Now()})
		if err != nil || !still {
			return err
		}
		return tx.ReviveJob(ctx, plan.Job{Kind: kind, ID: b.ID})
	})
}

func (a *Sitemap) loadImport(ctx context.Context, id string, data bool) (Import, error) {
	var b Import
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		var err error
		b, err = tx.Import(ctx, id, data)
		return err
	})
	return b, err
}

// setImport notes how far an import is, if it is still in a state, and tells whether
// it was.
func (a *Sitemap) setImport(ctx context.Context, id, from string, to ImportStep) (still bool, err error) {
	to.At = a.Now()
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		still, err = tx.SetImport(ctx, id, from, to)
		return err
	})
	return still, err
}
