package app

import "hermeneus/core/outcome"

// WitnessAlone is what a search and an opening are kept by.
func (a *App) WitnessAlone(v Visitor, channel outcome.Channel, items ...outcome.Evidence) error {
	return a.witnessAlone(v, channel, items...)
}
