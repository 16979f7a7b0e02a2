package reader

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"maps"

	"candlepath/internal/files"
)

// partNotes is the file of a part that tells what its pages refer to.
const partNotes = "notes.json"

// referred is what pages refer to: files of the program, and addresses of files of the site.
type referred struct{ Assets, Shown map[string]bool }

// part writes some pages as a part of their own, or takes the part as it was written before.
func (x *exporter) part(ctx context.Context, n int, pages []int) error {
	data, err := x.Parts.Get(ctx, n)
	if err != nil {
		return fmt.Errorf("read what is exported: %w", err)
	}
	if data == nil {
		if data, err = x.written(ctx, pages); err != nil {
			return err
		}
		if err := x.Parts.Put(ctx, n, data); err != nil {
			return fmt.Errorf("keep what is exported: %w", err)
		}
	}
	return x.merge(data)
}

// written writes some pages into an archive of their own.
func (x *exporter) written(ctx context.Context, pages []int) ([]byte, error) {
	var out bytes.Buffer
	z := files.NewFolderZip(&out)
	alone := &exporter{Export: x.Export, site: x.site, snap: x.snap, symbols: x.symbols, assets: map[string]bool{}, shown: map[string]bool{}}
	alone.Put = z.Put
	if err := alone.some(ctx, pages); err != nil {
		return nil, err
	}
	notes, err := json.Marshal(referred{alone.assets, alone.shown})
	if err != nil {
		return nil, err
	}
	if err := z.Put(partNotes, bytes.NewReader(notes)); err != nil {
		return nil, err
	}
	err = z.Close()
	return out.Bytes(), err
}

// merge adds the pages of a part to the export.
func (x *exporter) merge(part []byte) error {
	z, err := zip.NewReader(bytes.NewReader(part), int64(len(part)))
	if err != nil {
		return fmt.Errorf("read what is exported: %w", err)
	}
	var list []*zip.File
	var refers referred
	for _, f := range z.File {
		if f.Name != partNotes {
			list = append(list, f)
			continue
		}
		r, err := f.Open()
		if err != nil {
			return err
		}
		defer r.Close()
		if err := json.NewDecoder(r).Decode(&refers); err != nil {
			return fmt.Errorf("read what is exported: %w", err)
		}
	}
	x.mu.Lock()
	maps.Copy(x.assets, refers.Assets)
	maps.Copy(x.shown, refers.Shown)
	x.mu.Unlock()
	return x.Merge(list)
}
