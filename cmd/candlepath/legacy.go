package main

import (
	"fmt"
	"io"
	"iter"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"

	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/weblog"
	"candlepath/internal/files"
)

type legacyCmd struct {
	Match matchCmd `cmd:"" help:"Find the pages to which the addresses of an older site may lead."`
	Log   logCmd   `cmd:"" help:"Count the visits of an older site by the logs of its server."`
}

type logCmd struct {
	Logs []string `arg:"" name:"log" help:"Logs in the Common or Combined Log Format, perhaps with the host before it, perhaps packed by gzip; - is standard input."`
	output
}

// Run counts visits, the most visited address first.
func (c *logCmd) Run() error {
	debug.SetGCPercent(20) // what is kept does not go again, so it is not to be doubled
	count := weblog.NewCounter()
	for _, name := range c.Logs {
		if err := readLog(name, count); err != nil {
			return err
		}
	}
	if count.Broken > 0 {
		fmt.Fprintf(os.Stderr, "%d of %d lines are none of a log, the first is line %d. They were left out.\n", count.Broken, count.Lines, count.First)
	}
	return c.writeOf([]string{"address", "visits", "host"}, func(yield func([]string) bool) {
		for v := range count.All() {
			if !yield([]string{redirect.WrittenFrom(v.Address), strconv.Itoa(v.N), v.Host}) {
				return
			}
		}
	})
}

func readLog(name string, count *weblog.Counter) error {
	f, err := open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := files.ReadLog(f, count); err != nil {
		return unusable(name, err)
	}
	return nil
}

type matchCmd struct {
	Legacy    string `required:"" help:"List of the older site: .csv or .xlsx (address, title, visits, host), sitemaps.org .xml, a log, a folder or .zip of HTML pages."`
	Next      string `required:"" help:"Sitemap of Next."`
	Redirects string `help:"Redirect table; what it answers is decided, and teaches the rest."`
	output
}

// Run gives up to three pages for each old address.
func (c *matchCmd) Run() error {
	s, err := readSitemap(c.Next, "")
	if err != nil {
		return err
	}
	list, err := readOlder(c.Legacy)
	if err != nil {
		return err
	}
	rows, err := readRedirects(c.Redirects)
	if err != nil {
		return err
	}
	table, err := redirect.NewTable(rows, s.Tree)
	if err != nil {
		return unusable(c.Redirects, err)
	}
	for _, r := range list.Refused {
		fmt.Fprintf(os.Stderr, "%s: line %d: %s is left out: %s\n", c.Legacy, r.Line, r.Text, r.Of)
	}
	return c.writeOf([]string{"from", "to", "score", "rank", "decision"}, matches(s.Tree, list, table))
}

// matches gives the rows for addresses: where the table leads them, else the best pages.
func matches(next *sitemap.Tree, list *match.List, table *redirect.Table) iter.Seq[[]string] {
	old, decided := list.Olds(), make([]redirect.Answer, len(list.Lines))
	for i := range old {
		decided[i] = table.Proven(old[i].Address)
		page := decided[i].Page
		if path, _, _ := address.Split(decided[i].Location); page == sitemap.None && path != "" {
			page = next.PageAt(path)
		}
		if page != sitemap.None {
			old[i].To = next.Ref(page).ID
		}
	}
	found := match.NewOlder(next, nil).Match(old)
	return func(yield func([]string) bool) {
		for i := range old {
			for _, row := range rowsOf(next, decided[i], found[i]) {
				for _, from := range list.Lines[i].Written {
					if !yield(append([]string{from}, row...)) {
						return
					}
				}
			}
		}
	}
}

// rowsOf gives to, score, rank and decision for one address.
func rowsOf(next *sitemap.Tree, decided redirect.Answer, found match.Matched) (rows [][]string) {
	switch decided.Code {
	case 404:
	case 200:
		return [][]string{{address.Written(next.Served(decided.Page)), "1.00", "1", string(match.Accept)}}
	case redirect.Gone:
		return [][]string{{"gone", "1.00", "1", string(match.Accept)}}
	default:
		return [][]string{{decided.Location, "1.00", "1", string(match.Accept)}}
	}
	for rank, b := range found.Best {
		decision := found.Decision
		if rank > 0 && decision == match.Accept {
			decision = match.Look // only the first is accepted
		}
		rows = append(rows, []string{address.Written(next.Served(b.Page)), fmt.Sprintf("%.2f", b.Score), strconv.Itoa(rank + 1), string(decision)})
	}
	if len(rows) == 0 {
		rows = [][]string{{"", "", "", string(match.None)}}
	}
	return rows
}

func readOlder(name string) (list *match.List, err error) {
	if info, err := os.Stat(name); err == nil && info.IsDir() {
		err = inFolder(name, func(site *files.OldSite) error {
			list, err = files.OlderPages(site)
			return err
		})
		return list, err
	}
	f, err := open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	list, err = files.ReadOlder(name, f, files.Options{Beside: func(beside string) (io.ReadCloser, error) {
		return os.Open(filepath.Join(filepath.Dir(name), beside))
	}})
	if err != nil {
		return nil, unusable(name, err)
	}
	return list, nil
}
