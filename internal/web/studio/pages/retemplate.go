package pages

import (
	"errors"
	"net/http"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// retemplateView gives a page another template, and places what is kept aside.
type retemplateView struct {
	shell.Frame
	Heading, Self, Leave, Key, Mark, Problem string
	From, To, ToKey                          string
	Change                                   bool // to another template
	Choices                                  []part.Option
	Slots                                    []slotToPlaceView
	Told                                     []string
}

type slotToPlaceView struct {
	Key, Name, Blocks, Begins, Refused string
	Aside                              bool
	Into                               []part.Option
}

const dropBlocks = "(remove)"

func (s *Screens) retemplate(r *shell.Request) error {
	return s.showRetemplate(r, http.StatusOK, r.Query("to"), "")
}

func (s *Screens) showRetemplate(r *shell.Request, status int, to, problem string) error {
	id := r.Param("id")
	rv, err := s.App.RetemplateView(r.Ctx(), r.Who, id, to)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Template of a page")
	if err != nil {
		return err
	}
	return s.Show(r, status, "retemplate", newRetemplateView(f, rv, id, problem))
}

func newRetemplateView(f shell.Frame, rv pages.Retemplating, id, problem string) retemplateView {
	v := retemplateView{
		Frame: f, Heading: rv.Entry.Title, Self: urls.OfPage(id, "template"), Leave: urls.Page(id), Key: part.NewKey(), Mark: rv.Mark, Problem: problem,
		From: rv.From.Name, To: rv.To.Name, ToKey: rv.To.Key, Change: rv.From.Key != rv.To.Key,
	}
	for _, t := range rv.Templates {
		v.Choices = append(v.Choices, part.Option{Value: t.Key, Label: t.Name, Chosen: t.Key == rv.To.Key})
	}
	for _, slot := range rv.Slots {
		sv := slotToPlaceView{Key: slot.Key, Name: slot.Name, Blocks: part.Count(slot.Blocks, "block", "blocks"), Begins: slot.Begins, Aside: slot.Aside}
		if slot.Refused > 0 {
			sv.Refused = part.Count(slot.Refused, "block is of a kind", "blocks are of kinds") + " that this slot does not take; readers get them all the same, until somebody changes them."
		}
		for _, to := range rv.To.Slots() {
			sv.Into = append(sv.Into, part.Option{Value: to.Key, Label: to.Called(), Chosen: to.Key == slot.To})
		}
		sv.Into = append(sv.Into, part.Option{Value: "", Label: "keep aside", Chosen: slot.To == ""})
		if slot.Aside {
			sv.Into = append(sv.Into, part.Option{Value: dropBlocks, Label: "remove them"})
		}
		v.Slots = append(v.Slots, sv)
	}
	for _, label := range rv.Effect.Unshown {
		v.Told = append(v.Told, "The fact “"+label+"” is not shown any more; its value is kept.")
	}
	for _, text := range rv.Effect.Lacks {
		v.Told = append(v.Told, "With this template, "+text+".")
	}
	return v
}

func (s *Screens) doRetemplate(r *shell.Request) error {
	id := r.Param("id")
	ask := pages.RetemplateAsk{Key: r.PostForm("key"), Entry: id, To: r.PostForm("to"), Mark: r.PostForm("mark"), Slots: content.Mapping{}}
	slots, into := r.PostFormArray("slot"), r.PostFormArray("into")
	for i := range min(len(slots), len(into)) {
		if into[i] == dropBlocks {
			ask.Drop = append(ask.Drop, slots[i])
		} else {
			ask.Slots[slots[i]] = into[i]
		}
	}
	_, err := s.App.Retemplate(r.Ctx(), r.Who, ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.showRetemplate(r, http.StatusUnprocessableEntity, ask.To, invalid.Error())
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Page(id))
	return nil
}
