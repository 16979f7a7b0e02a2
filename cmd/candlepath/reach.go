package main

import (
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

type reachCmd struct {
	Sitemap   string `required:"" help:"Sitemap to walk."`
	Links     string `help:"Links between pages: a table of from and to, ids of the sitemap."`
	MenuDepth int    `default:"1" help:"Levels that the top menu shows on every page; each page's side menu shows its children."`
	output
}

func (c *reachCmd) Run() error {
	if c.MenuDepth < 0 {
		return unusable("--menu-depth", fmt.Errorf("%d is no number of levels; use 0 or more", c.MenuDepth))
	}
	s, err := readSitemap(c.Sitemap, "")
	if err != nil {
		return err
	}
	t := s.Tree
	if t.Home() == sitemap.None {
		return unusable(c.Sitemap, fmt.Errorf("no entry has the address /, so there is no home to start from; give one that address"))
	}
	links, err := c.links(t)
	if err != nil {
		return err
	}
	depth := c.MenuDepth
	if depth == 0 {
		depth = -1 // no top menu
	}
	r := reach.From(t, links, reach.Options{MenuDepth: depth, OnlyChildren: true})
	var rows [][]string
	never := 0
	for i := range t.Len() {
		if t.Served(i) == "" {
			continue
		}
		row := []string{t.Ref(i).ID, "", ""}
		if r.Clicks[i] == reach.Never {
			never++
		} else {
			var ids []string
			for _, step := range r.Way(i) {
				ids = append(ids, t.Ref(step.Entry).ID)
			}
			row[1], row[2] = strconv.Itoa(r.Clicks[i]), strings.Join(ids, ">")
		}
		rows = append(rows, row)
	}
	if never > 0 {
		fmt.Fprintf(os.Stderr, "%d of %d pages cannot be reached from home.\n", never, len(rows))
	}
	return c.write([]string{"id", "clicks", "path"}, rows)
}

// links reads the table of links.
func (c *reachCmd) links(t *sitemap.Tree) ([]reach.Link, error) {
	if c.Links == "" {
		return nil, nil
	}
	f, err := open(c.Links)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	columns := func(cells []string) (from, to int) {
		name := func(want string) int {
			return slices.IndexFunc(cells, func(c string) bool {
				return strings.EqualFold(strings.TrimSpace(strings.TrimPrefix(c, "\ufeff")), want)
			})
		}
		return name("from"), name("to")
	}
	records, _, err := files.ReadTable(c.Links, f, files.Options{}, func(cells []string) bool {
		from, to := columns(cells)
		return from >= 0 && to >= 0
	})
	if err != nil {
		return nil, unusable(c.Links, err)
	}
	if len(records) == 0 {
		return nil, nil
	}
	from, to := columns(records[0].Cells)
	if from < 0 || to < 0 {
		return nil, unusable(c.Links, fmt.Errorf("line %d: there is no usable header; name the columns from and to", records[0].Line))
	}
	var out []reach.Link
	for _, r := range records[1:] {
		var l reach.Link
		for k, into := range map[int]*int{from: &l.From, to: &l.To} {
			id := ""
			if k < len(r.Cells) {
				id = strings.TrimSpace(r.Cells[k])
			}
			if *into = t.Find(id); *into == sitemap.None {
				return nil, unusable(c.Links, fmt.Errorf("line %d: %q is not in %s; use the ids of the sitemap", r.Line, id, c.Sitemap))
			}
		}
		out = append(out, l)
	}
	return out, nil
}
