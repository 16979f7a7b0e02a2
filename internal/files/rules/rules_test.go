package rules_test

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files"
	"candlepath/internal/files/rules"
	"candlepath/internal/platform/loopback"
	"candlepath/internal/web/oldhost"
)

const base = "https://inside.quillmere.example"

// Debian's nginx and Apache httpd answer each address as the program does: exact rows and the
// fewest, however the address is spelt.
func TestServersAnswerAsTheTable(t *testing.T) {
	for _, of := range []rules.Server{rules.Nginx, rules.Apache} {
		for _, compact := range []bool{false, true} {
			t.Run(fmt.Sprint(of, compact), func(t *testing.T) {
				t.Parallel()
				rows := append(handRows(t), randomRows(rand.New(rand.NewPCG(3, 4)), 400)...)
				at, _ := serving(t, of, rows, compact)
				table, err := redirect.NewTable(rows, nil)
				require.NoError(t, err)
				ours := httptest.NewServer(oldhost.Handler(table, base))
				t.Cleanup(ours.Close)
				asked := 0
				for _, path := range spelt(compact, rows) {
					wanted, to, _ := ask(t, ours.Listener.Addr().String(), path)
					if compact && wanted == http.StatusNotFound {
						continue // what the table does not answer is free
					}
					code, location, cached := ask(t, at, path)
					require.Equal(t, fmt.Sprint(wanted, " ", to), fmt.Sprint(code, " ", location), path)
					require.Equal(t, "no-cache", cached)
					asked++
				}
				require.Greater(t, asked, 1500)
			})
		}
	}
}

// A path is written as we write it, in whichever of many forms it comes: every character beyond ASCII as a capital, with its
// marks apart, as bytes and as escapes with digits of either kind; behind doubled slashes and dot segments; beside escapes that stay.
func TestServersWritePathsAsWeDo(t *testing.T) {
	serving(t, rules.Nginx, []redirect.Row{row(t, "/walks", "/visitors/guided-walks", 308, redirect.Prefix)}, false) // it does not warn
	rows := append(handRows(t), row(t, "/pläne%2F2020", "/старый", 301, redirect.Prefix), row(t, "/東京", "/tokyo", 302, redirect.Branch))
	table, err := redirect.NewTable(rows, nil)
	require.NoError(t, err)
	ours := httptest.NewServer(oldhost.Handler(table, base))
	t.Cleanup(ours.Close)
	forms := everyForm()
	require.Greater(t, len(forms), 6000)
	var paths []string
	for some := range slices.Chunk(forms, 25) {
		escaped := (&url.URL{Path: "/walks/" + strings.Join(some, "/x")}).EscapedPath()
		paths = append(paths, escaped, strings.ToLower(escaped), "/"+escaped, "/walks/"+strings.Join(some, "-"))
	}
	for _, long := range []string{strings.Repeat("%E6%97%A5", 850), strings.Repeat("tea/", 1900), strings.Repeat("x%C3%9C", 250), strings.Repeat("Tea-", 63), strings.Repeat("%26%e6", 9), strings.Repeat("%26", 2000)} {
		paths = append(paths, "/walks/"+long)
	}
	random := rand.New(rand.NewPCG(7, 8))
	for range 1500 {
		paths = append(paths, randomPath(random, forms))
	}
	for _, of := range []rules.Server{rules.Nginx, rules.Apache} {
		t.Run(string(of), func(t *testing.T) {
			t.Parallel()
			at, _ := serving(t, of, rows, false)
			led := 0
			for _, path := range paths {
				wanted, to, _ := ask(t, ours.Listener.Addr().String(), path)
				code, location, _ := ask(t, at, path)
				if wanted == http.StatusNotFound || wanted == http.StatusBadRequest {
					require.Contains(t, []int{http.StatusNotFound, http.StatusBadRequest}, code, path)
					continue
				}
				require.Equal(t, fmt.Sprint(wanted, " ", to), fmt.Sprint(code, " ", location), path)
				led++
			}
			require.Greater(t, led, len(paths)*3/4)
		})
	}
}

// everyForm gives each character of Unicode that has another form, in that, and some of each script that have none.
func everyForm() (forms []string) {
	for r := rune(0x80); r <= unicode.MaxRune; r++ {
		whole := string(r)
		switch apart := norm.NFD.String(whole); {
		case unicode.IsControl(r) || !utf8.ValidRune(r) || r == 'İ' || 0x340 <= r && r <= 0x344: // marks that Unicode discourages
		case unicode.Is(unicode.Hangul, r) && r%100 != 0:
		case unicode.Is(unicode.Hangul, r):
			forms = append(forms, whole)
		case apart != whole:
			forms = append(forms, whole, apart)
		case strings.ToLower(whole) != whole || r < 0x600 || r%400 == 0:
			forms = append(forms, whole)
		}
	}
	return append(forms, "e\u0302\u0323", "E\u0302\u0323", "\u00ca\u0323", "\u1eb8\u0302", "q\u0308", "\u6771\u0301")
}

// randomPath gives a path of parts that people and programs write.
func randomPath(r *rand.Rand, forms []string) string {
	form := func() string { // a mark on a letter of its own: the servers do not sort several
		s := forms[r.IntN(len(forms))]
		if first, _ := utf8.DecodeRuneInString(s); unicode.Is(unicode.M, first) {
			return "x" + s
		}
		return s
	}
	pieces := []func() string{
		form,
		func() string { return url.PathEscape(form()) },
		func() string { return strings.ToLower(url.PathEscape(form())) },
		func() string { return fmt.Sprintf("%%%02X", 0x21+r.IntN(0x5e)) },
		func() string { return fmt.Sprintf("%%%02x", 0x21+r.IntN(0x5e)) },
		func() string { return string(rune('A' + r.IntN(58))) },
		func() string { return string("-._~:@!$&'()*+,;=[]|^{}<>"[r.IntN(25)]) },
		func() string {
			return []string{"/", "//", "/./", "/a/../", "/index.html", "/index.html/", "/.b", "/..b"}[r.IntN(8)]
		},
		func() string { return "tea" },
	}
	var b strings.Builder
	b.WriteString([]string{"/walks/", "/WALKS/", "//w%41lks/", "/w%61lks//", "/walks/x/%2e%2E/", "/tea/../walks/", "/pl%C3%A4ne%2F2020/", "/PLA\u0308NE%2f2020/", "/%e6%9d%b1%E4%BA%AC/"}[r.IntN(9)])
	for range 1 + r.IntN(8) {
		b.WriteString(pieces[r.IntN(len(pieces))]())
	}
	if r.IntN(40) == 0 {
		b.WriteString([]string{"%ff", "%C3", "%e6%97", "\xc3", "%5Cx", "%ED%A0%80"}[r.IntN(6)])
	}
	return b.String()
}

// What nginx and Apache httpd write about requests is read: visits are counted by address,
// however it was written, and robots and what was not found are left out.
func TestLogsOfServers(t *testing.T) {
	for _, of := range []rules.Server{rules.Nginx, rules.Apache} {
		t.Run(string(of), func(t *testing.T) {
			t.Parallel()
			at, log := serving(t, of, handRows(t), false)
			for _, path := range []string{"/tea", "/tea/", "/TEA", "/tea?week=2", "/%C3%BCber/uns", "/quo%22te", "/a%20b", "/nothing", "/walks/night", "/robots.txt"} {
				code, _, _ := ask(t, at, path)
				require.Less(t, code, 500)
			}
			c, err := (&net.Dialer{}).DialContext(t.Context(), "tcp", at)
			require.NoError(t, err)
			defer c.Close()
			_, err = io.WriteString(c, "GET /tea HTTP/1.1\r\nHost: old.quillmere.example\r\nUser-Agent: some \"crawler\" bot/1.0\r\nConnection: close\r\n\r\n\x16\x03\x01 no request \r\n")
			require.NoError(t, err)
			_, err = io.ReadAll(c)
			require.NoError(t, err)
			var text []byte
			require.Eventually(t, func() bool {
				text, err = os.ReadFile(log)
				return err == nil && bytes.Count(text, []byte("\n")) >= 11
			}, 30*time.Second, 50*time.Millisecond)
			list, err := files.ReadOlder("access.log", bytes.NewReader(text), files.Options{})
			require.NoError(t, err)
			got := map[string]int{}
			for _, l := range list.Lines {
				got[l.Address] += l.Visits
			}
			require.Equal(t, map[string]int{"/tea": 3, "/tea?week=2": 1, "/über/uns": 1, `/quo"te`: 1, "/a b": 1, "/walks/night": 1}, got, string(text))
		})
	}
}

func row(t *testing.T, from, to string, code int, m redirect.Match) redirect.Row {
	t.Helper()
	key, err := address.Options{}.Key(from)
	require.NoError(t, err)
	r := redirect.Row{From: key, Code: code, Match: m}
	if code != redirect.Gone {
		r.To, err = redirect.ParseTo(to, nil)
		require.NoError(t, err)
	}
	return r
}

func handRows(t *testing.T) []redirect.Row {
	return []redirect.Row{
		row(t, "/tea", "/visitors/cafe#menu", 301, redirect.Exact), row(t, "/tea?week=2&day=3", "/visitors/cafe/allergens", 302, redirect.Exact),
		row(t, "/tea?Week=2", "/one", 301, redirect.Exact), row(t, "/tea?week=2", "/two", 301, redirect.Exact), row(t, "/q", "/search?q=tea#first", 307, redirect.Exact),
		row(t, "/walks", "/visitors/guided-walks", 308, redirect.Prefix), row(t, "/visitors/guided-walks/night", "/night", 302, redirect.Exact),
		row(t, "/shop", "https://shop.quillmere.example/", 302, redirect.Prefix), row(t, "/mall", "https://shop.quillmere.example/all?from=old", 301, redirect.Branch),
		row(t, "/all", "/", 301, redirect.Prefix), row(t, "/fair", "", 410, redirect.Branch), row(t, "/fair/2020", "/visitors/events", 301, redirect.Exact),
		row(t, "/über/uns", "/start-here", 301, redirect.Exact), row(t, "/gärten", "/gärten-neu", 301, redirect.Branch), row(t, "/a%2Fb", "/visitors", 301, redirect.Exact),
		row(t, "/100%25", "/full", 301, redirect.Exact), row(t, "/a b", "/x y", 301, redirect.Exact), row(t, "/do$lar", "/x$y", 301, redirect.Exact),
		row(t, `/quo"te`, "/q'uote", 301, redirect.Exact), row(t, "/(a|b)*", "/taken/literally", 301, redirect.Exact), row(t, "/plus+", "/and&", 301, redirect.Exact),
		row(t, "/form?f=1&a=A.b&b=2&b=1&c=x|y&d=", "/many", 302, redirect.Exact), row(t, "/form?f=1&a=A.b&b=1&b=2&c=x|y&d=", "/many/other", 301, redirect.Exact),
		row(t, "/semi;colon", "/x;y", 301, redirect.Exact), row(t, "/{brace}", "/x", 301, redirect.Exact), row(t, "/hash%23", "/x", 301, redirect.Exact), row(t, "/bell%07", "/x", 301, redirect.Exact),
	}
}

// randomRows makes rows of every kind over a small tree, many of which meet.
func randomRows(r *rand.Rand, n int) (rows []redirect.Row) {
	seen := map[redirect.Key]bool{}
	path := func(root string) string {
		for range r.IntN(4) {
			root += fmt.Sprint("/", string(rune('a'+r.IntN(5))), r.IntN(3))
		}
		return root
	}
	for len(rows) < n {
		m := []redirect.Match{redirect.Exact, redirect.Exact, redirect.Exact, redirect.Prefix, redirect.Branch}[r.IntN(5)]
		row := redirect.Row{From: path("/dept"), Match: m, Code: []int{301, 302, 307, 308, 410}[r.IntN(5)]}
		if m == redirect.Exact && r.IntN(5) == 0 {
			row.From += fmt.Sprint("?id=", r.IntN(9))
		}
		if seen[row.Key()] {
			continue
		}
		seen[row.Key()] = true
		if row.Code != redirect.Gone {
			row.To = redirect.Target{Address: path([]string{"/new", "/dept"}[r.IntN(2)])}
			if r.IntN(6) == 0 {
				row.To = redirect.Target{URL: "https://shop.quillmere.example" + path("/s") + []string{"", "/", "?a=b"}[r.IntN(3)]}
			}
		}
		rows = append(rows, row)
	}
	return rows
}

// spelt gives each address of the rows, and what is below, in the ways in which browsers ask for
// it.
func spelt(compact bool, rows []redirect.Row) (out []string) {
	for _, r := range rows {
		from, query, _ := strings.Cut(r.From, "?")
		at := address.Written(from)
		if query != "" {
			out = append(out, at+"?"+query, at+"?x=1&"+query, at+"?"+strings.ToUpper(query), strings.ToUpper(at)+"?"+query, at+"?&&"+strings.ReplaceAll(query, "&", "&&&")+"&")
			if a, b, two := strings.Cut(query, "&"); two {
				out = append(out, at+"?"+b+"&"+a)
			}
		}
		out = append(out, at, at+"/", at+"?x=1&y=%20", strings.ReplaceAll(at, "/", "//"), at+"/index.html", at+"/./", "/nowhere/.."+at, strings.TrimSuffix(at, "/")+"/below", at+"nothing")
		out = append(out, address.Written(norm.NFD.String(from)), strings.TrimSuffix(at, "/")+"/x/y?z=1")
		if !strings.Contains(at, "%") && len(at) > 2 {
			out = append(out, at[:1]+fmt.Sprintf("%%%02x", at[1])+at[2:])
		}
		if r.Match == redirect.Exact && query == "" && !strings.Contains(at, "%2F") {
			out = append(out, address.Written(strings.ToUpper(from)))
		}
		if !strings.Contains(at, "%") {
			out = append(out, strings.TrimSuffix(at, "/")+"/b%65l%4Fw%2dit?q=%41")
		}
		out = append(out, strings.TrimSuffix(at, "/")+"/%c3%bcber/K%C3%A4se", strings.TrimSuffix(at, "/")+"/%C3%9CBER/%C3%84%c3%96%C3%9f/%ce%91%CE%A9%CE%B1/%D0%96%d0%af%D0%81%D1%8f?Q=%c3%84")
		out = append(out, strings.TrimSuffix(at, "/")+"/BELOW", strings.TrimSuffix(at, "/")+"/Quite/ZzAaabBB/AAAAAAAAAAAAAAAAAAAAAAAAAAAA?Q=Z")
	}
	return append(out, "/form?d=&c=x|y&b=2&a=A.b&b=1&f=1", "/form?d=&c=x|y&b=1&a=A.b&b=2&f=1", "/FORM?d=&c=x|y&b=1&&a=A.b&b=2&f=1&", "/form?d=&c=x|y&b=1&a=A.b&b=2&f=1&g=1",
		"/form?d=&c=x|y&b=1&a=a.b&b=2&f=1", "/form?d=&c=x|y&b=1&a=A.b&f=1", "/", "/tea%2F", "/walks/a+b&c/d'e", "/walks/far%20away", "/a/b", "/do%24lar", "/hash")
}

// serving starts a server with the rules of some rows, and gives where it answers.
func serving(t *testing.T, of rules.Server, rows []redirect.Row, compact bool) (at, log string) {
	t.Helper()
	at, err := loopback.FreeAddress()
	require.NoError(t, err)
	dir, err := os.MkdirTemp("", "rules") // not t.TempDir: Apache's own user reads the maps
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(dir)) })
	set, err := rules.Write(of, rows, compact, rules.Options{Base: base, Listen: at, Dir: dir})
	require.NoError(t, err)
	log = filepath.Join(dir, "access.log")
	logging := strings.NewReplacer("access_log off;", "access_log "+log+" combined;", "ServerName localhost\n",
		"ServerName localhost\nCustomLog "+log+` "%v:%p %h %l %u %t \"%r\" %>s %O \"%{Referer}i\" \"%{User-Agent}i\""`+"\n")
	for _, f := range set.Files {
		if strings.HasPrefix(f.Name, "nginx") || strings.HasPrefix(f.Name, "apache") {
			f.Data = []byte(logging.Replace(string(f.Data)))
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, f.Name), f.Data, 0o644))
	}
	for _, sub := range []string{"tmp", "empty"} {
		require.NoError(t, os.Mkdir(filepath.Join(dir, sub), 0o755))
	}
	require.NoError(t, os.Chmod(dir, 0o755))
	if of == rules.Nginx {
		told, err := exec.Command("/usr/sbin/nginx", "-t", "-c", filepath.Join(dir, "nginx.conf")).CombinedOutput()
		require.NoError(t, err, string(told))
		require.NotContains(t, string(told), "[warn]")
	}
	cmd := exec.Command("/usr/sbin/nginx", "-c", filepath.Join(dir, "nginx.conf"), "-g", "daemon off;")
	if of == rules.Apache {
		cmd = exec.Command("/usr/sbin/apache2", "-f", filepath.Join(dir, "apache.conf"), "-DFOREGROUND")
	}
	var said strings.Builder
	cmd.Stdout, cmd.Stderr = &said, &said
	require.NoError(t, cmd.Start())
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	t.Cleanup(func() {
		require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
		<-ended //nolint:errcheck // its exit code tells nothing after SIGTERM
	})
	for began := time.Now(); ; {
		c, err := (&net.Dialer{Timeout: time.Second}).DialContext(context.Background(), "tcp", at)
		if err == nil {
			require.NoError(t, c.Close())
			return at, log
		}
		select {
		case err := <-ended:
			ended <- err
			t.Fatalf("it ended: %v %s", err, said.String())
		case <-time.After(50 * time.Millisecond):
		}
		require.Less(t, time.Since(began), 20*time.Second, said.String())
	}
}

// ask asks a server for a path as it is written.
func ask(t *testing.T, at, path string) (code int, location, cached string) {
	t.Helper()
	c, err := (&net.Dialer{Timeout: 5 * time.Second}).DialContext(t.Context(), "tcp", at)
	require.NoError(t, err)
	defer c.Close()
	_, err = fmt.Fprintf(c, "GET %s HTTP/1.1\r\nHost: old.quillmere.example\r\nConnection: close\r\n\r\n", path)
	require.NoError(t, err)
	resp, err := http.ReadResponse(bufio.NewReader(c), nil)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	return resp.StatusCode, resp.Header.Get("Location"), resp.Header.Get("Cache-Control")
}
