// Package rules writes the redirects of a table for the web servers that answer an old host: nginx and Apache httpd. It makes
// each row one that the server finds by a single look, writes the row in every spelling in which its address may come, and
// proves the whole against the table.
//
// A server decodes a path and makes letters of ASCII small, no more. So the keys of a row are all spellings of its path (see
// spellings), and what is carried along behind a prefix row is written anew letter by letter (see letters).
package rules

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/unicode/norm"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files"
)

// Server is a kind of web server that can answer an old host from rules.
type Server string

// The servers.
const (
	Nginx  Server = "nginx"
	Apache Server = "apache"
)

// Servers lists them.
func Servers() []Server { return []Server{Nginx, Apache} }

// Options say where rules are to run.
type Options struct {
	Base   string // put before targets on the site, such as https://inside.quillmere.example
	Listen string // of the complete configuration; empty: 127.0.0.1:8080
	Dir    string // the folder, as an absolute path, in which the complete configuration will lie
}

// File is one file of a set of rules.
type File struct {
	Name string
	Data []byte
}

// Set is the files by which a server answers an old host.
type Set struct {
	Files []File
	Rows  int               // that answer
	Left  []LeftOut         // what the server cannot answer as the table does
	Proof []redirect.Proved // each address on which the rows were held against the table
}

// LeftOut is a row that a server cannot have.
type LeftOut struct{ From, Why string }

// Write makes the rules for a server out of a table. The rows are made so that the server
// looks an address up once (redirect.Plain), compacted if asked for, and held against the table
// for each address that the table names.
func Write(to Server, rows []redirect.Row, compact bool, o Options) (Set, error) {
	plain, proof, err := redirect.ForServers(rows, compact)
	if err != nil {
		return Set{}, err
	}
	if o.Listen == "" {
		o.Listen = "127.0.0.1:8080"
	}
	o.Base = strings.TrimSuffix(o.Base, "/")
	out := Set{Proof: proof}
	var list []rule
	for _, r := range plain {
		made, why := newRule(r, o.Base)
		if why != "" {
			out.Left = append(out.Left, LeftOut{redirect.WrittenFrom(r.From), why})
			continue
		}
		list = append(list, made)
	}
	out.Rows = len(list)
	if to == Apache {
		out.Files = apacheRules(list, o)
	} else {
		out.Files = nginxRules(list, o)
	}
	proved, err := provedFile(proof)
	out.Files = append(out.Files, proved)
	return out, err
}

func provedFile(proof []redirect.Proved) (File, error) {
	var b bytes.Buffer
	err := files.WriteCSVOf(&b, []string{"address", "code", "location"}, func(yield func([]string) bool) {
		for _, p := range proof {
			if !yield([]string{p.Address, strconv.Itoa(p.Code), p.Location}) {
				return
			}
		}
	})
	return File{"proved.csv", b.Bytes()}, err
}

// Zip packs the rules, with the empty folders that the servers need.
func (r Set) Zip(w io.Writer) error {
	z := zip.NewWriter(w)
	for _, dir := range []string{"tmp/", "empty/"} {
		if _, err := z.Create(dir); err != nil {
			return err
		}
	}
	for _, f := range r.Files {
		in, err := z.Create(f.Name)
		if err != nil {
			return err
		}
		if _, err := in.Write(f.Data); err != nil {
			return err
		}
	}
	return z.Close()
}

// rule is a row as servers need it.
type rule struct {
	code    int
	spread  bool
	carry   bool     // the rest of the path goes along
	keys    []string // spellings of the path, decoded and folded, without a slash at the end; of the root: ""
	odd     bool     // the path has escapes that must stay such
	slashed []string // of such a path, with %2f as servers leave it that do not decode that
	args    []string // each order of the parameters, where a query takes part
	many    string   // instead: an expression for all orders, where these would be too many
	depth   int      // segments of the path

	path, query, fragment string // of the location
}

// Limits of how many spellings and orders of a row are written out, and of how many empty
// parameters in the middle of a query are overlooked.
const (
	mostSpellings = 64
	mostParams    = 4
	emptyParams   = 6
)

func newRule(r redirect.Row, base string) (out rule, why string) {
	from, query, hasQuery := strings.Cut(r.From, "?")
	out = rule{code: r.Code, spread: r.Match != redirect.Exact, carry: r.Match == redirect.Prefix && r.Code != redirect.Gone, depth: depthOf(from)}
	var ok bool
	if out.keys, out.odd, ok = spellings(from); !ok {
		return out, "it has a control character, or too many letters beyond ASCII to write out every spelling"
	}
	if out.odd && strings.Contains(from, "%2F") {
		plain, _ := unescaped(strings.ReplaceAll(from, "%2F", "%252F"))
		out.slashed = []string{asciiLower(plain)}
	}
	if hasQuery {
		if out.args = orders(query); out.args == nil {
			out.many = anyOrder(query)
		}
	}
	if r.Code == redirect.Gone {
		return out, ""
	}
	to := redirect.WrittenTo(r.To, nil)
	if strings.HasPrefix(to, "/") {
		to = base + to
	}
	out.path, out.query, out.fragment = address.Split(strings.NewReplacer("|", "%7C", " ", "%20", "\"", "%22", "\\", "%5C").Replace(to))
	return out, ""
}

// asked tells whether a query takes part in the match.
func (r rule) asked() bool { return r.args != nil || r.many != "" }

func depthOf(from string) int {
	if from == "/" {
		return 0
	}
	return strings.Count(from, "/")
}

// spellings gives the ways in which a path arrives at a server that decodes it and folds only
// ASCII: each letter beyond it small and capital, composed and decomposed.
func spellings(from string) (keys []string, odd, ok bool) {
	decoded, odd := unescaped(from)
	if strings.ContainsFunc(decoded, func(r rune) bool { return r < 0x20 || r == 0x7F }) {
		return nil, odd, false
	}
	keys = []string{""}
	for _, r := range decoded {
		forms := []string{string(r)}
		if r >= 0x80 {
			small := string(r)
			for _, f := range []string{strings.ToUpper(small), strings.ToLower(small), norm.NFD.String(small), norm.NFD.String(strings.ToUpper(small))} {
				if !slices.Contains(forms, f) {
					forms = append(forms, f)
				}
			}
		}
		if len(keys)*len(forms) > mostSpellings {
			return nil, odd, false
		}
		var longer []string
		for _, k := range keys {
			for _, f := range forms {
				longer = append(longer, k+f)
			}
		}
		keys = longer
	}
	for i := range keys {
		keys[i] = asciiLower(strings.TrimSuffix(keys[i], "/"))
	}
	slices.Sort(keys)
	return slices.Compact(keys), odd, true
}

func asciiLower(s string) string {
	return strings.Map(func(r rune) rune {
		if 'A' <= r && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, s)
}

// unescaped decodes what a normal address keeps escaped.
func unescaped(from string) (decoded string, odd bool) {
	if !strings.Contains(from, "%") {
		return from, false
	}
	var b strings.Builder
	for i := 0; i < len(from); i++ {
		if from[i] == '%' && i+2 < len(from) {
			if n, err := strconv.ParseUint(from[i+1:i+3], 16, 8); err == nil {
				b.WriteByte(byte(n))
				i += 2
				continue
			}
		}
		b.WriteByte(from[i])
	}
	return b.String(), true
}

// orders gives a query with its parameters in every order that has the same sorted form; nil
// where these are too many to write out.
func orders(query string) (out []string) {
	params := strings.Split(query, "&")
	if len(params) > mostParams {
		return nil
	}
	seen := map[string]bool{}
	var put func(done, left []string)
	put = func(done, left []string) {
		if len(left) == 0 {
			q := strings.Join(done, "&")
			if !seen[q] && address.SortQuery(q) == query {
				seen[q] = true
				out = append(out, q)
			}
			return
		}
		for i := range left {
			rest := slices.Concat(left[:i], left[i+1:])
			put(append(slices.Clone(done), left[i]), rest)
		}
	}
	put(nil, params)
	return out
}

// anyOrder gives a regular expression of a query whose parameters stand in any order that has
// the same sorted form: each is there, those of one name in their order, and no other.
func anyOrder(query string) string {
	params := strings.Split(query, "&")
	var b strings.Builder
	last := ""
	for i, p := range params {
		name, _, _ := strings.Cut(p, "=")
		switch {
		case i > 0 && name == last:
			b.WriteString("&")
		case i > 0:
			b.WriteString("(?:&|$))")
			fallthrough
		default:
			b.WriteString("(?=")
		}
		b.WriteString("(?:[^&]*&)*" + regexpOf(p))
		last = name
	}
	fmt.Fprintf(&b, "(?:&|$))[^&]+(?:&[^&]+){%d}$", len(params)-1)
	return b.String()
}

// depths gives the depths of the rules that spread, the deepest first.
func depths(list []rule) (out []int) {
	for _, r := range list {
		if r.spread && !slices.Contains(out, r.depth) {
			out = append(out, r.depth)
		}
	}
	slices.Sort(out)
	slices.Reverse(out)
	return out
}
