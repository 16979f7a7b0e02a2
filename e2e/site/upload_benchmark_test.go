package site_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"io"
	"net/http"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// photograph is a picture of 12 million pixels as a camera writes it; each one is another.
func photograph(b *testing.B, n int) []byte {
	img := image.NewYCbCr(image.Rect(0, 0, 4000, 3000), image.YCbCrSubsampleRatio420)
	for i := range img.Y {
		img.Y[i] = uint8(i*i>>9 ^ i>>4 + n) //nolint:gosec // a pattern
	}
	for i := range img.Cb {
		img.Cb[i], img.Cr[i] = uint8(i>>6), uint8(i>>8+n) //nolint:gosec // a pattern
	}
	var out bytes.Buffer
	require.NoError(b, jpeg.Encode(&out, img, &jpeg.Options{Quality: 90}))
	return out.Bytes()
}

// BenchmarkUploads brings ten photographs at once, and tells how much memory that takes beside
// what was taken before and what they are, and how long readers wait meanwhile.
func BenchmarkUploads(b *testing.B) {
	site := kit.Site(b, true)
	ines := testkit.SignIn(b, site, "ines")
	photos := make([][]byte, 10)
	for i := range photos {
		photos[i] = photograph(b, i)
	}
	read := func(during func() bool) (waits []time.Duration) {
		for during() {
			began := time.Now()
			resp, err := http.Get(site.URL + "/visitors") //nolint:noctx // a bench
			require.NoError(b, err)
			_ = resp.Body.Close()
			waits = append(waits, time.Since(began))
			time.Sleep(5 * time.Millisecond)
		}
		slices.Sort(waits)
		return waits
	}
	n := 0
	idle := read(func() bool { n++; return n < 200 })
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	before, most := m.HeapAlloc, uint64(0)
	began := time.Now()
	var all sync.WaitGroup
	done := make(chan struct{})
	for i, photo := range photos {
		all.Go(func() {
			const edge = "candle"
			r, err := http.NewRequest(http.MethodPost, site.URL+"/studio/files", io.MultiReader( //nolint:noctx // a bench
				strings.NewReader("--"+edge+"\r\nContent-Disposition: form-data; name=\"file\"; filename=\"photograph.jpg\"\r\n\r\n"),
				bytes.NewReader(photo), strings.NewReader("\r\n--"+edge+"--\r\n")))
			if err != nil {
				b.Error(err)
				return
			}
			r.Header.Set("Content-Type", "multipart/form-data; boundary="+edge)
			r.Header.Set("Accept", "application/json")
			if status, body := ines.Send(r); status != http.StatusOK {
				b.Errorf("photograph %d: %d %s", i, status, body)
			}
		})
	}
	go func() { all.Wait(); close(done) }()
	busy := read(func() bool {
		runtime.ReadMemStats(&m)
		most = max(most, m.HeapAlloc)
		select {
		case <-done:
			return false
		default:
			return true
		}
	})
	b.Logf("ten photographs of %.1f MB in %v; %d MB of memory at most above the %d before", float64(len(photos[0]))/1e6, time.Since(began), (most-before)>>20, before>>20)
	b.Logf("a page: %v in the median and %v at p99 before, %v and %v meanwhile", idle[len(idle)/2], idle[len(idle)*99/100], busy[len(busy)/2], busy[len(busy)*99/100])
}
