package app_test

import (
	"context"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/keeping"
	"hermeneus/app/problem"
)

// Everything that grows with use ends after its time, and not before.
func TestWhatHadItsTimeEnds(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	if err := w.Keeping.SetKeeping(
		w.Context,
		c.Publisher,
		keeping.Periods{Mails: 1, News: 1, Jobs: 1, Reports: 1, Words: 1},
	); apptest.KindOf(err) != problem.Denied {
		t.Errorf("a publisher sets it: %v", err)
	}
	if err := w.Keeping.SetKeeping(
		w.Context,
		c.Administrator,
		keeping.Periods{Mails: 0, News: 1, Jobs: 1, Reports: 4000, Words: 1},
	); apptest.KindOf(err) != problem.Invalid {
		t.Errorf("no days, or too many: %v", err)
	}
	w.Must(
		w.Keeping.SetKeeping(
			w.Context,
			c.Administrator,
			keeping.Periods{Mails: 10, News: 20, Jobs: 30, Reports: 40, Words: 50, Evidence: 3660},
		),
	)
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "A bill", "<p>Text.</p>", "")
	// One of each, as old as each number of days, by the columns that its time is counted from.
	plant := map[string]string{
		"sessions": `INSERT INTO sessions (token_hash, staff_id, created_at, expires_at)
			VALUES (sha256(CAST(@at AS text)::bytea), @staff, @at, @at)`,
		"sign_in_failures": `INSERT INTO sign_in_failures (account, network, at) VALUES ('staff:x', 'x', @at)`,
		"known_browsers":   `INSERT INTO known_browsers VALUES (sha256(CAST(@at AS text)::bytea), 'staff:x', @at)`,
		"password_links": `INSERT INTO password_links (token_hash, staff_id, made_at, expires_at)
			VALUES (sha256(CAST(@at AS text)::bytea), @staff, @at, @at)`,
		"holds": `INSERT INTO holds (text_id, tab, staff_id, since, seen_at)
			VALUES ((SELECT min(id) FROM editions), CAST(@at AS text), @staff, @at, @at)`,
		"made": `INSERT INTO made VALUES (sha256(CAST(@at AS text)::bytea), @at)`,
		"mails": `INSERT INTO mails (made_at, address, subject, body, sent_at, tries, next_at, fault)
			VALUES (@at, 'a', '', '', @at, 1, @at, '')`,
		"news": `INSERT INTO news (staff_id, at, kind, text, path, shown, by_mail)
			VALUES (@staff, @at, 'decided', '', '', true, false)`,
		"jobs": `INSERT INTO jobs (kind, staff_id, asked_at, input, state, total, done, ended_at)
			VALUES ('bulk', @staff, @at, '{}', 'done', 1, 1, @at)`,
		"evidence_words": `INSERT INTO evidence_words
			SELECT coalesce(max(evidence_id), 0) + 1, @at, 'words' FROM evidence_words`,
		"newcomers": `INSERT INTO newcomers VALUES ('x', @at, 1)`,
		"search_reports": `INSERT INTO search_reports (site_id, at, why, quality, places)
			VALUES ((SELECT min(id) FROM sites), @at, '', '{}', '{}')`,
	}
	ages := []int{
		0,
		1,
		3,
		9,
		11,
		19,
		21,
		29,
		31,
		39,
		41,
		399,
		401,
	} // in days
	left := map[string]int{
		"sessions":         0,
		"sign_in_failures": 1,
		"known_browsers":   12,
		"password_links":   1,
		"holds":            1,
		"made":             2,
		"mails":            4,
		"news":             6,
		"jobs":             8,
		"evidence_words":   11,
		"newcomers":        1,
		"search_reports":   11,
	} // of the reports the latest stays, which here is the oldest
	now := w.Instance.Now()
	for table, sql := range plant {
		w.Must(w.DB().Exec(`DELETE FROM ` + table).Error)
		for _, days := range ages {
			w.Must(
				w.DB().
					Exec(sql, map[string]any{"at": now.AddDate(0, 0, -days).Add(time.Second), "staff": c.Author.ID}).
					Error,
			)
		}
	}
	w.Must(
		w.DB().
			Exec(`INSERT INTO job_changes (job_id, article_id, before, after) SELECT id, 1, '{}', '{}' FROM jobs`).
			Error,
	)
	w.Wait(2 * time.Second)
	for _, end := range []func(context.Context) error{
		w.Instance.EndKeys, w.Accounts.EndOldSignIns, w.Texts.EndHolds, w.Notify.EndOldMail, w.Notify.EndOldNews, w.Jobs.EndOldJobs, w.Search.Quality.EndOldReports, w.Recorder.LetGo,
	} {
		w.Must(end(w.Context))
	}
	for table, want := range left {
		var n int
		w.Must(w.DB().Raw(`SELECT count(*) FROM ` + table).Scan(&n).Error)
		if n != want {
			t.Errorf("%s: %d are left of %d, want %d", table, n, len(ages), want)
		}
	}
	w.Must(apptest.Second(w.Desk.ReadArticle(w.Context, c.Author, ref)))
}
