package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"iter"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// Exit codes of the file commands.
const (
	exitFine     = 0
	exitFindings = 1
	exitUnusable = 2
)

// exitError ends the program with a code; an empty message says nothing.
type exitError struct {
	code    int
	message string
}

func (e *exitError) Error() string { return e.message }

func findings(yes bool) error {
	if yes {
		return &exitError{code: exitFindings}
	}
	return nil
}

// unusable words why a file cannot be used, with its name.
func unusable(name string, err error) error {
	return &exitError{exitUnusable, fmt.Sprintf("%s: %s", name, err)}
}

type sitemapCmd struct {
	Convert convertCmd      `cmd:"" help:"Read a sitemap and write it in another format or normalised."`
	Check   checkSitemapCmd `cmd:"" help:"Tell what is wrong with a sitemap."`
	Diff    diffCmd         `cmd:"" help:"Tell how NEXT differs from LIVE."`
}

type redirectsCmd struct {
	Plan    planCmd        `cmd:"" help:"Compute the redirects that a change of the sitemap needs."`
	Compact compactCmd     `cmd:"" help:"Give the fewest rows that answer the same."`
	Resolve resolveCmd     `cmd:"" help:"Tell what addresses answer."`
	Check   checkTableCmd  `cmd:"" help:"Tell what is wrong with a redirect table."`
	Export  exportTableCmd `cmd:"" help:"Write the rules by which nginx or Apache httpd answers an old host."`
	Serve   serveTableCmd  `cmd:"" help:"Answer an old host from a redirect table."`
}

// output is how every file command writes its table.
type output struct {
	JSON bool `help:"One JSON object a line instead of CSV."`
}

func (o output) write(header []string, rows [][]string) error {
	return o.writeOf(header, slices.Values(rows))
}

// writeOf writes rows that come one by one.
func (o output) writeOf(header []string, rows iter.Seq[[]string]) error {
	w := bufio.NewWriter(os.Stdout)
	write := files.WriteCSVOf
	if o.JSON {
		write = files.WriteJSONLines
	}
	if err := write(w, header, rows); err != nil {
		return err
	}
	return w.Flush()
}

// open opens a file, or standard input for "-".
func open(name string) (io.ReadCloser, error) {
	if name == "-" {
		return io.NopCloser(os.Stdin), nil
	}
	f, err := os.Open(name)
	if err != nil {
		problem := err.Error()
		if pe := (*os.PathError)(nil); errors.As(err, &pe) {
			problem = pe.Err.Error()
		}
		return nil, unusable(name, fmt.Errorf("%s; check the name", problem))
	}
	return f, nil
}

func readSitemap(name, worksheet string) (*sheet.Sheet, error) {
	if info, err := os.Stat(name); err == nil && info.IsDir() {
		return readFolder(name)
	}
	f, err := open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	as := name
	if name == "-" {
		as = "stdin.csv"
	}
	s, err := files.ReadSitemap(as, f, files.Options{Sheet: worksheet, Beside: func(beside string) (io.ReadCloser, error) {
		return os.Open(filepath.Join(filepath.Dir(name), beside))
	}})
	if err != nil {
		return nil, unusable(name, err)
	}
	return s, nil
}

// readFolder reads a folder of HTML pages; links out of it are not followed.
func readFolder(name string) (s *sheet.Sheet, err error) {
	err = inFolder(name, func(site *files.OldSite) error {
		s, err = files.ReadOldSite(site, files.Options{})
		return err
	})
	return s, err
}

// inFolder opens a folder of HTML pages.
func inFolder(name string, use func(*files.OldSite) error) error {
	root, err := os.OpenRoot(name)
	if err != nil {
		return unusable(name, err)
	}
	defer root.Close()
	site, err := files.OpenFolder(root.FS())
	if err == nil {
		err = use(site)
	}
	if err != nil {
		return unusable(name, err)
	}
	return nil
}

// tell prints findings of reading to standard error.
func tell(name string, fs []check.Finding) (bad bool) {
	for _, f := range fs {
		fmt.Fprintf(os.Stderr, "%s: line %d: %s: %s\n", name, f.Line, f.Severity, f.Message)
		bad = bad || f.Severity == check.Error
	}
	return bad
}

type convertCmd struct {
	In    string `arg:"" help:"File to read (.csv, .xlsx, .json, .opml, .xml, a folder or .zip of HTML pages; - for CSV on standard input)."`
	Out   string `arg:"" help:"File to write (.csv, .xlsx, .json, .opml, .xml; - for CSV on standard output)."`
	Sheet string `help:"Sheet of a workbook."`
	Base  string `help:"What addresses begin with in a sitemaps.org file." default:"https://localhost"`
	output
}

func (c *convertCmd) Run() error {
	s, err := readSitemap(c.In, c.Sheet)
	if err != nil {
		return err
	}
	if c.Out == "-" {
		err = c.write(sheet.Columns, sheet.Rows(s.Tree))
	} else {
		err = writeFile(c.Out, func(w io.Writer) error { return files.WriteSitemap(c.Out, w, s.Tree, c.Base) })
	}
	if err != nil {
		return err
	}
	return findings(tell(c.In, s.Findings))
}

// writeFile writes beside the file and renames, so that a failure leaves what
// was there.
func writeFile(name string, write func(io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(name), ".part-")
	if err != nil {
		return unusable(name, fmt.Errorf("cannot be written: %w; choose another place", err))
	}
	tmp := f.Name()
	w := bufio.NewWriter(f)
	err = errors.Join(write(w), w.Flush(), f.Chmod(0o644), f.Close())
	if err != nil {
		os.Remove(tmp)
		return unusable(name, err)
	}
	return os.Rename(tmp, name)
}

var findingColumns = []string{"line", "severity", "rule", "id", "from", "message"}

func findingRows(fs []check.Finding) (rows [][]string, bad bool) {
	for _, f := range fs {
		rows = append(rows, []string{strconv.Itoa(f.Line), string(f.Severity), string(f.Rule), f.ID, f.From, f.Message})
		bad = bad || f.Severity == check.Error
	}
	return rows, bad
}

type checkSitemapCmd struct {
	In    string `arg:"" help:"File to read."`
	Sheet string `help:"Sheet of a workbook."`
	output
}

func (c *checkSitemapCmd) Run() error {
	s, err := readSitemap(c.In, c.Sheet)
	if err != nil {
		return err
	}
	found := s.Findings
	told := map[string]bool{}
	for _, f := range found {
		told[f.ID+" "+string(f.Rule)] = true
	}
	for _, f := range sitemap.Check(s.Tree, sitemap.CheckOptions{Line: s.Line, Today: time.Now().Format(time.DateOnly)}) {
		if !told[f.ID+" "+string(f.Rule)] {
			found = append(found, f)
		}
	}
	slices.SortStableFunc(found, func(a, b check.Finding) int { return a.Line - b.Line })
	rows, bad := findingRows(found)
	if err := c.write(findingColumns, rows); err != nil {
		return err
	}
	tellShape(s.Tree)
	return findings(bad)
}

// tellShape prints a summary of a tree to standard error.
func tellShape(t *sitemap.Tree) {
	s := sitemap.ShapeOf(t, 3)
	fmt.Fprintf(os.Stderr, "%d entries:", s.Entries)
	for _, k := range s.Kinds {
		name := k.Name
		if k.N != 1 {
			name += "s"
		}
		fmt.Fprintf(os.Stderr, " %d %s", k.N, name)
	}
	fmt.Fprintln(os.Stderr)
	for _, l := range s.Levels {
		fmt.Fprintf(os.Stderr, "level %d: %d, at most %d side by side\n", l.Number, l.Entries, max(l.Broad, 1))
	}
	for _, i := range s.Longest {
		fmt.Fprintf(os.Stderr, "long address: %s\n", address.Written(t.Address(i)))
	}
}

type diffCmd struct {
	Live string `arg:"" help:"Sitemap of Live."`
	Next string `arg:"" help:"Sitemap of Next."`
	output
}

func (c *diffCmd) Run() error {
	live, next, err := readTwo(c.Live, c.Next)
	if err != nil {
		return err
	}
	var rows [][]string
	for _, ch := range change.Diff(live.Tree, next.Tree) {
		rows = append(rows, []string{ch.ID, string(ch.Aspect), ch.Before, ch.After, ch.Because})
	}
	return c.write(files.DiffColumns, rows)
}

func readTwo(liveName, nextName string) (live, next *sheet.Sheet, err error) {
	if live, err = readSitemap(liveName, ""); err != nil {
		return nil, nil, err
	}
	next, err = readSitemap(nextName, "")
	if err == nil {
		tell(liveName, live.Findings)
		tell(nextName, next.Findings)
	}
	return live, next, err
}

type planCmd struct {
	Live      string   `required:"" help:"Sitemap of Live."`
	Next      string   `required:"" help:"Sitemap of Next."`
	Redirects string   `help:"Redirect table of Live."`
	Removed   string   `help:"Decisions on removed pages: id,to[,code,review,note]."`
	Host      []string `help:"A host of the site's own, whose URLs count as paths."`
	output
}

func (c *planCmd) Run() error {
	live, next, err := readTwo(c.Live, c.Next)
	if err != nil {
		return err
	}
	in := redirect.Input{Live: live.Tree, Next: next.Tree, Hosts: c.Host}
	if in.Table, err = readRedirects(c.Redirects); err != nil {
		return err
	}
	if in.Decisions, err = c.decisions(live.Tree, next.Tree); err != nil {
		return err
	}
	rows, err := redirect.Plan(in)
	if errors.Is(err, redirect.ErrTable) {
		return unusable(c.Redirects, err)
	}
	if err != nil {
		return err
	}
	columns, lines := files.RedirectTable(rows, next.Tree)
	if err := c.write(columns, lines); err != nil {
		return err
	}
	return findings(slices.ContainsFunc(rows, func(r redirect.Row) bool { return r.Status.IsFinding() }))
}

func (c *planCmd) decisions(live, next *sitemap.Tree) (map[string]redirect.Decision, error) {
	if c.Removed == "" {
		return nil, nil
	}
	f, err := open(c.Removed)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	d, err := files.ReadDecisions(c.Removed, f, next)
	if err != nil {
		return nil, unusable(c.Removed, err)
	}
	for id, line := range d.Line {
		if live.Find(id) == sitemap.None {
			fmt.Fprintf(os.Stderr, "%s: line %d: warning: %q is not in %s; the decision is not used.\n", c.Removed, line, id, c.Live)
		}
	}
	return d.By, nil
}

func readRedirects(name string) ([]redirect.Row, error) {
	if name == "" {
		return nil, nil
	}
	f, err := open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	rows, err := files.ReadRedirects(name, f)
	if err != nil {
		return nil, unusable(name, err)
	}
	return rows, nil
}

type compactCmd struct {
	Table string `arg:"" help:"Redirect table."`
	output
}

func (c *compactCmd) Run() error {
	rows, err := readRedirects(c.Table)
	if err != nil {
		return err
	}
	compact, err := redirect.Compact(rows)
	if err != nil {
		return unusable(c.Table, err)
	}
	if more, err := redirect.Spreads(rows, compact); err == nil && more > 0 {
		fmt.Fprintf(os.Stderr, "rows that also answer addresses below their own which the table does not: %d of %d\n", more, len(compact))
	}
	columns, lines := files.RedirectTable(compact, nil)
	return c.write(columns, lines)
}

type resolveCmd struct {
	Redirects string   `help:"Redirect table."`
	Sitemap   string   `help:"Sitemap of the live pages."`
	Addresses []string `arg:"" help:"Addresses to resolve; - reads them from standard input, one a line."`
	output
}

func (c *resolveCmd) Run() error {
	table, err := c.table()
	if err != nil {
		return err
	}
	addresses, err := c.addresses()
	if err != nil {
		return err
	}
	var rows [][]string
	missed := false
	for _, a := range addresses {
		request := a
		if _, _, named := address.HostOf(a); !named && address.IsURL(a) {
			if u, rest, ok := strings.Cut(a, "://"); ok && u != "" {
				_, path, _ := strings.Cut(rest, "/")
				request = "/" + path
			}
		}
		got := table.Resolve(request)
		missed = missed || got.Code == 404
		rows = append(rows, []string{a, strconv.Itoa(got.Code), got.Location, string(got.By), redirect.WrittenFrom(got.Rule)})
	}
	if err := c.write([]string{"address", "code", "location", "by", "rule"}, rows); err != nil {
		return err
	}
	return findings(missed)
}

func (c *resolveCmd) table() (*redirect.Table, error) {
	rows, err := readRedirects(c.Redirects)
	if err != nil {
		return nil, err
	}
	var pages *sitemap.Tree
	if c.Sitemap != "" {
		s, err := readSitemap(c.Sitemap, "")
		if err != nil {
			return nil, err
		}
		pages = s.Tree
	}
	table, err := redirect.NewTable(rows, pages)
	if err != nil {
		return nil, unusable(c.Redirects, err)
	}
	return table, nil
}

func (c *resolveCmd) addresses() ([]string, error) {
	if len(c.Addresses) != 1 || c.Addresses[0] != "-" {
		return c.Addresses, nil
	}
	var out []string
	s := bufio.NewScanner(os.Stdin)
	s.Buffer(nil, 1<<20)
	for s.Scan() {
		if line := strings.TrimSpace(s.Text()); line != "" {
			out = append(out, line)
		}
	}
	return out, s.Err()
}

type checkTableCmd struct {
	Table   string `arg:"" help:"Redirect table."`
	Sitemap string `help:"Sitemap of the live pages."`
	output
}

func (c *checkTableCmd) Run() error {
	rows, err := readRedirects(c.Table)
	if err != nil {
		return err
	}
	var pages *sitemap.Tree
	if c.Sitemap != "" {
		s, err := readSitemap(c.Sitemap, "")
		if err != nil {
			return err
		}
		pages = s.Tree
	}
	out, bad := findingRows(redirect.Check(rows, pages))
	if err := c.write(findingColumns, out); err != nil {
		return err
	}
	return findings(bad)
}
