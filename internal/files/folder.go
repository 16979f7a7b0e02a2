package files

import (
	"archive/zip"
	"bufio"
	"errors"
	"io"
	"os"
	"path/filepath"
	"sync"
)

// Folder is a folder into which many files are written, by several at a time.
type Folder string

// Put writes a file at a path with slashes.
func (d Folder) Put(name string, data io.Reader) error {
	at := filepath.Join(string(d), filepath.FromSlash(name))
	f, err := os.Create(at)
	if errors.Is(err, os.ErrNotExist) {
		dir := filepath.Dir(at)
		if err = os.Mkdir(dir, 0o755); errors.Is(err, os.ErrNotExist) || errors.Is(err, os.ErrExist) {
			err = os.MkdirAll(dir, 0o755) // what is above is not there either, or somebody was faster
		}
		if err == nil {
			f, err = os.Create(at)
		}
	}
	if err != nil {
		return err
	}
	_, err = io.Copy(f, data)
	return errors.Join(err, f.Close())
}

// FolderZip is a folder in an archive. Several may write into it; it takes one file at a time.
type FolderZip struct {
	mu  sync.Mutex
	buf *bufio.Writer
	zip *zip.Writer
}

// NewFolderZip begins an archive; Close ends it.
func NewFolderZip(w io.Writer) *FolderZip {
	buf := bufio.NewWriterSize(w, 1<<16)
	return &FolderZip{buf: buf, zip: zip.NewWriter(buf)}
}

// Put adds a file.
func (z *FolderZip) Put(name string, data io.Reader) error {
	z.mu.Lock()
	defer z.mu.Unlock()
	w, err := z.zip.Create(name)
	if err == nil {
		_, err = io.Copy(w, data)
	}
	return err
}

// Merge adds the files of another archive as they are compressed there.
func (z *FolderZip) Merge(list []*zip.File) error {
	z.mu.Lock()
	defer z.mu.Unlock()
	for _, f := range list {
		if err := z.zip.Copy(f); err != nil {
			return err
		}
	}
	return nil
}

// Close writes the index.
func (z *FolderZip) Close() error { return errors.Join(z.zip.Close(), z.buf.Flush()) }
