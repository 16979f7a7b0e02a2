package plan

import (
	"context"
	"fmt"
	"slices"
	"time"

	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Authored is what somebody made of one thing, and what is planned of it then.
type Authored struct {
	ID      string          `json:"id"`
	Aspects []change.Aspect `json:"aspects"`
	Planned []change.Aspect `json:"planned"` // of others nobody is the author any more; nil: this is about the text alone
	Gone    bool            `json:"gone"`    // it is removed, so that nothing of it stands anywhere any more
}

// Fallen is a change that was on its way out, and is a draft again because somebody edited it.
type Fallen struct {
	change.Key
	State            workflow.State // where it stood
	Person, By, From string         // who put it there, gave it its date, and sent it; empty: nobody
	Asked            string         // who was to review it
	GoAt             time.Time
}

// Author records who made what, in the transaction that saves it. What was in review, approved or
// scheduled of it becomes a draft, and its people are told. Every act and every saved text passes here.
func (a *Floor) Author(ctx context.Context, tx Tx, who Person, title func(id string) string, list []Authored) error {
	return a.authorAgain(ctx, tx, who, title, list, time.Time{})
}

// authorAgain is Author where an act of some time is undone or redone: whatever was discarded since, and is planned
// again, has its authors again.
func (a *Floor) authorAgain(ctx context.Context, tx Tx, who Person, title func(id string) string, list []Authored, since time.Time) error {
	if len(list) == 0 {
		return nil
	}
	fallen, err := tx.AddAuthors(ctx, Planned{PersonID: who.ID, At: a.Now()}, since, list)
	if err != nil {
		return fmt.Errorf("record the authors: %w", err)
	}
	return tx.Notify(ctx, a.fallenNotices(who, title, fallen))
}

// fallenWords say where a change stood.
var fallenWords = map[workflow.State]string{workflow.InReview: "in review", workflow.Ready: "approved", workflow.Scheduled: "scheduled"}

func (a *Floor) fallenNotices(who Person, title func(id string) string, fallen []Fallen) (out []Notice) {
	for _, f := range fallen {
		was := fallenWords[f.State]
		if f.State == workflow.Scheduled {
			was += " for " + f.GoAt.UTC().Format("2 January 2006, 15:04 UTC")
		}
		words := fmt.Sprintf("%s edited “%s”, which was %s. It is a draft again. Send it for review again when it is ready.", who.Name, title(f.ID), was)
		to := []string{f.Person, f.By, f.From, f.Asked}
		slices.Sort(to)
		for _, p := range slices.Compact(to) {
			if p != "" && p != who.ID {
				out = append(out, Notice{PersonID: p, Kind: NoticeReviewed, Subject: f.ID + " edited", At: a.Now(), Words: words})
			}
		}
	}
	return out
}

// titleIn names what stands in the first of some trees that has it: what an act removed is named as it was.
func titleIn(list ...Trees) func(id string) string {
	return func(id string) (title string) {
		for _, t := range list {
			if title = t.Title(id); title != edition.RemovedTitle {
				return title
			}
		}
		return title
	}
}

// authored gives what an act, or undoing one, made of each thing.
func authored(trees Trees, patches []sitemap.Patch, also SideEffects) (list []Authored) {
	entry := func(t *sitemap.Tree, id string) *sitemap.Entry {
		if i := t.Find(id); i != sitemap.None {
			return t.Ref(i)
		}
		return nil
	}
	at := map[string]int{}
	add := func(id string, aspects ...change.Aspect) {
		i, known := at[id]
		if !known {
			i = len(list)
			at[id] = i
			live, next := entry(trees.Live, id), entry(trees.Next, id)
			list = append(list, Authored{ID: id, Planned: append(change.Touched(live, next), change.Content), Gone: next == nil})
			if live == nil && next != nil {
				list[i].Planned = change.Aspects() // all of what is new goes with it
			}
		}
		list[i].Aspects = append(list[i].Aspects, aspects...)
	}
	for _, p := range patches {
		add(p.ID, change.Touched(p.Before, p.After)...)
	}
	for _, d := range also.Decisions {
		add(d.EntryID, change.Removed, change.Withdrawn, change.Placement)
	}
	for _, t := range also.Texts {
		add(t.EntryID, change.Content)
	}
	for _, p := range also.Shapes {
		list = append(list, Authored{ID: p.ID, Aspects: shapeAspects, Planned: shapeAspects})
	}
	for _, p := range also.Redirects {
		list = append(list, Authored{ID: p.ID, Aspects: []change.Aspect{change.Redirect}, Planned: []change.Aspect{change.Redirect}})
	}
	return list
}

var shapeAspects = []change.Aspect{change.Menu, change.Trail, change.Layout}
