package plan

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/markup"
)

// Objects keeps what files hold, by key. What is there is never changed.
type Objects interface {
	Put(ctx context.Context, key string, data io.Reader) error
	// Get opens an object and tells its bytes; fs.ErrNotExist if there is none.
	Get(ctx context.Context, key string) (io.ReadCloser, int64, error)
	Delete(ctx context.Context, key string) error
	// Older visits the keys of objects that were put before a time.
	Older(ctx context.Context, before time.Time, visit func(key string) error) error
}

// StorageError tells that the storage of files failed, so that nothing was kept.
type StorageError struct{ Err error }

func (e *StorageError) Error() string {
	return "The storage of files does not answer, so the file was not kept. Try again in a moment; if it goes on, tell whoever runs Candle Path."
}

// Unwrap gives what the storage said.
func (e *StorageError) Unwrap() error { return e.Err }

// FileAt is the address of a kept file.
func FileAt(id, name string) string { return setting.PicturePath + id + "/" + name }

// ObjectKey is where the storage has a file; of a picture in a size where width is not 0.
func ObjectKey(id string, width int) string {
	if width == 0 {
		return id
	}
	return id + "-" + strconv.Itoa(width)
}

// ObjectID gives the id of the file of a key, if it is a key of a file.
func ObjectID(key string) (string, bool) {
	id, width, sized := strings.Cut(key, "-")
	if _, err := strconv.Atoi(width); sized && err != nil {
		return "", false
	}
	b, err := hex.DecodeString(id)
	return id, err == nil && len(b) == 16
}

// sizeAt is the address of a picture in a size.
func sizeAt(f KeptFile, width int) string { return FileAt(f.ID, strconv.Itoa(width)+"-"+f.Name) }

// StoreFile keeps a file under an id made of what it holds, and gives what is known of it.
// What it holds is stored before the transaction ends: a file that nobody knows does no
// harm, one that is not there does.
func (a *Floor) StoreFile(ctx context.Context, tx Tx, person string, p content.PictureFile) (KeptFile, error) {
	id, err := idOf(p.Body)
	if err != nil {
		return KeptFile{}, err
	}
	f := KeptFile{
		ID: id, Name: p.Name, Given: p.Given, Type: p.Type, Bytes: int(p.Bytes), Width: p.Width, Height: p.Height,
		PersonID: person, At: a.Now(),
	}
	if err := tx.LockFiles(ctx, false); err != nil {
		return f, err
	}
	if known, err := tx.File(ctx, f.ID); err == nil {
		return known, nil
	}
	if err := a.Objects.Put(ctx, ObjectKey(f.ID, 0), p.Body); err != nil {
		return f, &StorageError{err}
	}
	for _, s := range p.Sizes {
		if err := a.Objects.Put(ctx, ObjectKey(f.ID, s.Width), bytes.NewReader(s.Data)); err != nil {
			return f, &StorageError{err}
		}
		f.Sizes = append(f.Sizes, s.Width)
	}
	return f, tx.PutFile(ctx, f)
}

// idOf makes an id of what a file holds, and goes back to its beginning.
func idOf(body io.ReadSeeker) (string, error) {
	sum := sha256.New()
	if _, err := io.Copy(sum, body); err != nil {
		return "", err
	}
	_, err := body.Seek(0, io.SeekStart)
	return hex.EncodeToString(sum.Sum(nil)[:16]), err
}

// Around gives what a page shows that is not its own, as the transaction knows it. It asks
// for files as they are met, so that one page at a time is rendered with it.
func (a *Floor) Around(ctx context.Context, tx Tx) (markup.Around, error) {
	people, err := PeopleByID(ctx, tx)
	known := map[string]markup.KeptFile{}
	return around(people, func(id string) (markup.KeptFile, bool) {
		if f, met := known[id]; met {
			return f, f.Name != ""
		}
		f, err := tx.File(ctx, id)
		if err == nil {
			known[id] = shownFile(f)
		} else {
			known[id] = markup.KeptFile{}
		}
		return known[id], err == nil
	}), err
}

// AroundAll is Around for pages that show the files of some ids. Several pages can be
// rendered with it at once, and beside the transaction.
func (a *Floor) AroundAll(ctx context.Context, tx Tx, ids []string) (markup.Around, error) {
	people, err := PeopleByID(ctx, tx)
	if err != nil {
		return markup.Around{}, err
	}
	files, err := tx.FilesByID(ctx, ids)
	known := make(map[string]markup.KeptFile, len(files))
	for _, f := range files {
		known[f.ID] = shownFile(f)
	}
	return around(people, func(id string) (markup.KeptFile, bool) { f, ok := known[id]; return f, ok }), err
}

func around(people map[string]Person, file func(id string) (markup.KeptFile, bool)) markup.Around {
	return markup.Around{
		Person: func(id string) string { return people[id].Name },
		File: func(address string) (markup.KeptFile, bool) {
			id, _, _ := strings.Cut(strings.TrimPrefix(address, setting.PicturePath), "/")
			return file(id)
		},
	}
}

func shownFile(f KeptFile) markup.KeptFile {
	out := markup.KeptFile{Name: f.Called(), Bytes: f.Bytes, Width: f.Width, Height: f.Height}
	for _, w := range f.Sizes {
		out.Sizes = append(out.Sizes, markup.Sized{Address: sizeAt(f, w), Width: w})
	}
	if len(out.Sizes) > 0 {
		out.Sizes = append(out.Sizes, markup.Sized{Address: f.Address(), Width: f.Width})
	}
	return out
}
