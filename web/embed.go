// Package web embeds templates and built assets.
package web

import "embed"

// Files are the templates and the built assets.
//
//go:embed templates assets/dist
var Files embed.FS
