package drawings_test

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image/color"
	"image/png"
	"io"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/files/drawings"
)

// picture draws a home page with n branches of seven, their titles made by title.
func picture(t testing.TB, n int, direction drawing.Direction, title func(i int) string) drawings.Picture {
	t.Helper()
	var csv strings.Builder
	csv.WriteString("level,title\n0,Home\n")
	for i := range n {
		level := 3
		switch i % 7 {
		case 0:
			level = 1
		case 1, 4:
			level = 2
		}
		fmt.Fprintf(&csv, "%d,%q\n", level, title(i))
	}
	sheet, err := files.ReadSitemap("tree.csv", strings.NewReader(csv.String()), files.Options{})
	require.NoError(t, err)
	ask := drawing.Ask{Opening: drawing.Opening{Level: 9}, Direction: direction, Overlay: drawing.ByDepth}
	return drawings.Picture{Drawing: drawing.New(sheet.Tree, ask, drawing.Facts{}, drawings.TitleWidth, drawings.SmallWidth), Title: "Quillmere & <Gardens>", Line: "as planned"}
}

func entryTitle(i int) string { return fmt.Sprintf("Entry %d", i) }

func write(t testing.TB, p drawings.Picture, format, sheet string) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, drawings.WritePicture(format, &b, p, sheet))
	return b.Bytes()
}

// textOf gives the text elements of an SVG, and fails where it is not XML.
func textOf(t *testing.T, svg []byte) (texts []string, rects int) {
	t.Helper()
	dec, within := xml.NewDecoder(bytes.NewReader(svg)), false
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			return texts, rects
		}
		require.NoError(t, err)
		switch tok := tok.(type) {
		case xml.StartElement:
			within = tok.Name.Local == "text"
			if tok.Name.Local == "rect" {
				rects++
			}
			assert.NotContains(t, []string{"script", "foreignObject", "image", "a"}, tok.Name.Local)
		case xml.CharData:
			if within {
				texts = append(texts, string(tok))
			}
		case xml.EndElement:
			within = false
		}
	}
}

func TestSVGHoldsEveryTitle(t *testing.T) {
	for _, d := range drawing.Directions() {
		p := picture(t, 50, d, entryTitle)
		texts, rects := textOf(t, write(t, p, "svg", ""))
		for i := range 50 {
			require.Contains(t, texts, entryTitle(i), d)
		}
		require.Contains(t, texts, "Quillmere & <Gardens>")
		require.Equal(t, 51+1+len(p.Legend), rects, "a box each, the paper, the legend")
	}
}

// What somebody typed as a title stays text and changes nothing around it.
func TestTitlesAreDrawnAsText(t *testing.T) {
	for name, c := range map[string]struct{ title, drawn string }{
		"markup":     {"<script>x</script>&amp;", "<script>x</script>&amp;"},
		"controls":   {"a\x07b\x1bc", "abc"},
		"directions": {"a\u202egnp.exe", "agnp.exe"},
		"no width":   {"a\u200bb\ufeffc", "abc"},
		"cyrillic":   {"Зимний сад", "Зимний сад"},
		"not utf-8":  {"a\xffb", "ab"},
	} {
		p := picture(t, 1, drawing.Across, entryTitle)
		p.Nodes[1].Lines = []string{c.title}
		texts, _ := textOf(t, write(t, p, "svg", ""))
		assert.Contains(t, texts, c.drawn, name)
		for _, format := range []string{"png", "pdf"} {
			assert.NotEmpty(t, write(t, p, format, "A4"), name)
		}
	}
	p := picture(t, 3, drawing.Across, func(i int) string { return strings.Repeat("long ", 900) + entryTitle(i) })
	require.Less(t, p.W, 1200.0, "a long title is broken and cut")
}

func TestPNGShowsWhatTheSVGSays(t *testing.T) {
	p := picture(t, 20, drawing.Across, entryTitle)
	img, err := png.Decode(bytes.NewReader(write(t, p, "png", "")))
	require.NoError(t, err)
	var w, h float64
	_, err = fmt.Sscanf(string(write(t, p, "svg", "")), `<svg xmlns="http://www.w3.org/2000/svg" width="%f" height="%f"`, &w, &h)
	require.NoError(t, err)
	k := float64(img.Bounds().Dx()) / w
	require.InDelta(t, h*k, float64(img.Bounds().Dy()), 2)
	near := func(x, y float64) color.RGBA { return color.RGBAModel.Convert(img.At(int(x*k), int(y*k))).(color.RGBA) }
	require.Equal(t, color.RGBA{0xFB, 0xF7, 0xEF, 0xFF}, near(3, 3), "paper")
	n := 0
	for _, group := range regexp.MustCompile(`<g fill="#(\w{6})"[^>]*>(.*?)</g>`).FindAllStringSubmatch(string(write(t, p, "svg", "")), -1) {
		for _, m := range regexp.MustCompile(`<rect x="([\d.]+)" y="([\d.]+)"`).FindAllStringSubmatch(group[2], -1) {
			var x, y float64
			_, err = fmt.Sscan(m[1]+" "+m[2], &x, &y)
			require.NoError(t, err)
			c := near(x+5, y+4)
			require.Equal(t, group[1], fmt.Sprintf("%02X%02X%02X", c.R, c.G, c.B))
			n++
		}
	}
	require.Equal(t, 21+len(p.Legend), n)
}

func TestLargePNGStaysWithinBounds(t *testing.T) {
	img, err := png.DecodeConfig(bytes.NewReader(write(t, picture(t, 4000, drawing.Down, entryTitle), "png", "")))
	require.NoError(t, err)
	require.LessOrEqual(t, img.Width*img.Height, 32<<20)
	require.Greater(t, img.Width, 2000)
}

var pdfPage = regexp.MustCompile(`/Type /Page\b[^s]`)

func TestPDFSplitsOverPages(t *testing.T) {
	one := write(t, picture(t, 6, drawing.Across, entryTitle), "pdf", "A4")
	require.Len(t, pdfPage.FindAll(one, -1), 1)
	p := picture(t, 400, drawing.Across, entryTitle)
	a4, a3 := write(t, p, "pdf", "A4"), write(t, p, "pdf", "A3")
	n4, n3 := len(pdfPage.FindAll(a4, -1)), len(pdfPage.FindAll(a3, -1))
	require.Greater(t, n4, n3)
	require.Greater(t, n3, 1)
	require.Equal(t, a4, write(t, p, "pdf", "A4"), "the same drawing gives the same bytes")
	require.Equal(t, a4, write(t, p, "pdf", "letter"), "an unknown sheet stands for A4")
	huge := write(t, picture(t, 10_000, drawing.Down, entryTitle), "pdf", "A4")
	require.LessOrEqual(t, len(pdfPage.FindAll(huge, -1)), 300)
}

// Every title stands on some page, and pages tell which one comes next.
func TestPDFText(t *testing.T) {
	tool, err := exec.LookPath("pdftotext")
	if err != nil {
		t.Skip("pdftotext is not on this machine")
	}
	cmd := exec.Command(tool, "-", "-")
	cmd.Stdin = bytes.NewReader(write(t, picture(t, 120, drawing.Across, entryTitle), "pdf", "A4"))
	out, err := cmd.Output()
	require.NoError(t, err)
	for i := range 120 {
		require.Regexp(t, `\b`+entryTitle(i)+`\b`, string(out))
	}
}

func TestUnknownPicture(t *testing.T) {
	require.Error(t, drawings.WritePicture("bmp", io.Discard, picture(t, 1, drawing.Across, entryTitle), ""))
}

func benchmarkTree(b *testing.B) *sitemap.Tree {
	return picture(b, 10_000, drawing.Across, entryTitle).Tree
}

// The layout of ten thousand boxes and their SVG text.
func BenchmarkDrawTenThousand(b *testing.B) {
	tree := benchmarkTree(b)
	ask := drawing.Ask{Opening: drawing.Opening{Level: 9}, Direction: drawing.Across, Overlay: drawing.ByDepth}
	all := drawing.New(tree, ask, drawing.Facts{}, drawings.TitleWidth, drawings.SmallWidth)
	b.Run("layout", func(b *testing.B) {
		for b.Loop() {
			drawing.Place(all.Nodes, drawing.Across)
		}
	})
	b.Run("layout and SVG", func(b *testing.B) {
		for b.Loop() {
			d := all
			d.Boxes = drawing.Place(d.Nodes, drawing.Across)
			drawings.SVG(drawings.Picture{Drawing: d})
		}
	})
	b.Run("from the tree to SVG", func(b *testing.B) {
		for b.Loop() {
			drawings.SVG(drawings.Picture{Drawing: drawing.New(tree, ask, drawing.Facts{}, drawings.TitleWidth, drawings.SmallWidth)})
		}
	})
}
