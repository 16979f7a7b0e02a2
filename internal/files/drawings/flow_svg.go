package drawings

import (
	"bytes"
	"fmt"
	"html"

	"candlepath/internal/core/flow"
)

// FlowSVG draws where addresses lead as an SVG file that stands on its own.
func FlowSVG(p flow.Picture, title string) []byte {
	const width, left, right, bar = 1000.0, 330.0, 670.0, 10.0
	var b bytes.Buffer
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 -28 %.0f %.1f" font-family="sans-serif" font-size="12"><title>%s</title>`, width, p.Height+40, html.EscapeString(title))
	fmt.Fprintf(&b, `<text x="0" y="-12" font-weight="700" fill="#1F2333">%s</text>`, html.EscapeString(title))
	for _, band := range p.Bands {
		fmt.Fprintf(&b, `<path d="%s" fill="%s" fill-opacity="0.35"><title>%s → %s: %d addresses, %d visits</title></path>`, BandPath(band, left, right), bandColour(p.Right[band.Right]),
			html.EscapeString(p.Left[band.Left].Label), html.EscapeString(p.Right[band.Right].Label), band.Leads, band.Total)
	}
	side := func(list []flow.Node, x, text float64, anchor string) {
		for _, n := range list {
			fmt.Fprintf(&b, `<rect x="%.0f" y="%.1f" width="%.0f" height="%.1f" fill="#44557A"/><text x="%.0f" y="%.1f" text-anchor="%s" fill="#1F2333">%s</text>`,
				x, n.Y, bar, n.H, text, n.Y+n.H/2+4, anchor, html.EscapeString(NodeLabel(n)))
		}
	}
	side(p.Left, left-bar, left-bar-6, "end")
	side(p.Right, right, right+bar+6, "start")
	b.WriteString(`</svg>`)
	return b.Bytes()
}

// mostLabel is how many letters of a label are drawn.
const mostLabel = 38

// NodeLabel is what stands beside a node: its address, shortened, and its visits.
func NodeLabel(n flow.Node) string {
	label := []rune(n.Label)
	if len(label) > mostLabel {
		label = append([]rune("…"), label[len(label)-mostLabel+1:]...)
	}
	return fmt.Sprintf("%s · %d", string(label), n.Total)
}

func bandColour(to flow.Node) string {
	if to.Label == "gone" {
		return "#8C2B45"
	}
	return "#B45F06"
}

// BandPath is the outline of a band from one side to the other.
func BandPath(b flow.Band, left, right float64) string {
	mid := (left + right) / 2
	return fmt.Sprintf("M%.0f %.1fC%.0f %.1f %.0f %.1f %.0f %.1fV%.1fC%.0f %.1f %.0f %.1f %.0f %.1fZ",
		left, b.Y1, mid, b.Y1, mid, b.Y2, right, b.Y2, b.Y2+b.H2, mid, b.Y2+b.H2, mid, b.Y1+b.H1, left, b.Y1+b.H1)
}
