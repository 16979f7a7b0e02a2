package sheet

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// OldPage is an HTML page of an older site, as far as its place is concerned.
type OldPage struct {
	File    string   // its path in the folder, with slashes
	Title   string   // of the document
	Heading string   // the first heading in its text, or empty
	Links   []string // files that its text links to, in reading order
	Around  []string // files that it links to from outside its text
}

// ReadPages makes a sitemap of carried pages out of an older site.
//
// Folders decide what stands below what: a page stands below the front page of
// its folder (index.html and the like, or a page beside the folder that has its
// name), and where a folder has none, a group with the folder's name takes its
// place. Within one folder the links decide: a page stands below the page that
// one reaches it from soonest, coming from the front page. So a site whose
// pages all lie in one folder gets its hierarchy from its links alone. Pages
// that nothing leads to stand below the front page, with a finding.
//
// Addresses stay as they were: index.html answers at its folder, and what does
// not follow from the place becomes a fixed address.
func ReadPages(pages []OldPage) (*Sheet, error) {
	o := &older{reader: &reader{tempOf: map[string]string{}}, pages: slices.Clone(pages), at: map[string]int{}, front: map[string]int{}, groups: map[string]int{}, held: map[string]int{}}
	slices.SortFunc(o.pages, func(a, b OldPage) int { return cmp.Compare(a.File, b.File) })
	o.base = commonFolder(o.pages)
	o.titles()
	for i, p := range o.pages {
		o.at[p.File] = i
		for dir := folderOf(p.File); dir != ""; dir = folderOf(dir) {
			o.held[dir]++
		}
	}
	o.findFronts()
	o.reach()
	o.write()
	s, err := o.finish()
	if err == nil {
		s.Has["source"] = true
	}
	return s, err
}

type older struct {
	*reader
	pages  []OldPage
	base   string         // the folder that holds all
	title  []string       // by page
	at     map[string]int // page by file
	front  map[string]int // front page by folder
	groups map[string]int // row by folder without one
	held   map[string]int // pages by folder, with those further below
	above  []int          // page by page: below which it stands in its folder, or None
	order  []int          // pages as a reader comes across them
	lost   []bool         // nothing leads there
}

func folderOf(file string) string {
	if d := path.Dir(file); d != "." {
		return d
	}
	return ""
}

// commonFolder is the folder that all pages lie in.
func commonFolder(pages []OldPage) string {
	if len(pages) == 0 {
		return ""
	}
	common := folderOf(pages[0].File)
	for _, p := range pages {
		for common != "" && !strings.HasPrefix(p.File, common+"/") {
			common = folderOf(common)
		}
	}
	return common
}

// titles words the pages: by their heading, if that is not the same on most
// pages; else by the title of the document without what most titles share at
// either end; else by the name of the file.
func (o *older) titles() {
	o.title = make([]string, len(o.pages))
	headings := map[string]int{}
	docs := make([]string, len(o.pages))
	for i, p := range o.pages {
		docs[i] = sitemap.CleanTitle(p.Title)
		headings[sitemap.CleanTitle(p.Heading)]++
	}
	shared := sharedEnds(docs)
	for i, p := range o.pages {
		t := sitemap.CleanTitle(p.Heading)
		if t == "" || len(o.pages) > 2 && headings[t]*2 > len(o.pages) {
			t = shared.cut(docs[i])
		}
		if t == "" {
			t = titleOf("/" + strings.TrimSuffix(path.Base(p.File), path.Ext(p.File)))
		}
		if len([]rune(t)) > sitemap.MaxTitle {
			o.find(i+1, check.Warning, "title-cut", "", p.File, "The title is longer than an entry can hold, and was cut.")
			t = strings.TrimSpace(string([]rune(t)[:sitemap.MaxTitle]))
		}
		o.title[i] = t
	}
}

// ends is what titles of one site begin or end with, such as its name.
type ends struct{ prefix, suffix string }

// separators stand between the title of a page and that of its site.
var separators = []string{" — ", " – ", " | ", " - ", " · ", " » ", ": ", " :: ", " / "}

func sharedEnds(titles []string) ends {
	first, last := map[string]int{}, map[string]int{}
	for _, t := range titles {
		for _, sep := range separators {
			if i := strings.Index(t, sep); i > 0 {
				first[t[:i+len(sep)]]++
			}
			if i := strings.LastIndex(t, sep); i > 0 {
				last[t[i:]]++
			}
		}
	}
	most := func(counts map[string]int) string {
		best := ""
		for s, n := range counts {
			if n*2 > len(titles) && n > 1 && (counts[best] < n || counts[best] == n && s < best) {
				best = s
			}
		}
		return best
	}
	return ends{most(first), most(last)}
}

func (e ends) cut(t string) string {
	if s := strings.TrimSuffix(t, e.suffix); s != "" {
		t = s
	}
	if s := strings.TrimPrefix(t, e.prefix); s != "" {
		t = s
	}
	return strings.TrimSpace(t)
}

// frontNames are the names of a folder's front page, the most common first.
var frontNames = []string{"index.html", "index.htm", "index.xhtml", "default.html", "default.htm", "home.html", "home.htm"}

func (o *older) findFronts() {
	for i := range slices.Backward(o.pages) { // so that of two the first stays
		dir, name := folderOf(o.pages[i].File), strings.ToLower(path.Base(o.pages[i].File))
		rank := slices.Index(frontNames, name)
		if rank < 0 {
			continue
		}
		if at, ok := o.front[dir]; !ok || rank <= slices.Index(frontNames, strings.ToLower(path.Base(o.pages[at].File))) {
			o.front[dir] = i
		}
	}
	for i, p := range o.pages { // guide.html beside guide/
		dir := strings.TrimSuffix(p.File, path.Ext(p.File))
		if _, has := o.front[dir]; !has && o.holds(dir) {
			o.front[dir] = i
		}
	}
}

// holds tells whether pages lie in a folder.
func (o *older) holds(dir string) bool {
	i, _ := slices.BinarySearchFunc(o.pages, dir+"/", func(p OldPage, s string) int { return cmp.Compare(p.File, s) })
	return i < len(o.pages) && strings.HasPrefix(o.pages[i].File, dir+"/")
}

// reach walks every folder along its links, breadth first from its front page,
// so that every page is met by the shortest way.
func (o *older) reach() {
	o.above, o.lost = make([]int, len(o.pages)), make([]bool, len(o.pages))
	met := make([]bool, len(o.pages))
	byFolder := map[string][]int{}
	var folders []string
	for i, p := range o.pages {
		o.above[i] = sitemap.None
		dir := folderOf(p.File)
		if byFolder[dir] == nil {
			folders = append(folders, dir)
		}
		byFolder[dir] = append(byFolder[dir], i)
	}
	for _, dir := range folders {
		o.walk(dir, byFolder[dir], met)
	}
}

func (o *older) walk(dir string, pages []int, met []bool) {
	root, has := o.front[dir]
	queue := []int{}
	if has {
		queue = append(queue, root)
		if folderOf(o.pages[root].File) == dir {
			met[root] = true
		}
	} else {
		queue = o.sources(dir, pages)
		for _, i := range queue {
			met[i] = true
		}
	}
	for len(queue) > 0 {
		i := queue[0]
		queue = queue[1:]
		if folderOf(o.pages[i].File) == dir { // a front page beside its folder has its turn there
			o.order = append(o.order, i)
		}
		for _, to := range o.within(i, dir) {
			if !met[to] {
				met[to] = true
				if !has || i != root {
					o.above[to] = i
				}
				queue = append(queue, to)
			}
		}
	}
	for _, i := range pages {
		if !met[i] {
			met[i], o.lost[i] = true, true
			o.order = append(o.order, i)
		}
	}
}

// sources are the pages of a folder without a front page that no other page of
// it links to.
func (o *older) sources(dir string, pages []int) []int {
	linked := map[int]bool{}
	for _, i := range pages {
		for _, to := range o.within(i, dir) {
			if to != i {
				linked[to] = true
			}
		}
	}
	return slices.DeleteFunc(slices.Clone(pages), func(i int) bool { return linked[i] })
}

// within gives the pages of a folder that a page links to: those in its text
// first. A front page that lies beside its folder links into it.
func (o *older) within(i int, dir string) []int {
	var out []int
	for _, list := range [][]string{o.pages[i].Links, o.pages[i].Around} {
		for _, f := range list {
			if to, ok := o.at[f]; ok && to != i && folderOf(f) == dir {
				out = append(out, to)
			}
		}
	}
	return out
}

// write makes a row of every page, the rows of the upper ones first.
func (o *older) write() {
	rows := make([]int, len(o.pages))
	o.column = map[string]int{}
	for _, i := range o.order {
		p := o.pages[i]
		rows[i] = len(o.rows)
		o.rows = append(o.rows, row{line: i + 1, addr: o.address(p.File), level: -1, entry: sitemap.Entry{ID: tempID(len(o.rows)), Kind: sitemap.Carried, Title: o.title[i], Source: p.File}})
		if _, fronted := o.front[folderOf(p.File)]; o.lost[i] && fronted {
			o.find(i+1, check.Warning, "no-way-in", o.rows[rows[i]].entry.ID, p.File, "No page of its folder leads to this one; it stands below the folder's front page.")
		}
	}
	for _, i := range o.order {
		o.rows[rows[i]].entry.Parent = o.parent(i, rows)
	}
	o.arrange(rows)
}

// arrange orders siblings as the page above them links to them; then those that
// it does not link to, pages of its own folder before others and groups last.
func (o *older) arrange(rows []int) {
	pageOf := map[string]int{} // by id of the row
	for i, row := range rows {
		pageOf[o.rows[row].entry.ID] = i
	}
	home := o.front[o.base]
	place := make(map[string]int, len(pageOf))
	for id, i := range pageOf {
		up, ok := pageOf[o.rows[rows[i]].entry.Parent]
		if !ok {
			up = home
		}
		at := slices.Index(o.pages[up].Links, o.pages[i].File)
		if at < 0 {
			if at = slices.Index(o.pages[up].Around, o.pages[i].File); at >= 0 {
				at += len(o.pages[up].Links)
			} else {
				at = len(o.pages[up].Links) + len(o.pages[up].Around) + strings.Count(o.pages[i].File, "/")
			}
		}
		place[id] = at
	}
	slices.SortStableFunc(o.rows, func(a, b row) int {
		pa, isPage := place[a.entry.ID]
		pb, other := place[b.entry.ID]
		switch {
		case isPage != other:
			return map[bool]int{true: -1, false: 1}[isPage]
		case isPage:
			return cmp.Compare(pa, pb)
		}
		return cmp.Compare(a.entry.Title, b.entry.Title)
	})
}

func (o *older) parent(i int, rows []int) string {
	if up := o.above[i]; up != sitemap.None {
		return o.rows[rows[up]].entry.ID
	}
	dir := folderOf(o.pages[i].File)
	if front, ok := o.front[dir]; ok && front == i {
		if dir == o.base {
			return ""
		}
		dir = folderOf(dir)
	}
	return o.holder(dir, i, rows)
}

// holder is the row that stands for a folder: of its front page, else of a
// group. A folder that holds but one page needs none.
func (o *older) holder(dir string, page int, rows []int) string {
	if front, ok := o.front[dir]; ok && front != page {
		if dir == o.base && o.address(o.pages[front].File) == "/" {
			return "" // home
		}
		return o.rows[rows[front]].entry.ID
	}
	if len(dir) <= len(o.base) {
		return ""
	}
	if o.held[dir] == 1 {
		return o.holder(folderOf(dir), page, rows)
	}
	if at, ok := o.groups[dir]; ok {
		return o.rows[at].entry.ID
	}
	up := o.holder(folderOf(dir), page, rows)
	at := len(o.rows)
	o.groups[dir] = at
	o.rows = append(o.rows, row{line: 0, addr: o.address(dir), level: -1, entry: sitemap.Entry{ID: tempID(at), Parent: up, Kind: sitemap.Group, Title: titleOf(dir[strings.LastIndexByte("/"+dir, '/'):])}})
	return o.rows[at].entry.ID
}

// address is that which a file of the folder answered at.
func (o *older) address(file string) string {
	file = strings.TrimPrefix(strings.TrimPrefix(file, o.base), "/")
	n, err := address.FromFile(file)
	if err != nil {
		return ""
	}
	return n
}

// FollowTree gives what ReadPages read the addresses that follow from its place:
// the slug of a page comes from the name of its file, without its ending.
func (s *Sheet) FollowTree() (*Sheet, error) {
	list := s.Tree.Entries()
	names, taken := map[string]*address.Namer{}, map[string]bool{}
	for i := range list {
		e := &list[i]
		if e.IsHome() || e.Kind == sitemap.Group && e.Fixed == "" {
			continue
		}
		old := s.Tree.Claim(i)
		base := old[strings.LastIndexByte(old, '/')+1:]
		space := ""
		if up := s.Tree.Parent(i); up != sitemap.None {
			space = s.Tree.Ref(up).ID
		}
		if names[space] == nil {
			names[space] = &address.Namer{}
		}
		slug := names[space].Unused(address.Slug(strings.TrimSuffix(base, path.Ext(base))), func(v string) bool { return taken[space+"\x00"+v] })
		e.Fixed, e.Slug, e.SlugHeld, taken[space+"\x00"+slug] = "", slug, true, true
	}
	t, err := sitemap.New(list)
	if err != nil {
		return nil, err
	}
	out := *s
	out.Tree = t
	return &out, nil
}
