package files_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"candlepath/internal/core/sitemap"
)

// worksheet fills one sheet of a workbook as a spreadsheet program does: with shared
// strings, and a style where one is given.
type worksheet struct {
	t    *testing.T
	book *excelize.File
	name string
}

func newBook(t *testing.T, names ...string) (*excelize.File, []worksheet) {
	book := excelize.NewFile()
	t.Cleanup(func() { require.NoError(t, book.Close()) })
	var out []worksheet
	for i, name := range names {
		if i == 0 {
			require.NoError(t, book.SetSheetName("Sheet1", name))
		} else {
			_, err := book.NewSheet(name)
			require.NoError(t, err)
		}
		out = append(out, worksheet{t, book, name})
	}
	return book, out
}

func (s worksheet) put(rows ...[]any) {
	for i, r := range rows {
		cell, err := excelize.CoordinatesToCellName(1, i+1)
		require.NoError(s.t, err)
		require.NoError(s.t, s.book.SetSheetRow(s.name, cell, &r))
	}
}

func (s worksheet) style(cell string, style excelize.Style) {
	id, err := s.book.NewStyle(&style)
	require.NoError(s.t, err)
	require.NoError(s.t, s.book.SetCellStyle(s.name, cell, cell, id))
}

func saved(t *testing.T, book *excelize.File) *bytes.Buffer {
	b, err := book.WriteToBuffer()
	require.NoError(t, err)
	return b
}

// outlineOf tells level, title, owner and review date of each entry.
func outlineOf(t *sitemap.Tree) string {
	var out []string
	for i := range t.Len() {
		e := t.Ref(i)
		out = append(out, strings.TrimSpace(strings.Repeat(".", t.Level(i))+e.Title+" "+e.Owner+" "+e.Review))
	}
	return strings.Join(out, "\n")
}

// A planning sheet as people keep it: a sheet of remarks before it, merged and
// coloured cells, empty rows, dates as the program shows them.
func TestWorkbooksAsPeopleKeepThem(t *testing.T) {
	book, s := newBook(t, "Read me", "Plan", "Old plan")
	s[0].put([]any{"Please keep the colours!"})
	day := time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC)
	s[1].put(
		[]any{},
		[]any{"Level 1", "Level 2", "Level 3", "Owner", "Review date"},
		[]any{"Grounds", nil, nil, "Gwen Hale", day},
		[]any{nil, "Compost", nil, nil, "2027-04-01"},
		[]any{},
		[]any{nil, nil, "Heaps", nil, "1 May 2027"},
		[]any{"Visitors", nil, nil, "Lionel Dray", 12},
		[]any{nil, "Shop", nil, nil, nil},
	)
	for _, area := range [][2]string{{"D3", "D6"}, {"A3", "A6"}, {"D7", "D8"}, {"B7", "C7"}} {
		require.NoError(t, book.MergeCell("Plan", area[0], area[1]))
	}
	s[1].style("A3", excelize.Style{Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{"FFCC00"}}, Font: &excelize.Font{Bold: true}})
	format := "d. mmm yy"
	s[1].style("E3", excelize.Style{CustomNumFmt: &format})
	s[2].put([]any{"Level", "Title"}, []any{1, "Old"})

	got, err := files.ReadSitemap("plan.xlsx", saved(t, book), files.Options{})
	require.NoError(t, err)
	require.Equal(t, ".Grounds Gwen Hale 2027-03-01\n..Compost Gwen Hale 2027-04-01\n...Heaps Gwen Hale 1 May 2027\n.Visitors Lionel Dray 12\n..Shop Lionel Dray", outlineOf(got.Tree))
	require.EqualValues(t, "other-sheets", got.Findings[0].Rule)
	require.Contains(t, got.Findings[0].Message, "Old plan")

	got, err = files.ReadSitemap("plan.xlsx", saved(t, book), files.Options{Sheet: "Old plan"})
	require.NoError(t, err)
	require.Equal(t, ".Old", outlineOf(got.Tree))
	_, err = files.ReadSitemap("plan.xlsx", saved(t, book), files.Options{Sheet: "Read me"})
	require.ErrorContains(t, err, "no usable header")
	_, err = files.ReadSitemap("plan.xlsx", saved(t, book), files.Options{Sheet: "Nothing"})
	require.ErrorContains(t, err, `there is no sheet "Nothing"`)
}

// Indentation tells the levels: by spaces, or by the format of the cell.
func TestIndentedWorkbooks(t *testing.T) {
	book, s := newBook(t, "Spaces")
	s[0].put([]any{"Title", "Owner"}, []any{"Grounds", "Gwen"}, []any{"  Compost"}, []any{"      Heaps", "Ines"}, []any{"  Ponds"}, []any{"Visitors"})
	want := ".Grounds Gwen\n..Compost\n...Heaps Ines\n..Ponds\n.Visitors"
	got, err := files.ReadSitemap("a.xlsx", saved(t, book), files.Options{})
	require.NoError(t, err)
	require.Equal(t, want, outlineOf(got.Tree))

	book, s = newBook(t, "Format")
	s[0].put([]any{"Owner", "Title"}, []any{"Gwen", "Grounds"}, []any{nil, "Compost"}, []any{"Ines", "Heaps"}, []any{nil, "Ponds"}, []any{nil, "Visitors"})
	for cell, n := range map[string]int{"B3": 1, "B4": 2, "B5": 1} {
		s[0].style(cell, excelize.Style{Alignment: &excelize.Alignment{Indent: n}})
	}
	got, err = files.ReadSitemap("a.xlsx", saved(t, book), files.Options{})
	require.NoError(t, err)
	require.Equal(t, want, outlineOf(got.Tree))

	book, s = newBook(t, "Flat")
	s[0].put([]any{"Title"}, []any{"Grounds"}, []any{"Visitors"})
	_, err = files.ReadSitemap("a.xlsx", saved(t, book), files.Options{})
	require.ErrorContains(t, err, "no sheet has a usable header")
}

// What we write can be read on: a frozen header, wide columns, wrapped notes.
func TestWorkbooksThatWeWrite(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "a", Title: "=Sum", Kind: sitemap.Page, Slug: "sum", Notes: "one\ntwo", Rank: "a"}})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, files.WriteSitemap("x.xlsx", &b, tree, ""))
	book, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	defer book.Close()
	panes, err := book.GetPanes("Sitemap")
	require.NoError(t, err)
	require.Equal(t, []any{true, 1}, []any{panes.Freeze, panes.YSplit})
	title, notes := "D2", "Q2"
	kind, err := book.GetCellType("Sitemap", title)
	require.NoError(t, err)
	require.NotEqual(t, excelize.CellTypeFormula, kind)
	id, err := book.GetCellStyle("Sitemap", notes)
	require.NoError(t, err)
	style, err := book.GetStyle(id)
	require.NoError(t, err)
	require.True(t, style.Alignment.WrapText)
	width, err := book.GetColWidth("Sitemap", "D")
	require.NoError(t, err)
	require.Greater(t, width, 30.0)
}
