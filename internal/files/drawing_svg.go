package files

import (
	"strconv"
	"unicode/utf8"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
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
	s.b = strconv.AppendInt(s.b, int64(tenths/10), 10)
	if d := tenths % 10; d != 0 {
		s.b = append(s.b, '.', byte('0'+d))
	}
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
		case drawable(r):
			s.b = utf8.AppendRune(s.b, r)
		}
	}
}

// drawable tells whether a character can be drawn and is no control or
// direction mark.
func drawable(r rune) bool {
	switch {
	case r < 0x20, r >= 0x7F && r < 0xA0, r == 0xFFFD, r == 0xFFFE, r == 0xFFFF:
		return false
	case r >= 0x200B && r <= 0x200F, r >= 0x2028 && r <= 0x202E, r >= 0x2060 && r <= 0x206F, r == 0xFEFF:
		return false
	}
	return true
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
	s := svg{b: make([]byte, 0, 4096+420*len(p.Nodes))}
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
	for i := range p.Nodes {
		s.box(p, i, around, top)
	}
	s.legend(p, around, top+p.H+around)
	s.text("</svg>\n")
	return s.b
}

func (s *svg) rect(x, y, w, h float64, t drawing.Tone) {
	c := Tones[t]
	s.text("<rect")
	s.attr("x", x)
	s.attr("y", y)
	s.attr("width", w)
	s.attr("height", h)
	s.text(` rx="5" fill="`, c.Fill, `" stroke="`, c.Line, `" stroke-width="1.5"`)
	if c.Dashed {
		s.text(` stroke-dasharray="4 3"`)
	}
	s.text("/>")
}

func (s *svg) box(p Picture, i int, dx, dy float64) {
	n, b, shade, kind := p.Nodes[i], p.Boxes[i], p.Shades[i], p.Kind(i)
	x, y := b.X+dx, b.Y+dy
	s.rect(x, y, b.W, b.H, shade.Tone)
	if kind != sitemap.Page {
		s.text("<text")
		s.attr("x", x+10)
		s.attr("y", y+b.H/2+4.5)
		s.text(` fill="`, softInk, `">`, kindSigns[kind], "</text>")
	}
	for k, line := range n.Lines {
		s.text("<text")
		s.attr("x", x+textStart(kind))
		s.attr("y", y+baselines(n)[k])
		if n.Level < 2 {
			s.text(` font-weight="700"`)
		}
		s.text(">")
		s.words(line)
		s.text("</text>")
	}
	if shade.Tag != "" {
		s.small(x+b.W-8, y+b.H/2+4, "end", shade.Tag)
	}
	if n.Hidden > 0 {
		s.small(x+b.W+4, y+b.H/2+4, "start", "+"+strconv.Itoa(n.Hidden))
	}
	s.text("\n")
}

func (s *svg) small(x, y float64, anchor, text string) {
	s.text("<text")
	s.attr("x", x)
	s.attr("y", y)
	s.text(` font-size="11" fill="`, softInk, `" text-anchor="`, anchor, `">`)
	s.words(text)
	s.text("</text>")
}

func (s *svg) legend(p Picture, x, y float64) {
	for _, k := range p.Legend {
		s.rect(x, y, 18, 12, k.Tone)
		s.small(x+24, y+10, "start", keyText(k))
		x += keyWidth(k)
	}
}
