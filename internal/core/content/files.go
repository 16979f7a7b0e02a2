package content

import (
	"regexp"
	"slices"
	"strings"
)

var pictureLink = regexp.MustCompile(`/files/([0-9a-f]{32})/`)

// Refiled gives a page with one file of the site in place of another wherever it is named. A
// table of it shows other rows, if there are some.
func Refiled(p Page, from, to, rows string) Page {
	named := func(v string) string { return renamedFile(v, from, to) }
	out := mapped(p, func(k *blockKind, b Block) Block {
		was := b
		b = k.mapValues(b, func(_ Field, v string) string { return named(v) }, nil)
		if b.Type == Table && rows != "" && b.Set["file"] != was.Set["file"] {
			b.Text = rows
		}
		return b
	})
	for key, v := range out.Fields {
		out.Fields[key] = named(v)
	}
	return out
}

// Refiled gives the template with one file of the site in place of another.
func (t Template) Refiled(from, to, rows string) Template {
	t.Parts = slices.Clone(t.Parts)
	for i := range t.Parts {
		t.Parts[i].Content = Refiled(Page{Slots: map[string][]Block{"": t.Parts[i].Content}}, from, to, rows).Slots[""]
	}
	return t
}

// renamedFile gives a value with the address of one file in place of another's.
func renamedFile(v, from, to string) string {
	if !strings.Contains(v, "/files/"+from+"/") {
		return v
	}
	return regexp.MustCompile(`/files/`+from+`/[a-z0-9.-]+`).ReplaceAllString(v, to)
}

// FilesOf gives the ids of the files and pictures of the site that a page names, in its facts
// too, sorted.
func FilesOf(p Page) []string {
	out := []string{}
	named := func(v string) {
		for _, m := range pictureLink.FindAllStringSubmatch(v, -1) {
			out = append(out, m[1])
		}
	}
	for _, fact := range p.Fields {
		named(fact)
	}
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				if k := kindOf(b.Type); k != nil {
					k.eachValue(b, func(_ Field, v string, _ Values) { named(v) })
				}
			})
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// PicturesByBlock gives the addresses of the pictures that blocks of a page show by their fields, by
// the id of the block that stands in a slot.
func PicturesByBlock(p Page) map[string][]string {
	out := map[string][]string{}
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				k := kindOf(b.Type)
				if k == nil {
					return
				}
				k.eachValue(b, func(f Field, v string, _ Values) {
					if f.Type == FieldPicture && v != "" {
						out[top.ID] = append(out[top.ID], v)
					}
				})
			})
		}
	}
	return out
}
