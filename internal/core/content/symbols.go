package content

import (
	_ "embed"
	"slices"
	"strings"
)

// symbolTable has a line for each symbol: its name, the drawing that it is made of when the
// assets are built, and words by which it is found.
//
//go:embed symbols.txt
var symbolTable string

var symbolNames, symbolWords = func() (names []string, words map[string]string) {
	names, words = []string{""}, map[string]string{}
	for line := range strings.Lines(symbolTable) {
		f := strings.Fields(line)
		names = append(names, f[0])
		words[f[0]] = strings.Join(append(f[:1:1], f[2:]...), " ")
	}
	return names, words
}()

// Symbols are those that tiles, menus and sites can show, by name; "" is none.
func Symbols() []string { return slices.Clone(symbolNames) }

// SymbolWords are the words by which a symbol is found, its name first.
func SymbolWords(name string) string { return symbolWords[name] }
