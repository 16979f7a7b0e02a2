package app_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sheet"
	"candlepath/internal/markup"
)

// away is a storage of files that answers nothing while it is away.
type away struct {
	plan.Objects
	gone bool
}

func (s *away) Put(ctx context.Context, key string, data io.Reader) error {
	if s.gone {
		return errors.New("connection refused")
	}
	return s.Objects.Put(ctx, key, data)
}

func textFile(name, holds string) content.PictureFile {
	return content.PictureFile{Name: name, Given: "The " + name, Type: "text/plain", Body: strings.NewReader(holds), Bytes: int64(len(holds))}
}

// While the storage of files is away, nothing is kept of a file that comes and pages are
// written as ever; once it is back, the same file is taken.
func TestTheStorageOfFilesIsAway(t *testing.T) {
	d := newDesk(t)
	kept := &away{memory(t), true}
	d.App = app.New(d.store, markup.New(), kept, func() time.Time { return d.now })
	_, err := d.AddFile(t.Context(), d.people["ines"], textFile("rota.txt", "Monday"))
	require.ErrorAs(t, err, new(*plan.StorageError))
	require.ErrorContains(t, err, "was not kept")
	list, err := d.Files(t.Context(), d.people["ines"], "", false, 1)
	require.NoError(t, err)
	require.Empty(t, list.Files)
	d.write("ines", d.id("/grounds"), "Written meanwhile.")
	kept.gone = false
	f, err := d.AddFile(t.Context(), d.people["ines"], textFile("rota.txt", "Monday"))
	require.NoError(t, err)
	require.Equal(t, "The rota.txt", f.Called())
}

// What no site knows is swept from the storage once it is an hour old: bytes of a file that
// was removed, and of one whose program ended before it was known. What is known, what just
// came, and what is not ours stays.
func TestUnknownFilesAreSwept(t *testing.T) {
	d := newDesk(t)
	kept := memory(t)
	d.App = app.New(d.store, markup.New(), kept, func() time.Time { return d.now })
	there := func() (keys []string) {
		require.NoError(t, kept.Older(t.Context(), time.Now().Add(time.Minute), func(key string) error { keys = append(keys, key); return nil }))
		return keys
	}
	stays, err := d.AddFile(t.Context(), d.people["ines"], textFile("stays.txt", "stays"))
	require.NoError(t, err)
	goes, err := d.AddFile(t.Context(), d.people["ines"], textFile("goes.txt", "goes"))
	require.NoError(t, err)
	lost := strings.Repeat("0a", 16)
	for _, key := range []string{lost, lost + "-320", "notes of somebody else"} {
		require.NoError(t, kept.Put(t.Context(), key, strings.NewReader("x")))
	}
	require.NoError(t, d.RemoveFile(t.Context(), d.people["ines"], goes.ID))
	d.now = time.Now()
	require.NoError(t, d.SweepFiles(t.Context()))
	require.Len(t, there(), 5, "none is an hour old")
	d.now = time.Now().Add(2 * time.Hour)
	require.NoError(t, d.SweepFiles(t.Context()))
	require.ElementsMatch(t, []string{stays.ID, "notes of somebody else"}, there())
}

// A file is not deleted from under a page that is being saved with it.
func TestAFileIsNotDeletedWhileAPageIsSaved(t *testing.T) {
	d := newDesk(t)
	f, err := d.AddFile(t.Context(), d.people["ines"], textFile("rota.txt", "Monday"))
	require.NoError(t, err)
	entry := d.id("/grounds/ponds")
	d.write("ines", entry, "No file yet.")
	var version string
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT version_id FROM page_spans WHERE entry_id = $1 AND from_edition IS NULL`, entry).Scan(&version))
	saving, err := d.pool.Begin(t.Context())
	require.NoError(t, err)
	_, err = saving.Exec(t.Context(), `INSERT INTO page_pictures (version_id, site_id, picture_id) SELECT $1, site_id, id FROM files WHERE id = $2`, version, f.ID)
	require.NoError(t, err)
	removed := make(chan error, 1)
	go func() { removed <- d.RemoveFile(context.WithoutCancel(t.Context()), d.people["ines"], f.ID) }()
	require.Eventually(t, func() bool {
		var waits bool
		err := d.pool.QueryRow(t.Context(), `SELECT EXISTS (SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database())`).Scan(&waits)
		return err == nil && waits
	}, 30*time.Second, 10*time.Millisecond, "removing waits for the page")
	require.NoError(t, saving.Commit(t.Context()))
	require.ErrorContains(t, <-removed, "was saved with this file")
}

// Pages that show pictures are laid out anew at once, and each has its own.
func TestPicturesOfPagesThatFollowATemplate(t *testing.T) {
	d := newDesk(t)
	list := "level,title,template\n1,Rounds,procedure\n"
	for i := range 12 {
		list += fmt.Sprintf("2,Round %d,procedure\n", i)
	}
	d.bring("marta", sheet.Update, list)
	for i := range 12 {
		f, err := d.AddFile(t.Context(), d.people["ines"], content.PictureFile{
			Name: fmt.Sprintf("round-%d.png", i), Type: "image/png", Body: strings.NewReader(fmt.Sprint(i)), Bytes: 2, Width: 40 + i, Height: 20,
		})
		require.NoError(t, err)
		d.writePage("ines", d.id(fmt.Sprintf("/rounds/round-%d", i)), content.Page{Slots: map[string][]content.Block{"main": {
			{Type: content.Picture, Set: content.Values{"picture": f.Address(), "alt": "A round"}},
		}}})
	}
	d.write("ines", d.id("/rounds"), "Rounds.")
	d.publish("marta", "Rounds")
	require.Empty(t, d.draftTemplate("marta", "procedure", func(p *content.Template) { p.Parts[0] = fixed("Wear gloves.") }))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	d.publish("marta", "Gloves")
	for i := range 12 {
		body := d.body(d.id(fmt.Sprintf("/rounds/round-%d", i)))
		require.Contains(t, body, "Wear gloves")
		require.Contains(t, body, fmt.Sprintf(`width="%d" height="20"`, 40+i))
	}
}

// Files that an edition showed are asked one by one: shown, replaced, gone, and back again.
func TestFilesAreProved(t *testing.T) {
	d := newDesk(t)
	add := func(name string) plan.KeptFile {
		f, err := d.AddFile(t.Context(), d.people["ines"], content.PictureFile{
			Name: name, Type: "image/png", Body: strings.NewReader(name), Bytes: int64(len(name)), Width: 40, Height: 20,
		})
		require.NoError(t, err)
		return f
	}
	show := func(f plan.KeptFile) {
		d.writePage("ines", d.id("/visitors"), content.Page{Slots: map[string][]content.Block{"main": {
			{Type: content.Picture, Set: content.Values{"picture": f.Address(), "alt": "The gate"}},
		}}})
	}
	codes := func() map[string]int {
		list, err := d.ProofOfNext(t.Context(), d.people["ines"])
		require.NoError(t, err)
		out := map[string]int{}
		for _, p := range list {
			if p.Of == editions.OfFile {
				out[p.Address] = p.Code
			}
		}
		return out
	}
	first, second := add("first.png"), add("second.png")
	show(first)
	require.Empty(t, codes(), "no edition showed it yet")
	d.publish("marta", "The gate")
	require.Equal(t, map[string]int{first.Address(): 200}, codes())

	show(second)
	require.Equal(t, map[string]int{first.Address(): 410}, codes(), "the draft that goes out shows another")
	_, err := d.pool.Exec(t.Context(), `UPDATE files SET replaced_by = $1 WHERE id = $2`, second.ID, first.ID)
	require.NoError(t, err)
	require.Equal(t, map[string]int{first.Address(): 200}, codes(), "the new one takes its place")
	d.publish("marta", "Another gate")
	require.Contains(t, d.look("marta").Proof.Words(), "; 2 of 2 files")
	require.Equal(t, map[string]int{first.Address(): 200, second.Address(): 200}, codes())
	_, err = d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), 2, "The gate was better")
	require.NoError(t, err)
	require.Equal(t, 200, codes()[first.Address()])

	old, err := d.ProofOf(t.Context(), d.people["ines"], 2)
	require.NoError(t, err)
	require.Contains(t, old, editions.Proven{Address: first.Address(), Of: editions.OfFile, Answer: redirect.Answer{Code: 200}})
}

// Removing and withdrawing name the files that stop, before the act and before the edition; those that another
// page shows are not among them. The proof says what readers then get.
func TestRemovingNamesTheFilesThatStop(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	var links string
	for _, name := range []string{"rota.txt", "plan.txt", "both.txt"} {
		f, err := d.AddFile(t.Context(), d.people["ines"], textFile(name, name))
		require.NoError(t, err)
		links += "[" + name + "](" + f.Address() + ") "
		if name == "both.txt" {
			d.write("ines", compost, "[Both]("+f.Address()+")")
		}
	}
	d.write("ines", ponds, links)
	d.publish("marta", "Files")
	for _, do := range []string{"withdraw", "remove"} {
		res, err := d.Plan(t.Context(), d.people["ines"], appsitemap.PlanAct{Key: uuid.NewString(), Do: do, ID: ponds})
		require.NoError(t, err)
		require.NotNil(t, res.Confirm, "nothing was done yet")
		require.Equal(t, []string{"plan.txt", "rota.txt"}, res.Files, do)
	}
	d.act("ines", appsitemap.PlanAct{Do: "withdraw", ID: ponds})
	require.NoError(t, d.Decide(t.Context(), d.people["ines"], ponds, "gone", false, ""))
	n := d.look("marta")
	i := slices.IndexFunc(n.Findings, func(f check.Finding) bool { return f.Rule == preflight.FileStops })
	require.GreaterOrEqual(t, i, 0, "%v", n.Findings)
	require.Regexp(t, "2 files stop working.*(rota.txt, plan.txt|plan.txt, rota.txt)", n.Findings[i].Message)
	d.publish("marta", "Drained")
	proof, err := d.ProofOf(t.Context(), d.people["marta"], d.live().Site.Edition)
	require.NoError(t, err)
	codes := map[string]int{}
	for _, p := range proof {
		if p.Of == editions.OfFile {
			codes[path.Base(p.Address)] = p.Code
		}
	}
	require.Equal(t, map[string]int{"rota.txt": 410, "plan.txt": 410, "both.txt": 200}, codes)
	require.NotContains(t, d.rules("marta"), preflight.FileStops, "what stopped is not told again")
}
