package sitemap

import (
	"bytes"
	"encoding/gob"
	"fmt"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// keptSheet is a sheet as it is kept beside its file.
type keptSheet struct {
	Entries  []sitemap.Entry
	Line     []int
	Given    []bool
	Has      map[string]bool
	Findings []check.Finding
}

func packSheet(s *sheet.Sheet) []byte {
	var b bytes.Buffer
	if err := gob.NewEncoder(&b).Encode(keptSheet{s.Tree.Entries(), s.Line, s.Given, s.Has, s.Findings}); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// sheetOf is what a file was understood as, with the addresses that were chosen.
func sheetOf(b Import) (*sheet.Sheet, error) {
	var k keptSheet
	if err := gob.NewDecoder(bytes.NewReader(b.Sheet)).Decode(&k); err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	t, err := sitemap.New(k.Entries)
	if err != nil {
		return nil, fmt.Errorf("unpack what was read of %s: %w", b.FileName, err)
	}
	s := &sheet.Sheet{Tree: t, Line: k.Line, Given: k.Given, Has: k.Has, Findings: k.Findings}
	if b.Follow {
		return s.FollowTree()
	}
	return s, nil
}
