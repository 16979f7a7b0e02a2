package markup_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"candlepath/internal/core/content"
	"candlepath/internal/markup"
)

// pageOfAllKinds has every kind of block, filled, and text in all of them that hold some.
func pageOfAllKinds() (p content.Page, text string) {
	const prose = "Water by **weight**, not by the clock: [lift the pot](page:a), feel, decide.\n\n- early and late\n- never on hot leaves\n\n| house | morning |\n| --- | --- |\n| palms | 7:00 |\n"
	var all strings.Builder
	var blocks []content.Block
	fill := func(fields []content.Field) content.Values {
		v := content.Values{}
		for _, f := range fields {
			switch f.Type {
			case content.FieldProse:
				v[f.Key] = prose
				all.WriteString(prose)
			case content.FieldText, content.FieldLong:
				v[f.Key] = "a word or two"
			case content.FieldPicture, content.FieldFile:
				v[f.Key] = "/files/0123456789abcdef0123456789abcdef/leaf.png"
			case content.FieldLink:
				v[f.Key] = "page:a"
			}
		}
		return v
	}
	for _, k := range content.Kinds() {
		v := fill(k.Fields)
		b := content.Block{Type: k.Type, Text: v["text"], Set: v}
		delete(v, "text")
		for range 3 {
			if k.Item != "" {
				b.Items = append(b.Items, fill(k.Items))
			}
		}
		if k.Columns {
			b.Columns = [][]content.Block{{{Type: content.Text, Text: prose}}, {{Type: content.Text, Text: prose}}}
			all.WriteString(prose + prose)
		}
		blocks = append(blocks, b)
	}
	return content.Clean(content.Page{Slots: map[string][]content.Block{"main": blocks}}), all.String()
}

// BenchmarkRender tells what a page with every kind of block takes, beside goldmark alone on
// all of its text.
func BenchmarkRender(b *testing.B) {
	p, text := pageOfAllKinds()
	m, alone := markup.New(), goldmark.New(goldmark.WithExtensions(extension.GFM))
	b.Run("page", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			if _, err := m.Article(content.OneSlot("main"), p, markup.Around{}); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("goldmark", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			var out bytes.Buffer
			if err := alone.Convert([]byte(text), &out); err != nil {
				b.Fatal(err)
			}
		}
	})
}
