package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/oldhost"
)

type serveTableCmd struct {
	Listen string `required:"" help:"Address to answer at, such as :8080."`
	Base   string `help:"Address of the site, put before targets on it, such as https://inside.quillmere.example."`
	Table  string `arg:"" help:"Redirect table."`
}

// Run answers an old host from a table until the program is stopped.
func (c *serveTableCmd) Run() error {
	if c.Base != "" && !address.IsURL(c.Base) {
		return &exitError{exitUnusable, fmt.Sprintf("--base: %q is no URL; write it with https://", c.Base)}
	}
	rows, err := readRedirects(c.Table)
	if err != nil {
		return err
	}
	table, err := redirect.NewTable(rows, nil)
	if err != nil {
		return unusable(c.Table, err)
	}
	listen, err := net.Listen("tcp", c.Listen)
	if err != nil {
		return &exitError{exitUnusable, fmt.Sprintf("--listen: %v", err)}
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	s := &http.Server{Handler: oldhost.Handler(table, c.Base), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
	fmt.Fprintf(os.Stderr, "%d %s at %s\n", len(rows), plan.Plural(len(rows), "redirect answers", "redirects answer"), listen.Addr())
	ended := make(chan error, 1)
	go func() { ended <- s.Serve(listen) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	if err := goodbye(s); err != nil {
		return err
	}
	if err := <-ended; !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
