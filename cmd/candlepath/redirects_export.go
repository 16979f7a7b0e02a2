package main

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files/rules"
)

type exportTableCmd struct {
	For     string `required:"" enum:"nginx,apache" help:"The server that is to answer: nginx or apache."`
	Compact bool   `help:"The fewest rows instead of one for each address."`
	Base    string `help:"Address of the site, put before targets on it, such as https://inside.quillmere.example."`
	Host    string `help:"The old host name for which the server stands, where the table has rows for that alone."`
	Listen  string `help:"Where the complete configuration answers." default:"127.0.0.1:8080"`
	Table   string `arg:"" help:"Redirect table."`
	OutDir  string `arg:"" name:"outdir" help:"Folder to write to; made if it is not there."`
}

// Run writes the rules by which a web server answers an old host.
func (c *exportTableCmd) Run() error {
	if c.Base != "" && !address.IsURL(c.Base) {
		return &exitError{exitUnusable, fmt.Sprintf("--base: %q is no URL; write it with https://", c.Base)}
	}
	rows, err := readRedirects(c.Table)
	if err != nil {
		return err
	}
	dir, err := filepath.Abs(c.OutDir)
	if err != nil {
		return unusable(c.OutDir, err)
	}
	set, err := rules.Write(rules.Server(c.For), redirect.Under(rows, strings.ToLower(c.Host)), c.Compact, rules.Options{Base: c.Base, Listen: c.Listen, Dir: dir})
	if err != nil {
		return unusable(c.Table, err)
	}
	if err := writeRules(dir, set); err != nil {
		return err
	}
	n, proved := set.Rows, len(set.Proof)
	fmt.Fprintf(os.Stderr, "%d %s in %s %s as the table does, proved on %d %s\n",
		n, plan.Plural(n, "row", "rows"), c.OutDir, plan.Plural(n, "answers", "answer"), proved, plan.Plural(proved, "address", "addresses"))
	return nil
}

func writeRules(dir string, set rules.Set) error {
	for _, sub := range []string{dir, filepath.Join(dir, "tmp"), filepath.Join(dir, "empty")} {
		if err := os.MkdirAll(sub, 0o755); err != nil {
			return unusable(dir, err)
		}
	}
	for _, f := range set.Files {
		if err := writeFile(filepath.Join(dir, f.Name), func(w io.Writer) error { _, err := w.Write(f.Data); return err }); err != nil {
			return err
		}
	}
	return nil
}
