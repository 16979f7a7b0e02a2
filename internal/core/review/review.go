// Package review knows which changes need approval before they go out, tells the wording of a
// change by a stamp, and gathers changes into what people review: everything planned of one
// page, menu, trail, template or redirect.
//
// What is asked of a change follows from the branch in which its entry stands: the nearest entry
// above that says something, else what the site says. An entry that moves is under what both
// branches ask, the stricter one: nobody moves a page out of a branch to get around its reviewer.
package review

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Rules say where approval is needed.
type Rules struct {
	Site     workflow.ApprovalPolicy
	Branches map[string]workflow.ApprovalPolicy // by entry, for it and all below
}

// None tells whether approval is needed nowhere.
func (r Rules) None() bool {
	if r.Site != workflow.NoApproval {
		return false
	}
	for _, a := range r.Branches {
		if a != workflow.NoApproval {
			return false
		}
	}
	return true
}

// At gives what is asked of the entry at an index of a tree.
func (r Rules) At(t *sitemap.Tree, i int) workflow.ApprovalPolicy {
	for ; i != sitemap.None; i = t.Parent(i) {
		if a, says := r.Branches[t.Ref(i).ID]; says {
			return a
		}
	}
	return r.Site
}

// Of gives what is asked of a change. What is no entry is under what the site says.
func (r Rules) Of(live, next *sitemap.Tree, k change.Key) workflow.ApprovalPolicy {
	asks, is := workflow.NoApproval, false
	for _, t := range []*sitemap.Tree{live, next} {
		if i := t.Find(k.ID); i != sitemap.None {
			asks, is = stricter(asks, r.At(t, i)), true
		}
	}
	if !is {
		return r.Site
	}
	return asks
}

func stricter(a, b workflow.ApprovalPolicy) workflow.ApprovalPolicy {
	order := workflow.ApprovalPolicies()
	return order[max(slices.Index(order, a), slices.Index(order, b))]
}

// Authors are the people who made what is planned, by change. What has no aspect counts for all of a thing.
type Authors map[change.Key][]string

// Of gives who made a change. A new entry is made by all who made something of it.
func (a Authors) Of(k change.Key) (out []string) {
	aspects := []change.Aspect{k.Aspect, ""}
	switch k.Aspect {
	case change.Added:
		aspects = append(change.Aspects(), "")
	case change.Content:
		aspects = aspects[:1]
	case change.Withdrawn, change.Returned:
		aspects = []change.Aspect{change.Withdrawn, change.Returned, ""}
	}
	for _, aspect := range aspects {
		out = append(out, a[change.Key{ID: k.ID, Aspect: aspect}]...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Of is what a change is of, as it is planned, as far as the change does not say it.
type Of struct {
	Entry    *sitemap.Entry     // in Next; nil: it goes, or is no entry
	Decision *redirect.Decision // where the visitors of a page that goes are led
	Version  string             // tells texts, menus, trails, templates and redirects apart
}

// Stamp tells one wording of a change from another. A change says little of what comes with it:
// of a new entry only its address, of several lesser facts only the first. The stamp says all, so
// that nothing of it can be another after it was approved.
func Stamp(c change.Change, of Of) string {
	parts := []string{string(c.Aspect), c.Before, c.After, c.Because, of.Version}
	if e := of.Entry; e != nil {
		switch c.Aspect {
		case change.Added:
			whole := *e
			whole.Rank, whole.SlugHeld = "", false // its place among siblings is a matter of theirs, too
			parts = append(parts, fmt.Sprintf("%#v", whole))
		case change.Placement:
			parts = append(parts, e.Parent, e.Slug, e.Fixed, string(e.Kind), e.Target, e.Source)
		case change.Reordered:
			parts = append(parts, e.Rank)
		case change.Details:
			for _, f := range sitemap.Fields() {
				if slices.Contains(strings.Split(c.Because, ", "), f.Key) {
					parts = append(parts, f.Get(e))
				}
			}
		}
	}
	if of.Decision != nil {
		parts = append(parts, fmt.Sprintf("%#v", *of.Decision))
	}
	return hash(parts...)
}

func hash(parts ...string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return hex.EncodeToString(sum[:12])
}

// Item is what is planned of one thing, as far as it stands in one place.
type Item struct {
	ID      string
	Changes []change.Change
	State   workflow.State
	Review  string // the request by which it was sent
	Stamp   string // of all of them together
}

// Items gathers changes by what they are of, in the order in which these come first. Changes
// that follow from others by themselves are left out.
func Items(changes []change.Change, standing func(change.Change) (workflow.State, workflow.ApprovalState)) []Item {
	type place struct {
		id, review string
		state      workflow.State
	}
	at := map[place]int{}
	var out []Item
	stamps := map[int][]string{}
	for _, c := range changes {
		if c.Aspect == change.Readdressed {
			continue
		}
		state, s := standing(c)
		p := place{c.ID, "", state}
		if state != workflow.Draft {
			p.review = s.Review
		}
		i, met := at[p]
		if !met {
			i = len(out)
			at[p] = i
			out = append(out, Item{ID: c.ID, State: state, Review: p.review})
		}
		out[i].Changes = append(out[i].Changes, c)
		stamps[i] = append(stamps[i], string(c.Aspect)+s.Stamp)
	}
	for i := range out {
		slices.Sort(stamps[i])
		out[i].Stamp = hash(stamps[i]...)
	}
	return out
}

// Keys gives the keys of the changes.
func (i Item) Keys() []change.Key {
	out := make([]change.Key, len(i.Changes))
	for k, c := range i.Changes {
		out[k] = c.Key
	}
	return out
}
