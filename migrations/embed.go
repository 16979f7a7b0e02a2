// Package migrations holds the numbered changes of the database schema.
package migrations

import "embed"

// Files are the migrations, for goose.
//
//go:embed *.sql
var Files embed.FS
