package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"candlepath/internal/app/plan"
	"candlepath/internal/files"
	"candlepath/internal/platform/objects"
	"candlepath/internal/web/reader"
	"candlepath/internal/web/server"
)

type editionCmd struct {
	Export editionExportCmd `cmd:"" help:"Write an edition out: static HTML with its files, redirect rules and proof."`
}

type editionExportCmd struct {
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to read."`
	Objects  string `name:"objects" env:"FILES" default:".run/files" help:"Where pictures and files are kept."`
	Number   int    `help:"Number of the edition; the live one if not given."`
	As       string `help:"Login of the person, or the role, whose view is written; what everybody may read if not given."`
	Out      string `arg:"" help:"A folder that is not there yet or empty, or a .zip."`
}

// Run writes the edition out. What was begun and not finished is not left behind.
func (c *editionExportCmd) Run() error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := vacant(c.Out); err != nil {
		return unusable(c.Out, err)
	}
	conf := config{PoolSize: 4}
	pool, err := conf.openPool(ctx, c.Database)
	if err != nil {
		return err
	}
	defer pool.Close()
	if err := requireSchema(ctx, pool); err != nil {
		return err
	}
	kept, err := objects.Open(ctx, c.Objects)
	if err != nil {
		return fmt.Errorf("FILES: %w", err)
	}
	defer kept.Close()
	site, st, err := server.Exporter(ctx, pool, kept, c.Number)
	if errors.Is(err, plan.ErrNotFound) {
		return unusable("--number", fmt.Errorf("there is no edition %d", c.Number))
	}
	if err != nil {
		return err
	}
	said, err := c.write(func(put func(string, io.Reader) error) (reader.Exported, error) {
		return site.Export(ctx, reader.Export{State: st, As: c.As, Put: put})
	})
	if errors.Is(err, plan.ErrNotFound) {
		return unusable("--as", fmt.Errorf("%q is neither a login nor a role", c.As))
	}
	if err != nil {
		return err
	}
	fmt.Printf("Edition %d: %d pages, %d files and %d redirects in %s\n", st.Site.Edition, said.Pages, said.Files, said.Redirects, c.Out)
	if len(said.Lost) > 0 {
		for _, at := range said.Lost {
			fmt.Fprintf(os.Stderr, "%s is shown, but its data is not there any more\n", at)
		}
		return &exitError{code: exitFindings}
	}
	return nil
}

// vacant tells why something cannot be written where one asked for.
func vacant(out string) error {
	list, err := os.ReadDir(out)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil
	case err != nil:
		return errors.New("a file of this name is there; name another")
	case len(list) > 0 || strings.HasSuffix(out, ".zip"):
		return errors.New("the folder is not empty; name another")
	}
	return nil
}

// write writes beside the place that is asked for, and moves it there when all is there.
func (c *editionExportCmd) write(export func(put func(string, io.Reader) error) (reader.Exported, error)) (said reader.Exported, err error) {
	beside := filepath.Dir(filepath.Clean(c.Out))
	if err := os.MkdirAll(beside, 0o755); err != nil {
		return said, err
	}
	unfinished, err := os.MkdirTemp(beside, ".edition-")
	if err != nil {
		return said, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(unfinished)) }()
	part := filepath.Join(unfinished, "out")
	if strings.HasSuffix(c.Out, ".zip") {
		f, err := os.Create(part)
		if err != nil {
			return said, err
		}
		defer f.Close()
		z := files.NewFolderZip(f)
		if said, err = export(z.Put); err == nil {
			err = errors.Join(z.Close(), f.Close())
		}
		if err != nil {
			return said, err
		}
	} else if said, err = export(files.Folder(part).Put); err != nil {
		return said, err
	}
	if err := os.Remove(c.Out); err != nil && !errors.Is(err, fs.ErrNotExist) { // an empty folder
		return said, err
	}
	return said, os.Rename(part, c.Out)
}
