// Package render executes templates into a buffer and writes them with the
// right headers. One screen file serves the full page and its fragments.
package render

import (
	"bytes"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"path"
	"strings"

	"candlepath/web"
)

// Set is all screens of one layout.
type Set struct{ screens map[string]*template.Template }

// functions are what templates may call.
var functions = template.FuncMap{"asset": assetURL, "address": address}

// address sets an address so that it breaks between its segments, and within one
// only where it is wider than its place.
func address(a string) template.HTML {
	var b strings.Builder
	for segment := range strings.SplitAfterSeq(a, "/") {
		b.WriteString("<span>" + template.HTMLEscapeString(segment) + "</span>")
	}
	return template.HTML(b.String()) //nolint:gosec // every segment is escaped
}

// Load parses a layout, the shared parts and every screen of a folder and of those
// in it. A name
// defined twice is an error: the later would silently replace the first.
func Load(files fs.FS, layout, screens string) (*Set, error) {
	base := template.New("").Funcs(functions)
	parts, err := fs.Glob(files, "templates/parts/*.html")
	if err != nil {
		return nil, err
	}
	for _, f := range append([]string{layout}, parts...) {
		if err := addFile(base, files, f); err != nil {
			return nil, err
		}
	}
	names, err := fs.Glob(files, screens+"/*.html")
	if err != nil {
		return nil, err
	}
	within, err := fs.Glob(files, screens+"/*/*.html")
	if err != nil {
		return nil, err
	}
	s := &Set{screens: map[string]*template.Template{}}
	for _, f := range append(names, within...) {
		t, err := base.Clone()
		if err != nil {
			return nil, err
		}
		if err := addFile(t, files, f); err != nil {
			return nil, err
		}
		if t.Lookup("screen") == nil {
			return nil, fmt.Errorf("%s defines no screen", f)
		}
		name := strings.TrimSuffix(path.Base(f), ".html")
		if s.screens[name] != nil {
			return nil, fmt.Errorf("%s: there is a screen %s already", f, name)
		}
		s.screens[name] = t
	}
	return s, nil
}

// Studio is the set of all studio screens.
func Studio() (*Set, error) {
	return Load(web.Files, "templates/layout/studio.html", "templates/screens/studio")
}

func addFile(into *template.Template, files fs.FS, name string) error {
	text, err := fs.ReadFile(files, name)
	if err != nil {
		return err
	}
	own, err := template.New("").Funcs(functions).Parse(string(text))
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	for _, t := range own.Templates() {
		if t.Name() == "" {
			continue
		}
		if into.Lookup(t.Name()) != nil {
			return fmt.Errorf("%s: %q is defined twice", name, t.Name())
		}
		if _, err := into.AddParseTree(t.Name(), t.Tree); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	return nil
}

// Names lists the screens.
func (s *Set) Names() []string {
	var out []string
	for n := range s.screens {
		out = append(out, n)
	}
	return out
}

// Bytes executes a block of a screen.
func (s *Set) Bytes(screen, block string, view any) ([]byte, error) {
	t, ok := s.screens[screen]
	if !ok {
		return nil, fmt.Errorf("no screen %q", screen)
	}
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, block, view); err != nil {
		return nil, fmt.Errorf("render %s/%s: %w", screen, block, err)
	}
	return b.Bytes(), nil
}

// Write sends a block of a screen. The buffer comes first, so that an error
// can still become a status.
func (s *Set) Write(w http.ResponseWriter, status int, screen, block string, view any) error {
	body, err := s.Bytes(screen, block, view)
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	h.Add("Vary", "HX-Request")
	w.WriteHeader(status)
	_, err = w.Write(body)
	return err
}

// Fragment tells whether a request wants a fragment rather than the full page.
func Fragment(r *http.Request) bool {
	return r.Header.Get("HX-Request") == "true" && r.Header.Get("HX-Boosted") != "true" &&
		r.Header.Get("HX-History-Restore-Request") != "true"
}
