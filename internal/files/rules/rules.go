// Package rules writes the redirects of a table for the web servers that answer an old host: nginx and Apache httpd. It makes
// each row one that the server finds by a single look, writes the row in every spelling in which its address may come, and
// proves the whole against the table.
//
// No server knows the normal form of an address. So the rules write the path of a request in it, as address.Written gives it,
// and look that up; what is carried along behind a prefix row is the end of it.
package rules

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

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
	Proof []redirect.Proved // each address on which the rows were held against the table
}

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
	out := Set{Rows: len(plain), Proof: proof}
	var list []rule
	for _, r := range plain {
		list = append(list, newRule(r, o.Base))
	}
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
	code   int
	spread bool
	carry  bool     // the rest of the path goes along
	key    string   // the path as written in a link; of the root: ""
	args   []string // each order of the parameters, where a query takes part
	many   string   // instead: an expression for all orders, where these would be too many
	depth  int      // segments of the path

	path, query, fragment string // of the location
}

// Limits of how many orders of a row are written out, and of how many empty parameters in the middle of a query are overlooked.
const (
	mostParams  = 4
	emptyParams = 6
)

func newRule(r redirect.Row, base string) rule {
	from, query, hasQuery := strings.Cut(r.From, "?")
	out := rule{code: r.Code, spread: r.Match != redirect.Exact, carry: r.Match == redirect.Prefix && r.Code != redirect.Gone, depth: depthOf(from)}
	out.key = strings.TrimSuffix(address.Written(from), "/")
	if hasQuery {
		if out.args = orders(query); out.args == nil {
			out.many = anyOrder(query)
		}
	}
	if r.Code == redirect.Gone {
		return out
	}
	to := redirect.WrittenTo(r.To, nil)
	if strings.HasPrefix(to, "/") {
		to = base + to
	}
	out.path, out.query, out.fragment = address.Split(strings.NewReplacer("|", "%7C", " ", "%20", "\"", "%22", "\\", "%5C").Replace(to))
	return out
}

// asked tells whether a query takes part in the match.
func (r rule) asked() bool { return r.args != nil || r.many != "" }

func depthOf(from string) int {
	if from == "/" {
		return 0
	}
	return strings.Count(from, "/")
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
