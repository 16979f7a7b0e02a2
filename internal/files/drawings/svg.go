package drawings

import (
	"strconv"
	"unicode/utf8"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// svg writes SVG text. Ten thousand boxes are written at a time, so that
// numbers are appended without a format.
type svg struct{ b []byte }

func (s *svg) text(parts ...string) {
	for _, p := range parts {
		s.b = append(s.b, p...)
	}
}

// num writes a number with at most one digit after the point.
func (s *svg) num(v float64) {
	tenths := int(v*10 + 0.5)
	if v < 0 {
		tenths = int(v*10 - 0.5)
	}
	if tenths < 0 {
		s.b = append(s.b, '-')
		tenths = -tenths
	}
	var digits [20]byte
	i := len(digits)
	if d := tenths % 10; d != 0 {
		i -= 2
		digits[i], digits[i+1] = '.', byte('0'+d)
	}
	for n := tenths / 10; ; n /= 10 {
		i--
		digits[i] = byte('0' + n%10)
		if n < 10 {
			break
		}
	}
	s.b = append(s.b, digits[i:]...)
}

func (s *svg) attr(name string, v float64) {
	s.text(" ", name, `="`)
	s.num(v)
	s.b = append(s.b, '"')
}

// words writes text escaped. Characters that XML cannot hold are left out, and
// so are marks that change the direction of what follows.
func (s *svg) words(text string) {
	for i := 0; i < len(text); {
		if c := text[i]; c >= 0x20 && c < 0x7F && c != '<' && c != '>' && c != '&' && c != '"' {
			s.b = append(s.b, c)
			i++
			continue
		}
		r, n := utf8.DecodeRuneInString(text[i:])
		i += n
		switch {
		case r == '<':
			s.text("&lt;")
		case r == '>':
			s.text("&gt;")
		case r == '&':
			s.text("&amp;")
		case r == '"':
			s.text("&quot;")
		case files.Drawable(r):
			s.b = utf8.AppendRune(s.b, r)
		}
	}
}

// EdgePath is the line to a node as the data of an SVG path, moved by x and y.
func EdgePath(e drawing.Edge, x, y float64) string {
	var s svg
	s.edge(e, x, y)
	return string(s.b)
}

func (s *svg) edge(e drawing.Edge, x, y float64) {
	for i, p := range e.Points {
		switch {
		case i == 0:
			s.b = append(s.b, 'M')
		case i == 1 && e.Curved:
			s.b = append(s.b, 'C')
		case i == 1:
			s.b = append(s.b, 'L')
		default:
			s.b = append(s.b, ' ')
		}
		s.num(p.X + x)
		s.b = append(s.b, ' ')
		s.num(p.Y + y)
	}
}

// SVG gives a drawing as an SVG document.
func SVG(p Picture) []byte {
	w, h, top := p.size()
	s := svg{b: make([]byte, 0, 4096+330*len(p.Nodes))}
	s.text(`<svg xmlns="http://www.w3.org/2000/svg"`)
	s.attr("width", w)
	s.attr("height", h)
	s.text(` viewBox="0 0 `)
	s.num(w)
	s.text(" ")
	s.num(h)
	s.text(`" font-family="'Atkinson Hyperlegible Next', 'Go', Arial, sans-serif" font-size="13" fill="`, Ink, `"><title>`)
	s.words(p.Title)
	s.text("</title>\n", `<rect width="100%" height="100%" fill="`, paper, `"/>`, "\n", `<text x="24" y="34" font-size="20" font-weight="700">`)
	s.words(p.Title)
	s.text(`</text><text x="24" y="54" font-size="12" fill="`, softInk, `">`)
	s.words(p.Line)
	s.text("</text>\n", `<path fill="none" stroke="`, edgeLine, `" stroke-width="1.5" d="`)
	for i := range p.Nodes {
		if e, ok := p.Edge(i); ok {
			s.edge(e, around, top)
		}
	}
	s.text("\"/>\n")
	s.boxes(p, around, top)
	s.titles(p, around, top)
	s.tags(p, around, top)
	s.legend(p, around, top+p.H+around)
	s.text("</svg>\n")
	return s.b
}

// look writes the attributes of a tone.
func (s *svg) look(t drawing.Tone) {
	c := Tones[t]
	s.text(` fill="`, c.Fill, `" stroke="`, c.Line, `" stroke-width="1.5"`)
	if c.Dashed {
		s.text(` stroke-dasharray="4 3"`)
	}
	s.text(">")
}

func (s *svg) rect(x, y, w, h float64) {
	s.b = append(s.b, `<rect x="`...)
	s.num(x)
	s.b = append(s.b, `" y="`...)
	s.num(y)
	s.b = append(s.b, `" width="`...)
	s.num(w)
	s.b = append(s.b, `" height="`...)
	s.num(h)
	s.b = append(s.b, `" rx="5"/>`...)
}

// textAt writes a text that begins, or in a group that says so ends, at x.
func (s *svg) textAt(x, y float64, text string) {
	s.b = append(s.b, `<text x="`...)
	s.num(x)
	s.b = append(s.b, `" y="`...)
	s.num(y)
	s.b = append(s.b, `">`...)
	s.words(text)
	s.b = append(s.b, `</text>`...)
}

// boxes writes the boxes, those of one tone together: that saves half of the
// text.
func (s *svg) boxes(p Picture, dx, dy float64) {
	var byTone [drawing.Tones][]int32
	for i, shade := range p.Shades {
		byTone[shade.Tone] = append(byTone[shade.Tone], int32(i))
	}
	for tone, nodes := range byTone {
		if len(nodes) == 0 {
			continue
		}
		s.text("<g")
		s.look(drawing.Tone(tone))
		for _, i := range nodes {
			b := p.Boxes[i]
			s.rect(b.X+dx, b.Y+dy, b.W, b.H)
		}
		s.text("</g>\n")
	}
}

// titles writes the titles; those of the upper two levels are bold.
func (s *svg) titles(p Picture, dx, dy float64) {
	for _, group := range []struct {
		open string
		bold bool
	}{{`<g font-weight="700">`, true}, {"<g>", false}} {
		s.text(group.open)
		for i := range p.Nodes {
			n := &p.Nodes[i]
			if n.Level < 2 != group.bold {
				continue
			}
			x, y := p.Boxes[i].X+dx, p.Boxes[i].Y+dy
			lines, kind := baselines(*n), p.Kind(i)
			for k, line := range n.Lines {
				s.textAt(x+textStart(kind), y+lines[k], line)
			}
			if kind != sitemap.Page {
				s.textAt(x+10, y+n.H/2+4.5, kindSigns[kind])
			}
		}
		s.text("</g>\n")
	}
}

// Groups of small text.
const (
	smallFrom = `<g font-size="11" fill="` + softInk + `">`
	smallTo   = `<g font-size="11" fill="` + softInk + `" text-anchor="end">`
)

// tags writes the small text in boxes, and beside them how many are hidden.
func (s *svg) tags(p Picture, dx, dy float64) {
	s.text(smallTo)
	for i, shade := range p.Shades {
		if b := &p.Boxes[i]; shade.Tag != "" {
			s.textAt(b.X+dx+b.W-8, b.Y+dy+b.H/2+4, shade.Tag)
		}
	}
	s.text("</g>\n", smallFrom)
	for i := range p.Nodes {
		if b, n := &p.Boxes[i], p.Nodes[i].Hidden; n > 0 {
			s.textAt(b.X+dx+b.W+4, b.Y+dy+b.H/2+4, "+"+strconv.Itoa(n))
		}
	}
	s.text("</g>\n")
}

func (s *svg) legend(p Picture, x, y float64) {
	for _, k := range p.Legend {
		s.text("<g")
		s.look(k.Tone)
		s.rect(x, y, 18, 12)
		s.text("</g>")
		s.text(smallFrom)
		s.textAt(x+24, y+10, keyText(k))
		s.text("</g>")
		x += keyWidth(k)
	}
}
