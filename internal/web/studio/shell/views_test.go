package shell

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/screentest"
)

func TestAFrameDoesNotWaitForTheNextEdition(t *testing.T) {
	o := screentest.Overview(screentest.Next(t))
	o.Next = nil
	f := newFrame(plan.Person{Name: "Marta Oduya"}, o, "Menus & tiles", "Reach", "Reach")
	require.True(t, f.Shelf.Later)
	require.Equal(t, "/studio/shelf?stop=Menus+%26+tiles", f.Shelf.Again)
	for _, s := range f.Stops {
		require.Zero(t, s.Waiting)
	}
}

func TestTheShelfAndThePathSayWhatWaits(t *testing.T) {
	f := newFrame(plan.Person{Name: "Marta Oduya van Loon", Role: workflow.Manager}, screentest.Overview(screentest.Next(t)), "Pages", "Inventory", "Pages")
	require.Equal(t, "MO", f.Initials)
	require.Equal(t, 12, f.Shelf.Number)
	require.Equal(t, "5 changes: 1 new, 1 renamed address, 1 removed, 1 retitled, 1 edited; 1 more page gets a new address", f.Shelf.Words)
	require.Equal(t, []int{1, 1}, []int{f.Shelf.Errors, f.Shelf.Warnings})
	require.Len(t, f.Shelf.Lines, 5)
	for _, l := range f.Shelf.Lines {
		require.Equal(t, l.Mark == "edited", l.Left, l.Title)
		require.Equal(t, l.Mark == "removed", l.URL == "", "what is removed is nowhere to be shown")
	}
	waiting := map[string]int{}
	for _, s := range f.Stops {
		waiting[s.Name] = s.Waiting
		require.Equal(t, s.Name == "Pages", s.Here)
	}
	require.Equal(t, map[string]int{"Sitemap": 4, "Menus & tiles": 0, "Pages": 1, "Addresses": 1, "Edition": 1}, waiting)
	empty := newShelf(screentest.NextEdition(plan.Site{}, edition.Work{}))
	require.True(t, empty.Empty)
	require.Empty(t, empty.Lines)
}

func TestALongShelfSaysHowManyMore(t *testing.T) {
	n := screentest.Next(t)
	for i := range 1500 {
		n.All = append(n.All, change.Change{Key: change.Key{ID: fmt.Sprint("x", i), Aspect: change.Added}})
	}
	v := newShelf(n)
	require.Len(t, v.Lines, shelfLines)
	require.Equal(t, "1,445 more.", v.More)
	require.Contains(t, v.Words, "1,505 changes: 1,501 new")
}

func TestProblemsBecomeStatuses(t *testing.T) {
	s := &Shell{}
	for want, errs := range map[int][]error{
		403: {plan.ErrForbidden, editions.ErrOwnWork, fmt.Errorf("wrapped: %w", plan.ErrForbidden)},
		404: {plan.ErrNotFound},
		409: {&editions.Moved{What: "x"}, plan.ErrNothing, plan.ErrDone, sitemap.ErrNoEntry, &plan.EditConflict{Who: "Kofi", Label: "moved it"}, &editions.NotReady{}, &sitemap.ConflictError{Title: "Ponds"}, &redirect.TableError{From: "the row at /a", Problem: "leads back", Advice: "point it to a page"}},
		422: {plan.Refuse("", "no"), sitemap.ErrUnderSelf, sitemap.ErrLongTitle, sitemap.ErrSlug, sheet.ErrPastedTooMuch, &sheet.LongTitleError{Line: 3}, &sheet.Refused{Problem: "a", Advice: "b"}},
		401: {account.ErrSignIn, errSignedOut},
		429: {&account.TooSoon{Wait: 90}},
		500: {fmt.Errorf("disk")},
	} {
		for _, err := range errs {
			status, words := s.Word(err)
			require.Equal(t, want, status, "%v", err)
			if want != 500 {
				require.Regexp(t, `^["A-Z].*[.?!)]$`, words, "a sentence")
			}
		}
	}
}
