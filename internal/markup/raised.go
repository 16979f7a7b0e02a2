package markup

import (
	"strings"

	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/util"
)

// writeRaised writes raised and lowered words, the one HTML in a text that pages show. A tag that does not have its other
// next to it, with nothing but text and marks between, is left out like all others.
func writeRaised(w util.BufWriter, source []byte, node ast.Node, entering bool) (ast.WalkStatus, error) {
	tag := rawTag(node, source)
	if !entering || !raises(tag) {
		return ast.WalkSkipChildren, nil
	}
	name, ends := strings.CutPrefix(tag, "</")
	want, next := "</"+strings.TrimPrefix(name, "<"), ast.Node.NextSibling
	if ends {
		want, next = "<"+name, ast.Node.PreviousSibling
	}
	for n := next(node); n != nil; n = next(n) {
		if other := rawTag(n, source); other != "" {
			if other == want {
				_, _ = w.WriteString(tag)
			}
			break
		}
	}
	return ast.WalkSkipChildren, nil
}

// raises tells whether a tag begins or ends raised or lowered words.
func raises(tag string) bool {
	return tag == "<sup>" || tag == "</sup>" || tag == "<sub>" || tag == "</sub>"
}

// rawTag is the tag that a node of a text is; empty: it is none.
func rawTag(n ast.Node, source []byte) string {
	raw, ok := n.(*ast.RawHTML)
	if !ok {
		return ""
	}
	return string(raw.Segments.Value(source))
}
