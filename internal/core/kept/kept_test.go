package kept_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/kept"
)

func TestNamesAndKinds(t *testing.T) {
	for _, c := range []struct{ sniffed, given, name string }{
		{"image/jpeg", "Der Häcksler.JPG", "der-hacksler.jpg"},
		{"image/png", "evil.html", "evil.png"},
		{"text/html; charset=utf-8", "page.html", "page.html"},
		{"image/svg+xml", "drawing.svg", "drawing.svg"},
		{"application/zip", `C:\Users\ines\Rota.xlsx`, "rota.xlsx"},
		{"application/pdf", "../../etc/passwd", "passwd.pdf"},
		{"application/octet-stream", "model.STL", "model.stl"},
		{"application/octet-stream", "…", "file.bin"},
		{"image/png", strings.Repeat("long ", 80) + ".png", strings.TrimRight(strings.Repeat("long-", 16), "-") + ".png"},
	} {
		require.Equal(t, c.name, kept.KindOf(c.sniffed).Name(c.given), c.given)
	}
	require.False(t, kept.KindOf("image/svg+xml").Picture, "it can hold scripts")
	require.True(t, kept.KindOf("image/webp").Picture)
	require.Equal(t, []int{320, 640, 1000}, kept.Widths(1400))
	require.Empty(t, kept.Widths(320))
}

func TestAnswersOfFiles(t *testing.T) {
	files := []kept.File{
		{ID: "shown", Before: true},
		{ID: "was", Before: true},
		{ID: "first", ReplacedBy: "second", Before: true},
		{ID: "second", ReplacedBy: "shown"},
		{ID: "to-hidden", ReplacedBy: "was", Before: true},
		{ID: "never"},
		{ID: "ring", ReplacedBy: "round", Before: true},
		{ID: "round", ReplacedBy: "ring", Before: true},
	}
	require.Equal(t, []int{200, 410, 200, 200, 410, 404, 410, 410}, kept.Answers(files, func(id string) bool { return id == "shown" }))
	require.Equal(t, 404, kept.Place{Hidden: true, Successor: true, Before: true}.Code(), "it tells nothing of pages for others")
	require.Equal(t, 200, kept.Place{Shown: true, Hidden: true}.Code())
}
