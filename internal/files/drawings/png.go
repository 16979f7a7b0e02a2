package drawings

import (
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"
	"math"
	"strconv"
	"strings"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// The most that a picture of dots may have: beyond, it is drawn smaller.
const (
	mostDots = 32_000_000
	mostSide = 20_000
)

// canvas draws into dots.
type canvas struct {
	*image.RGBA
	scale            float64
	title, titleBold font.Face
	small, heading   font.Face
	raster           vector.Rasterizer
}

func writePNG(w io.Writer, p Picture) error {
	c, err := newCanvas(p)
	if err != nil {
		return err
	}
	c.picture(p)
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	return enc.Encode(w, c.RGBA)
}

func newCanvas(p Picture) (*canvas, error) {
	w, h, _ := p.size()
	c := &canvas{scale: min(2, math.Sqrt(mostDots/(w*h)), mostSide/w, mostSide/h)}
	c.RGBA = image.NewRGBA(image.Rect(0, 0, int(math.Ceil(w*c.scale)), int(math.Ceil(h*c.scale))))
	var err error
	for _, f := range []struct {
		face *font.Face
		of   *typeface
		size float64
	}{{&c.title, regular(), titleSize}, {&c.titleBold, bold(), titleSize}, {&c.small, regular(), smallSize}, {&c.heading, bold(), 20}} {
		if *f.face, err = opentype.NewFace(f.of.font, &opentype.FaceOptions{Size: max(f.size*c.scale, 0.5), DPI: 72}); err != nil {
			return nil, err
		}
	}
	return c, nil
}

func (c *canvas) picture(p Picture) {
	draw.Draw(c.RGBA, c.Bounds(), image.NewUniform(rgb(paper)), image.Point{}, draw.Src)
	_, _, top := p.size()
	c.text(c.heading, around, 34, p.Title, Ink)
	c.text(c.small, around, 54, p.Line, softInk)
	for i := range p.Nodes {
		if e, ok := p.Edge(i); ok {
			c.edge(e, around, top)
		}
	}
	for i := range p.Nodes {
		c.box(p, i, around, top)
	}
	x, y := float64(around), top+p.H+around
	for _, k := range p.Legend {
		c.rect(x, y, 18, 12, k.Tone)
		c.text(c.small, x+24, y+10, keyText(k), softInk)
		x += keyWidth(k)
	}
}

func (c *canvas) box(p Picture, i int, dx, dy float64) {
	n, b, shade, kind := p.Nodes[i], p.Boxes[i], p.Shades[i], p.Kind(i)
	x, y := b.X+dx, b.Y+dy
	c.rect(x, y, b.W, b.H, shade.Tone)
	if kind != sitemap.Page {
		c.text(c.title, x+10, y+b.H/2+4.5, kindSigns[kind], softInk)
	}
	face := c.title
	if n.Level < 2 {
		face = c.titleBold
	}
	for k, line := range n.Lines {
		c.text(face, x+textStart(kind), y+baselines(n)[k], line, Ink)
	}
	if shade.Tag != "" {
		c.text(c.small, x+b.W-8-SmallWidth(shade.Tag), y+b.H/2+4, shade.Tag, softInk)
	}
	if n.Hidden > 0 {
		c.text(c.small, x+b.W+4, y+b.H/2+4, "+"+strconv.Itoa(n.Hidden), softInk)
	}
}

func (c *canvas) text(face font.Face, x, y float64, text, colour string) {
	text = strings.Map(func(r rune) rune {
		if files.Drawable(r) {
			return r
		}
		return -1
	}, text)
	d := font.Drawer{Dst: c.RGBA, Src: image.NewUniform(rgb(colour)), Face: face, Dot: fixed.Point26_6{X: fixed.Int26_6(x * c.scale * 64), Y: fixed.Int26_6(y * c.scale * 64)}}
	d.DrawString(text)
}

// rect draws a box with round corners: its line first, its inside over it.
func (c *canvas) rect(x, y, w, h float64, t drawing.Tone) {
	colours := Tones[t]
	c.round(x-0.75, y-0.75, w+1.5, h+1.5, 5.75, colours.Line)
	c.round(x+0.75, y+0.75, w-1.5, h-1.5, 4.25, colours.Fill)
	if !colours.Dashed {
		return
	}
	for a := x + 8; a < x+w-8; a += 7 { // openings in the line
		c.round(a, y-1, 3, 1.9, 0, colours.Fill)
		c.round(a, y+h-0.9, 3, 1.9, 0, colours.Fill)
	}
}

// round fills a rectangle with round corners.
func (c *canvas) round(x, y, w, h, r float64, colour string) {
	const k = 0.4477 // of the radius, for a quarter circle as a Bézier curve
	x0, y0 := math.Floor(x*c.scale), math.Floor(y*c.scale)
	c.raster.Reset(int(math.Ceil(w*c.scale))+2, int(math.Ceil(h*c.scale))+2)
	at := func(px, py float64) (float32, float32) {
		return float32((x+px)*c.scale - x0), float32((y+py)*c.scale - y0)
	}
	move := func(px, py float64) { a, b := at(px, py); c.raster.MoveTo(a, b) }
	line := func(px, py float64) { a, b := at(px, py); c.raster.LineTo(a, b) }
	curve := func(p [6]float64) {
		a, b := at(p[0], p[1])
		d, e := at(p[2], p[3])
		f, g := at(p[4], p[5])
		c.raster.CubeTo(a, b, d, e, f, g)
	}
	move(r, 0)
	line(w-r, 0)
	curve([6]float64{w - r*k, 0, w, r * k, w, r})
	line(w, h-r)
	curve([6]float64{w, h - r*k, w - r*k, h, w - r, h})
	line(r, h)
	curve([6]float64{r * k, h, 0, h - r*k, 0, h - r})
	line(0, r)
	curve([6]float64{0, r * k, r * k, 0, r, 0})
	c.raster.ClosePath()
	c.fill(x0, y0, colour)
}

// fill paints what the raster holds. The raster does not clip by itself; all
// begins within the picture, and what reaches beyond its end is cut.
func (c *canvas) fill(x0, y0 float64, colour string) {
	at := image.Pt(int(x0), int(y0))
	within := c.raster.Bounds().Add(at).Intersect(c.Bounds())
	if within.Empty() || within.Min != at {
		return
	}
	c.raster.Draw(c.RGBA, within, image.NewUniform(rgb(colour)), image.Point{})
}

// edge draws a line 1.5 px wide, one short piece after another: what is filled
// is the box around a piece, and that around a long line would be large.
func (c *canvas) edge(e drawing.Edge, dx, dy float64) {
	points := flattened(e)
	for i := range points {
		points[i] = drawing.Point{X: (points[i].X + dx) * c.scale, Y: (points[i].Y + dy) * c.scale}
	}
	for i := 1; i < len(points); i++ {
		c.piece(points[i-1], points[i], max(0.75*c.scale, 0.35))
	}
}

// piece draws a straight line of dots from a to b, half as wide to each side.
func (c *canvas) piece(a, b drawing.Point, half float64) {
	length := math.Hypot(b.X-a.X, b.Y-a.Y)
	if length == 0 {
		return
	}
	x0, y0 := math.Floor(min(a.X, b.X)-half), math.Floor(min(a.Y, b.Y)-half)
	c.raster.Reset(int(math.Abs(a.X-b.X)+2*half)+3, int(math.Abs(a.Y-b.Y)+2*half)+3)
	nx, ny := -(b.Y-a.Y)/length*half, (b.X-a.X)/length*half
	at := func(x, y float64) (float32, float32) { return float32(x - x0), float32(y - y0) }
	c.raster.MoveTo(at(a.X+nx, a.Y+ny))
	c.raster.LineTo(at(b.X+nx, b.Y+ny))
	c.raster.LineTo(at(b.X-nx, b.Y-ny))
	c.raster.LineTo(at(a.X-nx, a.Y-ny))
	c.raster.ClosePath()
	c.fill(x0, y0, edgeLine)
}

// flattened gives the points of a line; a curve is followed in steps.
func flattened(e drawing.Edge) []drawing.Point {
	if !e.Curved {
		return append([]drawing.Point(nil), e.Points[:]...)
	}
	const steps = 20
	p, out := e.Points, make([]drawing.Point, 0, steps+1)
	for i := range steps + 1 {
		t := float64(i) / steps
		u := 1 - t
		a, b, d, f := u*u*u, 3*u*u*t, 3*u*t*t, t*t*t
		out = append(out, drawing.Point{X: a*p[0].X + b*p[1].X + d*p[2].X + f*p[3].X, Y: a*p[0].Y + b*p[1].Y + d*p[2].Y + f*p[3].Y})
	}
	return out
}

// rgb reads #rrggbb.
func rgb(hex string) color.RGBA {
	v, _ := strconv.ParseUint(hex[1:], 16, 32)
	return color.RGBA{uint8(v >> 16), uint8(v >> 8), uint8(v), 255}
}
