package files

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// maxNested is the most that a file of nested entries may hold: unlike tables,
// JSON and OPML are read whole.
const maxNested = 64 << 20

func readNested(r io.Reader) ([]byte, error) {
	data, err := io.ReadAll(io.LimitReader(r, maxNested+1))
	if err != nil {
		return nil, fmt.Errorf("read: %w", err)
	}
	if len(data) > maxNested {
		return nil, refuse(0, fmt.Sprintf("the file holds more than %d MB", maxNested>>20), "split it, or use .csv")
	}
	return bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), nil
}

// nested is an entry of a file in which entries hold those below them.
type nested struct {
	line  int
	cells map[string]string // by column
	below []nested
}

// flatten makes a table of nested entries: one row each in document order, with
// a level where the entries were nested or say nothing of one. A home page, told by its address, has
// level 0.
func flatten(top []nested, o Options) ([]sheet.Record, error) {
	columns := map[string]int{}
	deep := slices.ContainsFunc(top, func(n nested) bool { return len(n.below) > 0 }) || !slices.ContainsFunc(top, func(n nested) bool {
		return n.cells["parent"] != "" || n.cells["level"] != ""
	})
	header := []string{}
	column := func(name string) int {
		i, ok := columns[name]
		if !ok {
			i = len(header)
			columns[name], header = i, append(header, name)
		}
		return i
	}
	records := []sheet.Record{{}}
	var put func(n nested, level int) error
	put = func(n nested, level int) error {
		rec := sheet.Record{Line: n.line}
		set := func(name, value string) {
			i := column(name)
			for len(rec.Cells) <= i {
				rec.Cells = append(rec.Cells, "")
			}
			rec.Cells[i] = value
		}
		for name, value := range n.cells {
			if !deep || name != "level" && name != "parent" {
				set(name, value)
			}
		}
		if deep {
			set("level", strconv.Itoa(level))
		}
		records = append(records, rec)
		o.told(len(records))
		if len(records) > sitemap.MaxRows+1 {
			return refuse(n.line, fmt.Sprintf("there are more than %d rows", sitemap.MaxRows), "split the file")
		}
		for _, b := range n.below {
			if err := put(b, level+1); err != nil {
				return err
			}
		}
		return nil
	}
	for _, n := range top {
		level := 1
		if n.cells["address"] == "/" {
			level = 0
		}
		if err := put(n, level); err != nil {
			return nil, err
		}
	}
	records[0].Cells = header
	return records, nil
}

// deepJSON finds the line at which JSON goes deeper than entries may stand; each
// level is an object in an array.
func deepJSON(data []byte) (line int, deep bool) {
	depth, line, text := 0, 1, false
	for i := 0; i < len(data); i++ {
		switch c := data[i]; {
		case c == '\n':
			line++
		case text && c == '\\':
			i++
		case c == '"':
			text = !text
		case text:
		case c == '[' || c == '{':
			if depth++; depth > 2*(sitemap.MaxLevels+2) {
				return line, true
			}
		case c == ']' || c == '}':
			depth--
		}
	}
	return 0, false
}

// readJSON reads an array of objects whose keys are the columns; those below
// an entry may stand in it under "children".
func readJSON(r io.Reader, o Options) ([]sheet.Record, error) {
	data, err := readNested(r)
	if err != nil {
		return nil, err
	}
	if line, deep := deepJSON(data); deep {
		return nil, tooDeep(line)
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	var top []map[string]any
	if err := d.Decode(&top); err != nil {
		return nil, refuse(lineOf(data, err, d.InputOffset()), "this is no array of JSON objects", `write [{"id": "a", "parent": "", "title": "…"}, …], or nest entries under "children"`)
	}
	count := 0
	var entry func(m map[string]any) (nested, error)
	entry = func(m map[string]any) (nested, error) {
		count++
		n := nested{line: count, cells: map[string]string{}}
		for name, v := range m {
			if strings.EqualFold(name, "children") {
				list, ok := v.([]any)
				if !ok && v != nil {
					return n, refuse(0, fmt.Sprintf("the children of entry %d are no array", n.line), `write "children": [ … ]`)
				}
				for _, c := range list {
					m, ok := c.(map[string]any)
					if !ok {
						return n, refuse(0, fmt.Sprintf("a child of entry %d is no object", n.line), `write {"title": "…"}`)
					}
					b, err := entry(m)
					if err != nil {
						return n, err
					}
					n.below = append(n.below, b)
				}
				continue
			}
			n.cells[strings.ToLower(name)] = cellOf(v)
		}
		return n, nil
	}
	list := make([]nested, 0, len(top))
	for _, m := range top {
		n, err := entry(m)
		if err != nil {
			return nil, err
		}
		list = append(list, n)
	}
	return flatten(list, o)
}

func cellOf(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case []any:
		parts := make([]string, len(v))
		for i, p := range v {
			parts[i] = cellOf(p)
		}
		return strings.Join(parts, "; ")
	}
	return fmt.Sprint(v)
}

// lineOf gives the line at which decoding failed.
func lineOf(data []byte, err error, offset int64) int {
	if syntax := (*json.SyntaxError)(nil); errors.As(err, &syntax) {
		offset = syntax.Offset
	}
	return 1 + bytes.Count(data[:min(int(offset), len(data))], []byte("\n"))
}

// writeJSON writes what readJSON reads: one object a line, empty cells left out.
func writeJSON(w io.Writer, t *sitemap.Tree) error {
	var b bytes.Buffer
	b.WriteString("[")
	for i := range t.Len() {
		if i > 0 {
			b.WriteString(",")
		}
		b.WriteString("\n{")
		first := true
		for c, v := range sheet.Row(t, i) {
			if v == "" {
				continue
			}
			text, err := json.Marshal(v)
			if err != nil {
				return err
			}
			if !first {
				b.WriteString(", ")
			}
			first = false
			fmt.Fprintf(&b, "%q: %s", sheet.Columns[c], text)
		}
		b.WriteString("}")
	}
	b.WriteString("\n]\n")
	_, err := w.Write(b.Bytes())
	return err
}
