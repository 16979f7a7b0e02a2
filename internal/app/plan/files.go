package plan

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"strconv"
	"strings"

	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/markup"
)

// Objects keeps what files hold, by key. What is there is never changed.
type Objects interface {
	Put(ctx context.Context, key string, data []byte) error
	// Get opens an object and tells its bytes; fs.ErrNotExist if there is none.
	Get(ctx context.Context, key string) (io.ReadCloser, int64, error)
	Delete(ctx context.Context, key string) error
}

// FileAt is the address of a kept file.
func FileAt(id, name string) string { return setting.PicturePath + id + "/" + name }

// ObjectKey is where the storage has a file; of a picture in a size where width is not 0.
func ObjectKey(id string, width int) string {
	if width == 0 {
		return id
	}
	return id + "-" + strconv.Itoa(width)
}

// sizeAt is the address of a picture in a size.
func sizeAt(f KeptFile, width int) string { return FileAt(f.ID, strconv.Itoa(width)+"-"+f.Name) }

// StoreFile keeps a file under an id made of what it holds, and gives what is known of it.
// What it holds is stored before the transaction ends: a file that nobody knows does no
// harm, one that is not there does.
func (a *Floor) StoreFile(ctx context.Context, tx Tx, person string, p content.PictureFile) (KeptFile, error) {
	sum := sha256.Sum256(p.Data)
	f := KeptFile{
		ID: hex.EncodeToString(sum[:16]), Name: p.Name, Type: p.Type, Bytes: len(p.Data), Width: p.Width, Height: p.Height,
		PersonID: person, At: a.Now(),
	}
	if known, err := tx.File(ctx, f.ID); err == nil {
		return known, nil
	}
	if err := a.Objects.Put(ctx, ObjectKey(f.ID, 0), p.Data); err != nil {
		return f, err
	}
	for _, s := range p.Sizes {
		if err := a.Objects.Put(ctx, ObjectKey(f.ID, s.Width), s.Data); err != nil {
			return f, err
		}
		f.Sizes = append(f.Sizes, s.Width)
	}
	return f, tx.PutFile(ctx, f)
}

// Around gives what pages show that is not their own, as the transaction knows it.
func (a *Floor) Around(ctx context.Context, tx Tx) (markup.Around, error) {
	people, err := PeopleByID(ctx, tx)
	known := map[string]*markup.KeptFile{}
	return markup.Around{
		Person: func(id string) string { return people[id].Name },
		File: func(address string) (markup.KeptFile, bool) {
			id, _, _ := strings.Cut(strings.TrimPrefix(address, setting.PicturePath), "/")
			f, met := known[id]
			if !met {
				if kept, err := tx.File(ctx, id); err == nil {
					f = shownFile(kept)
				}
				known[id] = f
			}
			if f == nil {
				return markup.KeptFile{}, false
			}
			return *f, true
		},
	}, err
}

func shownFile(f KeptFile) *markup.KeptFile {
	out := &markup.KeptFile{Name: f.Name, Bytes: f.Bytes, Width: f.Width, Height: f.Height}
	for _, w := range f.Sizes {
		out.Sizes = append(out.Sizes, markup.Sized{Address: sizeAt(f, w), Width: w})
	}
	if len(out.Sizes) > 0 {
		out.Sizes = append(out.Sizes, markup.Sized{Address: f.Address(), Width: f.Width})
	}
	return out
}
