package content

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// The plain text of a page is CommonMark with its other blocks between lines of colons:
//
//	::::: slot main
//
//	A text block, as it is.
//
//	::: note
//	tone: warning
//
//	Mind the step.
//	:::
//
//	::: tiles
//	columns: 2
//
//	- to: page:0192
//	  title: Opening hours
//	:::
//
//	:::: columns
//	On the left.
//	:::: column
//	On the right.
//	::::
//
// After the opening line come the settings, then a blank line, then the text or the items.
// A text of an item stands below its key, indented by four. Where a text has lines of
// colons itself, the fence around it is longer. Blocks have no ids there; Adopted gives
// them those of the blocks that they were.

// PlainProblem is a line of plain text that cannot be read.
type PlainProblem struct {
	Line int    `json:"line"` // from 1
	Text string `json:"text"`
}

var (
	colons   = regexp.MustCompile(`^(:{3,})[ \t]*([a-z]*)[ \t]*([0-9A-Za-z_-]*)[ \t]*$`)
	setLine  = regexp.MustCompile(`^([a-z]+):[ \t]*(.*)$`)
	itemLine = regexp.MustCompile(`^- ?(.*)$`)
)

// Plain writes the slots of a page as plain text. Slots that the template does not show are
// not in it.
func (t Template) Plain(p Page) string {
	var out strings.Builder
	for _, s := range t.Slots() {
		fmt.Fprintf(&out, "::::: slot %s\n\n", s.Key)
		writePlain(&out, p.Slots[s.Key])
	}
	return out.String()
}

func writePlain(out *strings.Builder, blocks []Block) {
	bare := false // the one before was
	for _, b := range blocks {
		text := strings.Trim(b.Text, "\n")
		if b.Type == Text && len(b.Set) == 0 && !bare && strings.TrimSpace(text) != "" && longest(text) == 0 && !inCode(text) {
			bare = true
			out.WriteString(text + "\n\n")
			continue
		}
		bare = false
		writeFence(out, b)
	}
}

// longest is the length of the longest run of colons with which a line of a text begins.
func longest(text string) int {
	n := 0
	for line := range strings.Lines(text) {
		if m := regexp.MustCompile(`^[ \t]*(:{3,})`).FindStringSubmatch(line); m != nil {
			n = max(n, len(m[1]))
		}
	}
	return n
}

func writeFence(out *strings.Builder, b Block) {
	k := kindOf(b.Type)
	if k == nil {
		return
	}
	var in strings.Builder
	for _, f := range append(slices.Clone(k.fields), hidden) {
		if v := b.Set[f.Key]; v != "" && f.Type != FieldProse {
			in.WriteString(f.Key + ": " + oneLine(f, v) + "\n")
		}
	}
	text := strings.Trim(b.Text, "\n")
	if in.Len() > 0 && (text != "" || len(b.Items) > 0 || len(b.Columns) > 0) || setLine.MatchString(firstLine(text)) {
		in.WriteString("\n")
	}
	if text != "" {
		in.WriteString(text + "\n")
	}
	for _, it := range b.Items {
		in.WriteString(writeItem(k, it))
	}
	var columns []string
	for _, col := range b.Columns {
		var inner strings.Builder
		writePlain(&inner, col)
		columns = append(columns, strings.TrimRight(inner.String(), "\n"))
	}
	least := 3
	if k.columns {
		least = 4
	}
	fence := strings.Repeat(":", max(least, longest(in.String()+strings.Join(columns, "\n"))+1))
	if longest(in.String()+strings.Join(columns, "\n")) == 0 {
		fence = strings.Repeat(":", least)
	}
	in.WriteString(strings.Join(columns, "\n"+fence+" column\n"))
	if len(columns) > 0 {
		in.WriteString("\n")
	}
	fmt.Fprintf(out, "%s %s\n%s%s\n\n", fence, b.Type, in.String(), fence)
}

func firstLine(text string) string {
	line, _, _ := strings.Cut(text, "\n")
	return line
}

func oneLine(f Field, v string) string {
	if f.Type == FieldSeveral {
		return strings.ReplaceAll(v, "\n", ", ")
	}
	return strings.Join(strings.Fields(v), " ")
}

func writeItem(k *blockKind, it Values) string {
	var lines []string
	for _, f := range k.items {
		switch v := it[f.Key]; {
		case v == "":
		case f.Type == FieldProse:
			lines = append(lines, f.Key+":")
			for line := range strings.SplitSeq(strings.Trim(v, "\n"), "\n") {
				lines = append(lines, "  "+line)
			}
		default:
			lines = append(lines, f.Key+": "+oneLine(f, v))
		}
	}
	if len(lines) == 0 {
		return "-\n"
	}
	for i := range lines {
		lines[i] = strings.TrimRight("  "+lines[i], " ")
	}
	return "- " + strings.TrimPrefix(strings.Join(lines, "\n"), "  ") + "\n"
}

// ReadPlain reads plain text into the slots of a page; fields and slots that the template
// does not show are those of was. Every line that cannot be read is told, and then nothing
// is given.
//
// to gives what a link is that begins with a slash: another one, or the same.
func (t Template) ReadPlain(text string, was Page, to func(address string) string) (Page, []PlainProblem) {
	r := plainReader{lines: strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")}
	out := copied(was)
	slots := map[string]bool{}
	for _, s := range t.Slots() {
		slots[s.Key] = true
		out.Slots[s.Key] = nil
	}
	slot := ""
	for r.at < len(r.lines) {
		from := r.at
		blocks := r.blocks(0)
		switch {
		case slot != "":
			out.Slots[slot] = append(out.Slots[slot], blocks...)
		case len(blocks) > 0:
			r.problem(from, "Text before the first line that begins a slot, such as “::::: slot "+firstSlot(t)+"”.")
		}
		if r.at >= len(r.lines) {
			break
		}
		name := colons.FindStringSubmatch(r.lines[r.at])[3]
		if !slots[name] {
			r.problem(r.at, fmt.Sprintf("The template has no slot called %q.", name))
		}
		slot = name
		r.at++
	}
	if len(r.problems) > 0 {
		return Page{}, r.problems
	}
	return Adopted(was, Clean(readdressed(out, to))), nil
}

// ownAddress is a link to an address of the site, as it stands in CommonMark.
var ownAddress = regexp.MustCompile(`(\]\(<?)(/[^\s)>#]*)`)

// readdressed gives the content with other links to addresses of the site.
func readdressed(p Page, to func(address string) string) Page {
	return mapped(p, func(k *blockKind, b Block) Block {
		return k.mapValues(b, func(f Field, v string) string {
			switch {
			case f.Type == FieldProse:
				return ownAddress.ReplaceAllStringFunc(v, func(link string) string {
					at := strings.IndexByte(link, '/')
					return link[:at] + to(link[at:])
				})
			case typeOf(f.Type).links && strings.HasPrefix(v, "/"):
				path, anchor, _ := strings.Cut(v, "#")
				if path = to(path); anchor != "" {
					path += "#" + anchor
				}
				return path
			}
			return v
		}, nil)
	})
}

func firstSlot(t Template) string {
	for _, s := range t.Slots() {
		return s.Key
	}
	return "main"
}

type plainReader struct {
	lines    []string
	at       int
	problems []PlainProblem
}

func (r *plainReader) problem(at int, text string) {
	r.problems = append(r.problems, PlainProblem{at + 1, text})
}

// blocks reads blocks until the end, the next slot, or a line of as many colons as the
// fence around them has.
func (r *plainReader) blocks(fence int) (out []Block) {
	var text []string
	flush := func() {
		if s := strings.Trim(strings.Join(text, "\n"), "\n"); strings.TrimSpace(s) != "" {
			out = append(out, Block{Type: Text, Text: s})
		}
		text = nil
	}
	code := codeFence("") // inside there are no other fences
	for r.at < len(r.lines) {
		line := r.lines[r.at]
		code = code.after(line)
		m := colons.FindStringSubmatch(line)
		if m == nil || code != "" {
			text = append(text, line)
			r.at++
			continue
		}
		if m[2] == "slot" && m[3] != "" && fence == 0 || len(m[1]) == fence {
			flush()
			return out
		}
		flush()
		if b, ok := r.fenced(m); ok {
			out = append(out, b)
		}
	}
	flush()
	return out
}

// codeFence is what opened the code in which a line stands, or empty.
type codeFence string

func (open codeFence) after(line string) codeFence {
	m := fence.FindStringSubmatch(line)
	switch {
	case m == nil:
	case open == "":
		return codeFence(m[1])
	case m[1][0] == open[0] && len(m[1]) >= len(open) && strings.TrimSpace(line) == m[1]:
		return ""
	}
	return open
}

// inCode tells whether a text ends inside of code.
func inCode(text string) bool {
	code := codeFence("")
	for line := range strings.SplitSeq(text, "\n") {
		code = code.after(line)
	}
	return code != ""
}

// fenced reads a block from its opening line to its closing one.
func (r *plainReader) fenced(m []string) (Block, bool) {
	begun, n := r.at, len(m[1])
	r.at++
	k := kindOf(BlockType(m[2]))
	if k == nil {
		r.problem(begun, fmt.Sprintf("There is no kind of block called %q.", m[2]))
		r.body(n)
		return Block{}, false
	}
	b := Block{Type: k.is, Set: r.settings(k)}
	if k.columns {
		for {
			b.Columns = append(b.Columns, r.blocks(n))
			if r.at >= len(r.lines) || colons.FindStringSubmatch(r.lines[r.at])[2] != "column" {
				break
			}
			r.at++
		}
		r.end(begun, n)
		return b, true
	}
	from := r.at
	body := r.body(n)
	if r.at > len(r.lines) {
		r.problem(begun, "This block has no line of colons at its end.")
	}
	switch {
	case k.item != "":
		b.Items = r.items(k, body, from)
	case k.hasText():
		b.Text = strings.Trim(strings.Join(body, "\n"), "\n")
	default:
		for i, line := range body {
			if strings.TrimSpace(line) != "" {
				r.problem(from+i, fmt.Sprintf("A %s has no such setting and no text.", strings.ToLower(k.name)))
			}
		}
	}
	return b, true
}

func (k *blockKind) hasText() bool {
	return slices.ContainsFunc(k.fields, func(f Field) bool { return f.Key == ownText })
}

func (r *plainReader) end(begun, n int) {
	if r.at >= len(r.lines) {
		r.problem(begun, "This block has no line of colons at its end.")
		return
	}
	if m := colons.FindStringSubmatch(r.lines[r.at]); m[2] != "" {
		r.problem(r.at, fmt.Sprintf("A line of %d colons and nothing else ends the block.", n))
	}
	r.at++
}

// settings reads the lines of settings below an opening line, and the blank one after them.
func (r *plainReader) settings(k *blockKind) Values {
	out := Values{}
	for r.at < len(r.lines) {
		m := setLine.FindStringSubmatch(r.lines[r.at])
		if m == nil {
			break
		}
		i := slices.IndexFunc(append(slices.Clone(k.fields), hidden), func(f Field) bool { return f.Key == m[1] && f.Type != FieldProse })
		if i < 0 {
			break
		}
		v := strings.TrimSpace(m[2])
		if m[1] == hidden.Key {
			v = strings.ReplaceAll(v, ", ", "\n")
		}
		out[m[1]] = v
		r.at++
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// body reads to the line that closes a fence of n colons, and passes it.
func (r *plainReader) body(n int) (out []string) {
	for ; r.at < len(r.lines); r.at++ {
		if m := colons.FindStringSubmatch(r.lines[r.at]); m != nil && len(m[1]) == n && m[2] == "" {
			r.at++
			return out
		}
		out = append(out, r.lines[r.at])
	}
	r.at++ // beyond the end: it was not closed
	return out
}

func (r *plainReader) items(k *blockKind, lines []string, from int) (out []Values) {
	prose := "" // the key whose text goes on
	for i, line := range lines {
		rest, in := strings.CutPrefix(line, "  ")
		switch m := itemLine.FindStringSubmatch(line); {
		case m != nil:
			out, prose, rest = append(out, Values{}), "", m[1]
		case strings.TrimSpace(line) == "" && prose == "":
			continue
		case len(out) == 0 || !in && strings.TrimSpace(line) != "":
			r.problem(from+i, fmt.Sprintf("Each %s begins with “- ”, and what is set of it is indented by two.", k.item))
			continue
		}
		it := out[len(out)-1]
		if prose != "" && (strings.HasPrefix(rest, "  ") || strings.TrimSpace(rest) == "") {
			it[prose] += strings.TrimPrefix(rest, "  ") + "\n"
			continue
		}
		if rest == "" {
			continue
		}
		m := setLine.FindStringSubmatch(rest)
		if m == nil || !slices.ContainsFunc(k.items, func(f Field) bool { return f.Key == m[1] }) {
			r.problem(from+i, fmt.Sprintf("A %s has no such setting.", k.item))
			continue
		}
		if prose = ""; m[1] == ownText && m[2] == "" {
			prose = ownText
			continue
		}
		it[m[1]] = strings.TrimSpace(m[2])
	}
	for _, it := range out {
		if it[ownText] = strings.Trim(it[ownText], "\n"); it[ownText] == "" {
			delete(it, ownText)
		}
	}
	return out
}

// Adopted gives blocks without ids those of the blocks of an earlier text that they are.
func Adopted(before, after Page) Page {
	was, is := placedBlocks(before), placedBlocks(after)
	of := matched(was, is)
	out, k := copied(after), 0
	for _, key := range sortedKeys(after.Slots) {
		out.Slots[key] = slices.Clone(after.Slots[key])
		for i := range out.Slots[key] {
			if at, ok := of[k]; ok && out.Slots[key][i].ID == "" {
				out.Slots[key][i].ID, out.Slots[key][i].From = was[at].ID, was[at].From
			}
			k++
		}
	}
	return out
}
