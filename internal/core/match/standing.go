package match

import (
	"strings"

	"candlepath/internal/core/sitemap"
)

// State tells how an address of an older site stands.
type State string

// The states.
const (
	Led       State = "led"   // it is at a page, or leads to one or elsewhere
	OnPurpose State = "gone"  // gone on purpose
	Clear     State = "clear" // not decided, and one page is a clear winner
	Open      State = "look"  // not decided; somebody has to choose
	Far       State = "none"  // not decided, and no page is near
	Later     State = "later" // not compared yet: others are visited more
)

// States lists them, those that answer first.
func States() []State { return []State{Led, OnPurpose, Clear, Open, Far, Later} }

// Answers tells whether an address in this state answers.
func (s State) Answers() bool { return s == Led || s == OnPurpose }

// StateOf gives the state of an address by what it answers in Next, and what was found for it.
func StateOf(code int, m Matched) State {
	switch {
	case code == 410:
		return OnPurpose
	case code != 404:
		return Led
	case m.Decision == Accept:
		return Clear
	case m.Decision == Look:
		return Open
	case m.Decision == None:
		return Far
	}
	return Later
}

// Coverage counts addresses and their visits by state.
type Coverage struct{ Addresses, Visits map[State]int }

// Cover counts.
func Cover(lines []Line, states []State) Coverage {
	c := Coverage{map[State]int{}, map[State]int{}}
	for i, s := range states {
		c.Addresses[s]++
		c.Visits[s] += lines[i].Visits
	}
	return c
}

// Sum adds up some states.
func Sum(of map[State]int, states ...State) (n int) {
	for _, s := range states {
		n += of[s]
	}
	return n
}

// Rule is one redirect for all of a folder that is not decided yet.
type Rule struct {
	Folder  string // without the slash at its end
	Page    int
	Prefix  bool // each to the same place below the page; else all to the page
	Below   int  // addresses in the folder and below
	Decided int  // of them, which keep what was decided
	Agree   int  // of the decided, that lead to the page or below it
	Answers int  // that are not decided and that the rule would answer
	Differs []int
}

// FolderRule tells what a rule for the folder of an address would do: which addresses it answers,
// and for which of them another page was found.
func FolderRule(t *sitemap.Tree, lines []Line, states []State, found []Matched, to []int, dir string, page int, prefix bool) Rule {
	r := Rule{Folder: strings.TrimSuffix(dir, "/"), Page: page, Prefix: prefix}
	for i := range lines {
		rest, below := strings.CutPrefix(lines[i].Address, r.Folder)
		if !below || rest != "" && rest[0] != '/' && rest[0] != '?' {
			continue
		}
		r.Below++
		if states[i].Answers() {
			r.Decided++
			for up := to[i]; up != sitemap.None; up = t.Parent(up) {
				if up == page {
					r.Agree++
				}
			}
			continue
		}
		if prefix && t.PageAt(strings.TrimSuffix(t.Served(page), "/")+rest) == sitemap.None {
			continue
		}
		r.Answers++
		if !prefix && states[i] == Clear && found[i].Best[0].Page != page {
			r.Differs = append(r.Differs, i)
		}
	}
	return r
}

// FolderOf is the folder of an address of a list.
func FolderOf(lines []Line, addr string) string {
	own := strings.TrimSuffix(addr, "/") + "/"
	for i := range lines {
		if strings.HasPrefix(lines[i].Address, own) {
			return own
		}
	}
	return folder(addr)
}
