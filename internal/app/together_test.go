package app_test

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"candlepath/internal/app"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// background runs f beside the test and tells how it ended.
func background(f func() error) <-chan error {
	done := make(chan error, 1)
	go func() { done <- f() }()
	return done
}

func (d *desk) publishNow(login string) error {
	_, err := d.Publish(d.t.Context(), d.people[login], editions.PublishAsk{Key: uuid.NewString(), Why: "Meanwhile"})
	return err
}

func (d *desk) liveText(entry string) string {
	d.t.Helper()
	return d.version(entry, app.Tx.LivePage).Content.Slots["main"][0].Text
}

func (d *desk) version(entry string, which func(app.Tx, context.Context, string) (plan.PageVersion, error)) (v plan.PageVersion) {
	d.t.Helper()
	require.NoError(d.t, d.store.Read(d.t.Context(), func(tx app.Tx, _ plan.Site) (err error) {
		v, err = which(tx, d.t.Context(), entry)
		return err
	}))
	return v
}

// waitsForLock waits until some session of the test's database waits for a lock.
func (d *desk) waitsForLock() {
	d.t.Helper()
	require.Eventually(d.t, func() bool {
		var n int
		require.NoError(d.t, d.pool.QueryRow(d.t.Context(), `SELECT count(*) FROM pg_stat_activity
			WHERE datname = current_database() AND wait_event_type = 'Lock'`).Scan(&n))
		return n > 0
	}, 30*time.Second, 5*time.Millisecond)
}

// A save whose statements ran when an edition goes out, and that commits later:
// the edition waits for it and checks what was saved.
func TestAnEditionWaitsForASaveThatRuns(t *testing.T) {
	d := newDesk(t)
	grounds := d.id("/grounds")
	d.write("ines", grounds, "Checked")
	saved, publish := make(chan struct{}), make(chan struct{})
	save := background(func() error {
		return d.store.WriteUnlocked(t.Context(), func(tx app.Tx, _ plan.Site) error {
			v, err := tx.Draft(t.Context(), grounds)
			if err != nil {
				return err
			}
			base := v.Version
			v.Version++
			v.Content = page("")
			v.Body, v.Report = []byte{}, content.Report{Template: "topic", Empty: true}
			err = tx.SaveDraft(t.Context(), v, base)
			close(saved)
			<-publish
			return err
		})
	})
	<-saved
	out := background(func() error { return d.publishNow("marta") })
	d.waitsForLock()
	close(publish)
	require.NoError(t, <-save)
	require.NoError(t, <-out)
	require.Empty(t, d.liveText(grounds), "the edition holds the text that it looked at, not the one before")
	_, err := d.tryVersion(grounds)
	require.ErrorIs(t, err, plan.ErrNotFound, "nothing of it waits")
}

func (d *desk) tryVersion(entry string) (v plan.PageVersion, err error) {
	err = d.store.Read(d.t.Context(), func(tx app.Tx, _ plan.Site) (err error) {
		v, err = tx.Draft(d.t.Context(), entry)
		return err
	})
	return v, err
}

// A text that is saved while an edition goes out with the text before it waits,
// and is the next draft.
func TestASaveMeanwhileIsTheNextDraft(t *testing.T) {
	d := newDesk(t)
	ctx, grounds, window := t.Context(), d.id("/grounds"), uuid.NewString()
	v, err := d.OpenPage(ctx, d.people["ines"], grounds, window)
	require.NoError(t, err)
	first, err := d.SavePage(ctx, d.people["ines"], grounds, window, page("Checked"), v.Base)
	require.NoError(t, err)

	stop, err := d.pool.Begin(ctx) // holds the edition up after it read the drafts
	require.NoError(t, err)
	_, err = stop.Exec(ctx, `LOCK TABLE editions IN SHARE ROW EXCLUSIVE MODE`)
	require.NoError(t, err)
	out := background(func() error { return d.publishNow("marta") })
	d.waitsForLock()
	var second pages.SavedPage
	save := background(func() (err error) {
		second, err = d.SavePage(ctx, d.people["ines"], grounds, window, page("Nobody checked this"), first.Version)
		return err
	})
	select {
	case err := <-save:
		t.Fatal(err, "the save does not wait for the edition")
	case <-time.After(200 * time.Millisecond):
	}
	require.NoError(t, stop.Rollback(ctx))
	require.NoError(t, <-out)
	require.NoError(t, <-save)
	require.Nil(t, second.Clash, "whoever writes goes on undisturbed")
	require.Equal(t, "Checked", d.liveText(grounds))
	require.Equal(t, "Nobody checked this", d.version(grounds, app.Tx.Draft).Content.Slots["main"][0].Text)
}

// The database itself refuses what would change an edition, however it is said.
func TestWhatAnEditionShowsCannotBeChanged(t *testing.T) {
	d := newDesk(t)
	d.write("ines", d.id("/grounds"), "A draft")
	for name, q := range map[string]string{
		"a text":            `UPDATE page_versions v SET excerpt = 'other' FROM page_spans s WHERE s.version_id = v.id AND s.from_edition = 1`,
		"a text, deleted":   `DELETE FROM page_versions v USING page_spans s WHERE s.version_id = v.id AND s.from_edition = 1`,
		"a span":            `UPDATE page_spans SET from_edition = 2 WHERE from_edition = 1`,
		"a span's text":     `UPDATE page_spans SET version_id = (SELECT version_id FROM page_spans WHERE from_edition IS NULL LIMIT 1) WHERE from_edition = 1`,
		"an entry, deleted": `DELETE FROM entry_rows WHERE from_edition = 1`,
		"an entry":          `UPDATE entry_rows SET from_edition = NULL WHERE from_edition = 1`,
		"an address":        `DELETE FROM addresses`,
		"an edition":        `UPDATE editions SET why = 'another reason'`,
		"no edition":        `DELETE FROM editions`,
	} {
		t.Run(name, func(t *testing.T) {
			_, err := d.pool.Exec(t.Context(), q)
			require.ErrorContains(t, err, "23000")
		})
	}
	_, err := d.pool.Exec(t.Context(), `UPDATE page_versions v SET excerpt = 'other' FROM page_spans s WHERE s.version_id = v.id AND s.from_edition IS NULL`)
	require.NoError(t, err, "a draft can be written")
}

// Several people act at once, and somebody's request is cancelled now and then:
// every act is answered with the tree that it made.
func TestActsAtOnceAnswerWhatTheyMade(t *testing.T) {
	d := newDesk(t)
	logins := []string{"marta", "anselm", "ines"}
	var work sync.WaitGroup
	for g := range 8 {
		work.Go(func() {
			who := d.people[logins[g%len(logins)]]
			for n := range 12 {
				ctx, cancel := context.WithCancel(t.Context())
				go func() {
					if n%4 == 3 {
						cancel()
					}
				}()
				res, err := d.Plan(ctx, who, appsitemap.PlanAct{Key: uuid.NewString(), Do: "add", Value: fmt.Sprintf("Bed %d of %d", n, g)})
				if err == nil {
					i := res.Trees.Next.Find(res.ID)
					if i == sitemap.None || res.Trees.Next.Ref(i).Title != fmt.Sprintf("Bed %d of %d", n, g) {
						t.Errorf("act %d of %d answers with a tree that does not hold it", n, g)
					}
				}
				o, err := d.Outline(t.Context())
				if err != nil || o.Trees.Next == nil {
					t.Errorf("outline: %v", err)
				}
				cancel()
			}
		})
	}
	work.Wait()
	kept, err := d.Outline(t.Context())
	require.NoError(t, err)
	d.restart()
	read, err := d.Outline(t.Context())
	require.NoError(t, err)
	require.Equal(t, read.Trees.Next.Entries(), kept.Trees.Next.Entries(), "what was kept is what is stored")
}

// A request that is given up is told as that, not as a fault of the database.
func TestAGivenUpRequestIsNoFault(t *testing.T) {
	d := newDesk(t)
	for name, run := range map[string]func(context.Context, func(app.Tx, plan.Site) error) error{"read": d.store.Read, "note": d.store.WriteUnlocked, "write": d.store.Write} {
		t.Run(name, func(t *testing.T) {
			ctx, cancel := context.WithCancel(t.Context())
			err := run(ctx, func(tx app.Tx, _ plan.Site) error {
				cancel()
				require.Eventually(t, func() bool {
					_, err := tx.People(context.WithoutCancel(ctx))
					return err != nil
				}, 10*time.Second, time.Millisecond, "the transaction is ended")
				return nil
			})
			require.ErrorIs(t, err, context.Canceled)
		})
	}
}
