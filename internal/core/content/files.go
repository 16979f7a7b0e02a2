package content

import (
	"regexp"
	"slices"
)

var pictureLink = regexp.MustCompile(`/files/([0-9a-f]{32})/`)

// FilesOf gives the ids of the files and pictures of the site that a page names, sorted.
func FilesOf(p Page) []string {
	out := []string{}
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				if k := kindOf(b.Type); k != nil {
					k.eachValue(b, func(_ Field, v string, _ Values) {
						for _, m := range pictureLink.FindAllStringSubmatch(v, -1) {
							out = append(out, m[1])
						}
					})
				}
			})
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
