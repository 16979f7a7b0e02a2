package store_test

import (
	"context"
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/store"
)

// desk is a store on a database of its own, with what its demo data holds.
type desk struct {
	*testing.T
	*store.Store
	ctx         context.Context //nolint:containedctx // as long as one test
	marta, ines string          // ids of people
	heap        string          // id of a live page with a text
}

var noon = time.Date(2031, 11, 26, 12, 0, 0, 0, time.UTC)

// contract is what use cases may rely on, whatever the database does about it.
var contract = []struct {
	what string
	test func(desk)
}{
	{"a transaction that fails leaves nothing behind", func(d desk) {
		err := d.WriteUnlocked(d.ctx, func(tx app.Tx, _ plan.Site) error {
			d.must(tx.AddVisits(d.ctx, noon, map[string]int{d.heap: 3}))
			d.must(tx.Enqueue(d.ctx, plan.Job{Kind: plan.JobReadFile, ID: "never"}))
			return plan.ErrStale
		})
		require.ErrorIs(d, err, plan.ErrStale)
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Empty(d, got(tx.Visits(d.ctx, noon, noon))(d))
			for _, j := range got(tx.Jobs(d.ctx, 100))(d) {
				require.NotEqual(d, "never", j.Job.ID)
			}
		})
	}},
	{"a state of a draft is kept, goes on, and goes", func(d desk) {
		first := workflow.DraftState{ID: "00000000-0000-0000-0000-00000000000a", Person: d.ines, At: noon, Begun: noon}
		text := func(words string) content.Page {
			return content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: words}}}}
		}
		d.write(func(tx app.Tx, _ plan.Site) {
			v := plan.PageVersion{ID: plan.NewID(), EntryID: d.heap, Version: 1, PersonID: d.ines, At: noon, Content: text("one")}
			d.must(tx.DropDraft(d.ctx, d.heap, time.Now()))
			d.must(tx.SaveState(d.ctx, v, 0, first))
			first.At, v.Version, v.Content = noon.Add(time.Minute), 2, text("one and two")
			d.must(tx.SaveState(d.ctx, v, 1, first))
			require.ErrorIs(d, tx.SaveState(d.ctx, v, 1, first), plan.ErrStale)
			require.Equal(d, v.Content.Slots, got(tx.Draft(d.ctx, d.heap))(d).Content.Slots)
		})
		d.read(func(tx app.Tx, _ plan.Site) {
			states := got(tx.DraftStates(d.ctx, d.heap))(d)
			require.Equal(d, first.ID, states[0].ID, "the newest first")
			require.WithinDuration(d, noon, states[0].Begun, 0)
			require.Equal(d, text("one and two").Slots, got(tx.DraftState(d.ctx, d.heap, first.ID))(d).Slots)
			_, err := tx.DraftState(d.ctx, "another", first.ID)
			require.ErrorIs(d, err, plan.ErrNotFound, "it is of its page")
		})
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropDraftStates(d.ctx, []string{first.ID, "no id"}))
			_, err := tx.DraftState(d.ctx, d.heap, first.ID)
			require.ErrorIs(d, err, plan.ErrNotFound)
		})
	}},
	{"a file is known once, found by its name, and told where it stands", func(d desk) {
		id := "00112233445566778899aabbccddeeff"
		bee := plan.KeptFile{ID: id, Name: "bee.png", Type: "image/png", Bytes: 3, Width: 700, Height: 500, Sizes: []int{320, 640}, PersonID: d.ines, At: noon}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.PutFile(d.ctx, bee))
			again := bee
			again.Name = "wasp.png"
			d.must(tx.PutFile(d.ctx, again))
		})
		d.read(func(tx app.Tx, _ plan.Site) {
			known := got(tx.File(d.ctx, id))(d)
			known.At = known.At.UTC()
			require.Equal(d, bee, known, "what is there stays")
			require.Len(d, got(tx.Files(d.ctx, "bee", true, 0, 10))(d), 1)
			require.Empty(d, got(tx.Files(d.ctx, "be%", false, 0, 10))(d), "words are words")
			now, ever, err := tx.FileUses(d.ctx, []string{id})
			d.must(err)
			require.Empty(d, now)
			require.False(d, ever[id])
		})
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropFile(d.ctx, id))
			_, err := tx.File(d.ctx, id)
			require.ErrorIs(d, err, plan.ErrNotFound)
		})
	}},
	{"reading sees one moment, and cannot write", func(d desk) {
		d.read(func(tx app.Tx, _ plan.Site) {
			require.True(d, tx.Steady())
			before := got(tx.Visits(d.ctx, noon, noon))(d)
			d.write(func(other app.Tx, _ plan.Site) { d.must(other.AddVisits(d.ctx, noon, map[string]int{d.heap: 3})) })
			require.Equal(d, before, got(tx.Visits(d.ctx, noon, noon))(d))
		})
		require.Error(d, d.Read(d.ctx, func(tx app.Tx, _ plan.Site) error { return tx.AddVisits(d.ctx, noon, map[string]int{d.heap: 3}) }))
	}},
	{"who holds the site is waited for", func(d desk) {
		held, done := make(chan bool), make(chan error)
		go func() {
			done <- d.Write(d.ctx, func(tx app.Tx, _ plan.Site) error {
				close(held)
				_, err := tx.BumpPlan(d.ctx)
				return err
			})
		}()
		<-held
		var versions []int64
		require.NoError(d, d.Write(d.ctx, func(tx app.Tx, s plan.Site) error {
			versions = append(versions, s.PlanVersion, got(tx.BumpPlan(d.ctx))(d))
			return nil
		}))
		require.NoError(d, <-done)
		require.Equal(d, versions[0]+1, versions[1], "nothing was lost between the two")
	}},
	{"trees known before and brought up to date are those read anew", func(d desk) {
		var known *sitemap.Tree
		d.read(func(tx app.Tx, s plan.Site) {
			known = got(tx.TreeAt(d.ctx, s.Edition-3))(d)
			since, anew := got(tx.Trees(d.ctx, known, s.Edition-3))(d), got(tx.Trees(d.ctx, nil, 0))(d)
			require.Equal(d, anew.Live.Entries(), since.Live.Entries())
			require.Equal(d, anew.Next.Entries(), since.Next.Entries())
			require.Equal(d, anew.Live.Entries(), got(tx.TreeAt(d.ctx, s.Edition))(d).Entries())
		})
	}},
	{"summaries that came and went since an edition make those of today", func(d desk) {
		d.read(func(tx app.Tx, s plan.Site) {
			all, _, err := tx.LiveSummaries(d.ctx, 0)
			require.NoError(d, err)
			came, ended, err := tx.LiveSummaries(d.ctx, s.Edition-2)
			require.NoError(d, err)
			then, now := map[string]string{}, map[string]string{}
			for id, shown := range got(tx.TextsAt(d.ctx, s.Edition-2))(d) {
				then[id] = shown.Version
			}
			for _, id := range ended {
				delete(then, id)
			}
			for _, h := range came {
				then[h.EntryID] = h.VersionID
			}
			for _, h := range all {
				now[h.EntryID] = h.VersionID
			}
			require.Equal(d, now, then)
			require.NotEmpty(d, came)
		})
	}},
	{"topics keep their order, and those of an edition stay", func(d desk) {
		retopic := func(topics string) {
			d.write(func(tx app.Tx, _ plan.Site) {
				e := d.live(tx, d.heap)
				e.Topics = topics
				d.must(tx.SaveOverlay(d.ctx, plan.Overlay{Overlay: sitemap.Overlay{Put: []sitemap.Entry{e}}}, plan.Planned{PersonID: d.marta, At: noon}))
			})
		}
		for _, topics := range []string{"Water; Safety; Newts", "Newts", ""} {
			retopic(topics)
			d.read(func(tx app.Tx, _ plan.Site) {
				trees := got(tx.Trees(d.ctx, nil, 0))(d)
				require.Equal(d, topics, trees.Next.Ref(trees.Next.Find(d.heap)).Topics)
				require.Equal(d, d.marta, trees.Planned[d.heap].PersonID)
			})
		}
	}},
	{"a planned row goes when nothing is planned any more", func(d desk) {
		by := plan.Planned{PersonID: d.marta, At: noon}
		d.write(func(tx app.Tx, _ plan.Site) {
			e := d.live(tx, d.heap)
			e.Title = "Pools"
			d.must(tx.SaveOverlay(d.ctx, plan.Overlay{Overlay: sitemap.Overlay{Put: []sitemap.Entry{e}}}, by))
			d.must(tx.SaveOverlay(d.ctx, plan.Overlay{Overlay: sitemap.Overlay{Forget: []string{d.heap}}}, by))
			require.NotContains(d, got(tx.Trees(d.ctx, nil, 0))(d).Planned, d.heap)
		})
	}},
	{"a draft is saved over the version it was made from, and no other", func(d desk) {
		v := plan.PageVersion{ID: plan.NewID(), EntryID: d.heap, Version: 1, PersonID: d.ines, At: noon, Body: []byte{1}, Content: text("one")}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropDraft(d.ctx, d.heap, time.Now()))
			d.must(tx.SaveDraft(d.ctx, v, 0))
		})
		again := v
		again.ID = plan.NewID()
		require.ErrorIs(d, d.try(func(tx app.Tx) error { return tx.SaveDraft(d.ctx, again, 0) }), plan.ErrStale, "there is one already")
		v.Version, v.Content = 2, text("two")
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.SaveDraft(d.ctx, v, 1)) })
		require.ErrorIs(d, d.try(func(tx app.Tx) error { return tx.SaveDraft(d.ctx, v, 1) }), plan.ErrStale, "version 1 is gone")
		d.read(func(tx app.Tx, _ plan.Site) {
			kept := got(tx.Draft(d.ctx, d.heap))(d)
			require.Equal(d, []any{text("two"), 2, d.ines}, []any{kept.Content, kept.Version, kept.PersonID})
		})
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropDraft(d.ctx, d.heap, time.Now())) })
		d.read(func(tx app.Tx, _ plan.Site) {
			_, err := tx.Draft(d.ctx, d.heap)
			require.ErrorIs(d, err, plan.ErrNotFound)
		})
	}},
	{"what links to an entry is found by its links alone", func(d desk) {
		v := plan.PageVersion{ID: plan.NewID(), EntryID: d.heap, Version: 1, PersonID: d.ines, At: noon, Body: []byte{1}, Content: text("x"), Links: []content.FoundLink{
			{To: content.Scheme + d.home(), Text: "home"}, {To: content.Scheme + "nobody", Text: "lost"}, {To: "/grounds", Text: "address", Tile: true},
		}}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropDraft(d.ctx, d.heap, time.Now()))
			d.must(tx.SaveDraft(d.ctx, v, 0))
		})
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Contains(d, got(tx.PagesLinking(d.ctx, d.home()))(d), d.heap)
			require.Empty(d, got(tx.PagesLinking(d.ctx, "nobody"))(d))
			for _, h := range got(tx.DraftSummaries(d.ctx, slices.Collect(maps.Keys(got(tx.DraftStamps(d.ctx))(d)))))(d) {
				if h.EntryID == d.heap {
					require.Equal(d, v.Links, h.Links)
				}
			}
		})
	}},
	{"the stamp of a draft differs whenever it was saved or rendered, and of no other one", func(d desk) {
		v := plan.PageVersion{ID: plan.NewID(), EntryID: d.heap, Version: 1, PersonID: d.ines, At: noon, Content: text("x")}
		stamps := func() (out map[string]string) {
			d.read(func(tx app.Tx, _ plan.Site) { out = got(tx.DraftStamps(d.ctx))(d) })
			return out
		}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropDraft(d.ctx, d.heap, time.Now()))
			d.must(tx.SaveDraft(d.ctx, v, 0))
		})
		was := stamps()
		require.NotEmpty(d, was[v.ID])
		require.Equal(d, was, stamps())
		v.Version, v.Body = 2, []byte{1}
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.SaveDraft(d.ctx, v, 1)) })
		now := stamps()
		require.NotEqual(d, was[v.ID], now[v.ID])
		delete(was, v.ID)
		delete(now, v.ID)
		require.Equal(d, was, now)
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Len(d, got(tx.DraftSummaries(d.ctx, []string{v.ID}))(d), 1)
			require.Empty(d, got(tx.DraftSummaries(d.ctx, nil))(d))
		})
	}},
	{"texts that were kept are their writer's alone", func(d desk) {
		k := pages.KeptText{ID: plan.NewID(), EntryID: d.heap, PersonID: d.ines, Content: text("mine"), At: noon}
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.Keep(d.ctx, k)) })
		d.write(func(tx app.Tx, _ plan.Site) { _ = tx.DropKept(d.ctx, k.ID, d.marta) })
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Empty(d, got(tx.Kept(d.ctx, d.heap, d.marta))(d))
			require.Len(d, got(tx.Kept(d.ctx, d.heap, d.ines))(d), 1)
		})
	}},
	{"drafts of templates are saved one after the other, each person's own", func(d desk) {
		draft := func(person, key string, version int) error {
			return d.try(func(tx app.Tx) error {
				return tx.SaveTemplateDraft(d.ctx, plan.TemplateDraft{Key: key, PersonID: person, Page: text("v"), Base: "b", Version: version, At: noon})
			})
		}
		require.NoError(d, draft(d.ines, "topic", 1))
		require.ErrorIs(d, draft(d.ines, "topic", 1), plan.ErrStale)
		require.NoError(d, draft(d.ines, "topic", 2))
		require.ErrorIs(d, draft(d.ines, "topic", 4), plan.ErrStale)
		require.NoError(d, draft(d.marta, "topic", 1))
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Equal(d, 2, got(tx.TemplateDraft(d.ctx, d.ines, "topic"))(d).Version)
			require.Len(d, got(tx.TemplateDrafts(d.ctx))(d), 2)
		})
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropTemplateDraft(d.ctx, d.ines, "topic")) })
		d.read(func(tx app.Tx, _ plan.Site) {
			_, err := tx.TemplateDraft(d.ctx, d.ines, "topic")
			require.ErrorIs(d, err, plan.ErrNotFound)
			require.Len(d, got(tx.TemplateDrafts(d.ctx))(d), 1)
		})
	}},
	{"what a template was in every edition is told, and what is planned is not", func(d desk) {
		d.read(func(tx app.Tx, _ plan.Site) {
			was := got(tx.ShapeVersions(d.ctx, shape.TemplateID("topic")))(d)
			require.Len(d, was, 1)
			require.Equal(d, []any{0, 0, "topic"}, []any{was[0].From, was[0].To, was[0].Template.Key})
			require.Empty(d, got(tx.ShapeVersions(d.ctx, shape.TemplateID("nothing")))(d))
			require.Equal(d, "topic", got(tx.Templates(d.ctx))(d)[0].Key)
		})
	}},
	{"a lock is given back only by its window and person", func(d desk) {
		l := workflow.Lock{Person: d.ines, Window: plan.NewID(), Taken: noon, Seen: noon}
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.PutLock(d.ctx, d.heap, l)) })
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropLock(d.ctx, d.heap, d.ines, plan.NewID())) })
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropLock(d.ctx, d.heap, d.marta, l.Window)) })
		d.read(func(tx app.Tx, _ plan.Site) {
			kept := got(tx.Lock(d.ctx, d.heap))(d)
			require.Equal(d, []string{l.Person, l.Window}, []string{kept.Person, kept.Window})
		})
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropLock(d.ctx, d.heap, d.ines, l.Window)) })
		d.read(func(tx app.Tx, _ plan.Site) {
			_, err := tx.Lock(d.ctx, d.heap)
			require.ErrorIs(d, err, plan.ErrNotFound)
		})
	}},
	{"an act is done once, undone in turn, and redone until another act", func(d desk) {
		add := func(key, label string) error {
			return d.try(func(tx app.Tx) error {
				version := got(tx.BumpPlan(d.ctx))(d)
				d.must(tx.DropUndone(d.ctx, d.ines))
				return tx.AddAct(d.ctx, plan.Act{Key: key, PersonID: d.ines, At: noon, Label: label, Version: version, Patches: []sitemap.Patch{{ID: d.heap, After: &sitemap.Entry{ID: d.heap, Title: label}}}})
			})
		}
		first, second := plan.NewID(), plan.NewID()
		require.NoError(d, add(first, "first"))
		require.NoError(d, add(second, "second"))
		require.ErrorIs(d, add(second, "again"), plan.ErrDone)
		d.write(func(tx app.Tx, _ plan.Site) {
			act := got(tx.NextUndo(d.ctx, d.ines))(d)
			require.Equal(d, "second", act.Label)
			require.Equal(d, "second", act.Patches[0].After.Title)
			d.must(tx.SetActState(d.ctx, act.ID, plan.ActUndone, got(tx.BumpPlan(d.ctx))(d)))
			require.Equal(d, "first", got(tx.NextUndo(d.ctx, d.ines))(d).Label)
			require.Equal(d, "second", got(tx.NextRedo(d.ctx, d.ines))(d).Label)
		})
		require.NoError(d, add(plan.NewID(), "third"))
		d.read(func(tx app.Tx, _ plan.Site) {
			_, err := tx.NextRedo(d.ctx, d.ines)
			require.ErrorIs(d, err, plan.ErrNotFound)
			require.Equal(d, "first", got(tx.ActByKey(d.ctx, first))(d).Label)
		})
	}},
	{"a choice is one person's, and goes when it is dropped", func(d desk) {
		k := change.Key{ID: d.heap, Aspect: change.Title}
		c := editions.Choice{Choice: change.Choice{Out: change.Set{k: true}, Seen: map[change.Key]change.State{k: {Mark: "m", By: d.ines, Title: "Ponds"}}}, Why: "because"}
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.PutChoice(d.ctx, d.ines, c)) })
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Equal(d, c, got(tx.Choice(d.ctx, d.ines))(d))
			require.True(d, got(tx.Choice(d.ctx, d.marta))(d).Never())
		})
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropChoice(d.ctx, d.ines)) })
		d.read(func(tx app.Tx, _ plan.Site) { require.True(d, got(tx.Choice(d.ctx, d.ines))(d).Never()) })
	}},
	{"a decision is the latest", func(d desk) {
		for _, to := range []redirect.Decision{{To: redirect.Target{Entry: d.home()}, Code: 301, Note: "home"}, {Code: redirect.Gone, Note: "gone"}} {
			d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.PutDecision(d.ctx, d.heap, to, d.marta)) })
			d.read(func(tx app.Tx, _ plan.Site) { require.Equal(d, to, got(tx.Decisions(d.ctx))(d)[d.heap]) })
		}
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.DropDecision(d.ctx, d.heap)) })
		d.read(func(tx app.Tx, _ plan.Site) { require.NotContains(d, got(tx.Decisions(d.ctx))(d), d.heap) })
	}},
	{"a file goes from one state to the next once", func(d desk) {
		id := plan.NewID()
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.PutImport(d.ctx, appsitemap.Import{ID: id, PersonID: d.ines, At: noon, FileName: "plan.csv", Data: []byte("x"), State: appsitemap.ImportReady, Seen: noon}))
		})
		var won []bool
		for range 2 {
			d.write(func(tx app.Tx, _ plan.Site) {
				won = append(won, got(tx.SetImport(d.ctx, id, appsitemap.ImportReady, appsitemap.ImportStep{State: appsitemap.ImportWriting, At: noon}))(d))
			})
		}
		require.Equal(d, []bool{true, false}, won)
	}},
	{"a job that waits is not enqueued twice", func(d desk) {
		for range 3 {
			d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.Enqueue(d.ctx, plan.Job{Kind: plan.JobReadFile, ID: "one"})) })
		}
		d.read(func(tx app.Tx, _ plan.Site) {
			jobs := got(tx.Jobs(d.ctx, 100))(d)
			require.Len(d, slices.DeleteFunc(jobs, func(j plan.KnownJob) bool { return j.Job.ID != "one" }), 1)
		})
	}},
	{"visits add up by day", func(d desk) {
		d.write(func(tx app.Tx, _ plan.Site) {
			for back := range 3 {
				d.must(tx.AddVisits(d.ctx, noon.AddDate(0, 0, -back), map[string]int{d.heap: 2}))
			}
			d.must(tx.AddVisits(d.ctx, noon, map[string]int{d.heap: 5}))
			require.Equal(d, map[string]int{d.heap: 9}, got(tx.Visits(d.ctx, noon.AddDate(0, 0, -1), noon))(d))
			require.Equal(d, map[string]int{d.heap: 4}, got(tx.Visits(d.ctx, noon.AddDate(0, 0, -5), noon.AddDate(0, 0, -1)))(d))
			require.Equal(d, map[string]bool{"fresh": true}, got(tx.NeverVisited(d.ctx, []string{d.heap, "fresh"}))(d))
		})
	}},
	{"the stamp of what is planned beside the plan differs whenever that does", func(d desk) {
		seen := map[string]bool{}
		stamp := func() {
			d.read(func(_ app.Tx, site plan.Site) {
				s := site.Work.Of(plan.Parts()...)
				require.False(d, seen[s])
				seen[s] = true
			})
		}
		stamp()
		v := plan.PageVersion{ID: plan.NewID(), EntryID: d.heap, Version: 1, PersonID: d.ines, At: noon, Body: []byte{1}, Content: text("x")}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.DropDraft(d.ctx, d.heap, time.Now()))
			d.must(tx.SaveDraft(d.ctx, v, 0))
		})
		stamp()
		v.Version = 2
		d.write(func(tx app.Tx, _ plan.Site) { d.must(tx.SaveDraft(d.ctx, v, 1)) })
		stamp()
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.PutDecision(d.ctx, d.heap, redirect.Decision{Code: 410}, d.marta))
		})
		stamp()
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.PutRelease(d.ctx, plan.ReleasedAddress{Address: "/x", Why: "w", PersonID: d.marta, At: noon}))
		})
		stamp()
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.SetLeftOut(d.ctx, []change.Key{{ID: d.heap, Aspect: change.Title}}))
		})
		stamp()
	}},
	{"texts of an edition are those that it showed", func(d desk) {
		d.read(func(tx app.Tx, s plan.Site) {
			then, now := got(tx.TextsAt(d.ctx, 2))(d), got(tx.TextsAt(d.ctx, s.Edition))(d)
			back := edition.RestoreTexts(then, now, nil)
			for _, id := range got(tx.ContentDiffers(d.ctx, 2, s.Edition))(d) {
				require.True(d, then[id] != now[id], id)
			}
			require.Equal(d, len(back.Entries()) > 0, !maps.Equal(then, now))
		})
	}},
	{"views are kept by name for each person", func(d desk) {
		view := appsitemap.SavedView{Name: "Mine", Query: "cols=owner"}
		d.write(func(tx app.Tx, _ plan.Site) {
			d.must(tx.PutView(d.ctx, d.ines, appsitemap.SavedView{Name: "Mine", Query: "cols=kind"}))
			d.must(tx.PutView(d.ctx, d.ines, view))
		})
		d.read(func(tx app.Tx, _ plan.Site) {
			require.Equal(d, []appsitemap.SavedView{view}, got(tx.Views(d.ctx, d.ines))(d))
			require.Empty(d, got(tx.Views(d.ctx, d.marta))(d))
		})
	}},
}

// TestTheContract runs each case on a database of its own, all at once.
func TestTheContract(t *testing.T) {
	for _, c := range contract {
		t.Run(c.what, func(t *testing.T) {
			t.Parallel()
			s, err := store.Open(kit.Pool(t, true))
			require.NoError(t, err)
			d := desk{T: t, Store: s, ctx: t.Context()}
			d.read(func(tx app.Tx, _ plan.Site) {
				d.marta, d.ines = got(tx.PersonByLogin(d.ctx, "marta"))(d).ID, got(tx.PersonByLogin(d.ctx, "ines"))(d).ID
				live := got(tx.Trees(d.ctx, nil, 0))(d).Live
				d.heap = live.Ref(live.PageAt("/grounds/compost")).ID
			})
			c.test(d)
		})
	}
}

func (d desk) must(err error) { require.NoError(d, err) }

// got takes what a call gave, which must not fail.
func got[V any](v V, err error) func(d desk) V {
	return func(d desk) V {
		require.NoError(d, err)
		return v
	}
}

func (d desk) read(f func(tx app.Tx, s plan.Site)) {
	require.NoError(d, d.Read(d.ctx, func(tx app.Tx, s plan.Site) error {
		f(tx, s)
		return nil
	}))
}

func (d desk) write(f func(tx app.Tx, s plan.Site)) {
	require.NoError(d, d.WriteUnlocked(d.ctx, func(tx app.Tx, s plan.Site) error {
		f(tx, s)
		return nil
	}))
}

func (d desk) try(f func(tx app.Tx) error) error {
	return d.WriteUnlocked(d.ctx, func(tx app.Tx, _ plan.Site) error { return f(tx) })
}

func (d desk) live(tx app.Tx, id string) sitemap.Entry {
	t := got(tx.Trees(d.ctx, nil, 0))(d).Live
	return t.At(t.Find(id))
}

func (d desk) home() (id string) {
	d.read(func(tx app.Tx, _ plan.Site) {
		t := got(tx.Trees(d.ctx, nil, 0))(d).Live
		id = t.Ref(t.Home()).ID
	})
	return id
}

func text(s string) content.Page {
	return content.Page{Fields: map[string]string{}, Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: s}}}}
}
