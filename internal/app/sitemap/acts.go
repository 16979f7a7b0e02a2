package sitemap

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// acts is the table of acts on the planned sitemap: what a client calls each, what
// it takes of a PlanAct, and whether it can change addresses that colleagues use,
// so that its consequences are shown first.
var acts = map[string]struct {
	parse func(PlanAct) act
	asks  func(PlanAct) bool // nil: never
}{
	"add":      {parse: func(a PlanAct) act { return add{a.New, a.Value, sitemap.Spot{Parent: a.Parent, After: a.After}} }},
	"paste":    {parse: func(a PlanAct) act { return paste{a.Value, a.Parent} }},
	"retitle":  {parse: func(a PlanAct) act { return retitle{a.ID, a.Value} }},
	"fact":     {parse: func(a PlanAct) act { return fill{a.on(), a.Field, same(a.on(), a.Value), 0} }, asks: readdresses},
	"facts":    {parse: func(a PlanAct) act { return fill{slices.Sorted(maps.Keys(a.Values)), a.Field, a.Values, MaxFilled} }, asks: readdresses},
	"move":     {parse: func(a PlanAct) act { return move{a.on(), sitemap.Spot{Parent: a.Parent, After: a.After}, a.Last} }, asks: always},
	"step":     {parse: func(a PlanAct) act { return step{a.on(), a.Step} }, asks: always},
	"sort":     {parse: func(a PlanAct) act { return order{a.ID, false, a.Value == "date"} }},
	"sort-all": {parse: func(a PlanAct) act { return order{a.ID, true, a.Value == "date"} }},
	"refer":    {parse: func(a PlanAct) act { return refer{a.ID, a.Value} }, asks: always},
	"mend":     {parse: func(a PlanAct) act { return mend{a.on(), check.Rule(a.Field)} }, asks: always},
	"copy":     {parse: func(a PlanAct) act { return duplicate{a.ID} }},
	"remove":   {parse: func(a PlanAct) act { return remove{a.on()} }, asks: always},
	"withdraw": {parse: func(a PlanAct) act { return withdraw{a.on(), true} }, asks: always},
	"keep":     {parse: func(a PlanAct) act { return keepAddress{a.ID, a.Value} }},
	"return":   {parse: func(a PlanAct) act { return withdraw{a.on(), false} }},
}

func always(PlanAct) bool { return true }

// readdresses tells whether the field that an act fills makes addresses.
func readdresses(a PlanAct) bool {
	f, _ := sitemap.FieldOf(a.Field)
	return f.Counts == sitemap.WithPlace
}

// act is one act with the arguments that it takes.
type act interface {
	perform(t *sitemap.Tree, site siteFacts) (done, error)
}

// done is what an act did to a tree.
type done struct {
	next   *sitemap.Tree
	label  string // in words
	id     string // the entry that is to be selected now
	copyOf string // the branch of which id is a copy, whose texts are to follow
}

// siteFacts is what some acts ask of the site besides its tree.
type siteFacts struct {
	a   *Sitemap
	ctx context.Context //nolint:containedctx // lives as long as one act
	tx  Tx

	site plan.Site
}

// written tells when texts were written last.
func (s siteFacts) written() (map[string]time.Time, error) {
	summaries, err := s.a.Summaries(s.ctx, s.tx, s.site)
	return summaries.LastWritten(), err
}

// checks are the options under which this site is checked.
func (s siteFacts) checks() (sitemap.CheckOptions, error) { return s.a.CheckOptions(s.ctx, s.tx) }

// known is what the fields of an entry can name.
func (s siteFacts) known() (sitemap.Known, error) {
	templates, err := s.tx.Templates(s.ctx)
	if err != nil {
		return sitemap.Known{}, err
	}
	reader, err := plan.KnownReaders(s.ctx, s.tx)
	return sitemap.Known{
		Template: func(name string) (string, bool) {
			i := slices.IndexFunc(templates, func(t content.Template) bool {
				return t.Key == name || strings.EqualFold(t.Name, name)
			})
			if i < 0 {
				return "", false
			}
			return templates[i].Key, true
		},
		Readership: func(v string) (string, error) { return plan.ParseReadership(v, reader) },
	}, err
}

// asInvalid makes what the core refuses of a field something that a form shows.
func asInvalid(err error) error {
	if f := (*sitemap.FieldError)(nil); errors.As(err, &f) {
		return plan.Refuse(f.Field, f.Problem)
	}
	return err
}

// named words the entries that an act is on.
func named(t *sitemap.Tree, ids []string) string {
	if len(ids) > 1 {
		return fmt.Sprintf("%d entries", len(ids))
	}
	return quoted(t, ids[0])
}

func quoted(t *sitemap.Tree, id string) string { return strconv.Quote(plan.TitleOf(t, id)) }

// same gives every entry the same value.
func same(ids []string, v string) map[string]string {
	values := make(map[string]string, len(ids))
	for _, id := range ids {
		values[id] = v
	}
	return values
}

type add struct {
	id, title string
	spot      sitemap.Spot
}

func (a add) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	if a.id == "" {
		a.id = plan.NewID()
	}
	if _, bad := uuid.Parse(a.id); bad != nil || t.Find(a.id) != sitemap.None {
		return done{}, plan.Refuse("id", "This entry cannot be added under that id. Load the page again.")
	}
	e := sitemap.Entry{ID: a.id, Title: sitemap.CleanTitle(a.title), Kind: sitemap.Page, Template: t.InheritedTemplate(a.spot.Parent)}
	next, err := t.Add(e, a.spot)
	return done{next: next, id: a.id, label: fmt.Sprintf("added %q", e.Title)}, err
}

type paste struct{ list, parent string }

func (a paste) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	got, err := sheet.Paste(t, a.list, a.parent, plan.NewID)
	if err != nil {
		return done{}, err
	}
	n := got.Count[sheet.IsAdded]
	label := fmt.Sprintf("pasted %d %s", n, plan.Plural(n, "entry", "entries"))
	if n := got.Count[sheet.IsRefused]; n > 0 {
		label += fmt.Sprintf("; %d %s there already", n, plan.Plural(n, "was", "were"))
	}
	return done{next: got.Tree, id: a.parent, label: label}, nil
}

type retitle struct{ id, title string }

func (a retitle) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	a.title = sitemap.CleanTitle(a.title)
	next, err := t.Retitle(a.id, a.title)
	return done{next: next, id: a.id, label: fmt.Sprintf("renamed %s to %q", quoted(t, a.id), a.title)}, err
}

// fill gives entries values of one field.
type fill struct {
	on     []string
	field  string
	values map[string]string
	most   int // entries; 0: any number
}

// MaxFilled is the most entries that are each given a value of their own in one act.
const MaxFilled = 5_000

func (a fill) perform(t *sitemap.Tree, site siteFacts) (done, error) {
	if len(a.on) == 0 || a.most > 0 && len(a.on) > a.most {
		return done{}, plan.Refuse("values", fmt.Sprintf("At most %d entries can be changed at once.", MaxFilled))
	}
	known, err := site.known()
	if err != nil {
		return done{}, err
	}
	next, err := t.Fill(a.field, a.values, known)
	if err != nil {
		return done{}, err
	}
	f, _ := sitemap.FieldOf(a.field)
	d := done{next: next, label: fmt.Sprintf("changed the %s of %s", f.Words, named(t, a.on))}
	if len(a.on) == 1 {
		d.id = a.on[0]
	}
	return d, nil
}

type move struct {
	on   []string
	to   sitemap.Spot
	last bool
}

func (a move) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	if a.last {
		a.to = t.Last(a.to.Parent)
	}
	next, err := t.MoveAll(a.on, a.to)
	return done{next: next, id: a.on[0], label: "moved " + named(t, a.on)}, err
}

type step struct {
	on []string
	to sitemap.Step
}

func (a step) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, err := t.StepAll(a.on, a.to)
	return done{next: next, id: a.on[0], label: fmt.Sprintf("moved %s %s", named(t, a.on), a.to)}, err
}

// order sorts what is below an entry.
type order struct {
	below       string
	all, byDate bool
}

func (a order) perform(t *sitemap.Tree, site siteFacts) (done, error) {
	by, words := sitemap.ByTitle(), ""
	if a.byDate {
		written, err := site.written()
		if err != nil {
			return done{}, err
		}
		by, words = sitemap.ByDate(func(id string) time.Time { return written[id] }), " by date"
	}
	next, err := t.SortBelow(a.below, a.all, by)
	return done{next: next, id: a.below, label: fmt.Sprintf("sorted what is below %s%s", quoted(t, a.below), words)}, err
}

// refer makes an entry a reference to another one.
type refer struct{ id, to string }

func (a refer) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, err := t.Join(a.to, a.id, true)
	return done{next: next, id: a.id, label: fmt.Sprintf("made %s a reference to %s", quoted(t, a.id), quoted(t, a.to))}, err
}

// mend mends what a rule found.
type mend struct {
	on   []string
	rule check.Rule
}

func (a mend) perform(t *sitemap.Tree, site siteFacts) (done, error) {
	options, err := site.checks()
	if err != nil {
		return done{}, err
	}
	next, words, err := mendAll(t, a.rule, a.on, options)
	if len(a.on) > 1 {
		words = "mended"
	}
	return done{next: next, id: a.on[0], label: strings.TrimSpace(named(t, a.on) + " " + words)}, err
}

// duplicate copies a branch with its texts.
type duplicate struct{ id string }

func (a duplicate) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, id, err := t.Copy(a.id, plan.NewID)
	return done{next: next, id: id, copyOf: a.id, label: "copied " + quoted(t, a.id)}, err
}

type remove struct{ on []string }

func (a remove) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, err := t.RemoveAll(a.on)
	return done{next: next, id: a.on[0], label: "removed " + named(t, a.on)}, err
}

// withdraw takes pages out of what colleagues see, or lets them return.
type withdraw struct {
	on   []string
	away bool
}

func (a withdraw) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, err := t.Withdraw(a.on, a.away)
	verb := "brought back "
	if a.away {
		verb = "withdrew "
	}
	return done{next: next, id: a.on[0], label: verb + named(t, a.on)}, err
}

// keepAddress gives a page an address on purpose; an empty one gives that up.
type keepAddress struct{ id, address string }

func (a keepAddress) perform(t *sitemap.Tree, _ siteFacts) (done, error) {
	next, err := t.KeepAddress(a.id, a.address)
	if fixed := (*sitemap.FixedError)(nil); errors.As(err, &fixed) {
		return done{}, plan.Refuse("address", fixed.Problem)
	}
	label := "kept the address " + a.address + " of " + quoted(t, a.id)
	if a.address == "" {
		label = "gave up the fixed address of " + quoted(t, a.id)
	}
	return done{next: next, id: a.id, label: label}, err
}

// copyContent gives the pages of a copied branch the text of the pages they
// were copied from, as drafts: what is planned for those, else what is live.
// Links within the branch lead within the copy.
func (a *Sitemap) copyContent(ctx context.Context, tx Tx, who plan.Person, next *sitemap.Tree, branch, copied string) (plan.SideEffects, error) {
	twins := next.CopyPairs(branch, copied)
	latest, err := plan.LatestTexts(ctx, tx, slices.Collect(maps.Keys(twins)))
	if err != nil {
		return plan.SideEffects{}, err
	}
	w, err := a.Writer(ctx, tx, who, next)
	if err != nil {
		return plan.SideEffects{}, err
	}
	for entry, v := range latest {
		page := content.Relinked(v.Content, twins)
		if err := w.Set(ctx, twins[entry], &page); err != nil {
			return plan.SideEffects{}, fmt.Errorf("copy a page: %w", err)
		}
	}
	return w.SideEffects, nil
}
