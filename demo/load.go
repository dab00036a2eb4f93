// Package demo makes the demo world: an invented energy co-operative with its
// people, its library, its flow, and simulated visitors whose evidence the real
// engine records.
package demo

import (
	"context"
	"io"

	"hermeneus/app"
)

// Load fills an empty database with the demo world, and leaves one that has it alone.
func Load(ctx context.Context, c app.Config, progress io.Writer) error { return nil }
