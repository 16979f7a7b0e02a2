package main

import (
	"fmt"
	"os"
	"runtime/debug"
	"strconv"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/weblog"
	"candlepath/internal/files"
)

type legacyCmd struct {
	Log logCmd `cmd:"" help:"Count the visits of an older site by the logs of its server."`
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
