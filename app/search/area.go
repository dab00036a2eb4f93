// Package search finds articles for customers and staff: the index, the rules, and how well it does.
// It promises that a visitor is offered only what they may open, whatever the index holds.
// It may not change an article.
package search

import (
	"sync"
	"sync/atomic"
	"time"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/outcomes"
	"hermeneus/app/sites"
	"hermeneus/app/trail"
	"hermeneus/core/search"
)

// Search finds articles.
type Search struct {
	base     *instance.Instance
	trail    *trail.Trail
	recorder *evidence.Recorder
	sites    *sites.Sites
	library  *library.Library
	outcomes *outcomes.Outcomes

	index    *search.Index
	indexing sync.Mutex  // one change to the index at a time
	stale    atomic.Bool // changes may go by unheard: the index may be behind
	popular  popular

	Quality *Quality
}

// Quality is how well the search does, by questions whose right answer is known.
type Quality struct {
	base     *instance.Instance
	trail    *trail.Trail
	sites    *sites.Sites
	outcomes *outcomes.Outcomes
	search   *Search
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	trail *trail.Trail,
	recorder *evidence.Recorder,
	sites *sites.Sites,
	library *library.Library,
	outcomes *outcomes.Outcomes,
) *Search {
	a := &Search{
		base:     base,
		trail:    trail,
		recorder: recorder,
		sites:    sites,
		library:  library,
		outcomes: outcomes,
		index:    search.New(),
	}
	a.Quality = &Quality{base: base, trail: trail, sites: sites, outcomes: outcomes, search: a}
	sites.OnLoad(rulesOf)
	base.OnChange(a.reindexChanged)
	base.OnMissed(a.reindexAll)
	base.OnStale(func() { a.stale.Store(true) })
	base.Beside(a.followPopular)
	base.Every(10*time.Minute, "confirmed questions", a.Quality.GatherConfirmed)
	base.Every(time.Minute, "search reports", a.Quality.KeepSearchReports)
	base.Every(time.Hour, "end old search reports", a.Quality.EndOldReports)
	return a
}
