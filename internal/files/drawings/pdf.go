package drawings

import (
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// Sheets are the papers that a PDF can be split over, by name, lying, in mm.
var Sheets = map[string][2]float64{"A4": {297, 210}, "A3": {420, 297}}

// Measures of a page in mm.
const (
	pageMargin  = 10
	pageFoot    = 8  // for the line below the drawing
	pageOverlap = 15 // what neighbouring pages both show
	mmPerPx     = 25.4 / 96 * 0.8
	mostPages   = 300
)

// split says how a drawing is spread over pages.
type split struct {
	w, h       float64 // of what a page shows, mm
	scale      float64 // mm a px
	cols, rows int
}

// splitOver spreads w × h px over pages; beyond mostPages it is drawn smaller.
func splitOver(w, h float64, sheet [2]float64) split {
	s := split{w: sheet[0] - 2*pageMargin, h: sheet[1] - 2*pageMargin - pageFoot, scale: mmPerPx}
	if f := min(s.w/w, s.h/h); f < s.scale && f > s.scale*0.75 {
		s.scale = f // a little smaller, and one page holds it
	}
	parts := func(length, page float64) int {
		return max(1, int(math.Ceil((length-pageOverlap)/(page-pageOverlap)-1e-9)))
	}
	for {
		s.cols, s.rows = parts(w*s.scale, s.w), parts(h*s.scale, s.h)
		if s.cols*s.rows <= mostPages {
			return s
		}
		s.scale *= 0.9
	}
}

// writePDF spreads a picture over pages that overlap, with marks where the
// next page begins; pages on which nothing is drawn are left out.
func writePDF(w io.Writer, p Picture, sheet string) error {
	size, ok := Sheets[sheet]
	if !ok {
		sheet, size = "A4", Sheets["A4"]
	}
	width, height, top := p.size()
	s := splitOver(width, height, size)
	doc := fpdf.New("L", "mm", sheet, "")
	doc.SetTitle(p.Title, true)
	doc.SetCreationDate(time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)) // the same drawing gives the same bytes
	doc.SetModificationDate(time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC))
	doc.SetCatalogSort(true)
	doc.SetAutoPageBreak(false, 0)
	doc.AddUTF8FontFromBytes("go", "", goregular.TTF)
	doc.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	pages := s.pages(p, top)
	for n, at := range pages {
		doc.AddPage()
		(&sheetWriter{doc, s, p, top}).page(at, n+1, len(pages))
	}
	return doc.Output(w)
}

// pages lists the pages that show something, row by row.
func (s split) pages(p Picture, top float64) [][2]int {
	shown := map[[2]int]bool{{0, 0}: true}
	stepX, stepY := s.w-pageOverlap, s.h-pageOverlap
	for _, b := range p.Boxes {
		x0, y0 := (b.X+around)*s.scale, (b.Y+top)*s.scale
		x1, y1 := x0+b.W*s.scale, y0+b.H*s.scale
		for c := max(0, int((x0-s.w)/stepX)); c < s.cols && float64(c)*stepX < x1; c++ {
			for r := max(0, int((y0-s.h)/stepY)); r < s.rows && float64(r)*stepY < y1; r++ {
				if float64(c)*stepX+s.w > x0 && float64(r)*stepY+s.h > y0 {
					shown[[2]int{r, c}] = true
				}
			}
		}
	}
	shown[[2]int{s.rows - 1, 0}] = true // the legend
	var out [][2]int
	for r := range s.rows {
		for c := range s.cols {
			if shown[[2]int{r, c}] {
				out = append(out, [2]int{r, c})
			}
		}
	}
	return out
}

type sheetWriter struct {
	doc *fpdf.Fpdf
	s   split
	p   Picture
	top float64
}

func (w *sheetWriter) page(at [2]int, n, of int) {
	d, s := w.doc, w.s
	left, above := float64(at[1])*(s.w-pageOverlap), float64(at[0])*(s.h-pageOverlap)
	dx, dy := pageMargin-left, pageMargin-above // mm
	d.ClipRect(pageMargin, pageMargin, s.w, s.h, false)
	in := func(x, y, bw, bh float64) bool { // px
		return (x+bw)*s.scale > left-1 && x*s.scale < left+s.w+1 && (y+bh)*s.scale > above-1 && y*s.scale < above+s.h+1
	}
	w.text(dx+around*s.scale, dy+34*s.scale, 20, "B", w.p.Title, Ink)
	w.text(dx+around*s.scale, dy+54*s.scale, 12, "", w.p.Line, softInk)
	d.SetLineWidth(1.5 * s.scale)
	w.colour(edgeLine, d.SetDrawColor)
	for i := range w.p.Nodes {
		if e, ok := w.p.Edge(i); ok && in(min(e.Points[0].X, e.Points[3].X)+around, min(e.Points[0].Y, e.Points[3].Y)+w.top,
			math.Abs(e.Points[0].X-e.Points[3].X)+1, math.Abs(e.Points[0].Y-e.Points[3].Y)+1) {
			w.edge(e, dx, dy)
		}
	}
	for i, b := range w.p.Boxes {
		if in(b.X+around, b.Y+w.top, b.W+40, b.H) {
			w.box(i, dx, dy)
		}
	}
	x, y := float64(around), w.top+w.p.H+around
	for _, k := range w.p.Legend {
		w.rect(dx+x*s.scale, dy+y*s.scale, 18*s.scale, 12*s.scale, k.Tone)
		w.text(dx+(x+24)*s.scale, dy+(y+10)*s.scale, smallSize, "", keyText(k), softInk)
		x += keyWidth(k)
	}
	d.ClipEnd()
	w.marks(at)
	w.colour(softInk, d.SetTextColor)
	d.SetFont("go", "", 8)
	d.Text(pageMargin, pageMargin+s.h+6, printable(fmt.Sprintf("%s · page %d of %d · row %d of %d, column %d of %d", w.p.Title, n, of, at[0]+1, s.rows, at[1]+1, s.cols)))
}

// marks draws a corner wherever a neighbouring page begins or ends, so that
// sheets can be laid over one another.
func (w *sheetWriter) marks(at [2]int) {
	s := w.s
	w.doc.SetLineWidth(0.2)
	w.doc.SetDashPattern([]float64{}, 0)
	w.colour("#8C2B45", w.doc.SetDrawColor)
	var xs, ys []float64
	if at[1] > 0 {
		xs = append(xs, pageMargin+pageOverlap)
	}
	if at[1] < s.cols-1 {
		xs = append(xs, pageMargin+s.w-pageOverlap)
	}
	if at[0] > 0 {
		ys = append(ys, pageMargin+pageOverlap)
	}
	if at[0] < s.rows-1 {
		ys = append(ys, pageMargin+s.h-pageOverlap)
	}
	for _, x := range xs {
		w.doc.Line(x, pageMargin-4, x, pageMargin+4)
		w.doc.Line(x, pageMargin+s.h-4, x, pageMargin+s.h+2)
	}
	for _, y := range ys {
		w.doc.Line(pageMargin-4, y, pageMargin+4, y)
		w.doc.Line(pageMargin+s.w-4, y, pageMargin+s.w+4, y)
	}
}

func (w *sheetWriter) edge(e drawing.Edge, dx, dy float64) {
	at := func(p drawing.Point) (float64, float64) {
		return dx + (p.X+around)*w.s.scale, dy + (p.Y+w.top)*w.s.scale
	}
	x, y := at(e.Points[0])
	w.doc.MoveTo(x, y)
	if e.Curved {
		ax, ay := at(e.Points[1])
		bx, by := at(e.Points[2])
		x, y = at(e.Points[3])
		w.doc.CurveBezierCubicTo(ax, ay, bx, by, x, y)
	} else {
		for _, p := range e.Points[1:] {
			w.doc.LineTo(at(p))
		}
	}
	w.doc.DrawPath("D")
}

func (w *sheetWriter) rect(x, y, width, height float64, t drawing.Tone) {
	c := Tones[t]
	w.colour(c.Fill, w.doc.SetFillColor)
	w.colour(c.Line, w.doc.SetDrawColor)
	dash := []float64{}
	if c.Dashed {
		dash = []float64{4 * w.s.scale, 3 * w.s.scale}
	}
	w.doc.SetDashPattern(dash, 0)
	w.doc.RoundedRect(x, y, width, height, min(5*w.s.scale, height/3), "1234", "FD")
}

func (w *sheetWriter) box(i int, dx, dy float64) {
	p, k := w.p, w.s.scale
	n, b, shade, kind := p.Nodes[i], p.Boxes[i], p.Shades[i], p.Kind(i)
	x, y := b.X+around, b.Y+w.top
	at := func(px, py float64) (float64, float64) { return dx + px*k, dy + py*k }
	rx, ry := at(x, y)
	w.rect(rx, ry, b.W*k, b.H*k, shade.Tone)
	put := func(px, py, size float64, style, text, colour string) {
		tx, ty := at(px, py)
		w.text(tx, ty, size, style, text, colour)
	}
	if kind != sitemap.Page {
		put(x+10, y+b.H/2+4.5, titleSize, "", kindSigns[kind], softInk)
	}
	style := ""
	if n.Level < 2 {
		style = "B"
	}
	for l, line := range n.Lines {
		put(x+textStart(kind), y+baselines(n)[l], titleSize, style, line, Ink)
	}
	if shade.Tag != "" {
		put(x+b.W-8-SmallWidth(shade.Tag), y+b.H/2+4, smallSize, "", shade.Tag, softInk)
	}
	if n.Hidden > 0 {
		put(x+b.W+4, y+b.H/2+4, smallSize, "", "+"+strconv.Itoa(n.Hidden), softInk)
	}
}

func (w *sheetWriter) text(x, y, px float64, style, text, colour string) {
	w.colour(colour, w.doc.SetTextColor)
	w.doc.SetFont("go", style, px*w.s.scale*72/25.4)
	w.doc.Text(x, y, printable(text))
}

// printable leaves out what the typeface of a PDF cannot hold.
func printable(text string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case !files.Drawable(r):
			return -1
		case r > 0xFFFF:
			return '?'
		}
		return r
	}, text)
}

func (w *sheetWriter) colour(hex string, set func(r, g, b int)) {
	c := rgb(hex)
	set(int(c.R), int(c.G), int(c.B))
}
