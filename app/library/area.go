// Package library keeps articles and categories: their place, properties, revisions, templates and files.
// It promises that a published revision never changes, and that an article goes to nobody it is not for.
// It may not publish, save or find anything: those are areas above.
package library

import (
	"hermeneus/app/instance"
	"hermeneus/app/sites"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
)

// Library keeps articles and categories.
type Library struct {
	base  *instance.Instance
	trail *trail.Trail
	sites *sites.Sites
	texts *texts.Texts

	pictures chan struct{} // a place for each picture that is decoded: it takes much memory
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail, sites *sites.Sites, texts *texts.Texts) *Library {
	return &Library{base: base, trail: trail, sites: sites, texts: texts, pictures: newPictureDesk()}
}
