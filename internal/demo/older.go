package demo

import (
	"context"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files"
)

// older imports the list of the older site.
func (l *loader) older(ctx context.Context, who plan.Person, name string) error {
	f, err := l.files.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	list, err := files.ReadOlder(name, f, files.Options{})
	if err != nil {
		return err
	}
	_, err = l.app.ImportOlder(ctx, who, list, "")
	return err
}

// settle accepts what has a clear winner below an address of the older site.
func (l *loader) settle(ctx context.Context, who plan.Person, below string) error {
	w, err := l.app.Older(ctx, who, "")
	if err != nil {
		return err
	}
	to := map[string]string{}
	for i, line := range w.Lines {
		if w.States[i] == match.Clear && strings.HasPrefix(line.Address, below) {
			to[line.Address] = "page:" + w.Trees.Next.Ref(w.Found[i].Best[0].Page).ID
		}
	}
	_, err = l.app.DecideOlder(ctx, who, uuid.NewString(), w.Host, to)
	return err
}

// used counts uses of an exact redirect, more on some days than on others.
func (l *loader) used(ctx context.Context, from, times string) error {
	n, err := strconv.Atoi(times)
	if err != nil {
		return err
	}
	was := l.at
	defer func() { l.at = was }()
	for day := range 30 {
		l.at = l.today.AddDate(0, 0, -day)
		if k := n * (3 + (day*7+len(from))%5) / 150; k > 0 {
			if err := l.app.CountHits(ctx, map[redirect.Key]int{{From: from}: k}); err != nil {
				return err
			}
		}
	}
	return nil
}
