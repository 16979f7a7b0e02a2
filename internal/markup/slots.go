package markup

import (
	"compress/gzip"
	"runtime/debug"
)

// Slots tells where in a rendered page what its slots hold stands. A page whose template changes
// is laid out anew around that, so that its texts are not rendered again.
type Slots struct {
	By   string     `json:"by"` // the build of the program that rendered them
	List []SlotSpan `json:"list"`
}

// SlotSpan is where the blocks of a slot stand: bytes of the HTML from one to before another, and
// so headings of the page.
type SlotSpan struct {
	Slot     string `json:"slot"`
	From     int    `json:"from"`
	To       int    `json:"to"`
	FromHead int    `json:"fromHead"`
	ToHead   int    `json:"toHead"`
}

// KeptSlot is what a slot holds as it was rendered.
type KeptSlot struct {
	html     string
	headings []Heading
}

// Kept gives what the slots of a rendered page hold, by their keys. It is empty where another build of the program
// rendered them, which may have done it in another way.
func (m *Markup) Kept(html string, headings []Heading, s Slots) map[string]KeptSlot {
	if s.By != m.build {
		return nil
	}
	out := make(map[string]KeptSlot, len(s.List))
	for _, at := range s.List {
		if at.From < 0 || at.To < at.From || at.To > len(html) || at.FromHead < 0 || at.ToHead < at.FromHead || at.ToHead > len(headings) {
			return nil
		}
		out[at.Slot] = KeptSlot{html[at.From:at.To], headings[at.FromHead:at.ToHead]}
	}
	return out
}

// Build names the build of the program; empty where it is not known, as in tests.
func Build() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return ""
	}
	out := ""
	for _, s := range info.Settings {
		if s.Key == "vcs.revision" || s.Key == "vcs.time" || s.Key == "vcs.modified" {
			out += s.Value + " "
		}
	}
	return out
}

// Unzip is the inverse of Zip; it keeps what it needs for the next time.
func (m *Markup) Unzip(b []byte) ([]byte, error) {
	r, kept := m.unzips.Get().(*gzip.Reader)
	if !kept {
		r = new(gzip.Reader)
	}
	defer m.unzips.Put(r)
	return unzip(r, b)
}
