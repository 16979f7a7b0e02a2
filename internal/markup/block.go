package markup

import (
	"embed"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
)

// blockFiles holds one template a kind of block, blocks/KIND.html.
//
//go:embed blocks/*.html
var blockFiles embed.FS

func parseBlocks() *template.Template {
	return template.Must(template.ParseFS(blockFiles, "blocks/*.html"))
}

// Around tells what a page shows that is not its own. What it does not know is not shown.
type Around struct {
	Person func(id string) string                // the name of a person
	File   func(address string) (KeptFile, bool) // a file or picture that the site keeps
}

func (a Around) person(id string) string {
	if a.Person == nil || id == "" {
		return ""
	}
	return a.Person(id)
}

func (a Around) file(address string) (KeptFile, bool) {
	if a.File == nil || address == "" {
		return KeptFile{}, false
	}
	return a.File(address)
}

// Asked is what was asked of what is around a page while it was rendered, with the answers.
type Asked struct {
	People map[string]string   `json:"people,omitempty"`
	Files  map[string]KeptFile `json:"files,omitempty"` // the zero value: there is none
}

// Noting answers the same, and notes what it is asked.
func (a Around) Noting(to *Asked) Around {
	to.People, to.Files = map[string]string{}, map[string]KeptFile{}
	return Around{
		Person: func(id string) string {
			to.People[id] = a.person(id)
			return to.People[id]
		},
		File: func(address string) (KeptFile, bool) {
			f, ok := a.file(address)
			to.Files[address] = f
			return f, ok
		},
	}
}

// Holds tells whether the same would be answered again.
func (q Asked) Holds(a Around) bool {
	for id, name := range q.People {
		if a.person(id) != name {
			return false
		}
	}
	for address, f := range q.Files {
		if now, _ := a.file(address); !reflect.DeepEqual(now, f) {
			return false
		}
	}
	return true
}

// KeptFile is a file that the site keeps.
type KeptFile struct {
	Name          string
	Bytes         int
	Width, Height int     // of a picture
	Sizes         []Sized // of a picture: smaller ones, the smallest first
}

// Sized is a picture in one of its sizes.
type Sized struct {
	Address string
	Width   int
}

// Listed is a page in a list, or an item of a board, as a reader gets it.
type Listed struct {
	Title, Href, Line string
	Symbol, Picture   string
	Label, Value      string // of facts
	Current           bool   // the page itself
}

// blockView is what the template of a block is executed with.
type blockView struct {
	content.Block
	r      *articleWriter
	Listed []Listed // of kinds that are worked out for each reader
	Opened int      // how many pages that the reader opened are shown, where the browser fills the list
}

// HTML renders a text of the block; its headings count for the page.
func (v blockView) HTML(text string) (template.HTML, error) {
	out, tree, err := v.r.m.html(text, &v.r.headings)
	if v.r.trees != nil {
		v.r.trees[text] = tree
	}
	return template.HTML(out), err //nolint:gosec // it was sanitised
}

// Own renders the text of the block itself.
func (v blockView) Own() (template.HTML, error) { return v.HTML(v.Text) }

// Blocks renders the blocks of a column.
func (v blockView) Blocks(column []content.Block) (template.HTML, error) {
	in := articleWriter{m: v.r.m, around: v.r.around, headings: v.r.headings, trees: v.r.trees}
	for _, b := range column {
		if err := in.block(b); err != nil {
			return "", err
		}
	}
	v.r.headings = in.headings
	return template.HTML(in.b.String()), nil //nolint:gosec // templates made it
}

// Person gives the name of a person.
func (v blockView) Person(id string) string { return v.r.around.person(id) }

// Link gives a link to a page, an address of the site or a URL, and nothing of
// anything else.
func (blockView) Link(to string) template.URL { return safeLink(to) }

func safeLink(to string) template.URL {
	if strings.HasPrefix(to, content.Scheme) || address.IsURL(to) || strings.HasPrefix(to, "mailto:") || strings.HasPrefix(to, "tel:") ||
		strings.HasPrefix(to, "/") && !strings.HasPrefix(to, "//") {
		return template.URL(to) //nolint:gosec // as the condition says
	}
	return ""
}

// Figure is a picture as its template needs it.
type Figure struct {
	Src, Alt, Srcset string
	Width, Height    int
}

// Figure gives a picture, or nil where the site has none. What is only decoration has no
// words.
func (v blockView) Figure(values content.Values) *Figure {
	at := values["picture"]
	f, ok := v.r.around.file(at)
	if !ok {
		return nil
	}
	out := &Figure{Src: at, Width: f.Width, Height: f.Height, Srcset: srcset(f.Sizes)}
	if values["decorative"] != content.Yes {
		out.Alt = values["alt"]
	}
	return out
}

// Focus is the class of what must stay in sight of a picture that is cut.
func (blockView) Focus(item content.Values) string {
	if item["focus"] == "" {
		return "middle"
	}
	return strings.ReplaceAll(item["focus"], " ", "-")
}

func srcset(sizes []Sized) string {
	var out []string
	for _, s := range sizes {
		out = append(out, s.Address+" "+strconv.Itoa(s.Width)+"w")
	}
	return strings.Join(out, ", ")
}

// File tells of a download: its name, kind and size.
func (v blockView) File(at string) *FileLine {
	f, ok := v.r.around.file(at)
	if !ok {
		return nil
	}
	kind := strings.ToUpper(strings.TrimPrefix(f.Name[strings.LastIndexByte(f.Name, '.')+1:], "."))
	return &FileLine{Name: f.Name, Told: kind + ", " + Size(f.Bytes)}
}

// FileLine is a download in a list.
type FileLine struct{ Name, Told string }

// Size words a number of bytes.
func Size(bytes int) string {
	switch {
	case bytes < 1000:
		return strconv.Itoa(bytes) + " bytes"
	case bytes < 999_500:
		return strconv.Itoa((bytes+500)/1000) + " kB"
	}
	return strconv.FormatFloat(float64(bytes)/1e6, 'f', 1, 64) + " MB"
}

// Hides are the classes for screens on which a block is not shown.
func hides(b content.Block) string {
	var out []string
	for size := range strings.SplitSeq(b.Get("hide"), "\n") {
		if size != "" {
			out = append(out, "hide-"+size)
		}
	}
	return strings.Join(out, " ")
}

// block writes a block with the template of its kind, and nothing of a kind that
// this program does not know. Of a kind that is worked out for each reader only what it
// is written from, for Compose.
func (r *articleWriter) block(b content.Block) error {
	hide := hides(b)
	if hide != "" {
		fmt.Fprintf(&r.b, "<div class=\"%s\">\n", hide)
	}
	if b.Type.Lists() {
		later(&r.b, b)
	} else if err := r.m.drawn(&r.b, blockView{Block: b, r: r}); err != nil {
		return err
	}
	if hide != "" {
		r.b.WriteString("</div>\n")
	}
	return nil
}

func (m *Markup) drawn(to *strings.Builder, v blockView) error {
	t := m.blocks.Lookup(string(v.Type) + ".html")
	if t == nil {
		return nil
	}
	return t.Execute(to, v)
}

// A block that is worked out later stands in the stored article as a comment. Nothing that
// people write can look like one: templates escape it, and texts lose their comments.
const laterBegins, laterEnds = "<!--later:", "-->\n"

var laterMark = regexp.MustCompile(regexp.QuoteMeta(laterBegins) + `([0-9A-Za-z+/=]+)` + regexp.QuoteMeta(laterEnds))

func later(to *strings.Builder, b content.Block) {
	b.ID, b.From = "", ""
	told, err := json.Marshal(b)
	if err != nil {
		panic(err) // strings and lists of them
	}
	to.WriteString(laterBegins + base64.StdEncoding.EncodeToString(told) + laterEnds)
}

// HasLater tells whether an article holds something that is worked out for each reader.
func HasLater(html string) bool { return strings.Contains(html, laterBegins) }

// Compose fills in the blocks of a stored article that are worked out for each reader.
// list gives what a block shows, and how many of the pages that the reader opened, which
// only the reader's browser knows.
func (m *Markup) Compose(html string, list func(content.Block) (items []Listed, opened int)) (string, error) {
	if !HasLater(html) {
		return html, nil
	}
	var failed error
	out := laterMark.ReplaceAllStringFunc(html, func(mark string) string {
		var b content.Block
		told, err := base64.StdEncoding.DecodeString(strings.TrimSuffix(strings.TrimPrefix(mark, laterBegins), laterEnds))
		if err == nil {
			err = json.Unmarshal(told, &b)
		}
		if err != nil {
			failed = fmt.Errorf("block of a stored article: %w", err)
			return ""
		}
		written, err := m.composed(b, list)
		if err != nil {
			failed = err
		}
		return written
	})
	return out, failed
}

func (m *Markup) composed(b content.Block, list func(content.Block) ([]Listed, int)) (string, error) {
	v := blockView{Block: b, r: &articleWriter{m: m}}
	v.Listed, v.Opened = list(b)
	v.Listed = slices.DeleteFunc(slices.Clone(v.Listed), func(l Listed) bool { return l.Title == "" && l.Value == "" && l.Label == "" })
	if len(v.Listed) == 0 && v.Opened == 0 {
		return "", nil
	}
	var out strings.Builder
	err := m.drawn(&out, v)
	return out.String(), err
}
