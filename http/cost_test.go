package http_test

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// statements keeps what is asked of a database.
type statements struct {
	logger.Interface
	mu  sync.Mutex
	sql []string
}

func (s *statements) LogMode(logger.LogLevel) logger.Interface { return s }

func (s *statements) Trace(_ context.Context, _ time.Time, of func() (string, int64), _ error) {
	sql, _ := of()
	s.mu.Lock()
	defer s.mu.Unlock()
	s.sql = append(s.sql, sql)
}

func (s *statements) taken() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	all := s.sql
	s.sql = nil
	return all
}

// plan is a node of how the database carried a statement out.
type plan struct {
	Node     string  `json:"Node Type"`
	Rows     float64 `json:"Actual Rows"`
	Loops    float64 `json:"Actual Loops"`
	Filtered float64 `json:"Rows Removed by Filter"`
	Checked  float64 `json:"Rows Removed by Index Recheck"`
	Plans    []plan  `json:"Plans"`
}

// read is how many rows were read from tables and indexes.
func (p plan) read() float64 {
	n := 0.0
	if strings.Contains(p.Node, "Scan") && len(p.Plans) == 0 || strings.Contains(p.Node, "Bitmap Heap") {
		n = p.Loops * (p.Rows + p.Filtered + p.Checked)
	}
	for _, below := range p.Plans {
		if p.Node != "Bitmap Heap Scan" { // its index gives the same rows
			n += below.read()
		}
	}
	return n
}

// rowsRead carries statements out again, and gives how many rows they read.
func rowsRead(s *site, sql []string) float64 {
	s.T.Helper()
	n := 0.0
	for _, one := range sql {
		if first := strings.Fields(one)[0]; first != "SELECT" && first != "WITH" {
			continue
		}
		var text string
		s.Must(s.DB().Raw("EXPLAIN (ANALYZE, FORMAT JSON) " + strings.ReplaceAll(one, "?", "\\?")).Row().Scan(&text))
		var plans []struct{ Plan plan }
		s.Must(json.Unmarshal([]byte(text), &plans))
		n += plans[0].Plan.read()
	}
	return n
}

// grow adds as many questions, evidence and askers again as there are, the given number of times, all older.
func grow(s *site, times int) {
	s.T.Helper()
	for _, sql := range []string{
		`CREATE TEMP TABLE again AS SELECT k, k * 1000000 AS apart, interval '1 day' * (100 + k * 3) AS before
			FROM generate_series(1, @times) k`,
		`INSERT INTO evidence (id, at, asker, channel, kind, ref, refs, source, contact, site, language, category)
			SELECT id + apart, at - before, asker || '-' || k, channel, kind, ref, refs, source, contact, site, language,
				category FROM evidence, again`,
		`INSERT INTO evidence_words SELECT evidence_id + apart, at - before, text FROM evidence_words, again`,
		`INSERT INTO askers (id, name, named, looked, reached, traced_at) OVERRIDING SYSTEM VALUE
			SELECT id + apart, name || '-' || k, named, looked, reached, traced_at - before FROM askers, again`,
		`INSERT INTO asker_keys SELECT key || '-' || k, asker_id + apart FROM asker_keys, again`,
		`INSERT INTO questions SELECT generation, first_item + apart, asker_id + apart, sitting_at - before,
				began_at - before, last_at - before, closed_at - before, outcome, asked_again, returned_by, returned_in,
				returned_at - before, contacts, refs, traced, repeats, answered_at - before,
				ARRAY(SELECT i + apart FROM unnest(items) i), answers, label_item + apart, typed_item, channels, site,
				language, groups, flow, category, team, article, helped_by, opened, not_followed FROM questions, again`,
		`DELETE FROM question_days`, `DELETE FROM article_days`, `DELETE FROM article_outcomes`, `DELETE FROM article_uses`,
		`INSERT INTO question_days SELECT generation, (closed_at AT TIME ZONE 'UTC')::date, outcome, site,
				array_to_string(channels, ','), category, flow, language, count(*), 0, 0 FROM questions
			GROUP BY 1, 2, 3, 4, 5, 6, 7, 8`,
		`INSERT INTO article_days SELECT generation, article, (closed_at AT TIME ZONE 'UTC')::date, outcome, count(*)
			FROM questions WHERE article <> 0 GROUP BY 1, 2, 3, 4`,
		`INSERT INTO article_outcomes SELECT generation, article, outcome, count(*) FROM questions WHERE article <> 0
			GROUP BY 1, 2, 3`,
		`INSERT INTO article_uses SELECT article, (closed_at AT TIME ZONE 'UTC')::date, count(*), count(*) FROM questions
			WHERE article <> 0 GROUP BY 1, 2`,
		`DROP TABLE again`,
	} {
		s.Must(s.DB().Exec(strings.ReplaceAll(sql, "@times", fmt.Sprint(times))).Error)
	}
	s.Must(s.DB().Exec(`VACUUM ANALYZE`).Error)
}

// What a page asks of the database does not grow with the number of questions that are not on it: with a hundred times
// as many, the pages carry out as many statements, and read no more rows.
func TestPagesReadNoMoreWithMoreQuestions(t *testing.T) {
	s := openOver(t, apptest.OpenIdle(t), 0) // nothing else asks the database meanwhile
	s.Hire("ilva", role.All...)
	s.signIn("ilva")
	refs := []string{"A-0001"}
	category := s.Category(s.crew.Author, "Meters")
	for i := range 12 {
		ref := s.Draft(s.crew.Author, category, fmt.Sprintf("Meter %d", i), "<p>Words.</p>", "everyone")
		s.Publish(s.crew, ref)
		refs = append(refs, ref)
	}
	for i := range 1000 {
		at := s.Time().Add(-time.Duration(4+i%16)*24*time.Hour - time.Duration(i)*time.Minute)
		ref := refs[i%len(refs)] + "@1"
		v := evidence.Visitor{Key: fmt.Sprint("k", i*2/3)}
		items := []outcome.Evidence{
			{Kind: outcome.Asked, Text: "where is my meter"}, {Kind: outcome.Offered, Refs: []string{ref}},
			{Kind: outcome.Opened, Ref: ref}, {Kind: outcome.Read, Ref: ref},
			{Kind: []outcome.Kind{outcome.Helped, outcome.NotHelped}[i%2], Ref: ref},
		}
		for k := range items {
			items[k].At, items[k].Asker, items[k].Channel = at.Add(
				time.Duration(k)*time.Minute,
			), v.Asker(), outcome.Help
		}
		s.Must(evidence.Keep(s.DB(), items))
	}
	s.Must(s.Outcomes.FoldAll(s.Context))
	s.Must(s.DB().Exec(`VACUUM ANALYZE`).Error)
	kept := &statements{Interface: logger.Discard}
	for _, db := range []*gorm.DB{s.Instance.DB, s.Instance.Steady} {
		db.Logger = kept
	}
	pages := map[string][]string{
		"the article's page": {"/api/staff/articles/A-0001"},
		"its bar":            {"/api/staff/articles/A-0001/doing"},
		"the margin":         {"/api/staff/articles/A-0001/advice"},
		"the library":        {"/api/staff/articles", "/api/staff/articles?sort=-written"},
		"Today":              {"/api/staff/today"},
		"Outcomes":           {"/api/staff/outcomes", "/api/staff/outcomes/choices"},
		"the Ledger":         {"/api/staff/ledger"},
	}
	type cost struct {
		statements int
		rows       float64
	}
	costs := func() map[string]cost {
		all := map[string]cost{}
		for name, addresses := range pages {
			for _, address := range addresses {
				kept.taken()
				if answer, text := s.ask("GET", address, nil); answer.StatusCode != 200 {
					t.Fatalf("%s: %s %.200s", address, answer.Status, text)
				}
				sql := kept.taken()
				c := all[name]
				all[name] = cost{c.statements + len(sql), c.rows + rowsRead(s, sql)}
				kept.taken()
			}
		}
		return all
	}
	before := costs()
	grow(s, 99)
	after := costs()
	var questions int
	s.Must(s.DB().Raw(`SELECT count(*) FROM questions`).Scan(&questions).Error)
	if questions < 100_000 {
		t.Fatalf("only %d questions", questions)
	}
	for name, b := range before {
		a := after[name]
		t.Logf("%s: %d statements, %.0f rows; with a hundred times the questions %d and %.0f", name, b.statements,
			b.rows, a.statements, a.rows)
		if a.statements != b.statements || a.rows > 1.1*b.rows+20 {
			t.Errorf("%s: with more questions it asks or reads more", name)
		}
	}
}
