package files

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"path/filepath"
	"strconv"
	"strings"

	"golang.org/x/net/html/atom"

	"candlepath/internal/core/match"
	"candlepath/internal/core/weblog"
)

// columnsOfOlder are the names that the columns of the list of an older site may have.
var columnsOfOlder = map[string][]string{
	"address": {"address", "url", "path", "page", "from", "loc", "location"},
	"title":   {"title", "name", "heading"},
	"visits":  {"visits", "views", "count", "hits", "pageviews"},
	"host":    {"host", "site", "domain"},
}

// ReadOlder reads the list of an older site: a table with a column of addresses, sitemaps.org
// XML, a .zip of HTML pages or of such XML, or the log of a web server. What it is is seen by
// what it holds rather than by its name; gzip is unpacked.
func ReadOlder(name string, r io.Reader, o Options) (*match.List, error) {
	in, err := unpacked(r)
	if err != nil {
		return nil, err
	}
	name = strings.TrimSuffix(strings.ToLower(name), ".gz")
	head, err := in.Peek(512)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, refuse(0, fmt.Sprintf("it cannot be read: %v", err), "fetch it again")
	}
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n")
	line, _, _ := bytes.Cut(head, []byte("\n"))
	_, isLog := weblog.Parse(line)
	switch ext := strings.ToLower(filepath.Ext(name)); {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")) && ext != ".xlsx":
		return olderArchive(in, o)
	case bytes.HasPrefix(head, []byte("<")):
		return olderURLs(in, o)
	case isLog || ext == ".log":
		return olderLog(in)
	}
	return olderTable(name, in)
}

func olderTable(name string, r io.Reader) (*match.List, error) {
	column := func(cells []string, of string) int {
		for i, c := range cells {
			c = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(c, "\ufeff")))
			for _, n := range columnsOfOlder[of] {
				if c == n {
					return i
				}
			}
		}
		return -1
	}
	records, _, err := ReadTable(name, r, Options{}, func(cells []string) bool { return column(cells, "address") >= 0 })
	if err != nil {
		return nil, err
	}
	l, at := &match.List{}, map[string]int(nil)
	for _, rec := range records {
		switch {
		case blank(rec.Cells):
		case at == nil:
			if column(rec.Cells, "address") < 0 {
				return nil, refuse(rec.Line, "there is no usable header", "name the columns address, and perhaps title, visits and host")
			}
			at = map[string]int{}
			for of := range columnsOfOlder {
				at[of] = column(rec.Cells, of)
			}
		default:
			cell := func(of string) string {
				if i := at[of]; i >= 0 && i < len(rec.Cells) {
					return strings.TrimSpace(rec.Cells[i])
				}
				return ""
			}
			visits, err := number(cell("visits"))
			if err != nil {
				l.Refused = append(l.Refused, match.RefusedLine{Line: rec.Line, Text: cell("address"), Of: fmt.Sprintf("%q is not a number of visits", cell("visits"))})
				continue
			}
			l.Add(rec.Line, cell("address"), cell("title"), cell("host"), "", visits)
		}
		if len(l.Lines) > match.MostLines {
			return nil, tooMany()
		}
	}
	if at == nil {
		return nil, refuse(0, "the file is empty", "its first row must name the column address")
	}
	return l, nil
}

// number reads a number of visits, perhaps with signs between thousands; nothing is 0.
func number(cell string) (int, error) {
	cell = strings.NewReplacer(",", "", " ", "", "\u00a0", "", "'", "").Replace(cell)
	if cell == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(cell)
	if err == nil && (n < 0 || n > 1<<30) {
		err = strconv.ErrRange
	}
	return n, err
}

func olderURLs(r io.Reader, o Options) (*match.List, error) {
	locs, err := readURLs(r, o)
	if err != nil {
		return nil, err
	}
	return olderLocs(locs), nil
}

func olderLocs(locs []string) *match.List {
	l := &match.List{}
	for i, loc := range locs {
		l.Add(i+1, loc, "", "", "", 0)
	}
	return l
}

func olderLog(r io.Reader) (*match.List, error) {
	count := weblog.NewCounter()
	if err := ReadLog(r, count); err != nil {
		return nil, err
	}
	l := &match.List{}
	for v := range count.All() {
		if len(l.Lines) == match.MostLines { // the rest was visited less
			l.Refused = append(l.Refused, match.RefusedLine{Text: v.Address, Of: fmt.Sprintf("a list has at most %d addresses; this and what was visited less is left out", match.MostLines)})
			break
		}
		l.Add(0, v.Address, "", v.Host, "", v.N)
	}
	return l, nil
}

func olderArchive(r io.Reader, o Options) (*match.List, error) {
	data, err := readAll(r)
	if err != nil {
		return nil, err
	}
	site, err := openZip(data)
	if err != nil {
		return nil, err
	}
	locs, are, err := site.locations(o)
	if err != nil {
		return nil, err
	}
	if !are {
		if site, err = site.usable(); err != nil {
			return nil, err
		}
		return OlderPages(site)
	}
	return olderLocs(locs), nil
}

// OlderPages lists the pages of the folder of an older site, with what they say.
func OlderPages(site *OldSite) (*match.List, error) {
	l := &match.List{}
	base := commonDir(site.names)
	for i, file := range site.names {
		d, err := site.document(file)
		if err != nil {
			l.Refused = append(l.Refused, match.RefusedLine{Line: i + 1, Text: file, Of: "it cannot be read: " + err.Error()})
			continue
		}
		title, text := titleOfPage(d), textOfPage(d)
		at := strings.TrimPrefix(file, base)
		if name := path.Base(at); name == "index.html" || name == "index.htm" {
			l.Add(i+1, "/"+escaped(strings.TrimSuffix(at, name)), title, "", text, 0)
		}
		l.Add(i+1, "/"+escaped(at), title, "", text, 0)
	}
	return l, nil
}

func titleOfPage(d document) string {
	if h := heading(d.text); h != nil {
		return words(h)
	}
	return words(first(d.root, atom.Title))
}

// escaped writes the name of a file as a path.
func escaped(name string) string {
	return strings.NewReplacer("%", "%25", "?", "%3F", "#", "%23").Replace(name)
}

// commonDir is the folder that holds all of some files, with the slash; empty for none.
func commonDir(names []string) string {
	if len(names) == 0 {
		return ""
	}
	dir := names[0][:strings.LastIndexByte(names[0], '/')+1]
	for _, n := range names {
		for !strings.HasPrefix(n, dir) {
			dir = dir[:strings.LastIndexByte(strings.TrimSuffix(dir, "/"), '/')+1]
		}
	}
	return dir
}

// textOfPage is what a page says below its heading.
func textOfPage(d document) string {
	return strings.TrimPrefix(words(d.text), words(first(d.text, atom.H1)))
}
