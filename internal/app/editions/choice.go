package editions

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Looked is what somebody had before them when they chose: a number for the
// state of each planned change. It travels in their form.
type Looked map[uint64]bool

// Text writes it for a form, ParseLooked reads it.
func (l Looked) Text() string {
	numbers := make([]uint64, 0, len(l))
	for n := range l {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	b := make([]byte, 0, 8*len(numbers))
	for _, n := range numbers {
		b = binary.BigEndian.AppendUint64(b, n)
	}
	return base64.RawURLEncoding.EncodeToString(b)
}

// ParseLooked reads what Text wrote; what it does not understand was not seen.
func ParseLooked(s string) Looked {
	b, _ := base64.RawURLEncoding.DecodeString(s)
	l := Looked{}
	for ; len(b) >= 8; b = b[8:] {
		l[binary.BigEndian.Uint64(b)] = true
	}
	return l
}

func lookedAt(k change.Key, s change.State) uint64 {
	sum := sha256.Sum256([]byte(strings.Join([]string{k.ID, string(k.Aspect), s.Mark}, "\x00")))
	return binary.BigEndian.Uint64(sum[:])
}

// ChoiceForm is what somebody ticks and unticks of the next edition, and why it
// is to go out.
type ChoiceForm struct {
	Looked  Looked
	On, Off []change.Key // boxes that were pressed
	Listed  []change.Key // changes that had a box
	Rest    string       // all that had no box, and is not new below what had: "in", "out" or as it is
	Every   string       // all of it: "in", "out" or as it is
	Why     string
}

// LookOwn computes the next edition as a person chose it. With a form it first
// keeps what the form says.
func (a *Editions) LookOwn(ctx context.Context, who plan.Person, form *ChoiceForm) (NextEdition, error) {
	if form != nil {
		if err := a.KeepChoice(ctx, who, *form); err != nil {
			return NextEdition{}, err
		}
	}
	return a.LookAhead(ctx, who, Select{Own: true})
}

// KeepChoice keeps what somebody chose of the next edition.
func (a *Editions) KeepChoice(ctx context.Context, who plan.Person, form ChoiceForm) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		return a.keepChoice(ctx, tx, s, who, form)
	})
}

// keepChoice keeps what a form says, over what was chosen before.
func (a *Editions) keepChoice(ctx context.Context, tx Tx, s plan.Site, who plan.Person, form ChoiceForm) error {
	n := NextEdition{Site: s}
	if err := a.loadPlanned(ctx, tx, &n); err != nil {
		return err
	}
	choice, err := tx.Choice(ctx, who.ID)
	if err != nil {
		return err
	}
	kept, err := keptOut(ctx, tx)
	if err != nil {
		return err
	}
	chosen, beneath := choice.Pick(n.Trees.Next, n.All, n.state, who.ID, kept)
	chosen = form.apply(n, chosen)
	now := Choice{Why: strings.TrimSpace(form.Why)}
	now.Out, now.Seen = change.Set{}, map[change.Key]change.State{}
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			continue
		}
		state := n.state(c.Key)
		if !form.Looked[lookedAt(c.Key, state)] {
			if was, known := choice.Seen[c.Key]; known { // it is another now, and still to be told
				now.Seen[c.Key] = was
			} else {
				continue
			}
		} else {
			now.Seen[c.Key] = state
		}
		if !chosen[c.Key] {
			now.Out[c.Key] = true
		}
	}
	for _, b := range beneath {
		if b.What == change.Went && !form.Looked[lookedAt(b.Key, notPlanned)] {
			now.Seen[b.Key] = choice.Seen[b.Key] // still to be told
		}
	}
	return tx.PutChoice(ctx, who.ID, now)
}

// notPlanned stands for the state of a change that is no longer planned.
var notPlanned = change.State{Mark: "gone"}

// apply presses the boxes of a form.
func (f ChoiceForm) apply(n NextEdition, chosen change.Set) change.Set {
	on, off := f.On, f.Off
	listed := map[change.Key]bool{}
	for _, k := range f.Listed {
		listed[k] = true
	}
	folded := change.Folded(n.Trees.Next, n.All)
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			continue
		}
		top := folded[c.ID]
		rest := !listed[c.Key] && (top == "" || !listed[change.Key{ID: top, Aspect: change.Added}])
		switch {
		case f.Every == "in", rest && f.Rest == "in":
			on = append(on, c.Key)
		case f.Every == "out", rest && f.Rest == "out":
			off = append(off, c.Key)
		}
	}
	return change.Toggle(n.Trees.Next, n.All, chosen, on, off)
}

// keptOut is what a rollback took back: it goes only where somebody ticks it.
func keptOut(ctx context.Context, tx Tx) (change.Set, error) {
	keys, err := tx.LeftOut(ctx)
	out := make(change.Set, len(keys))
	for _, k := range keys {
		out[k] = true
	}
	return out, err
}

// state tells how a planned change stands: it differs whenever somebody planned
// the entry, wrote its text or decided about its visitors since.
func (n *NextEdition) state(k change.Key) change.State {
	maker := n.Makers[k]
	text := n.drafted[k.ID]
	s := change.State{By: maker.PersonID, Title: n.Trees.Title(k.ID)}
	mark := []string{maker.PersonID, fmt.Sprint(maker.At.UnixNano())}
	if k.Aspect == change.Added && text.EntryID != "" {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
		if text.At.After(maker.At) {
			s.By = text.PersonID
		}
	}
	if k.Aspect == change.Content {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
	}
	if d, ok := n.Decisions[k.ID]; ok && n.Trees.Live.Find(k.ID) != sitemap.None {
		mark = append(mark, fmt.Sprint(d))
	}
	s.Mark = strings.Join(mark, " ")
	return s
}

// Looked is what somebody who sees this has before them.
func (n *NextEdition) Looked() Looked {
	l := make(Looked, len(n.All))
	for _, c := range n.All {
		if c.Aspect != change.Readdressed {
			l[lookedAt(c.Key, n.state(c.Key))] = true
		}
	}
	for _, b := range n.Beneath {
		if b.What == change.Went {
			l[lookedAt(b.Key, notPlanned)] = true
		}
	}
	return l
}

// asLooked makes sure that nothing goes out that is not as it was when a person
// looked, and that nothing which they chose is missing.
func (n *NextEdition) asLooked(looked Looked) error {
	for _, c := range n.All {
		if n.Chosen[c.Key] && !looked[lookedAt(c.Key, n.state(c.Key))] {
			return &Moved{fmt.Sprintf("%q", n.Trees.Title(c.ID))}
		}
	}
	for _, b := range n.Beneath {
		if b.What == change.Went {
			return &Moved{fmt.Sprintf("%q", b.Title)}
		}
	}
	return nil
}

// Moved says that what somebody chose to publish is not what they looked at.
type Moved struct{ What string }

func (e *Moved) Error() string {
	return e.What + " changed after you looked. Check it, then publish"
}

// Choice is what a person picked for the next edition, and why it is to go out.
type Choice struct {
	change.Choice
	Why string
}
