package editions

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"strings"
	"sync"
	"time"

	"candlepath/internal/app/plan"
)

// ExportParts are the parts of an export that are written, in the storage of files, so that an export
// that is cut off goes on where it was. A part is used only if what it was made from is what it would be
// made from now: the edition, who may read it, the people, the settings, the day and the program.
type ExportParts struct {
	objects plan.Objects
	id, of  string

	mu   sync.Mutex
	most int // parts that may be there
}

const (
	exportPrefix = "export-"
	partSuffix   = ".part"
)

func (p *ExportParts) key(n int) string {
	return fmt.Sprintf("%s%s-%d%s", exportPrefix, p.id, n, partSuffix)
}

// head stands before a part and says what it was made from.
func (p *ExportParts) head() []byte {
	sum := sha256.Sum256([]byte(p.of))
	return []byte(hex.EncodeToString(sum[:]))
}

// Get gives a part; nil if it is to be written.
func (p *ExportParts) Get(ctx context.Context, n int) ([]byte, error) {
	p.counted(n)
	body, _, err := p.objects.Get(ctx, p.key(n))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer body.Close()
	data, err := io.ReadAll(body)
	if err != nil {
		return nil, err
	}
	data, ok := bytes.CutPrefix(data, p.head())
	if !ok {
		return nil, nil
	}
	return data, nil
}

// Put keeps a part.
func (p *ExportParts) Put(ctx context.Context, n int, data []byte) error {
	p.counted(n)
	return p.objects.Put(ctx, p.key(n), io.MultiReader(bytes.NewReader(p.head()), bytes.NewReader(data)))
}

func (p *ExportParts) counted(n int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.most = max(p.most, n+1)
}

// drop deletes all parts. What a stopped process left is swept.
func (p *ExportParts) drop(ctx context.Context) (err error) {
	for n := range p.most {
		err = errors.Join(err, p.objects.Delete(ctx, p.key(n)))
	}
	return err
}

// sweepExportParts deletes the parts that were written before a time.
func sweepExportParts(ctx context.Context, objects plan.Objects, before time.Time) error {
	return objects.Older(ctx, before, func(key string) error {
		if strings.HasPrefix(key, exportPrefix) && strings.HasSuffix(key, partSuffix) {
			return objects.Delete(ctx, key)
		}
		return nil
	})
}
