package site_test

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/platform/pgcluster"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

var binary = sync.OnceValues(func() (string, error) {
	path := filepath.Join(os.TempDir(), fmt.Sprintf("candlepath-e2e-%d", os.Getpid()))
	out, err := exec.Command("go", "build", "-o", path, testkit.Root("cmd", "candlepath")).CombinedOutput()
	if err != nil {
		err = fmt.Errorf("%w\n%s", err, out)
	}
	return path, err
})

// program runs the program and gives what it prints.
func program(t *testing.T, env []string, args ...string) (string, error) {
	t.Helper()
	path, err := binary()
	require.NoError(t, err)
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.Env = append(os.Environ(), env...)
	out, err := cmd.CombinedOutput()
	return string(out), err
}

// running is the program while it runs.
type running struct {
	*exec.Cmd
	t      *testing.T
	url    string
	mu     sync.Mutex
	out    bytes.Buffer
	exited chan error
}

func (r *running) said() string {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.out.String()
}

// start runs the program until it listens; the test ends it if nobody did.
func start(t *testing.T, env []string, args ...string) *running {
	t.Helper()
	path, err := binary()
	require.NoError(t, err)
	addr := testkit.FreeAddress(t)
	r := &running{Cmd: exec.Command(path, args...), t: t, url: "http://" + addr, exited: make(chan error, 1)}
	r.Env = append(append(os.Environ(), "ADDR="+addr), env...)
	r.Dir = testkit.Root()
	pipe, err := r.StdoutPipe()
	require.NoError(t, err)
	r.Stderr = r.Stdout
	require.NoError(t, r.Start())
	read := make(chan struct{})
	go func() {
		defer close(read)
		for sc := bufio.NewScanner(pipe); sc.Scan(); {
			r.mu.Lock()
			r.out.WriteString(sc.Text() + "\n")
			r.mu.Unlock()
		}
	}()
	go func() {
		<-read
		r.exited <- r.Wait()
	}()
	t.Cleanup(func() { _ = r.Process.Kill() })
	require.Eventually(t, func() bool {
		resp, err := http.Get(r.url + "/healthz")
		if err == nil {
			resp.Body.Close()
		}
		return err == nil
	}, 90*time.Second, 50*time.Millisecond, "it does not listen: %s", r.said())
	return r
}

// stop sends a signal, and tells how long the program took to end and how it did.
func (r *running) stop(signal os.Signal) (time.Duration, error) {
	began := time.Now()
	require.NoError(r.t, r.Process.Signal(signal))
	select {
	case err := <-r.exited:
		return time.Since(began), err
	case <-time.After(20 * time.Second):
		r.t.Fatal("it does not end")
		return 0, nil
	}
}

// A first site without the demo: made by a command, or in the browser with the
// code that the program prints, on any database.
func TestAFirstSite(t *testing.T) {
	t.Run("by a command", func(t *testing.T) {
		dsn := kit.Bare(t)
		env := []string{"DATABASE_URL=" + dsn}
		out, err := program(t, env, "serve")
		require.Error(t, err)
		require.Contains(t, out, "run candlepath migrate first")
		out, err = program(t, env, "setup", "--site", "Quillmere Inside", "--host", "bad host", "--manager", "marta")
		require.Error(t, err)
		require.Contains(t, out, "The host is the name")
		out, err = program(t, env, "setup", "--site", "Quillmere Inside", "--host", "inside.quillmere.example", "--manager", "marta", "--name", "Marta Oduya")
		require.NoError(t, err, out)
		link := regexp.MustCompile(`https://inside\.quillmere\.example(/studio/password/[a-z0-9]+)`).FindStringSubmatch(out)
		require.NotNil(t, link, out)
		out, err = program(t, env, "setup", "--site", "Another", "--host", "x", "--manager", "m")
		require.Error(t, err)
		require.Contains(t, out, "there is a site in this database already")
		r := start(t, env, "serve")
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		c := &testkit.Client{Client: &http.Client{Jar: jar}, T: t, Base: r.url}
		status, body := c.Get("/")
		require.Equal(t, 200, status)
		require.Contains(t, string(body), "Quillmere Inside")
		status, body = c.Form(link[1], url.Values{"password": {"a lantern on the path"}, "again": {"another"}})
		require.Equal(t, 422, status)
		require.Contains(t, string(body), "do not match")
		status, body = c.Form(link[1], url.Values{"password": {"a lantern on the path"}, "again": {"a lantern on the path"}})
		require.Equal(t, 200, status)
		require.Contains(t, string(body), "Outline of the sitemap")
		status, _ = c.Get(link[1])
		require.Equal(t, 404, status)
		status, body = c.Get("/studio/people")
		require.Equal(t, 200, status)
		require.Contains(t, string(body), "Marta Oduya")
	})
	t.Run("in the browser", func(t *testing.T) {
		dsn := kit.Bare(t)
		env := []string{"DATABASE_URL=" + dsn, "LOG_FORMAT=json"}
		_, err := program(t, env, "migrate")
		require.NoError(t, err)
		r := start(t, env, "serve")
		var code string
		require.Eventually(t, func() bool {
			m := regexp.MustCompile(`The code is ([a-z0-9]+)`).FindStringSubmatch(r.said())
			if m != nil {
				code = m[1]
			}
			return m != nil
		}, 30*time.Second, 20*time.Millisecond)
		resp, body := testkit.AskFor(t, "GET", r.url+"/", nil)
		require.Equal(t, 503, resp.StatusCode)
		require.Contains(t, body, "no site here yet")
		tab := browser.Open(t, r.url)
		tab.Go("/studio")
		fill := func(code string) {
			for id, text := range map[string]string{"#code": code, "#site": "Quillmere Inside", "#name": "Marta Oduya", "#login": "marta", "#password": "a lantern on the path"} {
				tab.MustElement(id).MustSelectAllText().MustInput(text)
			}
			tab.MustElementR("button", "^Set up$").MustClick()
		}
		tab.Until("document.querySelector('#host')?.value === location.host")
		fill("wrong")
		tab.Until("document.querySelector('[role=alert]')?.innerText.includes('This code is not right')")
		fill(code)
		tab.Until("document.querySelector('.o-row .t')?.innerText === 'Home'")
		tab.Go("/")
		require.Equal(t, "Home", tab.MustElement("h1").MustText())
		require.Empty(t, tab.Problems())
		took, err := r.stop(syscall.SIGTERM)
		require.NoError(t, err)
		require.Less(t, took, 5*time.Second, "at most 3 s, on a machine that does nothing else")
	})
}

func TestASchemaOfAnotherProgramIsRefused(t *testing.T) {
	dsn := kit.DSN(t, false)
	pool, err := pgxpool.New(t.Context(), dsn)
	require.NoError(t, err)
	defer pool.Close()
	_, err = pool.Exec(t.Context(), `INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, true)`)
	require.NoError(t, err)
	for _, cmd := range []string{"serve", "check"} {
		out, err := program(t, []string{"DATABASE_URL=" + dsn}, cmd)
		require.Error(t, err)
		require.Contains(t, out, "a newer program was here")
	}
}

func TestCheckSaysWhatIsWrong(t *testing.T) {
	files := t.TempDir()
	env := []string{"DATABASE_URL=" + kit.DSN(t, false), "FILES=" + files}
	out, err := program(t, env, "check")
	require.NoError(t, err, out)
	require.Equal(t, 7, strings.Count(out, "fine "), out)
	left, err := os.ReadDir(files)
	require.NoError(t, err)
	require.Empty(t, left, "what was written is removed")
	out, err = program(t, append(env, "FILES="+filepath.Join(files, "nowhere")), "check")
	require.Error(t, err)
	require.Contains(t, out, "wrong  files")
	require.Contains(t, out, "make the folder")
	out, err = program(t, []string{"DATABASE_URL=postgres://nobody@127.0.0.1:1/none"}, "check")
	require.Error(t, err)
	require.Contains(t, out, "wrong  database")
}

// asShipped is the environment in which the unit starts the program, and its folder, which stands in place of
// the one that the service manager makes.
func asShipped(t *testing.T) (env []string, state string) {
	unit, err := os.ReadFile(testkit.Root("deploy", "candlepath.service"))
	require.NoError(t, err)
	require.Regexp(t, `(?m)^StateDirectory=candlepath$`, string(unit))
	require.Regexp(t, `(?m)^WorkingDirectory=%S/candlepath$`, string(unit))
	lib, err := os.MkdirTemp("/var/tmp", "candlepath-test-unit-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(lib) })
	require.NoError(t, os.Chmod(lib, 0o755))
	state = filepath.Join(lib, "candlepath")
	require.NoError(t, os.Mkdir(state, 0o750))
	for _, m := range regexp.MustCompile(`(?m)^Environment=(.*)$`).FindAllStringSubmatch(string(unit), -1) {
		env = append(env, strings.ReplaceAll(m[1], "%S", lib))
	}
	return env, state
}

// The unit starts the program as it is shipped: by its environment alone, as a user that owns nothing but its
// folder.
func TestTheUnitStarts(t *testing.T) {
	path, err := binary()
	require.NoError(t, err)
	require.NoError(t, os.Chmod(path, 0o755))
	env, state := asShipped(t)
	addr := testkit.FreeAddress(t)
	env = append(env, "DATABASE_URL="+kit.Bare(t), "ADDR="+addr, "METRICS_ADDR="+testkit.FreeAddress(t))
	run := func(arg string) *exec.Cmd {
		cmd := exec.Command(path, arg)
		cmd.Env, cmd.Dir = env, state
		if os.Getuid() == 0 {
			const nobody = 65534
			require.NoError(t, os.Chown(state, nobody, nobody))
			cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
		}
		return cmd
	}
	out, err := run("migrate").CombinedOutput() // ExecStartPre
	require.NoError(t, err, string(out))
	served := run("serve")
	require.NoError(t, served.Start())
	t.Cleanup(func() { _ = served.Process.Kill(); _ = served.Wait() })
	require.Eventually(t, func() bool {
		resp, err := http.Get("http://" + addr + "/healthz")
		if err == nil {
			resp.Body.Close()
		}
		return err == nil
	}, 30*time.Second, 50*time.Millisecond)
	require.DirExists(t, filepath.Join(state, "files"))
}

// A proxy on this machine that is not trusted is told of: in the log, at the next start, and by check.
func TestAnUntrustedProxyIsTold(t *testing.T) {
	env := []string{"DATABASE_URL=" + kit.DSN(t, true), "FILES=" + t.TempDir(), "METRICS_ADDR=" + testkit.FreeAddress(t)}
	r := start(t, env, "serve")
	ask, err := http.NewRequest("GET", r.url+"/", nil)
	require.NoError(t, err)
	ask.Header.Set("X-Forwarded-For", "203.0.113.7")
	resp, err := http.DefaultClient.Do(ask)
	require.NoError(t, err)
	resp.Body.Close()
	told := func(r *running) bool { return strings.Contains(r.said(), "not in TRUSTED_PROXIES") }
	require.Eventually(t, func() bool { return told(r) }, 10*time.Second, 20*time.Millisecond)
	var out string
	require.Eventually(t, func() bool {
		out, err = program(t, env, "check")
		return err != nil
	}, 10*time.Second, 100*time.Millisecond)
	require.Contains(t, out, "passed on by 127.0.0.1")
	_, err = r.stop(syscall.SIGTERM)
	require.NoError(t, err)
	again := start(t, env, "serve")
	require.Eventually(t, func() bool { return told(again) }, 10*time.Second, 20*time.Millisecond, "at start")
	_, err = program(t, append(env, "TRUSTED_PROXIES=127.0.0.1"), "check")
	require.NoError(t, err)
}

// With windows open, requests on their way, and a body that never ends, the
// program still ends at once, and its children with it.
func TestTheDemoStopsAtOnce(t *testing.T) {
	for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM} {
		t.Run(signal.String(), func(t *testing.T) {
			dir, err := os.MkdirTemp("/var/tmp", "candlepath-test-demo-")
			require.NoError(t, err)
			defer os.RemoveAll(dir)
			require.NoError(t, os.Chmod(dir, 0o755))
			r := start(t, []string{"DATA=" + dir}, "demo")
			tab := browser.Open(t, r.url)
			tab.SignIn("marta")
			tab.Go("/studio/sitemap")
			tab.Another().Go("/")
			slow, err := net.Dial("tcp", strings.TrimPrefix(r.url, "http://"))
			require.NoError(t, err)
			defer slow.Close()
			fmt.Fprintf(slow, "POST /studio/sign-in HTTP/1.1\r\nHost: x\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 100\r\n\r\nname=")
			took, err := r.stop(signal)
			require.NoError(t, err, r.said())
			require.Less(t, took, 5*time.Second, "at most 3 s, on a machine that does nothing else")
			left, _ := exec.Command("pgrep", "-f", dir).CombinedOutput()
			require.Empty(t, strings.TrimSpace(string(left)), "a child is left")
		})
	}
}

// The demo starts its PostgreSQL again when that dies.
func TestTheDemoStartsItsDatabaseAgain(t *testing.T) {
	dir, err := os.MkdirTemp("/var/tmp", "candlepath-test-demo-")
	require.NoError(t, err)
	defer os.RemoveAll(dir)
	require.NoError(t, os.Chmod(dir, 0o755))
	r := start(t, []string{"DATA=" + dir}, "demo")
	out, err := exec.Command("pgrep", "-of", "postgres -D "+dir).Output()
	require.NoError(t, err)
	require.NoError(t, exec.Command("kill", "-9", strings.TrimSpace(string(out))).Run())
	require.Eventually(t, func() bool { return strings.Contains(r.said(), "PostgreSQL runs again") }, 30*time.Second, 50*time.Millisecond, "%s", r.said())
	require.Eventually(t, func() bool {
		resp, err := http.Get(r.url + "/search?q=seed")
		if err != nil {
			return false
		}
		defer resp.Body.Close()
		body, _ := io.ReadAll(resp.Body)
		return resp.StatusCode == 200 && strings.Contains(string(body), "Seed vault")
	}, 30*time.Second, 100*time.Millisecond)
	_, err = r.stop(os.Interrupt)
	require.NoError(t, err)
}

// Bodies that do not arrive are not waited for.
func TestSlowBodiesAreNotWaitedFor(t *testing.T) {
	r := start(t, []string{"DATABASE_URL=" + kit.DSN(t, true), "READ_TIMEOUT=1s"}, "serve")
	closed := make(chan time.Duration, 60)
	for range cap(closed) {
		go func() {
			began := time.Now()
			c, err := net.Dial("tcp", strings.TrimPrefix(r.url, "http://"))
			if err != nil {
				closed <- time.Hour
				return
			}
			defer c.Close()
			fmt.Fprintf(c, "POST /studio/sign-in HTTP/1.1\r\nHost: x\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 1000\r\n\r\n")
			_ = c.SetReadDeadline(time.Now().Add(15 * time.Second))
			_, err = io.Copy(io.Discard, c)
			if err != nil {
				closed <- time.Hour
				return
			}
			closed <- time.Since(began)
		}()
	}
	for range cap(closed) {
		require.Less(t, <-closed, 10*time.Second)
	}
}

// What is backed up can be restored, and is the same.
func TestBackupAndRestore(t *testing.T) {
	from, to := kit.DSN(t, true), kit.Bare(t)
	file := filepath.Join(t.TempDir(), "site.dump")
	script := testkit.Root("scripts", "backup.sh")
	run := func(args ...string) {
		t.Helper()
		cmd := exec.Command("sh", append([]string{script}, args...)...)
		cmd.Env = append(os.Environ(), "PATH="+pgcluster.Programs()+":"+os.Getenv("PATH"))
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	run("save", from, file)
	run("restore", file, to)
	run("compare", from, to)
	conn, err := pgx.Connect(t.Context(), to)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), `UPDATE people SET name = 'Somebody Else' WHERE login = 'marta'`)
	require.NoError(t, err)
	cmd := exec.Command("sh", script, "compare", from, to)
	cmd.Env = append(os.Environ(), "PATH="+pgcluster.Programs()+":"+os.Getenv("PATH"))
	out, err := cmd.CombinedOutput()
	require.Error(t, err, "a difference is seen")
	require.Contains(t, string(out), "people")
	r := start(t, []string{"DATABASE_URL=" + to}, "serve")
	resp, err := http.Get(r.url + "/seed-vault")
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, 200, resp.StatusCode)
}

// The demo tells a history, by a clock of its own; whatever is cleaned up meanwhile by the
// clock of today takes nothing of it away.
func TestTheDemoLoadsWhileOthersCleanUp(t *testing.T) {
	s, err := server.New(t.Context(), kit.Pool(t, false), server.Options{Log: testkit.Quiet()})
	require.NoError(t, err)
	defer s.Close()
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() {
		defer close(done)
		for tick := time.NewTicker(20 * time.Millisecond); ctx.Err() == nil; <-tick.C {
			_ = s.App.CleanUp(ctx)
		}
	}()
	err = demo.Load(t.Context(), s.App, os.DirFS(testkit.Root("demo")), func(string) {})
	stop()
	<-done
	require.NoError(t, err)
}
