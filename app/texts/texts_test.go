package texts_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/core/audience"
)

func TestEveryEditionIsAText(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "One", "<p>x</p>", audience.Everyone)
	w.Must(apptest.Second(w.Writing.AddEdition(w.Context, c.Author, ref, "de")))
	var odd, texts int
	w.Must(w.DB().Raw(`SELECT count(*) FROM editions e FULL JOIN texts t ON t.id = e.id AND t.kind = 'edition'
		WHERE e.id IS NULL OR t.id IS NULL`).Scan(&odd).Error)
	w.Must(w.DB().Raw(`SELECT count(*) FROM texts`).Scan(&texts).Error)
	if odd != 0 || texts != 2 {
		t.Errorf("%d texts, of which %d are no edition's, or editions without one", texts, odd)
	}
	if err := w.DB().
		Exec(`INSERT INTO holds SELECT 999, 'tab', id, now(), now() FROM staff LIMIT 1`).
		Error; err == nil {
		t.Error("somebody holds a text that is not there")
	}
}
