package reader

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/url"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/files/rules"
	"candlepath/internal/platform/background"
	"candlepath/internal/web/render"
	"candlepath/internal/web/urls"
)

// Export is an edition that is written out as files: a page at /a/b as site/a/b/index.html, with
// links that hold from a disk and behind any web server.
type Export struct {
	State plan.SiteState
	As    string // login or role whose view is written; empty: what everybody may read
	// Put keeps a file. It may be called by several at a time.
	Put func(name string, data io.Reader) error
	// Progress is told how many of all pages are written; nil: nobody asks.
	Progress func(done, total int)
	// Parts keeps the pages that are written, so that an export that is cut off goes on where it was, and
	// Merge adds those of a part; nil: it would begin again.
	Parts *editions.ExportParts
	Merge func([]*zip.File) error
}

// Exported tells what was written.
type Exported struct {
	Pages, Files, Redirects int
	Lost                    []string // addresses of files whose data is not there any more
}

// exporter writes one edition out.
type exporter struct {
	Export
	site *Site
	snap *view

	symbols map[string]string
	mu      sync.Mutex
	assets  map[string]bool // that pages refer to
	shown   map[string]bool // addresses of files that pages refer to
	said    Exported
}

// pagesAtOnce is how many texts are loaded at a time.
const pagesAtOnce = 250

// Export writes an edition out.
func (s *Site) Export(ctx context.Context, e Export) (Exported, error) {
	snap, err := s.shown(ctx, e.State, e.As)
	if err != nil {
		return Exported{}, err
	}
	x := &exporter{Export: e, site: s, snap: snap, symbols: symbolsOf(render.Asset("symbols.svg")), assets: map[string]bool{}, shown: map[string]bool{}}
	for _, step := range []func(context.Context) error{x.pages, x.lists, x.files, x.own, x.redirects} {
		if err := step(ctx); err != nil {
			return x.said, err
		}
	}
	if len(x.said.Lost) > 0 {
		return x.said, x.Put("missing-files.txt", strings.NewReader(lostNotes+strings.Join(x.said.Lost, "\n")+"\n"))
	}
	return x.said, nil
}

const lostNotes = "These files belong to the edition, and the storage of files has their data no more:\n\n"

// pages writes all pages of the edition.
func (x *exporter) pages(ctx context.Context) error {
	var pages []int
	for i := range x.snap.Tree.Len() {
		if x.snap.Tree.Served(i) != "" {
			pages = append(pages, i)
		}
	}
	x.said.Pages = len(pages)
	done, n := 0, 0
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for some := range slices.Chunk(pages, pagesAtOnce) {
		part := n
		n++
		work.Go(func() (err error) {
			defer background.Recovered(&err)
			write := x.some
			if x.Parts != nil {
				write = func(ctx context.Context, pages []int) error { return x.part(ctx, part, pages) }
			}
			if err := write(ctx, some); err != nil || x.Progress == nil {
				return err
			}
			x.mu.Lock()
			defer x.mu.Unlock()
			done += len(some)
			x.Progress(done, len(pages))
			return nil
		})
	}
	return work.Wait()
}

func (x *exporter) some(ctx context.Context, pages []int) error {
	ids := make([]string, len(pages))
	for k, i := range pages {
		ids[k] = x.snap.Tree.Ref(i).ID
	}
	texts, err := x.site.app.ShownBodies(ctx, x.State, ids, x.snap.Tree)
	if err != nil {
		return err
	}
	for k, i := range pages {
		v, err := x.snap.pageView(i, texts[ids[k]])
		if err != nil {
			return err
		}
		if err := x.put(x.snap.Tree.Served(i), "page", v); err != nil {
			return err
		}
	}
	return nil
}

// lists writes the lists that the program makes of all pages.
func (x *exporter) lists(context.Context) error {
	for _, at := range []string{urls.Index, urls.Overview, urls.New, urls.TrailList} {
		list := x.snap.listAt(at)
		if list == "trails" && len(x.snap.trails) == 0 {
			continue
		}
		if err := x.put(at, list, x.snap.listView(list)); err != nil {
			return err
		}
	}
	body, err := x.site.set.Bytes("lost", "layout", lostView{frame: x.snap.frame("Not found", sitemap.None), Asked: "this address", Home: "/"})
	if err != nil {
		return err
	}
	return x.Put("site/404.html", bytes.NewReader(x.moved("/", body)))
}

// put writes a page at an address of the site.
func (x *exporter) put(at, screen string, v any) error {
	body, err := x.site.set.Bytes(screen, "layout", v)
	if err != nil {
		return err
	}
	return x.Put("site"+fileAt(at), bytes.NewReader(x.moved(at, body)))
}

// fileAt is the file of a page.
func fileAt(at string) string { return strings.TrimSuffix(at, "/") + "/index.html" }

// moved makes the links of a page at an address hold in the folder.
func (x *exporter) moved(at string, body []byte) []byte {
	up := strings.Repeat("../", strings.Count(strings.TrimSuffix(at, "/"), "/"))
	rw := files.Rewriter{Symbol: func(id string) string { return x.symbols[id] }, Link: func(to string) string { return x.link(up, to) }}
	return rw.Page(body)
}

// link gives an address of the site as a file, from a page below so many folders.
func (x *exporter) link(up, to string) string {
	path, _, fragment := address.Split(to)
	if fragment != "" {
		fragment = "#" + fragment
	}
	switch {
	case path == urls.Style:
		return up + "assets/style.css"
	case path == urls.Feed:
		return up + strings.TrimPrefix(urls.Feed, "/")
	case strings.HasPrefix(path, "/assets/"):
		x.note(x.assets, strings.TrimPrefix(path, "/assets/"))
	case strings.HasPrefix(path, "/files/"):
		x.note(x.shown, path)
	default:
		path = fileAt(path)
	}
	return up + strings.TrimPrefix(path, "/") + fragment
}

func (x *exporter) note(into map[string]bool, name string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	into[name] = true
}

// files writes the pictures and files that pages show.
func (x *exporter) files(ctx context.Context) error {
	for at := range x.shown {
		id, name, _ := strings.Cut(strings.TrimPrefix(at, "/files/"), "/")
		plain, err := url.PathUnescape(name)
		if err != nil {
			plain = name
		}
		err = x.file(ctx, id, plain)
		if errors.Is(err, plan.ErrNotFound) {
			x.said.Lost = append(x.said.Lost, at)
			continue
		}
		if err != nil {
			return err
		}
		x.said.Files++
	}
	slices.Sort(x.said.Lost)
	return nil
}

func (x *exporter) file(ctx context.Context, id, name string) error {
	f, err := x.site.app.File(ctx, x.State.Site.Edition, id, name)
	if err != nil {
		return err
	}
	body, _, err := x.site.app.Open(ctx, f)
	if err != nil {
		return err
	}
	defer body.Close()
	return x.Put("site/files/"+id+"/"+name, body)
}

var styleURL = regexp.MustCompile(`url\(["']?([^)"']+)["']?\)`)

// own writes the styles, scripts and fonts of the program, and the feed.
func (x *exporter) own(context.Context) error {
	names := []string{}
	for name := range x.assets {
		names = append(names, name)
		if strings.HasSuffix(name, ".css") {
			for _, m := range styleURL.FindAllSubmatch(render.Asset(name), -1) {
				names = append(names, string(m[1]))
			}
		}
	}
	for _, name := range names {
		if body := render.Asset(name); body != nil {
			if err := x.Put("site/assets/"+name, bytes.NewReader(body)); err != nil {
				return err
			}
		}
	}
	if err := x.Put("site/assets/style.css", strings.NewReader(accentOf(x.snap.Site.Settings.Text(setting.Accent)))); err != nil {
		return err
	}
	body, err := xml.Marshal(x.snap.feed(baseOf(x.snap.Site.Hosts)))
	if err != nil {
		return err
	}
	return x.Put("site"+urls.Feed, strings.NewReader(xml.Header+string(body)))
}

// baseOf is the address of the site, where it has a name.
func baseOf(hosts []string) string {
	if len(hosts) == 0 {
		return ""
	}
	return "https://" + hosts[0]
}

// redirects writes the rules for web servers, the proof of them, and for servers that know none a
// page at each old address that leads on.
func (x *exporter) redirects(context.Context) error {
	rows, err := redirect.Addressed(x.snap.Table.Rows(), x.snap.Tree)
	if err != nil {
		return err
	}
	x.said.Redirects = len(rows)
	if err := x.pagesThatLead(rows); err != nil {
		return err
	}
	var table bytes.Buffer
	columns, lines := files.RedirectTable(rows, nil)
	if err := files.WriteCSV(&table, columns, lines); err != nil {
		return err
	}
	if err := x.Put("redirects/redirects.csv", &table); err != nil {
		return err
	}
	var pages []string
	for i := range x.snap.Tree.Len() {
		if at := x.snap.Tree.Served(i); at != "" {
			pages = append(pages, at)
		}
	}
	rows = redirect.WithPages(rows, x.snap.Tree, pages) // for other spellings of their addresses
	sites := map[rules.Server]string{rules.Nginx: nginxSite, rules.Apache: apacheSite}
	for _, of := range []rules.Server{rules.Nginx, rules.Apache} {
		set, err := rules.Write(of, rows, false, rules.Options{Dir: map[rules.Server]string{rules.Apache: apacheHere}[of]})
		if err != nil {
			return err
		}
		for _, f := range set.Files {
			if f.Name == "proved.csv" && of == rules.Apache || f.Name == "nginx.conf" || f.Name == "apache.conf" {
				continue
			}
			name := "redirects/" + string(of) + "/" + f.Name
			switch f.Name {
			case "proved.csv":
				name = "proof.csv"
			case "redirects-server.conf": // a server looks for what a file includes elsewhere
				sites[of] = fmt.Sprintf(nginxSite, f.Data)
				continue
			}
			if err := x.Put(name, bytes.NewReader(f.Data)); err != nil {
				return err
			}
		}
	}
	for of, text := range sites {
		if err := x.Put("redirects/"+string(of)+"/site.conf", strings.NewReader(text)); err != nil {
			return err
		}
	}
	return x.Put("README.txt", strings.NewReader(fmt.Sprintf(exportNotes, x.snap.Site.Name(), x.State.Site.Edition, x.said.Pages, x.said.Files, x.said.Redirects)))
}

// pagesThatLead writes a page at each old address that leads on where a server knows no rules.
func (x *exporter) pagesThatLead(rows []redirect.Row) error {
	for _, r := range rows {
		if strings.ContainsAny(r.From, "?%") || strings.HasPrefix(r.From, "//") || !fits(r.From) {
			continue
		}
		var body []byte
		if r.Code == redirect.Gone {
			v := lostView{frame: x.snap.frame("Gone", sitemap.None), Asked: r.From, Gone: true, Home: "/", Says: r.Says}
			html, err := x.site.set.Bytes("lost", "layout", v)
			if err != nil {
				return err
			}
			body = x.moved(r.From, html)
		} else {
			to := redirect.WrittenTo(r.To, nil)
			if files.Local(to) {
				to = x.link(strings.Repeat("../", strings.Count(r.From, "/")), to)
			}
			at := template.HTMLEscapeString(to)
			body = fmt.Appendf(nil, "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Moved</title><meta http-equiv=\"refresh\" content=\"0; url=%[1]s\">"+
				"<link rel=\"canonical\" href=\"%[1]s\"></head><body><p>This page is now at <a href=\"%[1]s\">%[1]s</a>.</p></body></html>\n", at)
		}
		if err := errors.Join(x.Put("site"+fileAt(r.From), bytes.NewReader(body)), x.Put("site"+r.From+"/.moved", strings.NewReader(""))); err != nil {
			return err
		}
	}
	return nil
}

// fits tells whether file systems take the segments of an address as names.
func fits(at string) bool {
	for name := range strings.SplitSeq(strings.TrimPrefix(at, "/"), "/") {
		if name == "" || name == "." || name == ".." || len(name) > 200 || strings.ContainsAny(name, "\\:*?\"<>|\x00") {
			return false
		}
	}
	return true
}

// symbolsOf reads the drawings of a file of symbols, each as it stands in a page.
func symbolsOf(svg []byte) map[string]string {
	out := map[string]string{}
	for _, m := range symbolForm.FindAllSubmatch(svg, -1) {
		attrs := symbolID.ReplaceAllString(string(m[1]), "")
		out[string(symbolID.FindSubmatch(m[1])[1])] = "<svg" + attrs + ">" + string(m[2]) + "</svg>"
	}
	return out
}

var (
	symbolForm = regexp.MustCompile(`(?s)<symbol([^>]*)>(.*?)</symbol>`)
	symbolID   = regexp.MustCompile(`\s*id="([^"]*)"`)
)

// nginxSite is what belongs into the server of nginx that answers with the folder site.
const nginxSite = `# Made by Candle Path. Belongs into a server whose root is the folder "site"; redirects-maps.conf
# belongs into http. Folders without a page, old addresses and everything else that is not a file are
# answered by the redirects.
index index.html;
error_page 404 /404.html;
error_page 403 418 = @old;
location / {
    if (-f $document_root$uri/.moved) { return 418; }
    if (-f $document_root$uri/index.html) { rewrite [^/]$ $uri/ permanent; }
    try_files $uri/index.html $uri @old;
}
location @old {
%s}
`

// apacheSite is what belongs into the virtual host of Apache httpd that answers with the folder.
const apacheSite = `# Made by Candle Path. Belongs into a virtual host whose DocumentRoot is the folder "site". Before it,
# say where this folder is: Define CANDLE_PATH /the/folder/redirects/apache
DirectoryIndex index.html
ErrorDocument 404 /404.html
RewriteEngine On
RewriteCond %{DOCUMENT_ROOT}%{REQUEST_URI}/.moved !-f
RewriteCond %{DOCUMENT_ROOT}%{REQUEST_URI} -f [OR]
RewriteCond %{DOCUMENT_ROOT}%{REQUEST_URI}/index.html -f
RewriteRule ^ - [END]
Include "${CANDLE_PATH}/redirects.conf"
RewriteCond %{DOCUMENT_ROOT}%{REQUEST_URI} -d
RewriteRule ^ - [R=404,L]
`

// apacheHere stands for the folder of the rules for Apache httpd, which whoever uses them defines.
const apacheHere = "${CANDLE_PATH}"

const exportNotes = `%s, edition %d, written out by Candle Path.

site/        %d pages and %d files. Open site/index.html, or let a web server answer with this folder.
redirects/   %d redirects: redirects.csv, and rules for nginx and Apache httpd. For nginx include
             nginx/redirects-maps.conf in http, and nginx/site.conf in a server whose root is site;
             for Apache httpd write Define CANDLE_PATH and the folder redirects/apache, then include
             apache/site.conf in a virtual host whose root is site. Where a server knows no rules, a
             page at each old address leads on.
proof.csv    Every address, and how the rules answer it. The host is left out.
`
