package part

import (
	"strconv"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

var StatusWords = map[redirect.Status]string{
	redirect.Added:     "redirect is added",
	redirect.Changed:   "redirect leads elsewhere",
	redirect.Retired:   "redirect ends: a page has this address",
	redirect.Blocked:   "another page takes this address",
	redirect.Undecided: "needs a decision",
	redirect.Dangling:  "leads to nothing",
}

type RedirectView struct{ From, To, Code, Match, Status, Note string }

func NewRedirect(r redirect.Row, t *sitemap.Tree) RedirectView {
	to := redirect.WrittenTo(r.To, t)
	if r.Code == redirect.Gone {
		to = "gone"
	}
	return RedirectView{redirect.WrittenFrom(r.From), to, strconv.Itoa(r.Code), string(r.Match), string(r.Status), r.Note}
}

func Btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}
