// Package writing is how texts come to be: saving, holds, editions, suggestions, the margin, changes to many.
// It promises that nothing typed is lost and nobody overwrites what they have not seen.
// It may not publish.
package writing

import (
	"time"

	"hermeneus/app/instance"
	"hermeneus/app/jobs"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
)

// Writing is how texts come to be.
type Writing struct {
	base     *instance.Instance
	trail    *trail.Trail
	jobs     *jobs.Jobs
	notify   *notify.Notify
	texts    *texts.Texts
	library  *library.Library
	outcomes *outcomes.Outcomes
	search   *search.Search
	review   *review.Review
	lists    *lists.Lists
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	jobs *jobs.Jobs,
	notify *notify.Notify,
	texts *texts.Texts,
	library *library.Library,
	outcomes *outcomes.Outcomes,
	search *search.Search,
	review *review.Review,
	lists *lists.Lists,
) *Writing {
	a := &Writing{
		base:     base,
		trail:    trail,
		jobs:     jobs,
		notify:   notify,
		texts:    texts,
		library:  library,
		outcomes: outcomes,
		search:   search,
		review:   review,
		lists:    lists,
	}
	jobs.Handle(jobBulk, a.runBulk)
	jobs.Handle(jobUndo, a.runUndo)
	base.Every(time.Hour, "thin autosaves", a.ThinAutosaves)
	return a
}
