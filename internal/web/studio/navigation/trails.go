package navigation

import (
	"errors"
	"net/http"
	"strconv"

	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type trailsView struct {
	shell.Frame
	NewURL string
	List   []trailLine
	Gone   []trailLine // in Live, and taken away in Next
}

type trailLine struct {
	Title, About, URL, Steps, Readers, Changed string
	Way                                        []string
}

const newTrail = "new"

// trails lists the trails of Next.
func (s *Screens) trails(r *shell.Request) error {
	f, n, err := s.FrameFor(r, "Trails")
	if err != nil {
		return err
	}
	v := trailsView{Frame: f, NewURL: urls.Trail(newTrail)}
	changed := wayChanges(n.Trees)
	for _, tr := range n.Trees.Shapes.Next.Trails() {
		line := trailLine{Title: tr.Title, About: tr.About, URL: urls.Trail(tr.ID), Readers: part.OrElse(tr.Readership, "everybody"), Changed: changed[shape.TrailID(tr.ID)]}
		steps := tr.Steps(n.Trees.Next)
		line.Steps = part.Count(len(steps), "page", "pages")
		for _, i := range steps {
			line.Way = append(line.Way, n.Trees.Next.Ref(i).Name())
		}
		v.List = append(v.List, line)
	}
	for _, tr := range n.Trees.Shapes.Live.Trails() {
		if n.Trees.Shapes.Next.Find(shape.TrailID(tr.ID)) == nil {
			v.Gone = append(v.Gone, trailLine{Title: tr.Title})
		}
	}
	return s.Show(r, http.StatusOK, "trails", v)
}

// wayChanges words how menus and trails of Next differ from Live, by id.
func wayChanges(trees plan.Trees) map[string]string {
	out := map[string]string{}
	for _, c := range shape.Diff(trees.Shapes.Live, trees.Shapes.Next) {
		out[c.ID] = part.UpperFirst(change.Words(c, trees.Live, trees.Next))
	}
	return out
}

type trailView struct {
	shell.Frame
	Self, FindAt, ListURL    string
	ID, Key                  string
	Version                  int64
	Title, About, Readership string
	Pages                    []stepView
	Readers                  []part.Option // whom its readership can name
	Changed, Error, Field    string
	Loss                     string // what readers lose, where it waits to be confirmed
	Theirs, Mine             string // as readers get it, where somebody else changed it meanwhile
	New                      bool
}

type stepView struct{ ID, Title, Address, Why string }

// trail shows one trail.
func (s *Screens) trail(r *shell.Request) error {
	f, n, err := s.FrameFor(r, "Trail")
	if err != nil {
		return err
	}
	tr := shape.Trail{}
	if id := r.Param("id"); id != newTrail {
		w := n.Trees.Shapes.Next.Find(shape.TrailID(id))
		if w == nil {
			return plan.ErrNotFound
		}
		tr = *w.Trail
	}
	return s.showTrail(r, http.StatusOK, f, n, tr, "", nil)
}

func (s *Screens) showTrail(r *shell.Request, status int, f shell.Frame, n editions.Overview, tr shape.Trail, loss string, problem error) error {
	id := r.Param("id")
	v := trailView{
		Frame: f, Self: urls.Trail(id), FindAt: urls.MenuFind, ListURL: urls.Trails, ID: id, Key: part.NewKey(), Version: n.Site.PlanVersion,
		Title: tr.Title, About: tr.About, Readership: tr.Readership, New: id == newTrail, Loss: loss, Changed: wayChanges(n.Trees)[shape.TrailID(id)],
	}
	if problem != nil {
		_, v.Error = s.Word(problem)
		if invalid := (*plan.Invalid)(nil); errors.As(problem, &invalid) {
			v.Field = invalid.Field
		}
		if errors.As(problem, new(*plan.EditConflict)) {
			key := shape.TrailID(id)
			v.Theirs = shape.Written(n.Trees.Shapes.Next, n.Trees.Next, key)
			v.Mine = shape.Written(shape.Set{key: shape.Item{Trail: &tr}}, n.Trees.Next, key)
		}
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v.Readers = part.ReaderOptions(people)
	t := n.Trees.Next
	for _, p := range tr.Pages {
		step := stepView{ID: p, Title: n.Trees.Title(p)}
		switch i := t.Find(p); {
		case i == sitemap.None:
			step.Why = "not there any more; readers do not get this step"
		case t.Served(i) == "":
			step.Why = "withdrawn or no page; readers do not get this step"
		default:
			step.Address = address.Written(t.Served(i))
		}
		v.Pages = append(v.Pages, step)
	}
	return s.Show(r, status, "trail", v)
}

// saveTrail makes, changes or takes away a trail.
func (s *Screens) saveTrail(r *shell.Request) error {
	id := r.Param("id")
	if id == newTrail {
		id = ""
	}
	seen, _ := strconv.ParseInt(r.PostForm("version"), 10, 64)
	tr := shape.Trail{Title: r.PostForm("title"), About: r.PostForm("about"), Readership: r.PostForm("readership"), Pages: r.PostFormArray("page")}
	remove := r.PostForm("do") == "remove"
	res, err := s.App.PlanTrail(r.Ctx(), r.Who, appnavigation.TrailAct{Key: r.PostForm("key"), ID: id, Trail: tr, Remove: remove, Seen: seen, Confirmed: r.PostForm("confirmed") != ""})
	loss := res.Loss != nil
	if loss || errors.As(err, new(*plan.Invalid)) || errors.As(err, new(*plan.EditConflict)) {
		f, n, err2 := s.FrameFor(r, "Trail")
		if err2 != nil {
			return err2
		}
		if loss {
			return s.showTrail(r, http.StatusOK, f, n, tr, part.LossWords(*res.Loss), nil)
		}
		status, _ := s.Word(err)
		return s.showTrail(r, status, f, n, tr, "", err)
	}
	if err != nil {
		return err
	}
	to := urls.Trails
	if !remove && res.ID != "" {
		to = urls.Trail(res.ID)
	}
	r.Redirect(http.StatusSeeOther, to)
	return nil
}
