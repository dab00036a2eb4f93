// Package web carries the built front end, and the interface's words in each language.
package web

import "embed"

// Dist is what the front end's build made: empty but for a placeholder before
// the first build.
//
//go:embed all:dist
var Dist embed.FS

// Words are what customers read of the interface itself, a file for each language.
//
//go:embed words/*.json
var Words embed.FS
