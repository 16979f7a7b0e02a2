package site_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/testkit"
)

const (
	loadPage   = "/glasshouses/watering-rounds/summer-rounds"
	loadRoutes = 100_000
	bareEnv    = "CANDLEPATH_BARE" // makes this binary the bare handler: its address and folder
)

// BenchmarkLoad tells reader pages and redirects over loopback beside a bare gin
// handler and nginx that give the same bytes, by turns, as processes of their own.
func BenchmarkLoad(b *testing.B) {
	for _, tool := range []string{"wrk", "/usr/sbin/nginx"} {
		if _, err := exec.LookPath(tool); err != nil {
			b.Skip("make bench installs", tool)
		}
	}
	dir, err := os.MkdirTemp("/var/tmp", "candlepath-load-")
	require.NoError(b, err)
	b.Cleanup(func() { os.RemoveAll(dir) })
	require.NoError(b, os.Chmod(dir, 0o755))
	ours := startOurs(b, dir)
	page := keepPage(b, dir, ours)
	keepHeaders(b, dir, ours)
	targets := map[string]string{"candlepath": ours, "bare gin": startBare(b, dir), "nginx": startNginx(b, dir)}
	for name, base := range targets {
		require.Equal(b, page, fetch(b, base+loadPage, "gzip"), "%s gives the same bytes", name)
		require.Equal(b, "/seed-vault", location(b, base+routeAt(4711)), name)
	}
	for _, work := range []struct{ name, path, script string }{
		{"page", loadPage, ""},
		{"redirect", "/", `local i = 0
request = function()
  i = (i + 7919) % ` + strconv.Itoa(loadRoutes) + `
  return wrk.format("GET", "/former/part-" .. (i % 997) .. "/page-" .. i)
end`},
	} {
		results := map[string][]measured{}
		for range 5 {
			for name, base := range targets {
				results[name] = append(results[name], load(b, dir, base+work.path, work.script))
			}
		}
		mine := median(results["candlepath"])
		for _, name := range []string{"bare gin", "nginx"} {
			other := median(results[name])
			b.Logf("%s: %.0f/s, %s %.0f/s: ratio %.2f; p99 %v beside %v: ratio %.2f", work.name, mine.rate, name, other.rate,
				mine.rate/other.rate, mine.p99, other.p99, mine.p99.Seconds()/other.p99.Seconds())
		}
	}
}

func routeAt(i int) string { return fmt.Sprintf("/former/part-%d/page-%d", i%997, i) }

func fetch(b *testing.B, url, coding string) []byte {
	r, err := http.NewRequest("GET", url, nil)
	require.NoError(b, err)
	r.Header.Set("Accept-Encoding", coding)
	resp, err := http.DefaultTransport.RoundTrip(r)
	require.NoError(b, err)
	defer resp.Body.Close()
	require.Equal(b, 200, resp.StatusCode)
	body, err := io.ReadAll(resp.Body)
	require.NoError(b, err)
	return body
}

func location(b *testing.B, url string) string {
	r, err := http.NewRequest("GET", url, nil)
	require.NoError(b, err)
	resp, err := http.DefaultTransport.RoundTrip(r)
	require.NoError(b, err)
	defer resp.Body.Close()
	require.Equal(b, 301, resp.StatusCode)
	to := resp.Header.Get("Location")
	return to[strings.LastIndex(to, "/"):]
}

// startOurs serves the demo with a page of some 30 KB and 100,000 redirects.
func startOurs(b *testing.B, dir string) string {
	binary := filepath.Join(dir, "candlepath")
	out, err := exec.Command("go", "build", "-o", binary, testkit.Root("cmd", "candlepath")).CombinedOutput()
	require.NoError(b, err, string(out))
	site := kit.Site(b, true)
	who := testkit.PersonOf(b, site, "marta")
	var text strings.Builder
	for i := 0; text.Len() < 26_000; i++ {
		fmt.Fprintf(&text, "Round %d: water the %s bench, note the humidity and sign the card.\n\n", i, uuid.NewString()[:8])
	}
	entry := entryAt(b, site, loadPage)
	_, err = site.App.SavePage(b.Context(), who, entry, uuid.NewString(), content.Page{
		Fields: map[string]string{"summary": "How we do summer rounds", "contact": who.ID, "checked": "2026-11-01", "risk": "low"},
		Slots:  map[string][]content.Block{"steps": {{Type: content.Text, Text: text.String()}}, "main": {{Type: content.Text, Text: text.String()}}},
	}, 0)
	require.NoError(b, err)
	testkit.PublishOnly(b, site, "load", func(aspect string) bool { return aspect == "content" })
	var siteID, vault string
	var edition int
	require.NoError(b, site.Pool.QueryRow(b.Context(), "SELECT id, edition FROM sites").Scan(&siteID, &edition))
	vault = entryAt(b, site, "/seed-vault")
	rows := make([][]any, loadRoutes)
	for i := range rows {
		rows[i] = []any{siteID, routeAt(i), "exact", vault, "", "", "", 301, "", "", edition}
	}
	_, err = site.Pool.CopyFrom(b.Context(), pgx.Identifier{"redirects"},
		[]string{"site_id", "from_address", "match", "to_entry", "to_address", "to_url", "to_suffix", "code", "note", "review", "from_edition"}, pgx.CopyFromRows(rows))
	require.NoError(b, err)
	addr := testkit.FreeAddress(b)
	run(b, addr, exec.Command(binary, "serve"), "DATABASE_URL="+site.Pool.Config().ConnString(), "ADDR="+addr)
	return "http://" + addr
}

func entryAt(b *testing.B, site *testkit.Site, addr string) string {
	var id string
	require.NoError(b, site.Pool.QueryRow(b.Context(), "SELECT entry_id FROM addresses WHERE address = $1 AND to_edition IS NULL", addr).Scan(&id))
	return id
}

// keepPage writes the bytes of the page to where the others serve them from.
func keepPage(b *testing.B, dir, base string) []byte {
	zipped := fetch(b, base+loadPage, "gzip")
	z, err := gzip.NewReader(bytes.NewReader(zipped))
	require.NoError(b, err)
	plain, err := io.ReadAll(z)
	require.NoError(b, err)
	b.Logf("a page of %d KB, %d KB gzipped", len(plain)>>10, len(zipped)>>10)
	at := filepath.Join(dir, "www", loadPage)
	require.NoError(b, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(b, os.WriteFile(at, plain, 0o644))
	require.NoError(b, os.WriteFile(at+".gz", zipped, 0o644))
	return zipped
}

// keepHeaders writes down the header of the page, for the bare handler to send.
func keepHeaders(b *testing.B, dir, base string) {
	r, err := http.NewRequest("HEAD", base+loadPage, nil)
	require.NoError(b, err)
	r.Header.Set("Accept-Encoding", "gzip")
	resp, err := http.DefaultTransport.RoundTrip(r)
	require.NoError(b, err)
	require.NoError(b, resp.Body.Close())
	resp.Header.Del("Date") // the server sets it
	var header bytes.Buffer
	require.NoError(b, resp.Header.Write(&header))
	require.NoError(b, os.WriteFile(filepath.Join(dir, "header"), header.Bytes(), 0o644))
}

func startBare(b *testing.B, dir string) string {
	addr := testkit.FreeAddress(b)
	self, err := os.Executable()
	require.NoError(b, err)
	run(b, addr, exec.Command(self), bareEnv+"="+addr+" "+dir)
	return "http://" + addr
}

// serveBare is the control: a page from memory and a map of redirects.
func serveBare(arg string) error {
	addr, dir, _ := strings.Cut(arg, " ")
	body, err := os.ReadFile(filepath.Join(dir, "www", loadPage) + ".gz")
	if err != nil {
		return err
	}
	text, err := os.ReadFile(filepath.Join(dir, "header"))
	if err != nil {
		return err
	}
	var header [][2]string
	for line := range strings.Lines(string(text)) {
		name, value, _ := strings.Cut(strings.TrimSpace(line), ": ")
		header = append(header, [2]string{name, value})
	}
	routes := make(map[string]string, loadRoutes)
	for i := range loadRoutes {
		routes[routeAt(i)] = "/seed-vault"
	}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.GET(loadPage, func(c *gin.Context) {
		for _, h := range header {
			c.Writer.Header().Set(h[0], h[1])
		}
		c.Status(http.StatusOK)
		_, _ = c.Writer.Write(body)
	})
	e.NoRoute(func(c *gin.Context) {
		if to, ok := routes[c.Request.URL.Path]; ok {
			c.Writer.Header().Set("Cache-Control", "no-cache")
			c.Writer.Header().Set("Location", to)
			c.Writer.WriteHeader(http.StatusMovedPermanently)
		}
	})
	return http.ListenAndServe(addr, e)
}

func startNginx(b *testing.B, dir string) string {
	addr := testkit.FreeAddress(b)
	var routes strings.Builder
	for i := range loadRoutes {
		fmt.Fprintf(&routes, "%s /seed-vault;\n", routeAt(i))
	}
	require.NoError(b, os.WriteFile(filepath.Join(dir, "routes.map"), []byte(routes.String()), 0o644))
	conf := `worker_processes auto; daemon off; pid ` + dir + `/pid; error_log ` + dir + `/error.log;
events { worker_connections 512; }
http {
  access_log off; default_type text/html; gzip_static on; keepalive_requests 1000000; absolute_redirect off;
  map_hash_max_size 262144; map_hash_bucket_size 128;
  map $uri $to { include ` + dir + `/routes.map; }
  server {
    listen ` + addr + `; root ` + dir + `/www; open_file_cache max=100;
    add_header Cache-Control no-cache;
    if ($to) { return 301 $to; }
  }
}`
	at := filepath.Join(dir, "nginx.conf")
	require.NoError(b, os.WriteFile(at, []byte(conf), 0o644))
	run(b, addr, exec.Command("/usr/sbin/nginx", "-p", dir, "-c", at))
	return "http://" + addr
}

// run starts a server and waits until it listens; it ends with the benchmark.
func run(b *testing.B, addr string, cmd *exec.Cmd, env ...string) {
	cmd.Env = append(os.Environ(), env...)
	cmd.Stderr = os.Stderr
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGTERM}
	require.NoError(b, cmd.Start())
	b.Cleanup(func() {
		_ = cmd.Process.Signal(syscall.SIGTERM)
		_ = cmd.Wait()
	})
	require.Eventually(b, func() bool {
		c, err := net.Dial("tcp", addr)
		if err != nil {
			return false
		}
		return c.Close() == nil
	}, 60*time.Second, 50*time.Millisecond)
}

type measured struct {
	rate float64
	p99  time.Duration
}

// load asks one address for two seconds over sixteen connections.
func load(b *testing.B, dir, url, script string) measured {
	args := []string{"-t1", "-c16", "-d2s", "--latency", "-H", "Accept-Encoding: gzip"}
	if script != "" {
		at := filepath.Join(dir, "load.lua")
		require.NoError(b, os.WriteFile(at, []byte(script), 0o644))
		args = append(args, "-s", at)
	}
	out, err := exec.Command("wrk", append(args, url)...).CombinedOutput()
	require.NoError(b, err, string(out))
	require.NotContains(b, string(out), "Non-2xx")
	var m measured
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		switch {
		case len(f) == 2 && f[0] == "99%":
			m.p99, err = time.ParseDuration(f[1])
		case len(f) == 2 && f[0] == "Requests/sec:":
			m.rate, err = strconv.ParseFloat(f[1], 64)
		}
		require.NoError(b, err, line)
	}
	require.Positive(b, m.rate, string(out))
	return m
}

func median(ms []measured) measured {
	rates, p99s := make([]float64, len(ms)), make([]time.Duration, len(ms))
	for i, m := range ms {
		rates[i], p99s[i] = m.rate, m.p99
	}
	slices.Sort(rates)
	slices.Sort(p99s)
	return measured{rates[len(ms)/2], p99s[len(ms)/2]}
}
