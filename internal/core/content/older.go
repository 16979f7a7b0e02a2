package content

import (
	"io"
	"strings"
)

// OldBody is the text of a page of an older site in our blocks.
type OldBody struct {
	Blocks  []Block
	Summary string   // what the page says of itself, else how it begins; one line
	Source  string   // the page's HTML as it was, in UTF-8
	Lost    []string // what could not be kept, in words
}

// PictureFile is a file as the site keeps it; most are pictures.
type PictureFile struct {
	Name          string        // in its address
	Given         string        // what it was called where it came from; downloads are called that
	Type          string        // image/png and the like
	Body          io.ReadSeeker // what it holds, from its beginning
	Bytes         int64
	Width, Height int           // of a picture
	Sizes         []PictureSize // of a picture: smaller ones, the smallest first
}

// PictureSize is a picture in a smaller size.
type PictureSize struct {
	Width int
	Data  []byte
}

// OldLinks says what becomes of the links and pictures of an older page.
type OldLinks struct {
	Page    func(file string) (id string, ok bool)
	Picture func(p PictureFile) (src string, err error)
}

// Filled is a page of a template with blocks in the first slot that takes text,
// and the summary in its lead. Blocks that the slot does not take become text.
func Filled(t Template, blocks []Block, summary string) Page {
	p := Page{Fields: map[string]string{}, Slots: map[string][]Block{}}
	for _, part := range t.Parts {
		if part.Kind == Lead && len(part.Fields) > 0 && part.Fields[0].Type == FieldText {
			p.Fields[part.Fields[0].Key] = Shortened(summary, maxSummary)
			break
		}
	}
	for _, slot := range t.Slots() {
		if !slot.Accepts(Text) {
			continue
		}
		for _, b := range blocks {
			if !slot.Accepts(b.Type) {
				b = Block{Type: Text, Text: b.Text}
			}
			p.Slots[slot.Key] = append(p.Slots[slot.Key], b)
		}
		break
	}
	return p
}

const maxSummary = 220 // characters

// Shortened cuts a text at the end of a sentence, else at a word.
func Shortened(s string, most int) string {
	r := []rune(strings.Join(strings.Fields(s), " "))
	if len(r) <= most {
		return string(r)
	}
	cut := string(r[:most])
	if i := strings.LastIndex(cut, ". "); i > most/3 {
		return cut[:i+1]
	}
	if i := strings.LastIndexByte(cut, ' '); i > 0 {
		cut = cut[:i]
	}
	return strings.TrimRight(cut, " ,;:–-") + " …"
}
