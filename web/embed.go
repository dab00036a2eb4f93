// Package web carries the built front end.
package web

import "embed"

// Dist is what the front end's build made: empty but for a placeholder before
// the first build.
//
//go:embed all:dist
var Dist embed.FS
