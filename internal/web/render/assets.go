package render

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
	"sync"

	"candlepath/internal/markup"
	"candlepath/web"
)

// assets are the built files, read once; they are embedded and never change.
var assets = sync.OnceValue(func() map[string]asset {
	out := map[string]asset{}
	_ = fs.WalkDir(web.Files, "assets/dist", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		body, err := web.Files.ReadFile(name)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(body)
		a := asset{body: body, hash: hex.EncodeToString(sum[:6]), mime: mimeOf(name)}
		if !strings.HasSuffix(name, ".woff2") {
			a.zipped = markup.Zip(body)
		}
		out[strings.TrimPrefix(name, "assets/dist/")] = a
		return nil
	})
	return out
})

type asset struct {
	body, zipped []byte
	hash, mime   string
}

func mimeOf(name string) string {
	switch path.Ext(name) {
	case ".woff2":
		return "font/woff2"
	case ".svg":
		return "image/svg+xml"
	}
	return mime.TypeByExtension(path.Ext(name))
}

// assetURL names an asset by its content, so that browsers may keep it.
func assetURL(name string) string {
	return "/assets/" + name + "?v=" + assets()[name].hash
}

// Asset gives what an asset holds; nil where there is none of the name.
func Asset(name string) []byte { return assets()[name].body }

// ServeAsset answers requests below /assets/.
func ServeAsset(w http.ResponseWriter, r *http.Request) {
	a, ok := assets()[strings.TrimPrefix(r.URL.Path, "/assets/")]
	if !ok {
		http.NotFound(w, r)
		return
	}
	h := w.Header()
	h.Set("Content-Type", a.mime)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Vary", "Accept-Encoding")
	h.Set("Cache-Control", "no-cache")
	if r.URL.Query().Get("v") == a.hash {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	body := a.body
	if a.zipped != nil && strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		body = a.zipped
	}
	_, _ = w.Write(body)
}
