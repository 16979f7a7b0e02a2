package site_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/files"
	"candlepath/internal/testkit"
	"candlepath/internal/web/reader"
)

// An edition that was written out holds together on a disk, betrays nothing of what its readers
// may not read, and answers behind nginx as the reader site does.
func TestAnEditionIsWrittenOut(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	status, _ := marta.Act(map[string]any{"do": "fact", "id": testkit.EntryID(t, site, "/seed-vault"), "field": "readership", "value": "approver"})
	require.Equal(t, 200, status)
	testkit.PublishOnly(t, site, "Only approvers read about the vault", func(k string) bool { return k == "readership" })
	volunteers, chief := testkit.EntryID(t, site, "/volunteers"), testkit.PersonOf(t, site, "marta")
	status, _ = marta.Act(map[string]any{"do": "fact", "id": volunteers, "field": "kind", "value": "group", "confirmed": true})
	require.Equal(t, 200, status)
	require.NoError(t, site.App.ReleaseAddresses(t.Context(), chief, []string{"/volunteers"}, "Only what is below is asked for"))
	_, err := site.App.Publish(t.Context(), chief, editions.PublishAsk{Key: uuid.NewString(), Why: "Volunteers is a group", Changes: editions.Select{Only: []string{volunteers, "/volunteers"}}})
	require.NoError(t, err)
	require.NoError(t, site.Reader.Refresh(t.Context()))
	status, _ = marta.Get("/volunteers")
	require.Equal(t, http.StatusNotFound, status)
	out, err := os.MkdirTemp("", "edition") // not t.TempDir: the user of nginx reads it
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(out)) })
	require.NoError(t, os.Chmod(out, 0o755))
	st, err := site.App.ReadersState(t.Context(), 0)
	require.NoError(t, err)
	said, err := site.Reader.Export(t.Context(), reader.Export{State: st, Put: files.Folder(out).Put})
	require.NoError(t, err)
	require.Empty(t, said.Lost)
	require.Greater(t, said.Pages, 120)
	require.Greater(t, said.Files, 5)
	require.NoDirExists(t, filepath.Join(out, "site", "seed-vault"))
	pages := requireHolds(t, out)
	require.Greater(t, pages, said.Pages)

	for name, base := range map[string]string{"nginx": byNginx(t, out), "apache": byApache(t, out)} {
		t.Log("behind", name)
		requireAnswersAlike(t, site, base)
	}
}

// requireAnswersAlike holds what a server answers against the reader site: every address, live or once.
func requireAnswersAlike(t *testing.T, site *testkit.Site, base string) {
	t.Helper()
	c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	answer := func(at string) (int, string) {
		r, err := c.Get(at)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		return r.StatusCode, r.Header.Get("Location")
	}
	asked := 0
	rows, err := site.Pool.Query(t.Context(), `SELECT address FROM addresses WHERE to_edition IS NULL UNION SELECT from_address FROM redirects WHERE to_edition IS NULL`)
	require.NoError(t, err)
	for rows.Next() {
		var at string
		require.NoError(t, rows.Scan(&at))
		at = (&url.URL{Path: at}).EscapedPath()
		want, to := answer(site.URL + at)
		got, there := answer(base + at)
		if want == http.StatusOK && at != "/" {
			require.Equal(t, fmt.Sprint(301, at+"/"), fmt.Sprint(got, strings.TrimPrefix(there, base)), "a folder, %s", at)
			got, there = answer(base + at + "/")
		}
		require.Equal(t, fmt.Sprint(want, to), fmt.Sprint(got, strings.TrimPrefix(there, base)), at)
		asked++
	}
	require.Greater(t, asked, 180)
	for _, at := range []string{"/VISITORS/Opening-Hours", "/nothing", "/seed-vault", "/seed-vault/drying-room", "/volunteers", "/volunteers/", "/assets", "/files", "/files/"} {
		want, to := answer(site.URL + at)
		got, there := answer(base + at)
		require.Equal(t, fmt.Sprint(want, to), fmt.Sprint(got, strings.TrimPrefix(there, base)), at)
	}
}

// requireHolds follows every link of an edition on a disk, and counts its pages.
func requireHolds(t *testing.T, out string) (pages int) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(out, func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(name, ".woff2") || strings.Contains(name, "/files/") {
			return err
		}
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		for _, secret := range []string{"Seed vault", "seed-vault", "Drying room", "drying-room"} {
			require.NotContains(t, string(text), secret, name)
		}
		if !strings.HasSuffix(name, ".html") {
			return nil
		}
		pages++
		doc, err := html.Parse(strings.NewReader(string(text)))
		require.NoError(t, err)
		for n := range doc.Descendants() {
			for _, a := range n.Attr {
				if a.Key != "href" && a.Key != "src" || strings.HasPrefix(a.Val, "#") || strings.Contains(a.Val, "://") || strings.HasPrefix(a.Val, "mailto:") {
					continue
				}
				at, _, _ := strings.Cut(a.Val, "#")
				at, err := url.PathUnescape(at)
				require.NoError(t, err)
				require.False(t, path.IsAbs(at), "%s leads to %s", name, at)
				require.FileExists(t, filepath.Join(filepath.Dir(name), at), "linked from %s", name)
			}
		}
		return nil
	}))
	return pages
}

// byNginx serves an edition as its notes say, and gives where.
func byNginx(t *testing.T, out string) string {
	t.Helper()
	at, dir := testkit.FreeAddress(t), t.TempDir()
	rules := filepath.Join(out, "redirects", "nginx")
	conf := fmt.Sprintf("pid %[4]s/pid;\nerror_log stderr;\nevents {}\nhttp {\naccess_log off;\ninclude /etc/nginx/mime.types;\ninclude %[1]s/redirects-maps.conf;\nvariables_hash_max_size 4096;\n"+
		"server {\nlisten %[2]s;\nabsolute_redirect off;\nroot %[3]s/site;\ninclude %[1]s/site.conf;\n}\n}\n", rules, at, out, dir)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "nginx.conf"), []byte(conf), 0o600))
	return answering(t, at, "/usr/sbin/nginx", "-c", filepath.Join(dir, "nginx.conf"), "-g", "daemon off;")
}

// byApache is byNginx for Apache httpd.
func byApache(t *testing.T, out string) string {
	t.Helper()
	at, dir := testkit.FreeAddress(t), t.TempDir()
	var conf strings.Builder
	for _, m := range []string{"mpm_event", "authz_core", "headers", "rewrite", "dir", "mime"} {
		fmt.Fprintf(&conf, "LoadModule %[1]s_module /usr/lib/apache2/modules/mod_%[1]s.so\n", m)
	}
	fmt.Fprintf(&conf, "ServerName localhost\nServerRoot %[1]s\nDefaultRuntimeDir %[1]s\nPidFile %[1]s/pid\nErrorLog %[1]s/error.log\nUser www-data\nGroup www-data\nTypesConfig /etc/mime.types\n"+
		"Listen %[2]s\nDefine CANDLE_PATH %[3]s/redirects/apache\n<VirtualHost *>\nDocumentRoot %[3]s/site\nInclude %[3]s/redirects/apache/site.conf\n</VirtualHost>\n", dir, at, out)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "apache.conf"), []byte(conf.String()), 0o600))
	return answering(t, at, "/usr/sbin/apache2", "-f", filepath.Join(dir, "apache.conf"), "-DFOREGROUND")
}

// answering runs a server until the test ends, and gives its base once it answers.
func answering(t *testing.T, at, name string, args ...string) string {
	t.Helper()
	cmd := exec.Command(name, args...)
	cmd.WaitDelay = 5 * time.Second // what it began may hold its output open
	var words strings.Builder
	cmd.Stdout, cmd.Stderr = &words, &words
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
		_ = cmd.Wait()
	})
	require.Eventually(t, func() bool {
		c, err := (&net.Dialer{}).DialContext(context.Background(), "tcp", at)
		if err == nil {
			err = c.Close()
		}
		return err == nil
	}, 30*time.Second, 50*time.Millisecond, "%s does not answer", name)
	return "http://" + at
}

// The command writes an edition out, or says why it does not and leaves nothing behind; the studio
// gives the same as a .zip.
func TestExportingEditionsByCommandAndScreen(t *testing.T) {
	site := kit.Site(t, true)
	env := []string{"DATABASE_URL=" + site.Pool.Config().ConnString(), "FILES=" + t.TempDir()}
	dir := t.TempDir()
	out := filepath.Join(dir, "five.zip")
	own := filepath.Join(dir, "five.zip.part")
	require.NoError(t, os.WriteFile(own, []byte("mine"), 0o600))
	said, err := program(t, env, "edition", "export", "--number", "5", "--as", "editor", out)
	require.Error(t, err, "the data of its pictures is elsewhere, which is told")
	require.Contains(t, said, "Edition 5: ")
	require.Contains(t, said, "its data is not there any more")
	z, err := zip.OpenReader(out)
	require.NoError(t, err)
	names := map[string]bool{}
	for _, f := range z.File {
		require.False(t, names[f.Name], "%s is there once", f.Name)
		names[f.Name] = true
	}
	require.NoError(t, z.Close())
	for _, name := range []string{"README.txt", "missing-files.txt", "proof.csv", "redirects/redirects.csv", "redirects/nginx/site.conf", "redirects/apache/redirects.conf", "site/index.html", "site/visitors/picnic-lawns/index.html", "site/search/a-z/index.html", "site/feed.atom", "site/assets/reader.css"} {
		require.True(t, names[name], name)
	}
	for words, args := range map[string][]string{
		"a file of this name is there": {out}, "the folder is not empty": {dir}, "there is no edition 50": {"--number", "50", filepath.Join(dir, "x")},
		"neither a login nor a role": {"--as", "nobody-here", filepath.Join(dir, "y")},
	} {
		said, err := program(t, env, append([]string{"edition", "export"}, args...)...)
		require.Error(t, err)
		require.Contains(t, said, words)
	}
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, left, 2, "nothing that was begun is left behind")
	kept, err := os.ReadFile(own)
	require.NoError(t, err)
	require.Equal(t, "mine", string(kept), "what has a name alike is not touched")
}

// An edition is exported behind its screen: it tells how far it is, can be left, ends in a notice,
// and gives the file for a day to who asked for it.
func TestAnEditionIsExportedBehindItsScreen(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/edition/see?of=5&as=editor")
	require.Equal(t, "Past editions", tab.MustElement(".tabs [aria-current]").MustText())
	tab.MustElementR("button", "Export as .zip").MustClick()
	tab.Until(`document.querySelector("#large h1")?.innerText === "Edition 5 is ready to download"`)
	file := tab.MustElement("#large a[download]").MustAttribute("href")
	require.Regexp(t, `Download edition-5\.zip, [\d.]+ MB`, tab.MustElement("#large").MustText())
	c := testkit.SignIn(t, site, "marta")
	status, body := c.Get(*file)
	require.Equal(t, 200, status)
	r, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	names := map[string]bool{}
	for _, f := range r.File {
		names[f.Name] = true
	}
	require.True(t, names["site/visitors/picnic-lawns/index.html"] && names["proof.csv"] && names["redirects/nginx/site.conf"])
	require.False(t, names["missing-files.txt"])
	_, inbox := c.Get("/studio/inbox")
	require.Contains(t, string(inbox), "Edition 5 is ready to download until")
	here := strings.TrimSuffix(*file, "/file")
	require.Contains(t, string(inbox), `href="`+here+`"`)

	t.Log("what cannot be exported is said, and nobody else gets what somebody exported")
	status, _ = testkit.SignIn(t, site, "ines").Get(*file)
	require.Equal(t, 404, status)
	for at, want := range map[string]int{"/studio/edition/past/99/export": 404, "/studio/edition/past/next/export": 404, "/studio/edition/past/5/export": 404} {
		status, _ = c.Form(at, url.Values{"as": {"nobody-here"}})
		require.Equal(t, want, status, at)
	}
	status, _ = testkit.SignIn(t, site, "noor").Form("/studio/edition/past/5/export", nil)
	require.Equal(t, 403, status)

	t.Log("how far it is; meanwhile the same is not begun again, and nothing else")
	_, err = site.Pool.Exec(t.Context(), `UPDATE edition_exports SET state = 'waiting', done = 100, total = 160`)
	require.NoError(t, err)
	_, body = c.Get(here)
	require.Contains(t, string(body), "100 of 160 pages exported")
	status, _ = c.Form("/studio/edition/past/5/export", url.Values{"as": {"editor"}})
	require.Equal(t, 303, status)
	_, body = c.Get(here)
	require.Contains(t, string(body), "100 of 160 pages exported")
	status, body = c.Form("/studio/edition/past/6/export", url.Values{"of": {"6"}})
	require.Equal(t, 422, status)
	require.Contains(t, string(body), "You are already exporting edition 5. Wait until it finishes.")

	t.Log("one that cannot be written is told; the next one replaces what was exported before")
	id := here[strings.LastIndex(here, "/")+1:]
	require.ErrorIs(t, site.App.WriteOut(t.Context(), id, func(context.Context, plan.SiteState, string, editions.ExportOutput) error {
		return errors.New("the disk is full")
	}), plan.ErrGivenUp)
	_, body = c.Get(here)
	require.Contains(t, string(body), "Edition 5 was not exported")
	require.NotContains(t, string(body), "disk")
	status, _ = c.Form("/studio/edition/past/6/export", nil)
	require.Equal(t, 303, status)
	status, _ = c.Get(*file)
	require.Equal(t, 404, status)

	t.Log("after a day it is gone")
	require.Eventually(t, func() bool {
		_, body = c.Get("/studio/inbox")
		return strings.Contains(string(body), "Edition 6 is ready to download")
	}, 30*time.Second, 50*time.Millisecond)
	_, err = site.Pool.Exec(t.Context(), `UPDATE edition_exports SET at = at - interval '25 hours'`)
	require.NoError(t, err)
	require.NoError(t, site.App.SweepExports(t.Context()))
	var left int
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM edition_exports`).Scan(&left))
	require.Zero(t, left)
	require.NoError(t, site.App.Objects.Older(t.Context(), time.Now().Add(time.Hour), func(key string) error {
		require.NotContains(t, key, "export-")
		return nil
	}))
}

// What is written of an export that is cut off is not written again, unless somebody may read less since.
func TestAnExportGoesOnWhereItWas(t *testing.T) {
	site := kit.Site(t, true)
	ctx, marta := t.Context(), testkit.PersonOf(t, site, "marta")
	store := &countedObjects{Objects: site.App.Objects}
	site.App.Objects = store
	write := func(cut func()) editions.WriteExport {
		return func(ctx context.Context, st plan.SiteState, as string, out editions.ExportOutput) error {
			z := files.NewFolderZip(out.To)
			_, err := site.Reader.Export(ctx, reader.Export{State: st, As: as, Put: z.Put, Merge: z.Merge, Parts: out.Parts, Progress: func(int, int) { cut() }})
			return errors.Join(err, z.Close())
		}
	}
	export := func() string {
		_, err := site.Pool.Exec(ctx, `DELETE FROM edition_exports`)
		require.NoError(t, err)
		id := plan.NewID()
		_, err = site.Pool.Exec(ctx, `INSERT INTO edition_exports (id, site_id, person_id, edition, reads_as, state, at, readers) SELECT $1, id, $2, edition, '', 'waiting', now(), '[{}]' FROM sites`, id, marta.ID)
		require.NoError(t, err)
		return id
	}
	cutOff := func(id string) {
		within, stop := context.WithCancel(ctx)
		require.ErrorIs(t, site.App.WriteOut(within, id, write(stop)), context.Canceled)
	}
	pages := func(id string) (out []string) {
		_, body, err := site.App.OpenExport(ctx, marta, id)
		require.NoError(t, err)
		defer body.Close()
		data, err := io.ReadAll(body)
		require.NoError(t, err)
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		for _, f := range z.File {
			out = append(out, f.Name)
		}
		slices.Sort(out)
		return out
	}
	whole := export()
	require.NoError(t, site.App.WriteOut(ctx, whole, write(func() {})))
	all := pages(whole)
	require.Contains(t, all, "site/grounds/index.html")
	require.NotContains(t, all, "notes.json")

	id := export()
	cutOff(id)
	store.parts.Store(0)
	require.NoError(t, site.App.WriteOut(ctx, id, write(func() {})))
	require.Zero(t, store.parts.Load(), "written again")
	require.Equal(t, all, pages(id))

	id = export()
	cutOff(id)
	status, _ := testkit.SignIn(t, site, "marta").Act(map[string]any{"do": "fact", "id": testkit.EntryID(t, site, "/grounds"), "field": "readership", "value": "site manager"})
	require.Equal(t, 200, status)
	testkit.PublishOnly(t, site, "The grounds are for managers", func(k string) bool { return k == "readership" })
	require.NoError(t, site.App.WriteOut(ctx, id, write(func() {})))
	require.NotContains(t, pages(id), "site/grounds/index.html")
	require.NoError(t, store.Older(ctx, time.Now().Add(time.Hour), func(key string) error {
		require.NotContains(t, key, ".part", "left behind")
		return nil
	}))
}

// countedObjects counts the parts of exports that are put.
type countedObjects struct {
	plan.Objects
	parts atomic.Int64
}

func (o *countedObjects) Put(ctx context.Context, key string, data io.Reader) error {
	if strings.HasSuffix(key, ".part") {
		o.parts.Add(1)
	}
	return o.Objects.Put(ctx, key, data)
}

// A process that writes an edition out is killed in the middle; another one takes it up within seconds, and the file is whole.
func TestAnExportOutlivesItsProcess(t *testing.T) {
	site := kit.Site(t, true)
	dsn := site.Pool.Config().ConnString()
	site.Close() // its own jobs
	env := []string{"DATABASE_URL=" + dsn, "FILES=" + t.TempDir()}
	job := func() (state string) {
		if err := site.Pool.QueryRow(t.Context(), `SELECT state FROM river_job WHERE kind = 'export_edition' ORDER BY id DESC LIMIT 1`).Scan(&state); err != nil {
			require.ErrorIs(t, err, pgx.ErrNoRows)
		}
		return state
	}
	for edition := 9; job() != "running"; edition-- { // on a fast machine it may end before it is killed
		require.Positive(t, edition, "an export was never killed in the middle")
		r := start(t, env, "serve")
		c := testkit.SignIn(t, &testkit.Site{URL: r.url}, "marta")
		status, _ := c.Form(fmt.Sprintf("/studio/edition/past/%d/export", edition), nil)
		require.Equal(t, 303, status)
		require.Eventually(t, func() bool { s := job(); return s == "running" || s == "completed" }, 30*time.Second, 5*time.Millisecond)
		require.NoError(t, r.Process.Kill())
		require.Error(t, <-r.exited)
	}
	r := start(t, env, "serve")
	c := testkit.SignIn(t, &testkit.Site{URL: r.url}, "marta")
	var id string
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT id FROM edition_exports`).Scan(&id))
	here := "/studio/edition/exports/" + id
	c.Until(here, "is ready to download")
	status, data := c.Get(here + "/file")
	require.Equal(t, 200, status)
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(io.Discard, in)
		require.NoError(t, err, f.Name)
	}
	require.Greater(t, len(z.File), 100)
}
