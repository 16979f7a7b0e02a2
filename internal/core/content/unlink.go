package content

import (
	"regexp"
	"strings"
)

// Unlinked gives the content with every link to an entry made plain words, and
// without the tiles that lead there. title stands for a link that has no words
// of its own.
func Unlinked(p Page, entry, title string) Page {
	return mapped(p, func(k *blockKind, b Block) Block { return k.unlink(b, entry, title) })
}

// unlinked does it to one text: links with their target in place, <page:ID>, and
// links by a reference that is defined elsewhere in the text.
func unlinked(text, entry, title string) string {
	dest := regexp.QuoteMeta(Scheme+entry) + `(?:#[^\s)>]*)?`
	inline := regexp.MustCompile(`\]\(\s*<?` + dest + `>?(?:\s+(?:"[^"]*"|'[^']*'|\([^)]*\)))?\s*\)`)
	for from := 0; ; {
		at := inline.FindStringIndex(text[from:])
		if at == nil {
			break
		}
		end, after := from+at[0], from+at[1]
		begin := opens(text, end)
		if begin < 0 {
			from = after
			continue
		}
		words := text[begin+1 : end]
		if strings.TrimSpace(words) == "" {
			words = title
		}
		text = text[:begin] + words + text[after:]
		from = begin + len(words)
	}
	text = regexp.MustCompile(`<`+dest+`>`).ReplaceAllLiteralString(text, title)
	define := regexp.MustCompile(`(?m)^ {0,3}\[([^\]\n]+)\]:[ \t]*<?` + dest + `>?[ \t]*(?:"[^"\n]*"|'[^'\n]*'|\([^)\n]*\))?[ \t]*(?:\n|\z)`)
	for _, m := range define.FindAllStringSubmatch(text, -1) {
		label := regexp.QuoteMeta(m[1])
		text = strings.Replace(text, m[0], "", 1)
		text = regexp.MustCompile(`(?i)\[([^\[\]]+)\]\[`+label+`\]`).ReplaceAllString(text, "$1")
		text = regexp.MustCompile(`(?i)\[(`+label+`)\](?:\[\])?`).ReplaceAllString(text, "$1")
	}
	return text
}

// opens finds the bracket that the one at end closes, or gives -1.
func opens(text string, end int) int {
	escaped := func(i int) bool {
		n := 0
		for i--; i >= 0 && text[i] == '\\'; i-- {
			n++
		}
		return n%2 == 1
	}
	depth := 1
	for i := end - 1; i >= 0; i-- {
		switch {
		case text[i] == ']' && !escaped(i):
			depth++
		case text[i] == '[' && !escaped(i):
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}
