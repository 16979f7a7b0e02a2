// Package objects keeps what files hold: in a folder, in an S3-compatible storage, or in
// memory, as a URL says.
//
//	file:///var/lib/candlepath/files    a folder
//	s3://bucket?endpoint=…&region=…     S3-compatible; keys come from the environment
//	mem://                              memory, for tests
package objects

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // opens file://
	_ "gocloud.dev/blob/memblob"  // opens mem://
	_ "gocloud.dev/blob/s3blob"   // opens s3://
	"gocloud.dev/gcerrors"
)

// Objects is a storage of immutable objects by key.
type Objects struct{ bucket *blob.Bucket }

// Open opens the storage of a URL; a plain path is a folder, which is made if need be.
func Open(ctx context.Context, where string) (*Objects, error) {
	u, err := url.Parse(where)
	if err != nil {
		return nil, fmt.Errorf("storage of files: %w", err)
	}
	if u.Scheme == "" || u.Scheme == "file" {
		folder, err := filepath.Abs(u.Path)
		if err != nil {
			return nil, fmt.Errorf("storage of files: %w", err)
		}
		if err := os.MkdirAll(folder, 0o750); err != nil {
			return nil, fmt.Errorf("storage of files: %w", err)
		}
		where = (&url.URL{Scheme: "file", Path: filepath.ToSlash(folder), RawQuery: "metadata=skip&no_tmp_dir=true"}).String()
	}
	b, err := blob.OpenBucket(ctx, where)
	if err != nil {
		return nil, fmt.Errorf("storage of files: %w", err)
	}
	return &Objects{b}, nil
}

// Folder gives the folder that a URL names, if it names one.
func Folder(where string) (string, bool) {
	u, err := url.Parse(where)
	if err != nil || u.Scheme != "" && u.Scheme != "file" {
		return "", false
	}
	return u.Path, true
}

// Close ends the use of the storage.
func (o *Objects) Close() error { return o.bucket.Close() }

// Put keeps an object; what is there already under the key is replaced.
func (o *Objects) Put(ctx context.Context, key string, data io.Reader) error {
	if err := o.bucket.Upload(ctx, key, data, &blob.WriterOptions{ContentType: "application/octet-stream"}); err != nil {
		return fmt.Errorf("keep %s: %w", key, err)
	}
	return nil
}

// Get opens an object, and tells how many bytes it has; fs.ErrNotExist if there is none.
func (o *Objects) Get(ctx context.Context, key string) (io.ReadCloser, int64, error) {
	r, err := o.bucket.NewReader(ctx, key, nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, 0, fmt.Errorf("%s: %w", key, fs.ErrNotExist)
	}
	if err != nil {
		return nil, 0, fmt.Errorf("open %s: %w", key, err)
	}
	return r, r.Size(), nil
}

// Delete deletes an object, if it is there.
func (o *Objects) Delete(ctx context.Context, key string) error {
	err := o.bucket.Delete(ctx, key)
	if err == nil || gcerrors.Code(err) == gcerrors.NotFound {
		return nil
	}
	return errors.Join(fmt.Errorf("delete %s", key), err)
}

// Older visits the keys of objects that were put before a time.
func (o *Objects) Older(ctx context.Context, before time.Time, visit func(key string) error) error {
	list := o.bucket.List(nil)
	for {
		found, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("list files of the storage: %w", err)
		}
		if !found.ModTime.Before(before) {
			continue
		}
		if err := visit(found.Key); err != nil {
			return err
		}
	}
}
