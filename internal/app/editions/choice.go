package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ChoiceForm is what somebody ticks and unticks of the next edition, and why it
// is to go out.
type ChoiceForm struct {
	change.Boxes
	Reviewed change.Reviewed
	Why      string
	Note     string // what readers are told
	Filter   string // Every is only of what this filter leaves
}

// LookOwn computes the next edition as a person chose it. With a form it first
// keeps what the form says.
func (a *Editions) LookOwn(ctx context.Context, who plan.Person, form *ChoiceForm) (NextEdition, error) {
	if form != nil {
		if err := a.KeepChoice(ctx, who, *form); err != nil {
			return NextEdition{}, err
		}
	}
	var choice Choice
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		var err error
		choice, err = tx.Choice(ctx, who.ID)
		return err
	})
	if err != nil {
		return NextEdition{}, err
	}
	if !choice.Never() {
		return a.LookAhead(ctx, who, Select{Own: true})
	}
	all, err := a.Summary(ctx, who) // what anybody sees who never chose
	if err != nil {
		return NextEdition{}, err
	}
	n := *all.Next
	n.Why, n.Note, n.Own = choice.Why, choice.Note, n.holdsWorkOf(who)
	return n, nil
}

// DeselectErrors deselects what the checks find errors in, and what needs it, until the rest has none or the
// errors left are about no change. It gives how many changes it deselected.
func (a *Editions) DeselectErrors(ctx context.Context, who plan.Person) (deselected int, err error) {
	for range mostTries {
		n, err := a.LookOwn(ctx, who, nil)
		if err != nil {
			return deselected, err
		}
		faulty := change.Faulty(n.Chosen, n.Dependencies, faults(n.Findings))
		if len(faulty) == 0 {
			return deselected, nil
		}
		deselected += len(faulty)
		form := ChoiceForm{Reviewed: n.Reviewed(), Why: n.Why, Note: n.Note}
		form.Off = slices.Collect(maps.Keys(faulty))
		if err := a.KeepChoice(ctx, who, form); err != nil {
			return deselected, err
		}
	}
	return deselected, nil
}

// faults gives what errors are about: the entry, and the target of a link.
func faults(findings []check.Finding) (out [][2]string) {
	for _, f := range findings {
		if f.Severity == check.Error {
			out = append(out, [2]string{f.ID, f.To})
		}
	}
	return out
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
	kept, err := n.keptOut(ctx, tx)
	if err != nil {
		return err
	}
	chosen, beneath := choice.Pick(n.Trees.Next, n.All, n.state, who.ID, kept)
	chosen = form.narrowed(&n, who, chosen).Press(n.Trees.Next, n.All, chosen)
	return tx.PutChoice(ctx, who.ID, Choice{choice.Kept(n.All, n.state, form.Reviewed, chosen, beneath), strings.TrimSpace(form.Why), strings.TrimSpace(form.Note)})
}

// narrowed presses the boxes of all that a filter leaves, where everything was to be pressed.
func (f ChoiceForm) narrowed(n *NextEdition, who plan.Person, chosen change.Set) change.Boxes {
	boxes := f.Boxes
	if f.Filter == "" || boxes.Every == "" {
		return boxes
	}
	n.Chosen = chosen
	fits, _ := n.Fitting(who, f.Filter)
	for k := range fits {
		if boxes.Every == change.In {
			boxes.On = append(boxes.On, k)
		} else {
			boxes.Off = append(boxes.Off, k)
		}
	}
	boxes.Every = ""
	return boxes
}

// keptOut is what goes only where somebody ticks it: what a rollback took back, and what lacks
// the approval that is asked of it.
func (n *NextEdition) keptOut(ctx context.Context, tx Tx) (change.Set, error) {
	keys, err := tx.LeftOut(ctx)
	out := make(change.Set, len(keys))
	for _, k := range keys {
		out[k] = true
	}
	if n.Rules.None() {
		return out, err
	}
	for _, c := range n.All {
		if n.Waits(c) {
			out[c.Key] = true
		}
	}
	return out, err
}

// state tells how a planned change stands: it differs whenever somebody planned
// the entry, wrote its text or decided about its visitors since.
func (n *NextEdition) state(k change.Key) change.State {
	maker := n.Makers[k]
	text, written := n.drafted[k.ID]
	s := change.State{By: maker.PersonID, Title: n.Trees.Title(k.ID)}
	mark := append(make([]string, 0, 4), maker.PersonID, strconv.FormatInt(maker.At.UnixNano(), 10))
	if k.Aspect == change.Added && written {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
		if text.At.After(maker.At) {
			s.By = text.PersonID
		}
	}
	if k.Aspect == change.Content && written {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
	}
	if d, ok := n.Decisions[k.ID]; ok && n.Trees.Live.Find(k.ID) != sitemap.None {
		mark = append(mark, fmt.Sprint(d))
	}
	s.Mark = strings.Join(mark, " ")
	return s
}

// Reviewed is what somebody who sees this has before them.
func (n *NextEdition) Reviewed() change.Reviewed {
	return change.Review(n.All, n.state, n.ChangedSince)
}

// checkUnchanged makes sure that nothing goes out that is not as it was when a person
// looked, and that nothing which they chose is missing.
func (n *NextEdition) checkUnchanged(looked change.Reviewed) error {
	if title, moved := looked.Moved(n.All, n.state, n.Chosen, n.ChangedSince); moved {
		return &Moved{fmt.Sprintf("%q", title)}
	}
	return nil
}

// Moved says that what somebody chose to publish is not what they looked at.
type Moved struct{ What string }

func (e *Moved) Error() string {
	return e.What + " changed since you opened this page. Check it again, then publish"
}

// Choice is what a person picked for the next edition, and why it is to go out.
type Choice struct {
	change.Choice
	Why  string
	Note string // what readers are told
}
