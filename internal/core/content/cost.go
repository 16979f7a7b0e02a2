package content

import (
	"fmt"
	"strings"
)

// A text is parsed in time that is mostly linear in its length, but some marks cost the square of how
// many of them stand in one paragraph: brackets and delimiters are matched with each other, definitions
// of links are cut off the paragraph one by one, and each line is offered to all lists that are open.
// TooCostly works an upper bound of that out from the text alone, so that every instance decides alike,
// and before anything is parsed. The weights are nanoseconds, measured; texts of people stay thousands
// of times below the limit.

const (
	costPerByte   = 4_000      // of the text: 0.4 s for 100 kB
	costLeast     = 60_000_000 // that any text may cost
	delimiterCost = 1.6        // square roots: the costs of a paragraph are (delimiters and brackets)²
	bracketCost   = 2.9
	defineCost    = 1   // for a definition and each byte of its paragraph
	openCost      = 300 // for a line and each list or quote that is open
	deepestLine   = 50  // quotes and lists that begin on one line
)

// Costly tells from which line on a text is too costly to be parsed, and why.
type Costly struct {
	Line int
	Why  string
}

// Error says it in words, as a clause.
func (c *Costly) Error() string { return fmt.Sprintf("from line %d on there are %s", c.Line, c.Why) }

// TooCostly tells whether a text is too costly to be parsed; nil where it is not.
func TooCostly(text string) *Costly {
	s := costs{limit: max(costLeast, costPerByte*float64(len(text)))}
	for line := range strings.Lines(text) {
		s.line++
		if s.add(line); s.costly != nil {
			return s.costly
		}
	}
	s.endParagraph()
	return s.costly
}

// costs are what was met so far.
type costs struct {
	limit  float64
	line   int
	costly *Costly

	began                           int // line of the paragraph
	delimiters, brackets, defs, len int // in the paragraph
	total                           float64

	open  int    // lists and quotes that may be open
	blank bool   // the line before was
	fence string // that is open at the margin; nothing in it is parsed
	html  bool   // there was something like HTML, in which a fence may be none
}

func (s *costs) add(line string) {
	rest, marks, depth := opened(line)
	if marks > deepestLine {
		s.refuse(s.line, fmt.Sprintf("more than %d lists or quotes inside each other", deepestLine))
		return
	}
	empty := strings.TrimSpace(rest) == ""
	switch {
	case empty:
	case depth > 0, s.blank:
		s.open = depth
	}
	s.blank = empty
	if s.total += float64(openCost * s.open); s.total > s.limit {
		s.refuse(s.line, "too many lines in lists inside each other")
		return
	}
	if s.fenced(line) || empty {
		s.endParagraph()
		return
	}
	s.count(rest)
}

// fenced tells whether a line belongs to a block of code between fences at the margin. Fences within
// lists and quotes end with these, and are not looked at: what stands in them counts.
func (s *costs) fenced(line string) bool {
	s.html = s.html || strings.HasPrefix(strings.TrimLeft(line, " "), "<")
	if s.html {
		return false
	}
	if s.fence != "" {
		body := strings.TrimRight(line, " \t\r\n")
		if strings.HasPrefix(body, s.fence) && strings.Trim(body, s.fence[:1]) == "" {
			s.fence = ""
		}
		return true
	}
	for _, mark := range []string{"`", "~"} {
		n := len(line) - len(strings.TrimLeft(line, mark))
		if n >= 3 && (mark == "~" || !strings.Contains(line[n:], mark)) {
			s.fence = line[:n]
			return true
		}
	}
	return false
}

func (s *costs) count(rest string) {
	if s.len == 0 {
		s.began = s.line
	}
	s.len += len(rest)
	if rest[0] == '[' && strings.Contains(rest, "]:") {
		s.defs++
	}
	for i := range len(rest) {
		switch c := rest[i]; c {
		case '[', ']':
			s.brackets++
		case '*', '_', '~':
			if i == 0 || rest[i-1] != c {
				s.delimiters++
			}
		}
	}
	if s.paragraph() > s.limit {
		s.endParagraph()
	}
}

func (s *costs) paragraph() float64 {
	inline := delimiterCost*float64(s.delimiters) + bracketCost*float64(s.brackets)/2 // two for a pair
	return inline*inline + defineCost*float64(s.defs)*float64(s.len)
}

func (s *costs) endParagraph() {
	if s.total += s.paragraph(); s.total > s.limit && s.len > 0 {
		s.refuse(s.began, fmt.Sprintf("%d brackets, %d marks of emphasis and %d definitions of links without an empty line", s.brackets, s.delimiters, s.defs))
	}
	s.delimiters, s.brackets, s.defs, s.len = 0, 0, 0, 0
}

func (s *costs) refuse(line int, why string) {
	if s.costly == nil {
		s.costly = &Costly{line, why}
	}
}

// opened gives what follows the quotes and lists that begin on a line, how many these are, and how many
// may be open on it: those, and one for each two columns of indentation.
func opened(line string) (rest string, marks, depth int) {
	rest = strings.TrimRight(line, "\r\n")
	columns := 0
	for rest != "" {
		switch rest[0] {
		case ' ':
			columns++
			rest = rest[1:]
		case '\t':
			columns += 4
			rest = rest[1:]
		default:
			n := marker(rest)
			if n == 0 {
				return rest, marks, marks + columns/2
			}
			marks++
			rest = rest[n:]
		}
	}
	return rest, marks, marks + columns/2
}

// marker is how long the mark of a quote or of an item is with which a text begins; 0: it begins with none.
func marker(s string) int {
	ends := func(n int) int {
		if n == len(s) || s[n] == ' ' || s[n] == '\t' {
			return n
		}
		return 0
	}
	switch s[0] {
	case '>':
		return 1
	case '-', '+', '*':
		return ends(1)
	}
	digits := len(s) - len(strings.TrimLeft(s, "0123456789"))
	if digits > 0 && digits < 10 && digits < len(s) && (s[digits] == '.' || s[digits] == ')') {
		return ends(digits + 1)
	}
	return 0
}
