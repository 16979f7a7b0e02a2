package reader

import (
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"candlepath/internal/app/plan"
	"candlepath/internal/markup"
)

// composed is a page as it is sent.
type composed struct {
	reads   plan.Reads // of the rest of the site
	zipped  []byte
	length  []string // of zipped
	tag     []string // of zipped
	tagSelf []string // of the plain bytes
}

func newComposed(html []byte, reads plan.Reads) *composed {
	sum := sha256.Sum256(html)
	hash := hex.EncodeToString(sum[:10])
	z := markup.Zip(html)
	return &composed{reads: reads, zipped: z, length: []string{strconv.Itoa(len(z))}, tag: []string{`"` + hash + `-gz"`}, tagSelf: []string{`"` + hash + `"`}}
}

func (p *composed) serve(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	pageHeaders(h)
	h["Vary"] = vary
	zipped := acceptsGzip(r.Header)
	tag := p.tagSelf
	if zipped {
		tag = p.tag
	}
	h["Etag"] = tag
	if matches(r.Header.Get("If-None-Match"), tag[0]) {
		delete(h, "Content-Type")
		w.WriteHeader(http.StatusNotModified)
		return
	}
	if zipped {
		h["Content-Encoding"] = gzipCoding
		h["Content-Length"] = p.length
		w.WriteHeader(http.StatusOK) // gin says 404 where no route matched
		if r.Method != http.MethodHead {
			_, _ = w.Write(p.zipped)
		}
		return
	}
	plain, err := markup.Unzip(p.zipped)
	if err != nil {
		http.Error(w, "This page cannot be shown.", http.StatusInternalServerError)
		return
	}
	h.Set("Content-Length", strconv.Itoa(len(plain)))
	w.WriteHeader(http.StatusOK)
	if r.Method != http.MethodHead {
		_, _ = w.Write(plain)
	}
}

// acceptsGzip reads Accept-Encoding as RFC 9110 has it, as far as gzip goes.
func acceptsGzip(h http.Header) bool {
	v := h.Get("Accept-Encoding")
	if v == "gzip" {
		return true
	}
	for part := range strings.SplitSeq(v, ",") {
		name, params, _ := strings.Cut(strings.TrimSpace(part), ";")
		if name = strings.TrimSpace(name); name == "gzip" || name == "*" {
			q := strings.TrimSpace(params)
			return q != "q=0" && q != "q=0.0" && q != "q=0.00" && q != "q=0.000"
		}
	}
	return false
}

func matches(header, tag string) bool {
	if header == "" {
		return false
	}
	for part := range strings.SplitSeq(header, ",") {
		if part = strings.TrimPrefix(strings.TrimSpace(part), "W/"); part == tag || part == "*" {
			return true
		}
	}
	return false
}

// cache keeps composed pages of one edition, up to a number of bytes: pages by the id of their entry,
// the lists that the program makes by the name of their screen, which no id can be.
type cache struct {
	mu    sync.RWMutex
	pages map[string]*composed
	room  int
}

func newCache(bytes int) *cache { return &cache{pages: map[string]*composed{}, room: bytes} }

// listKey is the key of a list in a cache.
func listKey(screen string) string { return "/" + screen }

func (c *cache) get(key string) *composed {
	c.mu.RLock()
	defer c.mu.RUnlock()
	return c.pages[key]
}

// takeOver takes the pages of another cache that are the same still.
func (c *cache) takeOver(from *cache, same func(key string, reads plan.Reads) bool) {
	from.mu.RLock()
	defer from.mu.RUnlock()
	for key, p := range from.pages {
		if same(key, p.reads) {
			c.pages[key] = p
			c.room -= len(p.zipped)
		}
	}
}

// put keeps a page in place of one that is there; when the room is used up, any other makes place.
func (c *cache) put(key string, p *composed) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if old, there := c.pages[key]; there {
		delete(c.pages, key)
		c.room += len(old.zipped)
	}
	for k, old := range c.pages {
		if c.room >= len(p.zipped) {
			break
		}
		delete(c.pages, k)
		c.room += len(old.zipped)
	}
	c.pages[key] = p
	c.room -= len(p.zipped)
}
