package studio

import "fmt"

// pageSize is how many rows of a long list are shown at a time.
const pageSize = 100

// pager leads through a list that is shown in pages.
type pager struct {
	Range, Prev, Next string
	first, last       int // of the rows shown, counted from 1
}

// newPager shows a page of a list of so many rows; a page beyond the end is the
// last one. url is where a page is.
func newPager(page, total int, url func(page int) string) pager {
	page = max(1, min(page, (total+pageSize-1)/pageSize))
	p := pager{first: (page-1)*pageSize + 1, last: min(page*pageSize, total)}
	if total > 0 {
		p.Range = fmt.Sprintf("%s–%s of %s", thousands(p.first), thousands(p.last), thousands(total))
	}
	if page > 1 {
		p.Prev = url(page - 1)
	}
	if p.last < total {
		p.Next = url(page + 1)
	}
	return p
}
