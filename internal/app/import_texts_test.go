package app_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// oldShelf is an older site whose pages say where they lie. It can be told to
// stop at one of them.
type oldShelf struct {
	stopAt string
	stop   func()
}

func (s oldShelf) Body(file, _ string, links content.OldLinks) (content.OldBody, error) {
	if file == s.stopAt {
		s.stop()
	}
	if file == "p13.html" {
		return content.OldBody{}, errors.New("it is damaged")
	}
	id, _ := links.Page("p0.html")
	return content.OldBody{Blocks: []content.Block{{Type: content.Text, Text: "This was " + file + ", see [the first](page:" + id + ")."}}, Source: "<p>" + file}, nil
}

func readShelf(context.Context, string, io.Reader, func(int)) (*sheet.Sheet, error) {
	var pages []sheet.OldPage
	for i := range 45 {
		pages = append(pages, sheet.OldPage{File: fmt.Sprintf("p%d.html", i), Heading: fmt.Sprintf("Shelf %d", i)})
	}
	return sheet.ReadPages(pages)
}

// Texts that were on their way when the process ended go on where they were; a
// text that somebody wrote meanwhile stays, and undo takes the pages back.
func TestTextsOfAnOlderSite(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	id, err := d.KeepFile(ctx, ines, "old.zip", []byte("zip"))
	require.NoError(t, err)
	require.NoError(t, d.ReadFile(ctx, id, readShelf))
	_, err = d.PreviewFile(ctx, ines, id, appsitemap.ImportChoice{Mode: sheet.Below, Place: d.id("/grounds"), Follow: true, Texts: true})
	require.NoError(t, err)
	_, err = d.AcceptFile(ctx, ines, id)
	require.NoError(t, err)
	d.write("marta", d.id("/grounds/p44"), "Marta was quicker")

	stopped, cancel := context.WithCancel(ctx)
	_, err = d.ImportTexts(stopped, id, func([]byte) (appsitemap.OldSite, error) { return oldShelf{"p43.html", cancel}, nil }, time.Hour)
	require.Error(t, err)
	b, err := d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, appsitemap.ImportTexts, b.State)
	require.Equal(t, 21, b.Done, "twenty texts, and Marta's")
	whole := func([]byte) (appsitemap.OldSite, error) { return oldShelf{}, nil }
	done, err := d.ImportTexts(ctx, id, whole, 0)
	require.NoError(t, err)
	require.False(t, done, "no time for more")
	done, err = d.ImportTexts(ctx, id, whole, time.Hour)
	require.NoError(t, err)
	require.True(t, done)
	b, err = d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, appsitemap.ImportWritten, b.State)
	require.Contains(t, b.Message, "The texts of 44 pages were imported as drafts. 1 page had a text and kept it. On 1 page something could not be kept")

	text := func(addr string) string {
		v, err := d.OpenPage(ctx, ines, d.id(addr), uuid.NewString())
		require.NoError(t, err)
		if len(v.Content.Slots["main"]) == 0 {
			return ""
		}
		return v.Content.Slots["main"][0].Text
	}
	first := d.id("/grounds/p0")
	for i := range 44 {
		want := fmt.Sprintf("This was p%d.html, see [the first](page:%s).", i, first)
		if i == 13 {
			want = ""
		}
		require.Equal(t, want, text(fmt.Sprintf("/grounds/p%d", i)))
	}
	require.Equal(t, "Marta was quicker", text("/grounds/p44"))
	src, err := d.PageSource(ctx, ines, first)
	require.NoError(t, err)
	require.Equal(t, "p0.html", src.File)

	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, sitemap.None, d.next().ClaimedBy("/grounds/p0"))
	_, err = d.Redo(ctx, ines)
	require.NoError(t, err)
	require.Contains(t, text("/grounds/p0"), "This was p0.html")
}
