package editions

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ShownLink is an address by which somebody without an account sees what is planned, until a
// time. Only the hash of its secret is kept.
type ShownLink struct {
	ID, Of, As, PersonID string
	At, Ends             time.Time
	Remarks              int
	Readers              []readership.Reader // who was to see it and who shared it, as they were then
}

const (
	longestLink   = 90 * 24 * time.Hour
	linkRemarks   = 200 // comments that come over one link
	linkInHour    = 20  // within an hour
	longestCaller = 80  // characters of the name of who remarks
)

// ShareState makes a link to what is planned, and gives its secret, which is told once.
func (a *Editions) ShareState(ctx context.Context, who plan.Person, l ShownLink) (secret string, err error) {
	secret = strings.ToLower(rand.Text())
	l.ID, l.PersonID, l.At = plan.NewID(), who.ID, a.Now()
	switch {
	case l.Of != ShowNext && l.Of != ShowChosen:
		return "", plan.Refuse("of", "Choose what to share: everything planned, or your selection.")
	case !l.Ends.After(l.At):
		return "", plan.Refuse("ends", "Choose today or a later date.")
	case l.Ends.Sub(l.At) > longestLink:
		return "", plan.Refuse("ends", "Choose a day within the next 90 days.")
	}
	return secret, a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		r, err := plan.ReaderCalled(ctx, tx, l.As)
		if err != nil {
			return plan.Refuse("as", "Choose which reader's view to share.")
		}
		if r.All() && !s.Rights().May(who.Role, workflow.Govern) {
			return plan.Refuse("as", "Only a site manager can share the view of a site manager.")
		}
		l.Readers = []readership.Reader{r, who.Reader()}
		return tx.PutShownLink(ctx, l, hashOf(secret))
	})
}

func hashOf(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}

// ShownLinks lists the links that still lead somewhere, with the people.
func (a *Editions) ShownLinks(ctx context.Context, who plan.Person) (list []ShownLink, people map[string]plan.Person, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		if list, err = tx.ShownLinks(ctx, a.Now()); err != nil {
			return err
		}
		people, err = plan.PeopleByID(ctx, tx)
		return err
	})
	return list, people, err
}

// EndLink makes a link lead nowhere: one's own, or any for a site manager.
func (a *Editions) EndLink(ctx context.Context, who plan.Person, id string) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		list, err := tx.ShownLinks(ctx, a.Now())
		if err != nil {
			return err
		}
		i := slices.IndexFunc(list, func(l ShownLink) bool { return l.ID == id })
		if i < 0 {
			return plan.ErrNotFound
		}
		if list[i].PersonID != who.ID && !s.Rights().May(who.Role, workflow.Govern) {
			return plan.ErrForbidden
		}
		return tx.EndShownLink(ctx, id)
	})
}

// OpenLink gives what a link shows; ErrNotFound where its secret is none or its time is past, or
// whoever made it may not plan any more.
func (a *Editions) OpenLink(ctx context.Context, secret string) (l ShownLink, st plan.SiteState, err error) {
	var who plan.Person
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		l, who, err = a.openLink(ctx, tx, s, secret)
		return err
	})
	if err == nil {
		st, err = a.StateOf(ctx, who, l.Of)
	}
	if err == nil { // a readership that is widened counts once it is live
		st.Only, st.Narrow = append(slices.Clone(l.Readers), who.Reader()), readership.Since(st.Tree, st.Live)
	}
	return l, st, err
}

// LinkShows tells whether a draft that a link shows holds a file.
func (a *Editions) LinkShows(ctx context.Context, st plan.SiteState, file string, reads func(entry string) bool) (shows bool, err error) {
	err = a.Store.Read(ctx, func(tx Tx, _ plan.Site) error {
		on, err := tx.FilesOn(ctx, 0)
		shows = slices.ContainsFunc(on[file], func(entry string) bool { return st.Drafts(entry) && reads(entry) })
		return err
	})
	return shows, err
}

func (a *Editions) openLink(ctx context.Context, tx Tx, s plan.Site, secret string) (l ShownLink, who plan.Person, err error) {
	if l, err = tx.ShownLink(ctx, hashOf(secret)); err != nil {
		return l, who, err
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return l, who, err
	}
	who = people[l.PersonID]
	if !a.Now().Before(l.Ends) || plan.MayPlan(s, who) != nil {
		return l, who, plan.ErrNotFound
	}
	return l, who, nil
}

// OutsideRemark takes what somebody without an account says of a page that a link shows. Who
// made the link is told; where the link shows something of the page that is planned, it stands at its review, too.
func (a *Editions) OutsideRemark(ctx context.Context, secret, entry, name, words string) error {
	name, words = strings.TrimSpace(name), strings.TrimSpace(words)
	switch {
	case name == "" || len([]rune(name)) > longestCaller:
		return plan.Refuse("name", "Enter your name so that we know who the comment is from.")
	case words == "" || len([]rune(words)) > longestMessage:
		return plan.Refuse("words", fmt.Sprintf("Enter a comment of up to %d characters.", longestMessage))
	}
	full := plan.Refuse("words", "This link takes no more comments for now. Try again in an hour, or write to the person who sent it to you.")
	link, st, err := a.OpenLink(ctx, secret)
	if err != nil {
		return err
	}
	if link.Remarks >= linkRemarks {
		return full
	}
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		l, who, err := a.openLink(ctx, tx, s, secret)
		if err != nil {
			return err
		}
		if taken, err := tx.CountRemark(ctx, l.ID, a.Now(), linkRemarks, linkInHour); err != nil {
			return err
		} else if !taken {
			return full
		}
		r, err := plan.ReaderCalled(ctx, tx, l.As)
		if err != nil {
			return err
		}
		title := "the planned site"
		if st.Visible(r).Find(entry) == sitemap.None {
			entry = "" // a page that the link does not show
		} else {
			title = fmt.Sprintf("“%s”", st.Tree.Ref(st.Tree.Find(entry)).Title)
		}
		known, err := tx.Remarks(ctx, entry)
		if err != nil {
			return err
		}
		if st.Planned && st.Differs(entry) && len(known) < MostRemarks {
			if err := tx.PutRemark(ctx, entry, Remark{Name: name, Words: words, At: a.Now()}); err != nil {
				return err
			}
		}
		return tx.Notify(ctx, []plan.Notice{{
			PersonID: who.ID, Kind: plan.NoticeReviewed, Subject: entry + " link " + l.ID, At: a.Now(), Adds: true,
			Words: fmt.Sprintf("%s, by a link that you shared, commented on %s: “%s”", name, title, words),
		}})
	})
}
