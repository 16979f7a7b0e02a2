package redirect

import (
	"fmt"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Proof is what asking for every address that ever answered came to.
type Proof struct {
	Asked    int      `json:"asked"`
	Pages    int      `json:"pages"`    // answered by a page
	Led      int      `json:"led"`      // by a redirect
	Gone     int      `json:"gone"`     // gone on purpose
	Longest  int      `json:"longest"`  // hops, at most
	Lost     []string `json:"lost"`     // what answers nothing, as far as it is listed
	LostMore int      `json:"lostMore"` // beyond those listed
	Again    int      `json:"-"`        // how many had to be asked, and did not keep their answer

	Files         int `json:"files,omitzero"` // that an edition showed
	FilesLost     int `json:"filesLost,omitzero"`
	Older         int `json:"older,omitzero"` // addresses of older sites
	OlderAnswered int `json:"olderAnswered,omitzero"`
}

// mostLost is how many lost addresses a proof lists.
const mostLost = 100

// notAsked stands for the answer of an address that is not to be asked.
const notAsked = 0

// ask notes the codes of the answers at some places.
func ask(t *Table, addresses []string, codes []int16, at []int) {
	inParts(len(at), func(from, to int) {
		for _, i := range at[from:to] {
			codes[i] = int16(t.Proven(addresses[i]).Code)
		}
	})
}

// proved counts answers.
func proved(addresses []string, codes []int16) (p Proof) {
	for i, code := range codes {
		if code == notAsked {
			continue
		}
		p.Asked++
		switch {
		case code == 200:
			p.Pages++
		case code == Gone:
			p.Gone++
		case code != 404:
			p.Led, p.Longest = p.Led+1, 1
		case len(p.Lost) < mostLost:
			p.Lost = append(p.Lost, addresses[i])
		default:
			p.LostMore++
		}
	}
	return p
}

// Proven answers a normal address, with a 404 where the answer leads to nothing.
func (t *Table) Proven(a string) Answer {
	path, query, _ := strings.Cut(a, "?")
	got := t.ResolveNormal(path, query)
	if to := got.target; got.Location != "" && to.Address != "" && t.page(to.Address) == sitemap.None && !strings.HasPrefix(to.Address, "/files/") {
		return notFound()
	}
	return got
}

// Lost tells whether the row leads to nothing among some pages.
func (r Row) Lost(pages *sitemap.Tree) bool {
	if r.Code == Gone || r.To.URL != "" {
		return false
	}
	t := Table{pages: pages}
	at, ok := t.addressOf(r.To)
	if !ok || strings.HasPrefix(at, "/files/") {
		return !ok
	}
	return r.Match != Prefix && r.To.Entry == "" && t.page(at) == sitemap.None
}

// Answered is how many of the addresses answer.
func (p Proof) Answered() int { return p.Pages + p.Led + p.Gone }

// Holds tells whether all of them do.
func (p Proof) Holds() bool { return p.Answered() == p.Asked && p.FilesLost == 0 }

// AddFile counts the answer of a file that an edition showed.
func (p *Proof) AddFile(address string, code int) {
	p.Files++
	if code != 404 {
		return
	}
	p.FilesLost++
	if len(p.Lost) < mostLost {
		p.Lost = append(p.Lost, address)
	} else {
		p.LostMore++
	}
}

// Words says it.
func (p Proof) Words() string {
	way := "no hop needed"
	if p.Longest > 0 {
		way = "longest way one hop"
	}
	said := fmt.Sprintf("%s of %s addresses answered, %s", thousands(p.Answered()), thousands(p.Asked), way)
	if p.Files > 0 {
		said += fmt.Sprintf("; %s of %s files", thousands(p.Files-p.FilesLost), thousands(p.Files))
	}
	if p.Older > 0 {
		said += fmt.Sprintf("; %s of %s addresses of older sites", thousands(p.OlderAnswered), thousands(p.Older))
	}
	return said
}

func thousands(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}
