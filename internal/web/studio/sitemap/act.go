package sitemap

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

// actForm is one act as the outline's script sends it.
type actForm struct {
	Key string `json:"key"`
	Known
	Do        string   `json:"do"`
	ID        string   `json:"id"`
	New       string   `json:"new"`
	IDs       []string `json:"ids"`
	Parent    string   `json:"parent"`
	After     string   `json:"after"`
	Last      bool     `json:"last"`
	Step      string   `json:"step"`
	Value     string   `json:"value"`
	Was       *string  `json:"was"`
	Field     string   `json:"field"`
	Confirmed bool     `json:"confirmed"`

	Values map[string]string `json:"values"`
}

// Known is what a window of the outline knows: the version of the plan, and the edition.
type Known struct {
	Seen    int64 `json:"seen"`
	Edition int   `json:"edition"`
}

// actAnswer tells the script what changed.
type actAnswer struct {
	Version int64               `json:"version"`
	Edition int                 `json:"edition"`
	Reload  bool                `json:"reload,omitempty"`  // too much changed to be told
	Refused map[string]string   `json:"refused,omitempty"` // of several acts: what could not be done, by key
	Select  string              `json:"select,omitempty"`
	Put     []part.RowView      `json:"put,omitempty"`
	Drop    []string            `json:"drop,omitempty"`
	Order   map[string][]string `json:"order,omitempty"`
	Say     string              `json:"say,omitempty"`
	Confirm string              `json:"confirm,omitempty"`
}

func (s *Screens) act(r *shell.Request) error {
	var f struct {
		actForm
		Acts []actForm `json:"acts"` // instead of one, several that add entries
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	if len(f.Acts) > 0 {
		return s.several(r, f.Acts)
	}
	res, err := s.App.Plan(r.Ctx(), r.Who, f.ask())
	if err != nil {
		return err
	}
	if res.Confirm != nil {
		html, err := s.Set.Bytes("outline", "confirm", newConfirm(f.actForm, res))
		if err != nil {
			return err
		}
		r.JSON(http.StatusOK, actAnswer{Version: res.Version, Select: res.ID, Confirm: string(html)})
		return nil
	}
	return s.answerAct(r, f.Known, res)
}

// mostActs is how many acts one request may bring.
const mostActs = 200

// several does acts one after another, each for itself, and answers once: what was
// refused is told by key.
func (s *Screens) several(r *shell.Request, acts []actForm) error {
	if len(acts) > mostActs {
		return plan.Refuse("", fmt.Sprintf("At most %d changes can be made at once.", mostActs))
	}
	all, refused := plan.PlanResult{}, map[string]string{}
	for _, f := range acts {
		if f.Do != "add" {
			refused[f.Key] = "This change has to be made on its own."
			continue
		}
		res, err := s.App.Plan(r.Ctx(), r.Who, f.ask())
		if err != nil {
			status, words := s.Word(err)
			if status >= http.StatusInternalServerError || r.Ctx().Err() != nil {
				return err // whoever sent them sends them again, under the same keys
			}
			refused[f.Key] = words
			continue
		}
		all.Patches = append(all.Patches, res.Patches...)
		all.ID, all.Label = res.ID, res.Label
	}
	if n := len(acts) - len(refused); n > 1 {
		all.Label = fmt.Sprintf("%d entries added", n)
	}
	a, err := s.caughtUp(r, acts[0].Known, len(acts)-len(refused), all)
	if err != nil {
		return err
	}
	a.Refused = refused
	r.JSON(http.StatusOK, a)
	return nil
}

func (s *Screens) undo(r *shell.Request) error { return s.step(r, s.App.Undo) }

func (s *Screens) redo(r *shell.Request) error { return s.step(r, s.App.Redo) }

func (s *Screens) step(r *shell.Request, back func(context.Context, plan.Person) (plan.PlanResult, error)) error {
	var w Known
	if r.Request.ContentLength != 0 {
		if err := r.Json(&w); err != nil {
			return err
		}
	}
	res, err := back(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	return s.answerAct(r, w, res)
}

// answerAct sends the rows that an act changed: the entries themselves, what
// is below them, and their neighbours, whose marks may change.
func (s *Screens) answerAct(r *shell.Request, w Known, res plan.PlanResult) error {
	a, err := s.caughtUp(r, w, 1, res)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, a)
	return nil
}

// caughtUp answers so many acts of a window. Where others acted since the window looked, the answer has that, too, so that it
// brings the window up to the version that it tells.
func (s *Screens) caughtUp(r *shell.Request, w Known, own int, res plan.PlanResult) (actAnswer, error) {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return actAnswer{}, err
	}
	if w == (Known{}) || o.Site.PlanVersion == w.Seen+int64(own) && o.Site.Edition == w.Edition {
		return newActAnswer(o, res), nil
	}
	since, err := s.App.Since(r.Ctx(), r.Who, w.Edition, w.Seen)
	if err != nil {
		return actAnswer{}, err
	}
	res.Patches = append(since.Patches, res.Patches...)
	a := newActAnswer(o, res)
	a.Reload = since.All
	if len(since.Others) > 0 {
		a.Say = strings.TrimSpace(a.Say + " " + strings.Join(since.Others, ". ") + ".")
	}
	return a, nil
}

func newActAnswer(o plan.Outline, res plan.PlanResult) actAnswer {
	m := part.NewRowMaker(o)
	t := o.Trees.Next
	a := actAnswer{Version: o.Site.PlanVersion, Edition: o.Site.Edition, Select: res.ID, Order: map[string][]string{}}
	if res.Label != "" {
		a.Say = part.UpperFirst(res.Label) + "."
	}
	put := map[int]bool{}
	for _, p := range res.Patches {
		i := t.Find(p.ID)
		if i == sitemap.None {
			a.Drop = append(a.Drop, p.ID)
		}
		for ; i != sitemap.None && i < t.End(t.Find(p.ID)); i++ {
			put[i] = true
		}
		for _, e := range []*sitemap.Entry{p.Before, p.After} {
			if e != nil {
				a.reorder(t, e.Parent, put)
			}
		}
	}
	for i := range t.Len() {
		if put[i] {
			a.Put = append(a.Put, m.Row(i))
		}
	}
	return a
}

func (f actForm) ask() appsitemap.PlanAct {
	return appsitemap.PlanAct{
		Key: f.Key, Seen: f.Seen, Do: f.Do, ID: f.ID, New: f.New, IDs: f.IDs, Parent: f.Parent, After: f.After, Last: f.Last,
		Step: sitemap.Step(f.Step), Value: f.Value, Was: f.Was, Field: f.Field, Values: f.Values, Confirmed: f.Confirmed,
	}
}

func (a *actAnswer) reorder(t *sitemap.Tree, parent string, put map[int]bool) {
	if _, done := a.Order[parent]; done {
		return
	}
	p := t.Home()
	if parent != "" {
		if p = t.Find(parent); p == sitemap.None {
			return
		}
	}
	ids := []string{}
	for c := range t.Children(p) {
		ids = append(ids, t.Ref(c).ID)
		put[c] = true
	}
	a.Order[parent] = ids
}

// since tells a window what others did to the plan since it looked.
func (s *Screens) since(r *shell.Request) error {
	version, _ := strconv.ParseInt(r.Query("version"), 10, 64)
	edition, _ := strconv.Atoi(r.Query("edition"))
	since, err := s.App.Since(r.Ctx(), r.Who, edition, version)
	if err != nil {
		return err
	}
	switch {
	case since.Version <= version:
		r.Status(http.StatusNoContent)
		return nil
	case since.All:
		r.JSON(http.StatusOK, actAnswer{Version: since.Version, Reload: true})
		return nil
	}
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	a := newActAnswer(o, plan.PlanResult{Patches: since.Patches})
	a.Select, a.Say = "", strings.Join(since.Others, ". ")
	r.JSON(http.StatusOK, a)
	return nil
}
