// Package drawings writes the drawing of a sitemap as .svg, .png or .pdf, and the picture of where addresses lead as .svg.
package drawings

import (
	"fmt"
	"io"
	"strconv"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
)

// Colours are those of one tone, as #rrggbb.
type Colours struct {
	Fill, Line string
	Dashed     bool
}

// Tones gives every tone of a drawing its colours. Text on each of them is Ink,
// with a contrast of 7 to 1 and more.
var Tones = [drawing.Tones]Colours{
	drawing.Plain: {"#FFFDF8", "#B5BFD3", false}, drawing.Fresh: {"#FFFDF8", "#B45F06", true}, drawing.Moved: {"#FDEFD2", "#B45F06", false},
	drawing.Touched: {"#FFFDF8", "#C9761A", false}, drawing.Faint: {"#F5EFE2", "#CFC4AE", false}, drawing.Wrong: {"#FBEAEE", "#8C2B45", false},
	drawing.Set1: {"#E6ECF7", "#44557A", false}, drawing.Set2: {"#E3F0E5", "#3F6B4A", false}, drawing.Set3: {"#F3E7F4", "#7A4B80", false},
	drawing.Set4: {"#FBEBDD", "#9A5B2C", false}, drawing.Set5: {"#E0F0F1", "#2F6B70", false}, drawing.Set6: {"#EFEFEA", "#6B6A60", false},
	drawing.Ramp1: {"#F1F4FA", "#A9B5CD", false}, drawing.Ramp2: {"#DFE6F3", "#8796B6", false}, drawing.Ramp3: {"#C9D5EA", "#66779D", false},
	drawing.Ramp4: {"#B2C2DF", "#4F608A", false}, drawing.Ramp5: {"#9BAFD3", "#3A4A70", false},
}

// The other colours of a drawing.
const (
	Ink      = "#1F2333"
	softInk  = "#4A4D5A"
	edgeLine = "#B9AE9A"
	paper    = "#FBF7EF"
)

const titleSize, smallSize = 13, 11 // px

// kindSigns are short signs for kinds other than page, which every typeface has.
var kindSigns = map[sitemap.Kind]string{
	sitemap.Carried: "»", sitemap.Reference: "=", sitemap.Outside: "→", sitemap.File: "¶", sitemap.Group: "§",
}

// typeface measures and draws text. It covers Latin, Greek and Cyrillic, and
// counts any other character as one em.
type typeface struct {
	font     *sfnt.Font
	mu       sync.Mutex
	buf      sfnt.Buffer
	advances map[rune]float64 // of one px
}

func newTypeface(ttf []byte) func() *typeface {
	return sync.OnceValue(func() *typeface {
		f, err := opentype.Parse(ttf)
		if err != nil {
			panic(err) // it is a part of the program
		}
		return &typeface{font: f, advances: map[rune]float64{}}
	})
}

var regular, bold = newTypeface(goregular.TTF), newTypeface(gobold.TTF)

const perEm = 1000

func (t *typeface) width(text string, size float64) float64 {
	t.mu.Lock()
	defer t.mu.Unlock()
	sum := 0.0
	for _, r := range text {
		a, known := t.advances[r]
		if !known {
			a = 1
			if g, err := t.font.GlyphIndex(&t.buf, r); err == nil && g != 0 {
				if w, err := t.font.GlyphAdvance(&t.buf, g, fixed.I(perEm), font.HintingNone); err == nil {
					a = float64(w) / 64 / perEm
				}
			}
			t.advances[r] = a
		}
		sum += a
	}
	return sum * size
}

// TitleWidth measures the title of a box, SmallWidth the small text in it.
func TitleWidth(text string) float64 { return regular().width(text, titleSize) }

// SmallWidth measures the small text of a box.
func SmallWidth(text string) float64 { return regular().width(text, smallSize) }

// Picture is a drawing with what stands around it in a file.
type Picture struct {
	drawing.Drawing
	Title string // of what it shows
	Line  string // when, which state
}

// PictureFormats are the formats that a drawing goes out in, with their types.
var PictureFormats = map[string]string{"svg": "image/svg+xml", "png": "image/png", "pdf": "application/pdf"}

// WritePicture writes a drawing in one of the PictureFormats; paper is that of
// a PDF.
func WritePicture(format string, w io.Writer, p Picture, sheet string) error {
	switch format {
	case "svg":
		_, err := w.Write(SVG(p))
		return err
	case "png":
		return writePNG(w, p)
	case "pdf":
		return writePDF(w, p, sheet)
	}
	return fmt.Errorf("no picture can be written as %q", format)
}

// Distances around a drawing in a file, in px.
const (
	around     = 24
	headRoom   = 52
	legendLine = 22
)

// head gives the size of the whole picture and where the drawing begins in it.
func (p Picture) size() (w, h, top float64) {
	w = max(p.W, 420, regular().width(p.Title, 20), p.legendWidth()) + 2*around
	return w, headRoom + p.H + 2*around + legendLine, headRoom + around
}

func (p Picture) legendWidth() float64 {
	x := 0.0
	for _, k := range p.Legend {
		x += keyWidth(k)
	}
	return x
}

func keyWidth(k drawing.Key) float64 { return 24 + SmallWidth(keyText(k)) + 18 }

func keyText(k drawing.Key) string { return k.Label + ": " + strconv.Itoa(k.N) }

// baselines gives where the lines of a title stand in a box, from its top.
func baselines(n drawing.Node) [2]float64 {
	if len(n.Lines) == 1 {
		return [2]float64{n.H/2 + 4.5}
	}
	return [2]float64{n.H/2 - 3.5, n.H/2 + 12.5}
}

// textStart is where the title begins in a box.
func textStart(k sitemap.Kind) float64 {
	if k == sitemap.Page {
		return 10
	}
	return 28
}
