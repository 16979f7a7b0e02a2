package redirect

import (
	"slices"
	"strings"
)

// MostLines is how many lines a pasted list can have.
const MostLines = 300_000

// ParseLines reads a pasted list, a redirect a line: the old address, where it leads, and
// perhaps a code and a kind of match. Columns are told apart by a tab, an arrow, a semicolon,
// a comma or blanks; a first line without any address is a heading. Empty lines and those
// that begin with # are passed over.
func ParseLines(text string) []Wish {
	var out []Wish
	n := 0
	for line := range strings.Lines(text) {
		n++
		line = strings.TrimSpace(strings.TrimPrefix(line, "\uFEFF"))
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		if w := WishOf(n, columns(line)); len(out) > 0 || !isHeading(w) {
			out = append(out, w)
		}
	}
	return out
}

// arrows stand between the two addresses of a line.
var arrows = []string{" -> ", " => ", "→", "⇒", " > "}

func columns(line string) []string {
	for _, arrow := range arrows {
		if from, to, ok := strings.Cut(line, arrow); ok {
			return append([]string{strings.TrimSpace(from)}, columns(strings.TrimSpace(to))...)
		}
	}
	for _, sep := range []string{"\t", ";", ","} {
		if strings.Contains(line, sep) {
			return strings.Split(line, sep)
		}
	}
	return strings.Fields(line)
}

// WishOf makes a wish of the columns of a line: the first two are addresses, the others a
// code, a kind of match or a note, told by what they say. A number, or one word in the third
// column, is meant as a code, also where there is no such code: judging refuses it then. An
// address that ends in a star stands for all below.
func WishOf(line int, cols []string) Wish {
	w := Wish{Line: line}
	for i, c := range cols {
		c = strings.Trim(strings.TrimSpace(c), `"`)
		_, code := codes[strings.ToLower(c)]
		switch {
		case i == 0:
			w.From = c
		case c == "":
		case i == 1 && !slices.Contains([]string{"410"}, c):
			w.To = c
		case code:
			w.Code = c
		case Match(strings.ToLower(c)) == Exact, Match(strings.ToLower(c)) == Prefix, Match(strings.ToLower(c)) == Branch:
			w.Match = strings.ToLower(c)
		case w.Code == "" && (isNumber(c) || i == 2 && !strings.Contains(c, " ")):
			w.Code = c
		default:
			w.Note = strings.TrimSpace(w.Note + " " + c)
		}
	}
	if from, ok := strings.CutSuffix(w.From, "/*"); ok && from != "" && (w.Match == "" || w.Match == string(Prefix)) {
		w.From, w.To, w.Match, w.Star = from, strings.TrimSuffix(w.To, "/*"), string(Prefix), true
	}
	return w
}

func isNumber(s string) bool {
	return !strings.ContainsFunc(s, func(c rune) bool { return c < '0' || c > '9' })
}

// isHeading tells whether a first line names columns.
func isHeading(w Wish) bool {
	return !strings.ContainsAny(w.From, "/:") && !strings.ContainsAny(w.To, "/:")
}
