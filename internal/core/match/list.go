package match

import (
	"slices"
	"strings"

	"candlepath/internal/core/address"
)

// List is the list of an older site, as it is read: each address once.
type List struct {
	Lines   []Line
	Refused []RefusedLine

	at map[string]int
}

// Line is one address of such a list.
type Line struct {
	Old
	Host    string // empty: not known
	Visits  int
	Written []string // each way in which the list writes the address, without the host
}

// RefusedLine is a line that names no address.
type RefusedLine struct {
	Line     int
	Text, Of string // what stands there, and why it is refused
}

// MostLines is how many addresses a list has at most.
const MostLines = 200_000

// Limits of what is kept of an old page.
const (
	mostTitle = 300
	mostText  = 4000

	mostWritten = 20
)

// Add adds an address as it is written, a path or a URL. One that is there already, on the same
// host, adds its visits.
func (l *List) Add(line int, written, title, host, text string, visits int) {
	addr := strings.TrimSpace(written)
	if scheme, rest, ok := strings.Cut(addr, "://"); ok && (strings.EqualFold(scheme, "http") || strings.EqualFold(scheme, "https")) {
		h, path, _ := strings.Cut(rest, "/")
		host, addr = h, "/"+path
	} else if addr != "" && !strings.HasPrefix(addr, "/") && !strings.Contains(addr, ":") {
		addr = "/" + addr
	}
	addr, _, _ = strings.Cut(addr, "#")
	key, err := address.Options{}.Key(addr)
	switch {
	case addr == "":
		return
	case addr[0] != '/':
		l.Refused = append(l.Refused, RefusedLine{line, clip(written, 200), "it is no address of a page"})
		return
	case err != nil:
		l.Refused = append(l.Refused, RefusedLine{line, clip(written, 200), strings.TrimPrefix(err.Error(), address.ErrRefused.Error()+": ")})
		return
	}
	host = strings.ToLower(strings.TrimSuffix(strings.TrimSpace(host), "."))
	if l.at == nil {
		l.at = map[string]int{}
	}
	id := host + " " + key
	i, met := l.at[id]
	if !met {
		i = len(l.Lines)
		l.at[id] = i
		l.Lines = append(l.Lines, Line{Old: Old{Address: key}, Host: host})
	}
	at := &l.Lines[i]
	at.Visits += visits
	if len(at.Written) < mostWritten && !slices.Contains(at.Written, addr) {
		at.Written = append(at.Written, addr)
	}
	if at.Title == "" {
		at.Title = clip(strings.Join(strings.Fields(title), " "), mostTitle)
	}
	if at.Text == "" {
		at.Text = clip(text, mostText)
	}
}

func clip(s string, most int) string {
	if len(s) <= most {
		return s
	}
	return strings.ToValidUTF8(s[:most], "")
}

// Olds gives the addresses to match.
func (l *List) Olds() []Old {
	out := make([]Old, len(l.Lines))
	for i := range l.Lines {
		out[i] = l.Lines[i].Old
	}
	return out
}
