// Package library keeps articles and categories: their place, properties, revisions, templates and files.
// It promises that a published revision never changes, and that an article goes to nobody it is not for.
// It may not publish, save or find anything: those are areas above.
package library

import (
	"hermeneus/app/customers"
	"hermeneus/app/instance"
	"hermeneus/app/texts"
	"hermeneus/app/trail"
)

// Library keeps articles and categories.
type Library struct {
	base      *instance.Instance
	trail     *trail.Trail
	customers *customers.Customers
	texts     *texts.Texts

	pictures    chan struct{} // a place for each picture that is decoded: it takes much memory
	publicFiles []string      // SQL that gives the hashes of files that everybody may see
}

// New gives the area what it needs.
func New(base *instance.Instance, trail *trail.Trail, customers *customers.Customers, texts *texts.Texts) *Library {
	a := &Library{base: base, trail: trail, customers: customers, texts: texts, pictures: newPictureDesk()}
	customers.OnUses(`SELECT audience FROM articles`)
	customers.OnUses(`SELECT audience FROM categories`)
	customers.OnUses(`SELECT audience FROM known_problems WHERE solved_at IS NULL`)
	return a
}

// OnPublicFiles registers SQL that gives the hashes of files that everybody may see.
func (a *Library) OnPublicFiles(hashes string) { a.publicFiles = append(a.publicFiles, hashes) }
