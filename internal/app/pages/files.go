package pages

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// AddFile keeps a file that somebody brought, and gives what is known of it. The same file
// brought twice is one.
func (a *Pages) AddFile(ctx context.Context, who plan.Person, p content.PictureFile) (f plan.KeptFile, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		f, err = a.StoreFile(ctx, tx, who.ID, p)
		return err
	})
	return f, err
}

// FileLine is a file in their list.
type FileLine struct {
	plan.KeptFile
	By   string
	On   []string // pages whose live text or draft shows it
	Ever bool     // some version shows it, of now or of before
}

// FileList lists the files of the site.
type FileList struct {
	Files []FileLine
	More  bool
	Trees plan.Trees
}

// FilesPage is how many files are listed at once.
const FilesPage = 60

// Files lists files whose name has the words, the newest first.
func (a *Pages) Files(ctx context.Context, who plan.Person, words string, pictures bool, page int) (out FileList, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		out.Trees = trees
		words = strings.ToLower(strings.Join(strings.Fields(words), "-"))
		found, err := tx.Files(ctx, words, pictures, max(page-1, 0)*FilesPage, FilesPage+1)
		if err != nil {
			return err
		}
		if out.More = len(found) > FilesPage; out.More {
			found = found[:FilesPage]
		}
		ids := make([]string, len(found))
		for i, f := range found {
			ids[i] = f.ID
		}
		on, ever, err := tx.FileUses(ctx, ids)
		if err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		for _, f := range found {
			out.Files = append(out.Files, FileLine{f, people[f.PersonID].Name, on[f.ID], ever[f.ID]})
		}
		return err
	})
	return out, err
}

// RemoveFile deletes a file that no page shows. One that an earlier edition showed stays,
// or that edition could not be brought back.
func (a *Pages) RemoveFile(ctx context.Context, who plan.Person, id string) error {
	var gone plan.KeptFile
	err := a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		var err error
		if gone, err = tx.File(ctx, id); err != nil {
			return err
		}
		on, ever, err := tx.FileUses(ctx, []string{id})
		switch {
		case err != nil:
			return err
		case len(on[id]) > 0:
			return plan.Refuse("", "Pages show this file. Take it out of them first.")
		case s.Settings.Text(setting.Mark) == gone.Address():
			return plan.Refuse("", "This picture is the mark of the site. Choose another mark first.")
		case ever[id]:
			return plan.Refuse("", "An earlier edition shows this file. It stays, so that the edition can be brought back.")
		}
		return tx.DropFile(ctx, id)
	})
	if err != nil {
		return err
	}
	for _, width := range append([]int{0}, gone.Sizes...) {
		if err := a.Objects.Delete(ctx, plan.ObjectKey(id, width)); err != nil {
			return err
		}
	}
	return nil
}

// MoveFiles brings what the database holds of files, as it did once, to the object storage.
// It can end at any time and goes on at the next start.
func (a *Pages) MoveFiles(ctx context.Context) error {
	for more := true; more; {
		err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
			if more = s.ID != ""; !more {
				return nil
			}
			old, err := tx.OldFiles(ctx, 20)
			more = len(old) > 0
			for id, data := range old {
				if err = errors.Join(err, a.Objects.Put(ctx, plan.ObjectKey(id, 0), data), tx.FileMoved(ctx, id)); err != nil {
					return err
				}
			}
			return err
		})
		if err != nil {
			return fmt.Errorf("move files to their storage: %w", err)
		}
	}
	return nil
}
