package reader

import (
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"candlepath/internal/markup"
)

// composed is a page as it is sent.
type composed struct {
	zipped  []byte
	length  []string // of zipped
	tag     []string // of zipped
	tagSelf []string // of the plain bytes
}

func newComposed(html []byte) *composed {
	sum := sha256.Sum256(html)
	hash := hex.EncodeToString(sum[:10])
	z := markup.Zip(html)
	return &composed{zipped: z, length: []string{strconv.Itoa(len(z))}, tag: []string{`"` + hash + `-gz"`}, tagSelf: []string{`"` + hash + `"`}}
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

// cache keeps composed pages of one edition, up to a number of bytes.
type cache struct {
	mu    sync.RWMutex
	pages map[int]*composed
	room  int
}

func newCache(bytes int) *cache { return &cache{pages: map[int]*composed{}, room: bytes} }

func (c *cache) get(i int) *composed {
	c.mu.RLock()
	defer c.mu.RUnlock()
	return c.pages[i]
}

// takeOver takes the pages of another cache that are the same still.
func (c *cache) takeOver(from *cache, same func(i int) bool) {
	from.mu.RLock()
	defer from.mu.RUnlock()
	for i, p := range from.pages {
		if same(i) {
			c.pages[i] = p
			c.room -= len(p.zipped)
		}
	}
}

// put keeps a page; when the room is used up, any other makes place.
func (c *cache) put(i int, p *composed) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if _, there := c.pages[i]; there {
		return
	}
	for k, old := range c.pages {
		if c.room >= len(p.zipped) {
			break
		}
		delete(c.pages, k)
		c.room += len(old.zipped)
	}
	c.pages[i] = p
	c.room -= len(p.zipped)
}
