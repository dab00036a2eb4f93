// Package exchange brings the library in and out: files, archives, mails and replies.
// It promises that what is taken out and brought in again is the same, and that every file is reported.
// It may not publish, nor overwrite what somebody has changed since.
package exchange

import (
	"hermeneus/app/instance"
	"hermeneus/app/jobs"
	"hermeneus/app/library"
	"hermeneus/app/notify"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
)

// Exchange brings the library in and out.
type Exchange struct {
	base    *instance.Instance
	jobs    *jobs.Jobs
	notify  *notify.Notify
	texts   *texts.Texts
	library *library.Library
	writing *writing.Writing
}

// New gives the area what it needs, and registers what it does by itself.
func New(
	base *instance.Instance,
	jobs *jobs.Jobs,
	notify *notify.Notify,
	texts *texts.Texts,
	library *library.Library,
	writing *writing.Writing,
) *Exchange {
	a := &Exchange{base: base, jobs: jobs, notify: notify, texts: texts, library: library, writing: writing}
	jobs.Handle(jobImport, a.runImport)
	return a
}
