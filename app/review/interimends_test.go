package review_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/library"
	"hermeneus/core/audience"
)

// One interim article that cannot be ended keeps no other live.
func TestOneThatCannotBeEndedKeepsNoOtherLive(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	var refs []string
	for _, title := range []string{"First", "Broken", "Last"} {
		ref := w.Draft(c.Author, bills, title, "<p>"+title+"</p>", "")
		w.Publish(c, ref)
		w.Must(
			w.Library.SetProperties(
				w.Context,
				c.Author,
				ref,
				library.Properties{
					CategoryID:   bills,
					OwnerID:      c.Author.ID,
					Kind:         "fix",
					Audience:     audience.Everyone,
					InterimUntil: "2026-03-05",
				},
			),
		)
		refs = append(refs, ref)
	}
	// A path that cannot be read stands for whatever goes wrong with one.
	w.Must(w.DB().Exec(`UPDATE editions SET state = 'no state' WHERE title = 'Broken'`).Error)
	w.Wait(6 * 24 * time.Hour)
	if err := w.Review.Rechecks.EndInterim(w.Context); err == nil || !strings.Contains(err.Error(), refs[1]) {
		t.Errorf("what failed is not said: %v", err)
	}
	if apptest.IsLive(w, refs[0]) || !apptest.IsLive(w, refs[1]) || apptest.IsLive(w, refs[2]) {
		t.Errorf("live: %t %t %t", apptest.IsLive(w, refs[0]), apptest.IsLive(w, refs[1]), apptest.IsLive(w, refs[2]))
	}
}
