package reading

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/setting"
)

// ShownFile is a kept file, with where it stands.
type ShownFile struct {
	plan.KeptFile
	Size   int        // the width that is asked for; 0: the file as it is
	On     []string   // live pages that show it
	Before []string   // pages that showed it in an earlier edition
	Mark   bool       // it is the mark of the site
	Now    *ShownFile // the file that took its place; nil: none did
}

var fileID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// File gives a kept file, by its name or as a picture in a size, SIZE-NAME. Who may have it
// depends on the pages that show it in the edition.
func (a *Reading) File(ctx context.Context, edition int, id, name string) (f ShownFile, err error) {
	if !fileID.MatchString(id) {
		return f, plan.ErrNotFound
	}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if f.KeptFile, err = tx.File(ctx, id); err != nil {
			return err
		}
		if f.Name != name {
			size, rest, _ := strings.Cut(name, "-")
			width, err := strconv.Atoi(size)
			if err != nil || rest != f.Name || !slices.Contains(f.Sizes, width) {
				return plan.ErrNotFound
			}
			f.Size = width
		}
		f.Mark = s.Settings.Text(setting.Mark) == plan.FileAt(id, f.Name)
		if f.On, f.Before, err = tx.PictureShown(ctx, id, edition); err != nil {
			return err
		}
		f.Now, err = inPlaceOf(ctx, tx, edition, f)
		return err
	})
	return f, err
}

// inPlaceOf gives the file that took the place of another, at the end of all replacements, in the
// size that was asked for; where it has none such, it is smaller itself.
func inPlaceOf(ctx context.Context, tx Tx, edition int, f ShownFile) (*ShownFile, error) {
	met, now := map[string]bool{f.ID: true}, f.KeptFile
	for now.ReplacedBy != "" && !met[now.ReplacedBy] {
		var err error
		if now, err = tx.File(ctx, now.ReplacedBy); err != nil {
			return nil, err
		}
		met[now.ID] = true
	}
	if now.ID == f.ID {
		return nil, nil
	}
	on, before, err := tx.PictureShown(ctx, now.ID, edition)
	out := &ShownFile{KeptFile: now, On: on, Before: before}
	if slices.Contains(now.Sizes, f.Size) {
		out.Size = f.Size
	}
	return out, err
}

// Open opens what a file holds, and tells how many bytes that are. ErrNotFound where the
// storage has lost it.
func (a *Reading) Open(ctx context.Context, f ShownFile) (io.ReadCloser, int64, error) {
	r, n, err := a.Objects.Get(ctx, plan.ObjectKey(f.ID, f.Size))
	if errors.Is(err, fs.ErrNotExist) {
		err = plan.ErrNotFound
	}
	return r, n, err
}
