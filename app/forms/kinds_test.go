package forms_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/forms"
	"hermeneus/app/problem"
	"hermeneus/core/form"
)

func TestKindsOfRequestsAreKept(t *testing.T) {
	w, c, site := apptest.Requesting(t)
	for name, k := range map[string]forms.RequestKind{
		"no name":          {SiteID: site, Fields: nil},
		"no such site":     {SiteID: 99, Name: "x"},
		"no such team":     {SiteID: site, Name: "x", Team: "Nobody"},
		"a name twice":     {SiteID: site, Name: "I am moving"},
		"fields that fail": {SiteID: site, Name: "x", Fields: []form.Field{{Key: "A B", Label: "x", Kind: form.Text}}},
	} {
		if _, err := w.Forms.Keep(w.Context, c.Administrator, k); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := w.Forms.Keep(
		w.Context,
		c.Author,
		forms.RequestKind{SiteID: site, Name: "x"},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an author: %v", err)
	}
	list, err := w.Forms.Kinds(w.Context, site)
	w.Must(err)
	w.Must(w.Forms.Retire(w.Context, c.Administrator, list[0].ID))
	if list, _ := w.Forms.Kinds(w.Context, site); len(list) != 0 {
		t.Errorf("still offered: %+v", list)
	}
	if apptest.KindOf(w.Forms.Retire(w.Context, c.Administrator, list[0].ID)) != problem.NotFound {
		t.Error("it is retired twice")
	}
}
