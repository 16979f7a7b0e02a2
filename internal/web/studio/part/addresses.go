package part

import (
	"candlepath/internal/core/redirect"
)

func Btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

var StatusWords = map[redirect.Status]string{
	redirect.Added:     "redirect is added",
	redirect.Changed:   "redirect leads elsewhere",
	redirect.Retired:   "redirect ends: a page has this address",
	redirect.Blocked:   "another page takes this address",
	redirect.Undecided: "needs a decision",
	redirect.Dangling:  "leads to nothing",
}
