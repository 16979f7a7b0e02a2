package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
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
	n.Why, n.Note = choice.Why, choice.Note
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
	w, err := a.load(ctx, tx, s)
	if err != nil {
		return err
	}
	choice, err := tx.Choice(ctx, who.ID)
	if err != nil {
		return err
	}
	chosen, beneath := w.Pick(choice.Choice, who.ID)
	chosen = form.narrowed(w, who, chosen).Press(w.Trees.Next, w.All, chosen)
	return tx.PutChoice(ctx, who.ID, Choice{choice.Kept(w.All, w.Mark, form.Reviewed, chosen, beneath), strings.TrimSpace(form.Why), strings.TrimSpace(form.Note)})
}

// narrowed presses the boxes of all that a filter leaves, where everything was to be pressed.
func (f ChoiceForm) narrowed(w Work, who plan.Person, chosen change.Set) change.Boxes {
	boxes := f.Boxes
	if f.Filter == "" || boxes.Every == "" {
		return boxes
	}
	fits, _ := w.Fitting(who, chosen, f.Filter)
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

// checkUnchanged makes sure that nothing goes out that is not as it was when a person
// looked, and that nothing which they chose is missing.
func (n *NextEdition) checkUnchanged(looked change.Reviewed) error {
	if title, moved := n.Moved(looked); moved {
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
