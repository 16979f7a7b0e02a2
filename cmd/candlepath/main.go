// Command candlepath serves the studio and the reader site, and works on
// sitemaps and redirect tables as files.
package main

import (
	"errors"
	"fmt"
	"os"
	_ "time/tzdata" // what is timed is said in named zones, which a bare machine may not know

	"github.com/alecthomas/kong"
)

type cli struct {
	Serve     serveCmd     `cmd:"" help:"Serve the studio and the reader site."`
	Demo      demoCmd      `cmd:"" help:"Serve the demo, with a database of its own."`
	Migrate   migrateCmd   `cmd:"" help:"Bring a database up to date."`
	Setup     setupCmd     `cmd:"" help:"Make the first site of an empty database."`
	Check     checkCmd     `cmd:"" help:"Look at the database, and say what is wrong."`
	Sitemap   sitemapCmd   `cmd:"" help:"Work on sitemaps as files."`
	Redirects redirectsCmd `cmd:"" help:"Work on redirect tables as files."`
	Legacy    legacyCmd    `cmd:"" help:"Work on the addresses of an older site."`
	Edition   editionCmd   `cmd:"" help:"Work on published editions."`
	Reach     reachCmd     `cmd:"" help:"Tell how many clicks each page is from home, and what is clicked."`
}

func main() { os.Exit(run(os.Args[1:])) }

func run(args []string) int {
	var c cli
	parser, err := kong.New(&c, kong.Name("candlepath"), kong.UsageOnError(),
		kong.Description("Looks after an intranet: sitemap, pages, redirects, editions."))
	if err != nil {
		panic(err) // the command line itself is wrong
	}
	ctx, err := parser.Parse(args)
	if err != nil {
		fmt.Fprintln(os.Stderr, "candlepath:", err)
		return exitUnusable
	}
	err = ctx.Run()
	if exit := (*exitError)(nil); errors.As(err, &exit) {
		if exit.message != "" {
			fmt.Fprintln(os.Stderr, "candlepath:", exit.message)
		}
		return exit.code
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "candlepath:", err)
		return exitUnusable
	}
	return exitFine
}
