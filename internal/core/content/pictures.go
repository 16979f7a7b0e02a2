package content

import (
	"regexp"
	"slices"
)

var pictureLink = regexp.MustCompile(`/files/([0-9a-f]{32})/`)

// Pictures gives the ids of the pictures of the site that a page names, sorted.
func Pictures(p Page) []string {
	out := []string{}
	for _, blocks := range p.Slots {
		for _, b := range blocks {
			for _, m := range pictureLink.FindAllStringSubmatch(b.Text, -1) {
				out = append(out, m[1])
			}
			for _, tile := range b.Tiles {
				if m := pictureLink.FindStringSubmatch(tile.To); m != nil {
					out = append(out, m[1])
				}
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
