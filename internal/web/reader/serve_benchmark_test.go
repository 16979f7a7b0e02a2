package reader

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
)

// BenchmarkPage tells serving a composed page beside a bare gin handler that
// writes the same bytes.
func BenchmarkPage(b *testing.B) {
	gin.SetMode(gin.ReleaseMode)
	p := newComposed([]byte(strings.Repeat("Compost and mulch, turned on Tuesdays. ", 800)))
	bare, ours := gin.New(), gin.New()
	bare.NoRoute(func(c *gin.Context) {
		h := c.Writer.Header()
		h["Content-Type"], h["Content-Encoding"], h["Content-Length"] = htmlType, gzipCoding, p.length
		c.Writer.WriteHeader(http.StatusOK)
		_, _ = c.Writer.Write(p.zipped)
	})
	ours.NoRoute(func(c *gin.Context) { p.serve(c.Writer, c.Request) })
	r := httptest.NewRequest("GET", "/grounds", nil)
	r.Header.Set("Accept-Encoding", "gzip")
	for range 3 {
		for name, e := range map[string]*gin.Engine{"bare": bare, "ours": ours} {
			b.Run(name, func(b *testing.B) {
				for b.Loop() {
					e.ServeHTTP(httptest.NewRecorder(), r)
				}
			})
		}
	}
}
