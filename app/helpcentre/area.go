// Package helpcentre is what customers read: pages, votes, feedback, notices, feeds and the map of the site.
// It promises that a page is the live revision, for a reader who may see it, or an answer that says why not.
// It may not change an article.
package helpcentre

import (
	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/trail"
)

// HelpCentre is what customers read.
type HelpCentre struct {
	base     *instance.Instance
	trail    *trail.Trail
	notify   *notify.Notify
	recorder *evidence.Recorder
	library  *library.Library
}

// New gives the area what it needs.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	notify *notify.Notify,
	recorder *evidence.Recorder,
	library *library.Library,
) *HelpCentre {
	return &HelpCentre{base: base, trail: trail, notify: notify, recorder: recorder, library: library}
}
