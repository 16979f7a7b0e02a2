package part

import (
	"strconv"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

type RedirectView struct{ From, To, Code, Match, Status, Note string }

// entriesShown is how many entries that change are listed at first.
const EntriesShown = 300

func NewRedirect(r redirect.Row, t *sitemap.Tree) RedirectView {
	to := redirect.WrittenTo(r.To, t)
	if r.Code == redirect.Gone {
		to = "gone"
	}
	return RedirectView{redirect.WrittenFrom(r.From), to, strconv.Itoa(r.Code), string(r.Match), string(r.Status), r.Note}
}
