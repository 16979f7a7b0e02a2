package render

import (
	"io/fs"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"unicode/utf8"

	"candlepath/web"

	"github.com/stretchr/testify/require"
)

func files(screen string) fstest.MapFS {
	return fstest.MapFS{
		"templates/layout/l.html":   {Data: []byte(`{{define "layout"}}<main>{{template "screen" .}}</main>{{end}}`)},
		"templates/parts/bar.html":  {Data: []byte(`{{define "bar"}}bar{{end}}`)},
		"templates/screens/a.html":  {Data: []byte(screen)},
		"templates/screens/ok.html": {Data: []byte(`{{define "screen"}}{{template "bar"}} {{.Name}}{{end}}`)},
	}
}

func load(screen string) (*Set, error) {
	return Load(files(screen), "templates/layout/l.html", "templates/screens")
}

func TestLoadRefusesWhatWouldPassSilently(t *testing.T) {
	for name, screen := range map[string]string{
		"a name of the layout again": `{{define "screen"}}x{{end}}{{define "layout"}}y{{end}}`,
		"a name of a part again":     `{{define "screen"}}x{{end}}{{define "bar"}}y{{end}}`,
		"no screen":                  `{{define "other"}}x{{end}}`,
		"no template":                `{{define "screen"}}{{.}`,
	} {
		_, err := load(screen)
		require.Error(t, err, name)
	}
}

func TestOneScreenIsAPageAndAFragment(t *testing.T) {
	s, err := load(`{{define "screen"}}a{{end}}`)
	require.NoError(t, err)
	require.ElementsMatch(t, []string{"a", "ok"}, s.Names())
	view := struct{ Name string }{"<b>"}
	page, err := s.Bytes("ok", "layout", view)
	require.NoError(t, err)
	require.Equal(t, "<main>bar &lt;b&gt;</main>", string(page))
	part, err := s.Bytes("ok", "screen", view)
	require.NoError(t, err)
	require.Equal(t, "bar &lt;b&gt;", string(part))
	w := httptest.NewRecorder()
	require.Error(t, s.Write(w, 200, "ok", "layout", struct{ Other int }{}), "a field that is not there")
	require.Empty(t, w.Body.Bytes(), "an error can still become a status")
	require.Error(t, s.Write(w, 200, "none", "layout", view))
	require.NoError(t, s.Write(w, 422, "ok", "screen", view))
	require.Equal(t, 422, w.Code)
	require.Equal(t, "HX-Request", w.Header().Get("Vary"))
	require.Equal(t, "no-store", w.Header().Get("Cache-Control"))
}

func TestFragment(t *testing.T) {
	for want, headers := range map[bool][][]string{
		true:  {{"HX-Request", "true"}},
		false: {{}, {"HX-Request", "true", "HX-Boosted", "true"}, {"HX-Request", "true", "HX-History-Restore-Request", "true"}},
	} {
		for _, h := range headers {
			r := httptest.NewRequest(http.MethodGet, "/", nil)
			for i := 0; i+1 < len(h); i += 2 {
				r.Header.Set(h[i], h[i+1])
			}
			require.Equal(t, want, Fragment(r), "%v", h)
		}
	}
}

func TestAssetsMayBeKeptUnderTheirContent(t *testing.T) {
	get := func(url string, h ...string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(http.MethodGet, url, nil)
		if len(h) > 0 {
			r.Header.Set("Accept-Encoding", h[0])
		}
		w := httptest.NewRecorder()
		ServeAsset(w, r)
		return w
	}
	for _, name := range []string{"studio.css", "reader.css", "studio.js", "editor.js", "symbols.svg", "fonts/fraunces.woff2"} {
		w := get(assetURL(name), "gzip")
		require.Equal(t, 200, w.Code, name)
		require.Contains(t, w.Header().Get("Cache-Control"), "immutable", name)
		require.NotEmpty(t, w.Header().Get("Content-Type"), name)
	}
	require.Equal(t, "no-cache", get("/assets/studio.css?v=older").Header().Get("Cache-Control"))
	require.Equal(t, "gzip", get("/assets/studio.css", "gzip").Header().Get("Content-Encoding"))
	require.Empty(t, get("/assets/studio.css").Header().Get("Content-Encoding"))
	require.Equal(t, 404, get("/assets/../templates/layout/studio.html").Code)
}

// Lines of templates can be read without scrolling sideways.
func TestTemplateLinesAreShort(t *testing.T) {
	seen := 0
	err := fs.WalkDir(web.Files, "templates", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(web.Files, path)
		for i, line := range strings.Split(string(b), "\n") {
			seen++
			require.LessOrEqual(t, utf8.RuneCountInString(line), 160, "%s:%d", path, i+1)
		}
		return err
	})
	require.NoError(t, err)
	require.Greater(t, seen, 500)
}
