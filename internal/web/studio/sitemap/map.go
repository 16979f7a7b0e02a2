package sitemap

import (
	"bytes"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files/drawings"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type mapView struct {
	shell.Frame
	planURLs
	DrawingURL, PictureURL string
	Empty                  bool
	Directions, Overlays   []part.Option
	At, Level, Flip        string
	OutlineURL             string
}

// planURLs are the addresses that scripts act on Next with.
type planURLs struct {
	RowsURL, ViewsURL, ChecksURL, ActURL, UndoURL, RedoURL, BesideURL, FindAt, PagesURL, SinceURL string
}

func newPlanURLs() planURLs {
	return planURLs{
		RowsURL: urls.Rows, ViewsURL: urls.Views, ChecksURL: urls.Checks, ActURL: urls.Act, UndoURL: urls.Undo, RedoURL: urls.Redo,
		BesideURL: urls.BesideOf, FindAt: urls.Find, PagesURL: urls.Pages, SinceURL: urls.Since,
	}
}

func (s *Screens) drawnMap(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Map")
	if err != nil {
		return err
	}
	ask := drawAsk(r)
	v := mapView{
		Frame: f, planURLs: newPlanURLs(), DrawingURL: urls.Drawing, PictureURL: urls.Picture, OutlineURL: urls.Outline,
		Empty: next.Trees.Next.Len() == 0, At: ask.At, Level: r.Query("level"), Flip: r.Query("flip"),
	}
	for _, d := range drawing.Directions() {
		v.Directions = append(v.Directions, part.Option{Value: string(d), Label: d.Label(), Chosen: d == ask.Direction})
	}
	for _, o := range drawing.Overlays() {
		v.Overlays = append(v.Overlays, part.Option{Value: string(o), Label: o.Label(), Chosen: o == ask.Overlay})
	}
	return s.Show(r, http.StatusOK, "map", v)
}

// drawAsk reads what is to be drawn from the query of a request. What is not
// known stands for the usual.
func drawAsk(r *shell.Request) drawing.Ask {
	ask := drawing.Ask{Direction: drawing.Across, Overlay: drawing.ByChange}
	if d := drawing.Direction(r.Query("direction")); slices.Contains(drawing.Directions(), d) {
		ask.Direction = d
	}
	if o := drawing.Overlay(r.Query("by")); slices.Contains(drawing.Overlays(), o) {
		ask.Overlay = o
	}
	ask.At, ask.Branch = r.Query("at"), r.Query("branch")
	ask.Level, _ = strconv.Atoi(r.Query("level"))
	ask.Flipped = map[string]bool{}
	for id := range strings.SplitSeq(r.Query("flip"), ".") {
		ask.Flipped[id] = true
	}
	return ask
}

// drawnNode is a node as the map's script keeps it.
type drawnNode struct {
	ID     string     `json:"id"`
	Up     int        `json:"p"` // index of the node above, or -1
	Title  string     `json:"t"`
	Lines  []string   `json:"l,omitempty"` // where the title is broken
	Kind   string     `json:"k,omitempty"` // other than page
	Box    [4]float64 `json:"b"`
	Edge   string     `json:"e,omitempty"`
	Tone   int        `json:"c,omitempty"`
	Tag    string     `json:"g,omitempty"`
	Hidden int        `json:"n,omitempty"`
	Open   bool       `json:"o,omitempty"`
	Level  int        `json:"v"`
	Way    []int      `json:"w,omitempty"` // nodes on the way of clicks to it
}

type drawnKey struct {
	Label string `json:"label"`
	Tone  int    `json:"tone"`
	N     int    `json:"n"`
}

type drawnTone struct {
	Fill   string `json:"fill"`
	Line   string `json:"line"`
	Dashed bool   `json:"dashed,omitempty"`
}

type drawnTree struct {
	Version int64       `json:"version"`
	Edition int         `json:"edition"`
	Level   int         `json:"level"`
	W       float64     `json:"w"`
	H       float64     `json:"h"`
	Nodes   []drawnNode `json:"nodes"`
	Legend  []drawnKey  `json:"legend"`
	Tones   []drawnTone `json:"tones"`
}

func (s *Screens) drawing(r *shell.Request) error {
	d, err := s.App.Draw(r.Ctx(), r.Who, drawAsk(r), drawings.TitleWidth, drawings.SmallWidth)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, newDrawnTree(d))
	return nil
}

func newDrawnTree(d appsitemap.Drawn) drawnTree {
	out := drawnTree{Version: d.Site.PlanVersion, Edition: d.Site.Edition, Level: d.Level, W: d.W, H: d.H, Nodes: make([]drawnNode, len(d.Nodes)), Legend: []drawnKey{}}
	for i, n := range d.Nodes {
		e, b := d.Tree.Ref(n.Entry), d.Boxes[i]
		v := drawnNode{
			ID: e.ID, Up: n.Parent, Title: e.Title, Box: [4]float64{round(b.X), round(b.Y), round(b.W), round(b.H)},
			Tone: int(d.Shades[i].Tone), Tag: d.Shades[i].Tag, Hidden: n.Hidden, Open: n.Open, Level: n.Level,
		}
		if len(n.Lines) > 1 {
			v.Lines = n.Lines
		}
		if d.Ways != nil {
			v.Way = d.Ways[i]
		}
		if e.Kind != sitemap.Page {
			v.Kind = string(e.Kind)
		}
		if line, ok := d.Edge(i); ok {
			v.Edge = drawings.EdgePath(line, 0, 0)
		}
		out.Nodes[i] = v
	}
	for _, k := range d.Legend {
		out.Legend = append(out.Legend, drawnKey{k.Label, int(k.Tone), k.N})
	}
	for _, c := range drawings.Tones {
		out.Tones = append(out.Tones, drawnTone{c.Fill, c.Line, c.Dashed})
	}
	return out
}

func round(v float64) float64 { return float64(int(v*10+0.5)) / 10 }

// picture gives the map or a branch of it as a file.
func (s *Screens) picture(r *shell.Request) error {
	format := r.Query("format")
	kind, ok := drawings.PictureFormats[format]
	if !ok {
		return plan.ErrNotFound
	}
	ask := drawAsk(r)
	ask.At = ""
	if r.Query("levels") == "all" {
		ask.Level, ask.Flipped = 1<<20, nil
	}
	d, err := s.App.Draw(r.Ctx(), r.Who, ask, drawings.TitleWidth, drawings.SmallWidth)
	if err != nil {
		return err
	}
	p := drawings.Picture{
		Drawing: d.Drawing, Title: d.Site.Name(),
		Line: fmt.Sprintf("Sitemap as planned for edition %d, %s; shown by %s", d.Site.Edition+1, s.App.Today(), d.Overlay),
	}
	name := "map"
	if i := d.Tree.Find(ask.Branch); i != sitemap.None {
		p.Title = strings.Join(d.Tree.Path(i), " › ")
		name += "-" + strings.Trim(strings.ReplaceAll(d.Tree.Claim(i), "/", "-"), "-")
	}
	var b bytes.Buffer
	if err := drawings.WritePicture(format, &b, p, r.Query("paper")); err != nil {
		return err
	}
	r.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": address.Slug(name) + "." + format}))
	r.Data(http.StatusOK, kind, b.Bytes())
	return nil
}
