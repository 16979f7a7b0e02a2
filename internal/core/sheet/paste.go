package sheet

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"candlepath/internal/core/sitemap"
)

// MaxPasted is the most lines of a pasted list.
const MaxPasted = 10_000

// Errors of pasting.
var (
	ErrPastedNothing = errors.New("the list holds no line with a title")
	ErrPastedTooMuch = fmt.Errorf("a pasted list has at most %d lines; import it as a file", MaxPasted)
)

// LongTitleError names a pasted line whose title is too long.
type LongTitleError struct{ Line int }

func (e *LongTitleError) Error() string {
	return fmt.Sprintf("line %d is longer than a title may be, %d characters; shorten it", e.Line, sitemap.MaxTitle)
}

// bullet is what lists put before a line.
var bullet = regexp.MustCompile(`^(?:[-*•–·◦▪]|[0-9]{1,4}[.)])[ \t]+`)

// ParseList reads a pasted list as a table of levels and titles. A line that is
// indented further than the one before, by tabs or spaces and however far, is
// one level below it; bullets and numbers go. Cells behind the title, as
// spreadsheets give them, become notes.
//
//	Visitors            1  Visitors
//	    Opening hours   2  Opening hours
//	            Shop    3  Shop
//	Grounds             1  Grounds
func ParseList(text string) ([]Record, error) {
	records := []Record{{Cells: []string{"level", "title", "notes"}}}
	var widths []int // of the lines on the way down
	n := 0
	for line := range strings.Lines(strings.ReplaceAll(text, "\r\n", "\n")) {
		n++
		body := strings.TrimLeft(strings.TrimRight(line, " \t\r\n\u00a0"), " \t\u00a0")
		if body == "" {
			continue
		}
		if len(records) > MaxPasted {
			return nil, ErrPastedTooMuch
		}
		width := indent(line[:strings.Index(line, body)])
		for len(widths) > 0 && widths[len(widths)-1] >= width {
			widths = widths[:len(widths)-1]
		}
		widths = append(widths, width)
		cells := strings.Split(bullet.ReplaceAllString(body, ""), "\t")
		title := sitemap.CleanTitle(cells[0])
		if len([]rune(title)) > sitemap.MaxTitle {
			return nil, &LongTitleError{n}
		}
		var notes []string
		for _, c := range cells[1:] {
			if c = strings.TrimSpace(c); c != "" {
				notes = append(notes, c)
			}
		}
		if title != "" {
			records = append(records, Record{Line: n, Cells: []string{strconv.Itoa(len(widths)), title, strings.Join(notes, "; ")}})
		} else {
			widths = widths[:len(widths)-1]
		}
	}
	if len(records) == 1 {
		return nil, ErrPastedNothing
	}
	return records, nil
}

// indent measures leading white space; a tab counts as four spaces.
func indent(space string) int {
	n := 0
	for _, c := range space {
		if c == '\t' {
			n += 4 - n%4
		} else {
			n++
		}
	}
	return n
}

// Paste makes entries of a pasted list below an entry, "" for the top, last
// among those there. What is there already by title stays, and takes what the
// list holds below it.
func Paste(t *sitemap.Tree, text, parent string, newID func() string) (*ImportResult, error) {
	records, err := ParseList(text)
	if err != nil {
		return nil, err
	}
	sheet, err := Read(records)
	if err != nil {
		return nil, err
	}
	if parent != "" && t.Find(parent) == t.Home() {
		parent = ""
	}
	return Import(t, sheet, Below, parent, nil, newID)
}
