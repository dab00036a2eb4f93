// Package web carries the built front end, and the interface's words in each language.
// It promises that what is served was built with the binary.
// It may not talk to anything.
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
