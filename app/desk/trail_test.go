package desk_test

import (
	"strings"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/library"
	"hermeneus/app/review"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

func TestTheTrailIsFilteredAndTakenOut(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills := w.Category(c.Author, "Bills")
	inside, err := w.Library.AddCategory(
		w.Context,
		c.Author,
		library.NewCategory{ParentID: bills, Name: "Paying", Audience: audience.Everyone},
	)
	w.Must(err)
	ref := w.Draft(c.Author, inside, "=SUM(A1)", "<p>Text.</p>", "")
	w.Publish(c, ref)
	w.Must(
		w.Review.Move(w.Context, c.Publisher, ref, review.Step{Action: corereview.Withdraw, Note: "=cmd, \"quoted\""}),
	)
	w.Wait(48 * time.Hour)
	w.Must(w.StillTrueRefused(c.Author, ref))
	count := func(f desk.TrailFilter) int {
		rows, total, err := w.Desk.Trail(w.Context, apptest.Reader, f)
		w.Must(err)
		if len(rows) != total {
			t.Errorf("%+v: %d of %d", f, len(rows), total)
		}
		return total
	}
	for want, f := range map[string]desk.TrailFilter{
		"5 of the article":  {Article: ref},
		"2 by the author":   {Article: ref, StaffID: c.Author.ID},
		"0 by the program":  {StaffID: -1, Article: ref},
		"1 withdrawal":      {Action: "withdraw"},
		"1 with the words":  {Words: "quoted"},
		"0 since yesterday": {Article: ref, From: w.Time().Add(-24 * time.Hour)},
		"5 before it":       {Article: ref, To: w.Time().Add(-24 * time.Hour)},
	} {
		if n := count(f); !strings.HasPrefix(want, string(rune('0'+n))+" ") {
			t.Errorf("%s: %d", want, n)
		}
	}
	if n := count(desk.TrailFilter{CategoryID: bills}); n != 7 {
		t.Errorf("of the category, what is in it and below it: %d", n)
	}
	raw, err := w.Desk.TrailFile(w.Context, apptest.Reader, desk.TrailFilter{Action: "withdraw"})
	w.Must(err)
	want := "at,who,subject,action,from,to,note\r\n2026-03-02T09:00:00Z,pia,A-0001,withdraw,published,approved,\"'=cmd, \"\"quoted\"\"\"\r\n"
	if string(raw) != want {
		t.Errorf("got  %q\nwant %q", raw, want)
	}
	for _, sql := range []string{"TRUNCATE trail", "TRUNCATE revisions CASCADE", "UPDATE trail SET note = ''", "DELETE FROM trail"} {
		if w.DB().Exec(sql).Error == nil {
			t.Errorf("%s was done", sql)
		}
	}
}
