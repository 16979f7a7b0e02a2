package files

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// What a folder or archive of an older site may hold at most.
const (
	maxFiles   = 50_000
	maxPage    = 8 << 20  // one HTML file
	maxPicture = 16 << 20 // one picture
)

// OldSite is the folder or .zip of an older site. It is read only by the names
// that it lists itself: nothing in it can lead outside.
type OldSite struct {
	names []string // of its HTML pages, sorted
	open  func(name string) (io.ReadCloser, error)
	has   map[string]bool
}

// OpenZip opens the archive of an older site. Archives that name files outside,
// that hold too many, or that unpack to too much are refused before anything is
// unpacked.
func OpenZip(data []byte) (*OldSite, error) {
	o, err := openZip(data)
	if err != nil {
		return nil, err
	}
	return o.usable()
}

func openZip(data []byte) (*OldSite, error) {
	if n := zipCount(data); n > maxFiles {
		return nil, tooManyFiles(n)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return nil, refuse(0, "this is no .zip archive, or it is damaged", "pack the folder again")
	}
	if len(z.File) > maxFiles {
		return nil, tooManyFiles(len(z.File))
	}
	byName := make(map[string]*zip.File, len(z.File))
	var total uint64
	for _, f := range z.File {
		name := strings.TrimSuffix(f.Name, "/")
		if !fs.ValidPath(name) || strings.ContainsAny(name, "\\\x00") || strings.Contains(name, ":") && strings.Index(name, ":") == 1 {
			return nil, refuse(0, fmt.Sprintf("the archive names %q, which leads outside its folder", f.Name), "pack the folder again, from within")
		}
		if total += f.UncompressedSize64; total > MaxBytes || f.UncompressedSize64 > MaxBytes {
			return nil, tooLarge()
		}
		if f.Mode().IsRegular() {
			byName[name] = f
		}
	}
	o := &OldSite{has: map[string]bool{}, open: func(name string) (io.ReadCloser, error) { return byName[name].Open() }}
	for name := range byName {
		o.list(name)
	}
	return o, nil
}

// locations reads the sitemaps.org files of an archive that holds no pages: those
// that its index names, or all where there is none.
func (o *OldSite) locations(opts Options) ([]string, bool, error) {
	by := map[string]string{} // last part of the name → name
	var names []string
	for name := range o.has {
		if strings.EqualFold(path.Ext(strings.TrimSuffix(name, ".gz")), ".xml") {
			names = append(names, name)
			by[path.Base(name)] = name
		}
	}
	if len(o.names) > 0 || len(names) == 0 {
		return nil, false, nil
	}
	slices.Sort(names)
	opts.Beside = func(name string) (io.ReadCloser, error) {
		if by[name] == "" {
			return nil, fs.ErrNotExist
		}
		return o.open(by[name])
	}
	var all []string
	for _, name := range names {
		f, err := o.open(name)
		if err != nil {
			return nil, true, refuse(0, fmt.Sprintf("%s cannot be read", name), "pack the files again")
		}
		root, locs, err := readLocs(f, opts)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, true, err
		}
		if root == "sitemapindex" {
			found, err := indexed(locs, opts)
			return found, true, err
		}
		if all = append(all, locs...); len(all) > sitemap.MaxRows {
			return nil, true, tooMany()
		}
	}
	return all, true, nil
}

func tooManyFiles(n int) error {
	return refuse(0, fmt.Sprintf("the archive holds %d files, more than %d", n, maxFiles), "pack only the pages and their pictures, or a part of the site at a time")
}

// zipCount reads from the end of an archive how many files it says it holds,
// so that none is listed where there are too many.
func zipCount(data []byte) int {
	from := max(0, len(data)-1<<16-22)
	i := bytes.LastIndex(data[from:], []byte("PK\x05\x06"))
	if i < 0 || from+i+22 > len(data) {
		return 0
	}
	n := int(binary.LittleEndian.Uint16(data[from+i+10:]))
	if n == 0xFFFF { // the number stands in the larger record
		if k := bytes.LastIndex(data[:from+i], []byte("PK\x06\x06")); k >= 0 && k+40 <= len(data) {
			return int(min(binary.LittleEndian.Uint64(data[k+32:]), 1<<40))
		}
	}
	return n
}

// OpenFolder opens a folder that holds an older site.
func OpenFolder(dir fs.FS) (*OldSite, error) {
	o := &OldSite{has: map[string]bool{}, open: func(name string) (io.ReadCloser, error) { return dir.Open(name) }}
	total := int64(0)
	err := fs.WalkDir(dir, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() {
			return err
		}
		info, err := d.Info()
		if err != nil {
			return err
		}
		if isPage(name) {
			if total += info.Size(); total > MaxBytes {
				return tooLarge()
			}
		}
		if o.list(name); len(o.has) > maxFiles {
			return tooManyFiles(len(o.has))
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return o.usable()
}

// list takes a file up if it is a page or a picture. Files whose name begins
// with a point or an underscore that packers add are none.
func (o *OldSite) list(name string) {
	if base := path.Base(name); strings.HasPrefix(base, ".") || strings.HasPrefix(name, "__MACOSX/") {
		return
	}
	o.has[name] = true
	if isPage(name) {
		o.names = append(o.names, name)
	}
}

func isPage(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".html", ".htm", ".xhtml":
		return true
	}
	return false
}

func (o *OldSite) usable() (*OldSite, error) {
	if len(o.names) == 0 {
		return nil, refuse(0, "there is no HTML page in it", "pack the folder that holds the .html files")
	}
	slices.Sort(o.names)
	return o, nil
}

// read gives the bytes of a file, at most limit.
func (o *OldSite) read(name string, limit int64) ([]byte, error) {
	if !o.has[name] {
		return nil, fs.ErrNotExist
	}
	f, err := o.open(name)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", name, err)
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, limit+1))
	if err != nil {
		return nil, fmt.Errorf("read %s: %w", name, err)
	}
	if int64(len(data)) > limit {
		return nil, fmt.Errorf("%s holds more than %d MB", name, limit>>20)
	}
	return data, nil
}
