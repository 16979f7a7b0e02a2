// Package setting is the table of what a site manager chooses for a site. Each
// setting is one row: its key, how it is asked for, what it is without a choice,
// and what is understood as a value. The form, its checks, what is stored and what
// the program reads derive from the row.
//
// Values are kept as text by key, only those that somebody chose. A value that is
// no longer understood reads as if it had not been chosen.
package setting

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/colour"
	"candlepath/internal/core/content"
)

// Key names a setting.
type Key string

// The settings.
const (
	SiteName       Key = "name"
	Accent         Key = "accent"
	Mark           Key = "mark"
	Foot           Key = "foot"
	MostClicks     Key = "clicks"
	KeepRemoved    Key = "keep-removed"
	LargestFile    Key = "largest-file"
	OldHosts       Key = "old-hosts"
	EditorsPublish Key = "editors-publish"
	OwnWork        Key = "own-work"
	ReviewAsked    Key = "review"
	FourEyes       Key = "four-eyes"
)

// Kind is how a setting is asked for.
type Kind string

// The kinds of settings.
const (
	Line   Kind = "line"   // one line of text
	Colour Kind = "colour" // that white text can be read on, and that can be read on white
	Symbol Kind = "symbol" // one of our symbols, or the address of a picture
	Number Kind = "number"
	Switch Kind = "switch" // On or Off
	Hosts  Kind = "hosts"  // names of hosts, with a blank between them
)

// The values of a switch.
const (
	On  = "on"
	Off = ""
)

// Group is the part of the form in which a setting stands.
type Group string

// The groups, in the order of the form.
const (
	Looks      Group = "How the site looks"
	Limits     Group = "Limits"
	Addresses  Group = "Addresses"
	Publishing Group = "Who may publish"
)

// Setting is one row of the table.
type Setting struct {
	Key      Key
	Group    Group
	Kind     Kind
	Label    string
	Help     string
	Usual    string // without a choice
	Required bool
	Min, Max int    // of a number; Max of a line, in characters
	Unit     string // of a number
}

// PicturePath is how the address of a picture begins.
const PicturePath = "/files/"

// All gives the settings in the order of the form.
func All() []Setting {
	return []Setting{
		{Key: SiteName, Group: Looks, Kind: Line, Label: "Name of the site", Required: true, Max: 60},
		{
			Key: Accent, Group: Looks, Kind: Colour, Label: "Accent colour", Usual: "#2E5A3E",
			Help: "For links, buttons and the current page. Its contrast on white must be at least 4.5 to 1.",
		},
		{Key: Mark, Group: Looks, Kind: Symbol, Label: "Mark beside the name", Usual: "sprout"},
		{Key: Foot, Group: Looks, Kind: Line, Label: "Foot of every page", Help: "For example an address and whom to call in an emergency.", Max: 300},
		{Key: MostClicks, Group: Limits, Kind: Number, Label: "Most clicks a page should be from home", Usual: "3", Min: 1, Max: 20, Unit: "clicks"},
		{
			Key: KeepRemoved, Group: Limits, Kind: Number, Label: "Keep removed pages for at least", Usual: "60", Min: 1, Max: 3650, Unit: "days",
			Help: "After that, a site manager may delete their texts.",
		},
		{Key: LargestFile, Group: Limits, Kind: Number, Label: "Largest picture or file that can be added", Usual: "25", Min: 1, Max: 200, Unit: "MB"},
		{
			Key: OldHosts, Group: Addresses, Kind: Hosts, Label: "Old host names that point here", Max: 1000,
			Help: "With a blank between them. Who asks under such a name is led to the site under its own name, in one hop.",
		},
		{Key: EditorsPublish, Group: Publishing, Kind: Switch, Label: "Editors may publish"},
		{Key: OwnWork, Group: Publishing, Kind: Switch, Label: "Approvers may publish their own work", Help: "Otherwise somebody else publishes it. Site managers always may."},
		{Key: ReviewAsked, Group: Publishing, Kind: Switch, Label: "Changes need approval before they are published", Help: "Branches of the site can say otherwise, under Edition › For review."},
		{Key: FourEyes, Group: Publishing, Kind: Switch, Label: "Nobody approves what they made themselves"},
	}
}

// Find gives the row of a key.
func Find(key Key) (Setting, bool) {
	all := All()
	i := slices.IndexFunc(all, func(s Setting) bool { return s.Key == key })
	if i < 0 {
		return Setting{}, false
	}
	return all[i], true
}

// grounds are what the accent colour is read on.
var grounds = []colour.Colour{colour.White, {0xF2, 0xF5, 0xF0}}

// isHost tells whether a text is the name of a host (RFC 1123).
func isHost(s string) bool {
	for label := range strings.SplitSeq(s, ".") {
		if label == "" || len(label) > 63 || label[0] == '-' || label[len(label)-1] == '-' || strings.Trim(label, "abcdefghijklmnopqrstuvwxyz0123456789-") != "" {
			return false
		}
	}
	return len(s) <= 253
}

// Parse brings a value into the form in which it is kept, or gives a Refusal.
func (s Setting) Parse(v string) (string, error) {
	v = strings.Join(strings.Fields(v), " ")
	switch s.Kind {
	case Line:
		return v, s.checkLine(v)
	case Colour:
		return s.parseColour(v)
	case Symbol:
		if !slices.Contains(Symbols(), v) && !IsPicture(v) {
			return "", s.refuse("%s: choose one of the symbols, or a picture.", s.Label)
		}
		return v, nil
	case Hosts:
		v = strings.ToLower(v)
		for host := range strings.FieldsSeq(v) {
			if !isHost(host) {
				return "", s.refuse("%s: %q is no name of a host, such as staff.quillmere.example.", s.Label, host)
			}
		}
		return v, s.checkLine(v)
	case Number:
		n, err := strconv.Atoi(v)
		if err != nil || n < s.Min || n > s.Max {
			return "", s.refuse("%s: enter a number from %d to %d.", s.Label, s.Min, s.Max)
		}
		return strconv.Itoa(n), nil
	default:
		if v != On && v != Off {
			return "", s.refuse("%s: yes or no.", s.Label)
		}
		return v, nil
	}
}

func (s Setting) checkLine(v string) error {
	switch n := len([]rune(v)); {
	case s.Required && n == 0:
		return s.refuse("%s: enter at least one and at most %d characters.", s.Label, s.Max)
	case n > s.Max:
		return s.refuse("%s: at most %d characters; these are %d.", s.Label, s.Max, n)
	}
	return nil
}

func (s Setting) parseColour(v string) (string, error) {
	c, ok := colour.Parse(v)
	if !ok {
		return "", s.refuse("Enter a colour like #2E5A3E.")
	}
	if d := colour.Darkened(c, grounds...); d != c {
		return "", s.refuse("%s has a contrast of %.1f to 1 on white; text needs %.1f. %s would do.", c, colour.Contrast(c, colour.White), colour.Readable, d)
	}
	return c.String(), nil
}

// A Refusal says, to whoever wrote it, why a value of a setting was not understood.
type Refusal struct {
	Key     Key
	Message string
}

func (r *Refusal) Error() string { return r.Message }

func (s Setting) refuse(format string, args ...any) error {
	return &Refusal{s.Key, fmt.Sprintf(format, args...)}
}

// Symbols are those that can stand before the name of a site.
func Symbols() []string {
	return slices.DeleteFunc(content.Symbols(), func(s string) bool { return s == "" })
}

// IsPicture tells whether a mark is a picture, and not one of our symbols.
func IsPicture(mark string) bool { return strings.HasPrefix(mark, PicturePath) }

// Values are what was chosen, by key. The zero value has chosen nothing.
type Values map[Key]string

// Text gives the value of a setting; the usual one where none was chosen.
func (v Values) Text(key Key) string {
	s, _ := Find(key)
	if chosen, ok := v[key]; ok {
		if parsed, err := s.Parse(chosen); err == nil {
			return parsed
		}
	}
	return s.Usual
}

// Number gives the value of a setting that is a number.
func (v Values) Number(key Key) int {
	n, _ := strconv.Atoi(v.Text(key))
	return n
}

// On tells whether a switch is on.
func (v Values) On(key Key) bool { return v.Text(key) == On }

// With gives the values with others laid over them.
func (v Values) With(others Values) Values {
	out := maps.Clone(v)
	if out == nil {
		out = Values{}
	}
	maps.Copy(out, others)
	return out
}

// Parse brings values into the form in which they are kept. What is no setting is
// left out; the first value that is not understood, in the order of the form, is
// refused.
func Parse(given Values) (Values, error) {
	out := Values{}
	for _, s := range All() {
		v, ok := given[s.Key]
		if !ok {
			continue
		}
		parsed, err := s.Parse(v)
		if err != nil {
			return nil, err
		}
		out[s.Key] = parsed
	}
	return out, nil
}
