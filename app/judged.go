package app

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/lib/pq"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/core/search"
	"hermeneus/store"
)

// JudgedQuestion is a question of which it is known what answers it.
type JudgedQuestion struct {
	ID       int64     `json:"id"`
	Question string    `json:"question"`
	Right    []string  `json:"right"`  // references of articles
	Source   string    `json:"source"` // ledger, confirmed or by_hand
	MadeBy   string    `json:"made_by"`
	MadeAt   time.Time `json:"made_at"`
	Place    int       `json:"place"`  // of the first right one now, 0 when it is not among ten
	Before   *int      `json:"before"` // before the last thing that went live; nil when it was not measured
}

// maxJudged bounds a site's judged questions, and rightShown the answers of each.
const (
	maxJudged  = 2000
	rightShown = 5
)

// Judge says that an article answers a question: by hand, or out of the Ledger. An
// article that answers the same question too is added to it.
func (a *App) Judge(ctx context.Context, by Staff, site int64, question, reference, source string) error {
	if err := by.may("Judging what answers a question", figureRoles...); err != nil {
		return err
	}
	var f fields
	question = tidyQuestion(question)
	f.text("question", question, 300)
	f.require(source == "ledger" || source == "by_hand", "source", "Say where it comes from.")
	number, _, ok := article.ParseReference(reference)
	f.require(ok, "reference", "An article is named as A-0042.")
	if err := f.err(); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		var there, n int
		if err := tx.Raw(`SELECT count(*) FROM articles WHERE number = ?`, number).Scan(&there).Error; err != nil {
			return err
		}
		if err := tx.Raw(`SELECT count(*) FROM judged WHERE site_id = ? AND NOT dropped`, site).Scan(&n).Error; err != nil {
			return err
		}
		f.require(there == 1, "reference", "There is no such article.")
		f.require(n < maxJudged, "question", fmt.Sprintf("A help centre has at most %d judged questions; take some away.", maxJudged))
		if err := f.err(); err != nil {
			return err
		}
		if err := judge(tx, site, question, number, source, &by.ID, a.now()); err != nil {
			return asProblem(err, "help centre")
		}
		return a.note(tx, by, store.Trail{Subject: reference, Action: "judged to answer a question", Note: question})
	})
}

func tidyQuestion(text string) string { return strings.Join(strings.Fields(text), " ") }

// judge keeps a judgement. What somebody dropped comes back only by hand.
func judge(tx *gorm.DB, site int64, question string, number int, source string, by *int64, at time.Time) error {
	var row store.Judged
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("site_id = ? AND lower(question) = lower(?)", site, question).Limit(1).Find(&row).Error
	if err != nil {
		return err
	}
	if row.ID == 0 {
		row = store.Judged{SiteID: site, Question: question, RightArticles: pq.Int64Array{}}
	} else if row.Dropped {
		if source == "confirmed" {
			return nil
		}
		row.RightArticles, row.Dropped = pq.Int64Array{}, false
	}
	if slices.Contains(row.RightArticles, int64(number)) || len(row.RightArticles) >= rightShown {
		if row.ID != 0 {
			return nil
		}
	} else {
		row.RightArticles = append(row.RightArticles, int64(number))
	}
	row.Source, row.MadeBy, row.MadeAt = source, by, at
	return tx.Save(&row).Error
}

// JudgeFromLedger says that an article answered the question of the Ledger's line.
func (a *App) JudgeFromLedger(ctx context.Context, by Staff, key, reference string) error {
	q, err := a.ReadQuestion(ctx, by, key)
	if err != nil {
		return err
	}
	asked := askedText(q.Evidence)
	if asked == "" {
		return problem(NotNow, "Nobody put this question in words, so the search cannot be judged by it.")
	}
	f, err := a.readFronts(ctx)
	if err != nil {
		return err
	}
	if f.main == nil {
		return problem(NotNow, "There is no help centre.")
	}
	return a.Judge(ctx, by, f.main.ID, asked, reference, "ledger")
}

// askedText is the last thing asked in words.
func askedText(items []outcome.Evidence) string {
	for _, e := range slices.Backward(items) {
		if e.Kind == outcome.Asked && strings.TrimSpace(e.Text) != "" {
			return tidyQuestion(e.Text)
		}
	}
	return ""
}

// DropJudged takes a question out; it is not gathered again.
func (a *App) DropJudged(ctx context.Context, by Staff, id int64) error {
	if err := by.may("Judging what answers a question", figureRoles...); err != nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		var row store.Judged
		if err := tx.Where("NOT dropped").First(&row, id).Error; err != nil {
			return asProblem(err, "judged question")
		}
		row.Dropped = true
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.note(tx, by, store.Trail{Subject: row.Question, Action: "left out of the judged questions"})
	})
}

// GatherConfirmed adds the questions that customers confirmed to be answered to the
// judged set of the main help centre, with what answered them.
func (a *App) GatherConfirmed(ctx context.Context) error {
	questions, err := a.questions(ctx)
	if err != nil {
		return err
	}
	f, err := a.readFronts(ctx)
	if err != nil || f.main == nil {
		return err
	}
	return a.transaction(ctx, func(tx *gorm.DB) error {
		var known []struct {
			Question string
			N        int
		}
		if err := tx.Raw(`SELECT lower(question) AS question, cardinality(right_articles) AS n FROM judged WHERE site_id = ?`, f.main.ID).Scan(&known).Error; err != nil {
			return err
		}
		have := map[string]bool{}
		for _, k := range known {
			have[k.Question] = true
		}
		for _, q := range questions {
			if q.Outcome != outcome.Confirmed || len(have) >= maxJudged {
				continue
			}
			text, number := askedText(q.Evidence), helpedBy(q.Evidence)
			if number == 0 || have[strings.ToLower(text)] || !search.Telling(text) || len([]rune(text)) > 300 {
				continue
			}
			have[strings.ToLower(text)] = true
			if err := judge(tx, f.main.ID, text, number, "confirmed", nil, a.now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// helpedBy is the number of the article that the customer said helped, 0 for none.
func helpedBy(items []outcome.Evidence) int {
	for _, e := range slices.Backward(items) {
		if e.Kind == outcome.Helped {
			number, _, _ := article.ParseReference(e.Ref)
			return number
		}
	}
	return 0
}

// SearchTrial is what is tried on the judged questions before it goes live.
type SearchTrial struct {
	Synonyms []string  `json:"synonyms"` // rules to be added
	Weights  []float32 `json:"weights"`  // in the place of the site's; none for those
	BatchID  int64     `json:"batch_id"` // working copies of a batch, as if they were live; 0 for none
}

// SearchQuality says how well the search does on the judged questions.
type SearchQuality struct {
	Now    search.Quality  `json:"now"`
	Before *search.Quality `json:"before"` // when the last thing had not gone live yet, or without the trial
	Since  *time.Time      `json:"since"`  // when that was measured; nil for a trial
	Why    string          `json:"why"`    // what went live since
	Moved  []MovedQuestion `json:"moved"`  // those whose place is another, the worst first
	Parts  map[string]int  `json:"parts"`  // how many are first, among three, among ten, not found
	Fields [4]string       `json:"fields"` // what the weights are of
	Drafts []string        `json:"drafts"` // articles of the batch that were tried
	places map[string]int
}

// MovedQuestion is a question whose right answer stands elsewhere than before.
type MovedQuestion struct {
	Question string   `json:"question"`
	Right    []string `json:"right"`
	Before   int      `json:"before"` // 0 for not among ten
	Now      int      `json:"now"`
}

// judgedOf lists the judged questions of a site.
func judgedOf(db *gorm.DB, site int64) ([]store.Judged, error) {
	var rows []store.Judged
	err := db.Where("site_id = ? AND NOT dropped", site).Order("id DESC").Find(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading judged questions: %w", err)
	}
	return rows, nil
}

func references(numbers []int64) []string {
	refs := make([]string, len(numbers))
	for i, n := range numbers {
		refs[i] = article.Reference(int(n))
	}
	return refs
}

// measureSearch ranks the judged questions, as a signed-in customer would find them.
func measureSearch(x *search.Index, f *front, rules *search.Rules, rows []store.Judged) (SearchQuality, error) {
	var all []search.Judged
	out := SearchQuality{places: map[string]int{}, Parts: map[string]int{"first": 0, "three": 0, "ten": 0, "none": 0}, Fields: search.FieldNames, Moved: []MovedQuestion{}, Drafts: []string{}}
	for _, row := range rows {
		found, err := x.Find(search.Request{Words: row.Question, Viewer: audience.Viewer{SignedIn: true}, Within: f.within(), Limit: 10, Rules: rules})
		if err != nil {
			return out, err
		}
		j := search.Judged{Right: references(row.RightArticles)}
		for _, h := range found.Hits {
			j.Ranking = append(j.Ranking, h.Reference)
		}
		all = append(all, j)
		place := j.Rank()
		out.places[row.Question] = place
		switch {
		case place == 1:
			out.Parts["first"]++
		case place > 0 && place <= 3:
			out.Parts["three"]++
		case place > 3:
			out.Parts["ten"]++
		default:
			out.Parts["none"]++
		}
	}
	out.Now = search.Measure(all)
	return out, nil
}

// moved lists the questions that stand elsewhere than before, what got worse first.
func (q *SearchQuality) moved(rows []store.Judged, before map[string]int) {
	depth := func(place int) int {
		if place == 0 {
			return 11
		}
		return place
	}
	for _, row := range rows {
		was, known := before[row.Question]
		if now := q.places[row.Question]; known && was != now {
			q.Moved = append(q.Moved, MovedQuestion{row.Question, references(row.RightArticles), was, now})
		}
	}
	slices.SortStableFunc(q.Moved, func(a, b MovedQuestion) int {
		return (depth(b.Now) - depth(b.Before)) - (depth(a.Now) - depth(a.Before))
	})
}

// MeasureSearch says how well a site's search does now, and what moved since before
// the last thing that went live.
func (a *App) MeasureSearch(ctx context.Context, by Staff, site int64) (SearchQuality, []JudgedQuestion, error) {
	if err := by.may("Reading how well the search does", figureRoles...); err != nil {
		return SearchQuality{}, nil, err
	}
	db := a.db.WithContext(ctx)
	f, err := a.front(ctx, site)
	if err != nil {
		return SearchQuality{}, nil, err
	}
	if f == nil {
		return SearchQuality{}, nil, problem(NotFound, "There is no such help centre.")
	}
	rows, err := judgedOf(db, site)
	if err != nil {
		return SearchQuality{}, nil, err
	}
	now, err := measureSearch(a.index, f, f.rules, rows)
	if err != nil {
		return now, nil, err
	}
	var reports []store.SearchReport
	if err := db.Where("site_id = ?", site).Order("id DESC").Limit(2).Find(&reports).Error; err != nil {
		return now, nil, err
	}
	before := map[string]int{}
	if len(reports) == 2 {
		var quality search.Quality
		if err := json.Unmarshal(reports[1].Quality, &quality); err != nil {
			return now, nil, err
		}
		if err := json.Unmarshal(reports[1].Places, &before); err != nil {
			return now, nil, err
		}
		now.Before, now.Since, now.Why = &quality, &reports[1].At, reports[0].Why
		now.moved(rows, before)
	}
	list, err := judgedLines(db, rows, now.places, before)
	return now, list, err
}

func judgedLines(db *gorm.DB, rows []store.Judged, places, before map[string]int) ([]JudgedQuestion, error) {
	var people []Name
	if err := db.Raw(`SELECT id, name FROM staff`).Scan(&people).Error; err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for _, p := range people {
		names[p.ID] = p.Name
	}
	list := make([]JudgedQuestion, len(rows))
	for i, row := range rows {
		list[i] = JudgedQuestion{ID: row.ID, Question: row.Question, Right: references(row.RightArticles), Source: row.Source, MadeAt: row.MadeAt, Place: places[row.Question]}
		if row.MadeBy != nil {
			list[i].MadeBy = names[*row.MadeBy]
		}
		if was, ok := before[row.Question]; ok {
			list[i].Before = &was
		}
	}
	return list, nil
}

// TrialSearch measures what would become of the judged questions, beside how they do now.
func (a *App) TrialSearch(ctx context.Context, by Staff, site int64, trial SearchTrial) (SearchQuality, error) {
	if err := by.may("Trying the search", append(slices.Clone(figureRoles), role.Author)...); err != nil {
		return SearchQuality{}, err
	}
	if err := checkWeights(trial.Weights); err != nil {
		return SearchQuality{}, err
	}
	var fields fields
	for _, line := range trial.Synonyms {
		if _, err := search.ParseSynonyms(line); err != nil {
			fields.require(false, "synonyms", "This cannot be read: "+err.Error()+".")
		}
	}
	if err := fields.err(); err != nil {
		return SearchQuality{}, err
	}
	db := a.db.WithContext(ctx)
	f, err := a.front(ctx, site)
	if err != nil {
		return SearchQuality{}, err
	}
	if f == nil {
		return SearchQuality{}, problem(NotFound, "There is no such help centre.")
	}
	rows, err := judgedOf(db, site)
	if err != nil {
		return SearchQuality{}, err
	}
	before, err := measureSearch(a.index, f, f.rules, rows)
	if err != nil {
		return before, err
	}
	rules, err := a.trialRules(db, site, trial)
	if err != nil {
		return before, err
	}
	x, drafts := a.index, []search.Document{}
	if trial.BatchID != 0 {
		if drafts, err = batchDocuments(db, trial.BatchID); err != nil {
			return before, err
		}
		if x, err = a.index.With(drafts...); err != nil {
			return before, err
		}
	}
	now, err := measureSearch(x, f, rules, rows)
	if err != nil {
		return now, err
	}
	now.Before = &before.Now
	now.moved(rows, before.places)
	for _, d := range drafts {
		now.Drafts = append(now.Drafts, d.Reference)
	}
	return now, nil
}

// trialRules are a site's rules with those of the trial.
func (a *App) trialRules(db *gorm.DB, site int64, trial SearchTrial) (*search.Rules, error) {
	var row store.Site
	if err := db.First(&row, site).Error; err != nil {
		return nil, asProblem(err, "help centre")
	}
	var lines []string
	if err := db.Raw(`SELECT rule FROM synonyms WHERE site_id = ? ORDER BY id`, site).Scan(&lines).Error; err != nil {
		return nil, err
	}
	weights := weightsOf(row.Weights)
	if len(trial.Weights) > 0 {
		weights = weightsOf(trial.Weights)
	}
	current, err := rulesOf(db, row, a.today())
	if err != nil {
		return nil, err
	}
	return search.NewRules(weights, readSynonyms(append(lines, trial.Synonyms...)), current.Pins()), nil
}

// batchDocuments are the working copies of a batch, as they would be indexed.
func batchDocuments(db *gorm.DB, batch int64) ([]search.Document, error) {
	var rows []liveRow
	err := db.Raw(`SELECT a.number, e.language, e.title, e.body, e.keywords, a.audience, a.category_id
		FROM batch_members m JOIN editions e ON e.id = m.edition_id JOIN articles a ON a.id = e.article_id WHERE m.batch_id = ? ORDER BY a.number`, batch).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading a batch: %w", err)
	}
	return documents(rows), nil
}

// KeepSearchReports measures every help centre's search after something went live,
// so that it can be told what that moved.
func (a *App) KeepSearchReports(ctx context.Context) error {
	if err := a.GatherConfirmed(ctx); err != nil {
		return err
	}
	db := a.db.WithContext(ctx)
	f, err := a.readFronts(ctx)
	if err != nil {
		return err
	}
	for id, site := range f.byID {
		why, err := whatWentLive(db, id, a.now().Add(-indexedBy))
		if err != nil || why == "" {
			if err != nil {
				return err
			}
			continue
		}
		rows, err := judgedOf(db, id)
		if err != nil {
			return err
		}
		quality, err := measureSearch(a.index, site, site.rules, rows)
		if err != nil {
			return err
		}
		row := store.SearchReport{SiteID: id, At: a.now(), Why: why}
		if row.Quality, err = json.Marshal(quality.Now); err != nil {
			return err
		}
		if row.Places, err = json.Marshal(quality.places); err != nil {
			return err
		}
		if err := db.Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// indexedBy is how long after something went live the index surely knows it.
const indexedBy = 5 * time.Second

// whatWentLive says in words what changed a site's search since it was last measured,
// "" for nothing.
func whatWentLive(db *gorm.DB, site int64, before time.Time) (string, error) {
	var row struct {
		Reports, Articles, Rules int
		Title                    string
	}
	err := db.Raw(`WITH last AS (SELECT coalesce(max(at), 'epoch') AS at FROM search_reports WHERE site_id = @site)
		SELECT (SELECT count(*) FROM search_reports WHERE site_id = @site) AS reports,
			(SELECT count(DISTINCT edition_id) FROM changes, last WHERE changes.at > last.at AND changes.at <= @before) AS articles,
			(SELECT count(*) FROM trail, last WHERE trail.at > last.at AND trail.at <= @before AND action IN ('added synonyms', 'removed synonyms', 'changed the search''s weights',
				'pinned for a question', 'buried for a question', 'removed a pin')) AS rules,
			coalesce((SELECT r.title FROM changes c JOIN revisions r ON r.id = c.revision_id, last WHERE c.at > last.at ORDER BY c.id DESC LIMIT 1), '') AS title`,
		sql.Named("site", site), sql.Named("before", before)).Scan(&row).Error
	switch {
	case err != nil:
		return "", fmt.Errorf("looking for what went live: %w", err)
	case row.Reports == 0:
		return "first measured", nil
	case row.Articles == 1:
		return "“" + row.Title + "” was published", nil
	case row.Articles > 1:
		return fmt.Sprintf("%d articles were published", row.Articles), nil
	case row.Rules > 0:
		return "the search's rules were changed", nil
	}
	return "", nil
}
