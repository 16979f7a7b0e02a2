package pages

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
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

// TableOf gives the rows of a file of the site as a table in CommonMark, and how many were
// left out. read reads the rows.
func (a *Pages) TableOf(ctx context.Context, who plan.Person, at string, read func(name string, r io.Reader) ([][]string, error)) (text string, left int, err error) {
	var f plan.KeptFile
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		id, _, _ := strings.Cut(strings.TrimPrefix(at, setting.PicturePath), "/")
		f, err = tx.File(ctx, id)
		return err
	})
	if err != nil {
		return "", 0, err
	}
	data, _, err := a.Objects.Get(ctx, plan.ObjectKey(f.ID, 0))
	if err != nil {
		return "", 0, fmt.Errorf("open %s: %w", f.Name, err)
	}
	defer data.Close()
	rows, err := read(f.Name, data)
	if err != nil {
		return "", 0, plan.Refuse("file", plan.SentenceOf(err))
	}
	text, left = content.TableText(rows)
	return text, left, nil
}

// Replace puts a new file in the place of another: every page of Next that shows it, and every
// template, shows the new one, as a planned change that can be undone. The old address gives the
// new one from then on. read reads the rows of a table.
func (a *Pages) Replace(ctx context.Context, who plan.Person, key, id string, p content.PictureFile, read func(name string, r io.Reader) ([][]string, error)) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, id, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		old, err := tx.File(ctx, id)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if (old.Width > 0) != (p.Width > 0) {
			return plan.PlanResult{}, plan.Refuse("file", fmt.Sprintf("%q is a picture and the other file is none, so pages could not show it in its place.", pictureOf(old, p)))
		}
		now, err := a.StoreFile(ctx, tx, who.ID, p)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if now.ID == old.ID {
			return plan.PlanResult{}, plan.Refuse("file", "This is the same file. Nothing was replaced.")
		}
		rows := ""
		if _, err := p.Body.Seek(0, io.SeekStart); err != nil {
			return plan.PlanResult{}, err
		}
		if table, err := read(p.Name, p.Body); err == nil {
			rows, _ = content.TableText(table)
		}
		w, err := a.refile(ctx, tx, who, trees, old, now, rows)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if err := tx.FileReplaced(ctx, old.ID, now.ID); err != nil {
			return plan.PlanResult{}, err
		}
		n := len(w.SideEffects.Texts)
		label := fmt.Sprintf("replaced %s on %d %s", old.Name, n, plan.Plural(n, "page", "pages"))
		return a.RecordWith(ctx, tx, s, who, key, label, trees, trees.Next, w.SideEffects)
	})
}

func pictureOf(old plan.KeptFile, p content.PictureFile) string {
	if old.Width > 0 {
		return old.Name
	}
	return p.Name
}

// refile writes drafts of the pages that show a file, and changes the templates that do.
func (a *Pages) refile(ctx context.Context, tx Tx, who plan.Person, trees plan.Trees, old, now plan.KeptFile, rows string) (*plan.Writer, error) {
	on, _, err := tx.FileUses(ctx, []string{old.ID})
	if err != nil {
		return nil, err
	}
	pages := slices.DeleteFunc(on[old.ID], func(entry string) bool { return trees.Next.Find(entry) == sitemap.None })
	if err := a.OpenElsewhere(ctx, tx, who, trees.Next, pages...); err != nil {
		return nil, err
	}
	w, err := a.Writer(ctx, tx, who, trees.Next)
	if err != nil {
		return nil, err
	}
	texts, err := plan.LatestTexts(ctx, tx, pages)
	if err != nil {
		return nil, err
	}
	for _, entry := range pages {
		page := content.Refiled(texts[entry].Content, old.ID, now.Address(), rows)
		if content.Same(page, texts[entry].Content) {
			continue // its template shows the file, or Live alone
		}
		if err := w.Set(ctx, entry, &page); err != nil {
			return nil, err
		}
	}
	set := trees.Shapes.Next
	for _, t := range set.Templates() {
		if slices.Contains(t.Files(), old.ID) {
			changed := t.Refiled(old.ID, now.Address(), rows)
			set = set.With(shape.TemplateID(t.Key), &shape.Item{Template: &changed})
		}
	}
	w.SideEffects.Shapes = shape.Patches(trees.Shapes.Next, set)
	return w, nil
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
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		gone, err := tx.File(ctx, id)
		if err != nil {
			return err
		}
		on, ever, err := tx.FileUses(ctx, []string{id})
		if err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		inTemplate := func(t content.Template) bool { return slices.Contains(t.Files(), id) }
		switch {
		case slices.ContainsFunc(append(trees.Shapes.Next.Templates(), trees.Shapes.Live.Templates()...), inTemplate):
			return plan.Refuse("", "A template shows this file. Take it out of it first.")
		case len(on[id]) > 0:
			return plan.Refuse("", "Pages show this file. Take it out of them first.")
		case s.Settings.Text(setting.Mark) == gone.Address():
			return plan.Refuse("", "This picture is the mark of the site. Choose another mark first.")
		case ever[id]:
			return plan.Refuse("", "An earlier edition shows this file. It stays, so that the edition can be brought back.")
		}
		if err := tx.DropFile(ctx, id); errors.Is(err, plan.ErrShown) {
			return plan.Refuse("", "A page was saved with this file in this moment. Take it out of it first.")
		} else if err != nil {
			return err
		}
		return tx.Enqueue(ctx, plan.Job{Kind: plan.JobCleanUp})
	})
}

// objectsAtOnce is how many objects of the storage are compared with the known files at once.
const objectsAtOnce = 500

// SweepFiles deletes what the storage holds of files that no site knows: of removed ones, and
// of those that came while the program ended. What came within the last hour stays, for its
// transaction may not have ended yet.
func (a *Pages) SweepFiles(ctx context.Context) error {
	var keys []string
	sweep := func() error {
		defer func() { keys = keys[:0] }()
		return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
			if err := tx.LockFiles(ctx, true); err != nil {
				return err
			}
			ids := make([]string, len(keys))
			for i, key := range keys {
				ids[i], _ = plan.ObjectID(key)
			}
			known, err := tx.KnownFiles(ctx, ids)
			if err != nil {
				return err
			}
			for i, key := range keys {
				if !known[ids[i]] {
					err = errors.Join(err, a.Objects.Delete(ctx, key))
				}
			}
			return err
		})
	}
	err := a.Objects.Older(ctx, a.Now().Add(-time.Hour), func(key string) error {
		if _, ours := plan.ObjectID(key); !ours {
			return nil
		}
		if keys = append(keys, key); len(keys) < objectsAtOnce {
			return nil
		}
		return sweep()
	})
	if err != nil || len(keys) == 0 {
		return err
	}
	return sweep()
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
				if err = errors.Join(err, a.Objects.Put(ctx, plan.ObjectKey(id, 0), bytes.NewReader(data)), tx.FileMoved(ctx, id)); err != nil {
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
