package addresses

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
)

// Tx is what addresses need inside a transaction.
type Tx interface {
	plan.Tx
	Releases(ctx context.Context) ([]plan.ReleasedAddress, error)
	PutRelease(ctx context.Context, r plan.ReleasedAddress) error
	DropRelease(ctx context.Context, address string) error
	// Unanswered gives what was asked for in vain since a day, the most often first.
	Unanswered(ctx context.Context, since time.Time, n int) ([]Unanswered, error)
	// AddressHistory gives what an address answered in each edition, the latest first.
	AddressHistory(ctx context.Context, address string) ([]Once, error)
	// PutOlder keeps addresses of older sites, Older gives those of one, the most visited first.
	PutOlder(ctx context.Context, lines []match.Line, at time.Time) (fresh int, err error)
	Older(ctx context.Context, host string) ([]match.Line, error)
	// PutOlderImport keeps that a list is on its way in, SetOlderImport how far it is.
	PutOlderImport(ctx context.Context, i OlderImport) error
	OlderImport(ctx context.Context, id string) (OlderImport, error)
	SetOlderImport(ctx context.Context, i OlderImport) error
	OlderHosts(ctx context.Context) ([]OlderHost, error)
	DropOlder(ctx context.Context, host string) error
	// Words gives what the pages of Next say, by entry.
	Words(ctx context.Context) (map[string]string, error)
	// Hits gives when redirects answered last, and how often since a day; HitDays how often
	// some did on each day.
	Hits(ctx context.Context, since time.Time) (map[redirect.Key]redirect.Use, error)
	HitDays(ctx context.Context, keys []string, since time.Time) ([]HitDay, error)
	// AddressesBelow gives the first n addresses at and below one that ever answered.
	AddressesBelow(ctx context.Context, base string, n int) ([]string, error)
	// AddressesOf gives the addresses that a page had, the latest first.
	AddressesOf(ctx context.Context, entry string) ([]HadAddress, error)
	// IgnoredPatterns gives the patterns of addresses of which nobody is to be told.
	IgnoredPatterns(ctx context.Context) ([]string, error)
	PutPattern(ctx context.Context, pattern string, by plan.Planned) error
	DropPattern(ctx context.Context, pattern string) error
	// LastNotice gives the greatest subject of the notices of a kind; empty: there was none.
	LastNotice(ctx context.Context, kind plan.NoticeKind) (string, error)
	EverAnswered(ctx context.Context, address string) (bool, error)
}
