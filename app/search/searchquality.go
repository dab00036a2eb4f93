package search

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/keeping"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/core/search"
	"hermeneus/store"
)

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
	Change *search.Quality `json:"change"` // from before to now
	Since  *time.Time      `json:"since"`  // when that was measured; nil for a trial
	Why    string          `json:"why"`    // what went live since
	Moved  []search.Moved  `json:"moved"`  // those whose place is another, the worst first
	Parts  search.Places   `json:"parts"`  // how many questions stand how far down
	Drafts []string        `json:"drafts"` // articles of the batch that were tried
	places map[string]int
}

// measureSearch ranks the judged questions, as a signed-in customer would find them.
func measureSearch(
	x *search.Index,
	f *sites.Settings,
	rules *search.Rules,
	rows []store.Judged,
) (SearchQuality, error) {
	var all []search.Judged
	out := SearchQuality{places: map[string]int{}, Moved: []search.Moved{}, Drafts: []string{}}
	for _, row := range rows {
		found, err := x.Find(
			search.Request{
				Words:  row.Question,
				Viewer: audience.Viewer{SignedIn: true, Groups: f.Groups},
				Within: f.Within(),
				Limit:  10,
				Rules:  rules,
			},
		)
		if err != nil {
			return out, err
		}
		j := search.Judged{Right: references(row.RightArticles)}
		for _, h := range found.Hits {
			j.Ranking = append(j.Ranking, h.Reference)
		}
		all = append(all, j)
		out.places[row.Question] = j.Rank()
		out.Parts.Count(j.Rank())
	}
	out.Now = search.Measure(all)
	return out, nil
}

// since compares with how it was before.
func (q *SearchQuality) since(before search.Quality, places map[string]int) {
	change := q.Now.Minus(before)
	q.Before, q.Change, q.Moved = &before, &change, search.Moves(places, q.places)
}

// MeasureSearch says how well a site's search does now, and what moved since before
// the last thing that went live.
func (a *Quality) MeasureSearch(
	ctx context.Context,
	by staff.Staff,
	site int64,
) (SearchQuality, []JudgedQuestion, error) {
	if err := by.May("Reading how well the search does", outcomes.FigureRoles...); err != nil {
		return SearchQuality{}, nil, err
	}
	db := a.base.DB.WithContext(ctx)
	f, err := a.sites.KnownSettings(db, site)
	if err != nil {
		return SearchQuality{}, nil, err
	}
	rows, err := judgedOf(db, site)
	if err != nil {
		return SearchQuality{}, nil, err
	}
	now, err := measureSearch(a.search.index, f, f.Rules, rows)
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
		now.since(quality, before)
		now.Since, now.Why = &reports[1].At, reports[0].Why
	}
	list, err := judgedLines(db, rows, now.places, before)
	return now, list, err
}

func judgedLines(db *gorm.DB, rows []store.Judged, places, before map[string]int) ([]JudgedQuestion, error) {
	var people []instance.Name
	if err := db.Raw(`SELECT id, name FROM staff`).Scan(&people).Error; err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for _, p := range people {
		names[p.ID] = p.Name
	}
	list := make([]JudgedQuestion, len(rows))
	for i, row := range rows {
		list[i] = JudgedQuestion{
			ID:       row.ID,
			Question: row.Question,
			Right:    references(row.RightArticles),
			Source:   row.Source,
			MadeAt:   row.MadeAt,
			Place:    places[row.Question],
		}
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
func (a *Quality) TrialSearch(
	ctx context.Context,
	by staff.Staff,
	site int64,
	trial SearchTrial,
) (SearchQuality, error) {
	if err := by.May("Trying the search", append(slices.Clone(outcomes.FigureRoles), role.Author)...); err != nil {
		return SearchQuality{}, err
	}
	if err := checkWeights(trial.Weights); err != nil {
		return SearchQuality{}, err
	}
	var fields problem.Fields
	for _, line := range trial.Synonyms {
		if _, err := search.ParseSynonyms(line); err != nil {
			fields.Require(false, "synonyms", "This cannot be read: "+err.Error()+".")
		}
	}
	if err := fields.Err(); err != nil {
		return SearchQuality{}, err
	}
	db := a.base.DB.WithContext(ctx)
	f, err := a.sites.KnownSettings(db, site)
	if err != nil {
		return SearchQuality{}, err
	}
	rows, err := judgedOf(db, site)
	if err != nil {
		return SearchQuality{}, err
	}
	before, err := measureSearch(a.search.index, f, f.Rules, rows)
	if err != nil {
		return before, err
	}
	x, drafts := a.search.index, []search.Document{}
	if trial.BatchID != 0 {
		if drafts, err = batchDocuments(db, trial.BatchID); err != nil {
			return before, err
		}
		if x, err = a.search.index.With(drafts...); err != nil {
			return before, err
		}
	}
	now, err := measureSearch(
		x,
		f,
		f.Rules.With(weightsOf(trial.Weights), readSynonyms(trial.Synonyms)),
		rows,
	)
	if err != nil {
		return now, err
	}
	now.since(before.Now, before.places)
	for _, d := range drafts {
		now.Drafts = append(now.Drafts, d.Reference)
	}
	return now, nil
}

// batchDocuments are the working copies of a batch, as they would be indexed.
func batchDocuments(db *gorm.DB, batch int64) ([]search.Document, error) {
	var rows []liveRow
	err := db.Raw(`SELECT a.number, e.language, e.title, e.body, e.keywords, a.audience, a.category_id
		FROM batch_members m JOIN editions e ON e.id = m.edition_id JOIN articles a ON a.id = e.article_id
		WHERE m.batch_id = ? ORDER BY a.number`, batch).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading a batch: %w", err)
	}
	return documents(rows), nil
}

// KeepSearchReports measures every help centre's search after something went live,
// so that it can be told what that moved.
func (a *Quality) KeepSearchReports(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	all, err := a.sites.ReadSettings(db)
	if err != nil {
		return err
	}
	gathered := false
	for id, site := range all.ByID {
		why, err := whatWentLive(db, id, a.base.Now().Add(-indexedBy))
		if err != nil || why == "" {
			if err != nil {
				return err
			}
			continue
		}
		if !gathered {
			if err := a.GatherConfirmed(ctx); err != nil {
				return err
			}
			gathered = true
		}
		rows, err := judgedOf(db, id)
		if err != nil {
			return err
		}
		quality, err := measureSearch(a.search.index, site, site.Rules, rows)
		if err != nil {
			return err
		}
		row := store.SearchReport{SiteID: id, At: a.base.Now(), Why: why}
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
	err := db.Raw(`WITH last AS
			(SELECT coalesce(max(at), 'epoch') AS at FROM search_reports WHERE site_id = @site)
		SELECT (SELECT count(*) FROM search_reports WHERE site_id = @site) AS reports,
			(SELECT count(DISTINCT edition_id) FROM changes, last
			WHERE changes.at > last.at AND changes.at <= @before) AS articles,
			(SELECT count(*) FROM trail, last
			WHERE trail.at > last.at AND trail.at <= @before
			AND action IN ('added synonyms', 'removed synonyms', 'changed the search''s weights',
			'pinned for a question', 'buried for a question', 'removed a pin')) AS rules,
			coalesce((SELECT r.title FROM changes c JOIN revisions r ON r.id = c.revision_id, last
			WHERE c.at > last.at ORDER BY c.id DESC LIMIT 1), '') AS title`,
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

// EndOldReports lets go of old reports of how well the search does; the latest of each help
// centre stays.
func (a *Quality) EndOldReports(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	keep, err := keeping.Read(db)
	if err != nil {
		return err
	}
	return db.Exec(`DELETE FROM search_reports
		WHERE at < ? AND id NOT IN (SELECT max(id) FROM search_reports GROUP BY site_id)`,
		a.base.Now().AddDate(0, 0, -keep.Reports)).Error
}
