package navigation

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/findability"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ErrEnded says that a study takes no more answers.
var ErrEnded = errors.New("this study has ended; thank you")

const (
	maxTasks    = 20
	maxQuestion = 200
	maxOpened   = 200
)

// StudyAsk is a study to begin.
type StudyAsk struct {
	Title string
	Live  bool // the hierarchy of Live, not Next
	Ends  time.Time
	Tasks []StudyTask
}

// BeginStudy puts tasks and the hierarchy as it is now under a secret address.
// What not everybody may read is left out.
func (a *Navigation) BeginStudy(ctx context.Context, who plan.Person, ask StudyAsk) (Study, error) {
	ask.Title = strings.Join(strings.Fields(ask.Title), " ")
	switch {
	case ask.Title == "" || len([]rune(ask.Title)) > maxQuestion:
		return Study{}, plan.Refuse("title", fmt.Sprintf("Give it a title of at most %d characters.", maxQuestion))
	case ask.Ends.Before(a.Now().AddDate(0, 0, -1)):
		return Study{}, plan.Refuse("ends", "The last day is in the past.")
	case len(ask.Tasks) == 0 || len(ask.Tasks) > maxTasks:
		return Study{}, plan.Refuse("tasks", fmt.Sprintf("Add 1 to %d tasks.", maxTasks))
	}
	var st Study
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		t := trees.Next
		set := trees.Shapes.Next
		if st.Source = "Next"; ask.Live {
			t, set, st.Source = trees.Live, trees.Shapes.Live, fmt.Sprintf("edition %d", s.Edition)
		}
		st.Nodes = bareHierarchy(t, set.Readerships())
		h := findability.New(st.Nodes)
		for _, task := range ask.Tasks {
			if task.Question = strings.Join(strings.Fields(task.Question), " "); task.Question == "" || len([]rune(task.Question)) > maxQuestion {
				return plan.Refuse("tasks", fmt.Sprintf("A task is a question of at most %d characters.", maxQuestion))
			}
			if len(task.Right) == 0 || slices.ContainsFunc(task.Right, func(id string) bool { return !h.Has(id) }) {
				return plan.Refuse("tasks", fmt.Sprintf("Choose the right page for %q. It must be listed and open to everybody.", task.Question))
			}
			st.Tasks = append(st.Tasks, task)
		}
		st.ID, st.Title, st.Secret, st.Ends, st.PersonID, st.At = plan.NewID(), ask.Title, strings.ToLower(rand.Text()), ask.Ends, who.ID, a.Now()
		return tx.AddStudy(ctx, st)
	})
	return st, err
}

// bareHierarchy is what menus show to everybody, by titles alone.
func bareHierarchy(t *sitemap.Tree, trails map[string][]string) []findability.Node {
	t = readership.Visible(t, readership.Reader{}, trails)
	out := []findability.Node{}
	for i := 0; i < t.Len(); {
		e := t.Ref(i)
		switch {
		case e.Unlisted || e.Withdrawn:
			i = t.End(i)
			continue
		case i != t.Home() && (e.Kind.IsPage() || e.Kind == sitemap.Group):
			out = append(out, findability.Node{ID: e.ID, Parent: e.Parent, Title: e.Name()})
		}
		i++
	}
	return out
}

// Studies lists the studies of the site, the newest first.
func (a *Navigation) Studies(ctx context.Context, who plan.Person) (list []Study, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		list, err = tx.Studies(ctx)
		return err
	})
	return list, err
}

// StudyResult is how the tasks of a study went.
type StudyResult struct {
	Study
	Hierarchy *findability.Hierarchy
	Results   []findability.Result // of each task
}

// StudyResults sums a study up.
func (a *Navigation) StudyResults(ctx context.Context, who plan.Person, id string) (StudyResult, error) {
	var r StudyResult
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		var err error
		if r.Study, err = tx.Study(ctx, id); err != nil {
			return err
		}
		tries, err := tx.Tries(ctx, id)
		if err != nil {
			return err
		}
		r.Hierarchy = findability.New(r.Nodes)
		for i, task := range r.Tasks {
			r.Results = append(r.Results, r.Hierarchy.Sum(tries[i], task.Right))
		}
		return nil
	})
	return r, err
}

// DropStudy forgets a study and its answers.
func (a *Navigation) DropStudy(ctx context.Context, who plan.Person, id string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		return tx.DropStudy(ctx, id)
	})
}

// OpenStudy gives a study to whoever has its secret, until its last day is over.
func (a *Navigation) OpenStudy(ctx context.Context, secret string) (st Study, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if st, err = tx.StudyBySecret(ctx, secret); err != nil {
			return err
		}
		if !a.Now().Before(st.Ends.AddDate(0, 0, 1)) {
			return ErrEnded
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		st = withoutRestricted(st, trees)
		return nil
	})
	return st, err
}

// withoutRestricted leaves out of a study what is not for everybody any more, and
// tasks whose answer that was.
func withoutRestricted(st Study, trees plan.Trees) Study {
	hidden := map[string]bool{}
	for _, side := range []struct {
		tree *sitemap.Tree
		set  shape.Set
	}{{trees.Live, trees.Shapes.Live}, {trees.Next, trees.Shapes.Next}} {
		open := readership.Visible(side.tree, readership.Reader{}, side.set.Readerships())
		for _, n := range st.Nodes {
			hidden[n.ID] = hidden[n.ID] || side.tree.Find(n.ID) != sitemap.None && open.Find(n.ID) == sitemap.None
		}
	}
	st.Nodes = slices.DeleteFunc(slices.Clone(st.Nodes), func(n findability.Node) bool {
		hidden[n.ID] = hidden[n.ID] || hidden[n.Parent]
		return hidden[n.ID]
	})
	st.Tasks = slices.Clone(st.Tasks)
	for i := range st.Tasks {
		st.Tasks[i].Closed = !slices.ContainsFunc(st.Tasks[i].Right, func(id string) bool { return !hidden[id] })
	}
	return st
}

// MostVisitors is how many people can answer a study, and mostPerHost how many of
// them from one address in a day.
const (
	MostVisitors = 500
	mostPerHost  = 60
)

// ErrFull says that a study takes no more answers.
var ErrFull = errors.New("this study has enough answers")

// BeginVisit lets one more browser answer a study. Of where it is, only as much is
// kept, for a day, as to tell that many answers came from one place.
func (a *Navigation) BeginVisit(ctx context.Context, st Study, host string) (visitor string, err error) {
	visitor = plan.NewID()
	sum := sha256.Sum256([]byte(st.Secret + " " + host))
	host = hex.EncodeToString(sum[:8])
	return visitor, a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		all, here, err := tx.CountVisitors(ctx, st.ID, host, a.Now().AddDate(0, 0, -1))
		if err != nil {
			return err
		}
		if all >= MostVisitors || here >= mostPerHost {
			return ErrFull
		}
		return tx.AddVisitor(ctx, st.ID, visitor, host, a.Now())
	})
}

// Answered tells how many tasks a visitor of a study answered, and whether they
// are one.
func (a *Navigation) Answered(ctx context.Context, st Study, visitor string) (n int, known bool, err error) {
	if _, err := uuid.Parse(visitor); err != nil {
		return 0, false, nil
	}
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if known, err = tx.KnowsVisitor(ctx, st.ID, visitor); err != nil || !known {
			return err
		}
		n, err = tx.CountTries(ctx, st.ID, visitor)
		return err
	})
	return n, known, err
}

// AnswerTask keeps what a visitor did with a task.
func (a *Navigation) AnswerTask(ctx context.Context, secret string, task int, visitor string, try findability.Try) error {
	st, err := a.OpenStudy(ctx, secret)
	if err != nil {
		return err
	}
	h := findability.New(st.Nodes)
	known := func(id string) bool { return h.Has(id) }
	if _, err := uuid.Parse(visitor); err != nil || task < 0 || task >= len(st.Tasks) || len(try.Opened) > maxOpened ||
		try.Chosen != "" && !known(try.Chosen) || !allOf(try.Opened, known) {
		return plan.Refuse("", "This answer cannot be read. Start again from the link you were sent.")
	}
	try.Took = min(max(try.Took, 0), time.Hour)
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		known, err := tx.KnowsVisitor(ctx, st.ID, visitor)
		if err != nil {
			return err
		}
		if !known {
			return plan.Refuse("", "This answer cannot be read. Start again from the link you were sent.")
		}
		return tx.AddTry(ctx, st.ID, task, visitor, try, a.Now())
	})
}

func allOf(ids []string, fits func(string) bool) bool {
	return !slices.ContainsFunc(ids, func(id string) bool { return !fits(id) })
}

// Study is tasks put to colleagues: where would something be?
type Study struct {
	ID, Title string
	Nodes     []findability.Node
	Tasks     []StudyTask
	Source    string // which state of the sitemap it is of, in words
	Secret    string // in its address
	Ends      time.Time
	PersonID  string
	At        time.Time
	People    int // who answered
}

// StudyTask is one question, and the pages that answer it.
type StudyTask struct {
	Question string   `json:"question"`
	Right    []string `json:"right"`
	Closed   bool     `json:"-"` // none of the right pages is for everybody any more
}
