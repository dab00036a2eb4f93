package flows_test

import (
	"testing"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/core/flow"
)

// What goes live at one instance is met at every other, and what has ended is not.
func TestEveryInstanceMeetsWhatIsLive(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	first(w, c)
	other := w.Another()
	met := func(a *app.App) string {
		version, err := a.Flows.Met(a.DB(), flow.Arrival{Channel: "chat"})
		w.Must(err)
		if version == nil {
			return "nobody"
		}
		return version.Name()
	}
	if here, there := met(w.App), met(other); here != "questions@1" || there != here {
		t.Fatalf("met %s here, and %s there", here, there)
	}
	_, err := w.Flows.PublishFlow(w.Context, c.Publisher, "questions", script+"\n", 1)
	w.Must(err)
	if here := met(w.App); here != "questions@2" {
		t.Errorf("met %s where it was published", here)
	}
	w.Eventually(func() bool { return met(other) == "questions@2" })
	w.Must(w.Flows.End(w.Context, c.Publisher, "questions", true))
	if here := met(w.App); here != "nobody" {
		t.Errorf("met %s after it has ended", here)
	}
	w.Eventually(func() bool { return met(other) == "nobody" })
}
