package writing

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/review"
	"hermeneus/core/role"
	"hermeneus/store"
)

// EditionLine is an edition in the list of an article's editions.
type EditionLine struct {
	Reference string       `json:"reference"`
	Language  string       `json:"language"`
	Name      string       `json:"name"` // of the language, in itself
	Title     string       `json:"title"`
	State     review.State `json:"state"`
	Live      bool         `json:"live"`
	Behind    bool         `json:"behind"`  // the source says something else since
	SaysAs    int          `json:"says_as"` // the source's revision that it says the same as; 0 for none
}

// EditionLines lists the editions of an article, the source first.
func EditionLines(db *gorm.DB, row store.Article) ([]EditionLine, error) {
	var lines []EditionLine
	err := db.Raw(`SELECT e.language, e.title, e.state, e.live_revision_id IS NOT NULL AS live,
			coalesce(r.number, 0) AS says_as, e.language <> ? AND s.live_revision_id IS NOT NULL
			AND e.source_revision_id IS DISTINCT
		FROM s.live_revision_id AS behind FROM editions e
		JOIN editions s ON s.article_id = e.article_id AND s.language = ?
		LEFT JOIN revisions r ON r.id = e.source_revision_id WHERE e.article_id = ?
		ORDER BY e.language <> ?, e.language`, article.SourceLanguage, article.SourceLanguage, row.ID, article.SourceLanguage).
		Scan(&lines).
		Error
	for i := range lines {
		lines[i].Reference = article.EditionReference(row.Number, lines[i].Language)
		lines[i].Name = article.Languages[lines[i].Language]
	}
	return lines, err
}

// AddEdition begins an edition in another language, and gives its reference.
func (a *Writing) AddEdition(ctx context.Context, by staff.Staff, reference, language string) (string, error) {
	if err := by.May("Writing an edition", role.Author); err != nil {
		return "", err
	}
	if article.Languages[language] == "" || language == article.SourceLanguage {
		return "", problem.OfField("language", "Choose one of the languages offered.")
	}
	var ref string
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, source, err := library.FindEdition(tx, sourceOf(reference), true)
		if err != nil {
			return err
		}
		ref = article.EditionReference(row.Number, language)
		var there int
		if err := tx.Raw(`SELECT count(*) FROM editions WHERE article_id = ? AND language = ?`, row.ID, language).
			Scan(&there).
			Error; err != nil {
			return err
		}
		if there > 0 {
			return problem.New(problem.NotNow, "There is an edition in %s already.", article.Languages[language])
		}
		e := store.Edition{
			ArticleID:        row.ID,
			Language:         language,
			State:            string(review.Drafting),
			Version:          1,
			WriterID:         by.ID,
			WrittenAt:        a.base.Now(),
			Keywords:         []string{},
			SourceRevisionID: source.LiveRevisionID,
		}
		if err := tx.Create(&e).Error; err != nil {
			return err
		}
		return a.trail.Note(
			tx,
			by,
			store.Trail{
				ArticleID: &row.ID,
				Subject:   ref,
				Action:    "begun",
				ToState:   string(review.Drafting),
				Note:      article.Languages[language],
			},
		)
	})
	return ref, err
}

// sourceOf gives the reference of the source edition.
func sourceOf(reference string) string {
	if number, _, ok := article.ParseEdition(reference); ok {
		return article.Reference(number)
	}
	return reference
}

// EditionView is the source that an edition is written from.
type EditionView struct {
	Title  string           `json:"title"`
	Rows   []compare.Beside `json:"rows"`   // ours is the source, theirs the edition
	Behind bool             `json:"behind"` // the source's live revision changed since
	SaysAs int              `json:"says_as"`
	Live   int              `json:"live"`  // the source's live revision
	Since  *library.Changed `json:"since"` // what changed in the source; nil when nothing did
}

// BesideSource lays an edition beside its source, block by block. What is live of
// the source is what an edition follows; before the first publication it is the
// source's working copy.
func (a *Writing) BesideSource(ctx context.Context, reference string) (EditionView, error) {
	db := a.base.DB.WithContext(ctx)
	_, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return EditionView{}, err
	}
	_, source, err := library.FindEdition(db, sourceOf(reference), false)
	if err != nil {
		return EditionView{}, err
	}
	which := texts.TheLive
	if source.LiveRevisionID == nil {
		which = library.TheCopy
	}
	now, err := a.library.TextOf(db, source, which)
	if err != nil {
		return EditionView{}, err
	}
	out := EditionView{Title: now.Title, Rows: compare.Abreast(now.Body, e.Body)}
	var numbers struct{ Live, SaysAs int }
	err = db.Raw(`SELECT coalesce((SELECT number FROM revisions WHERE id = ?), 0) AS live,
			coalesce((SELECT number FROM revisions WHERE id = ?), 0) AS says_as`,
		source.LiveRevisionID, e.SourceRevisionID).
		Scan(&numbers).
		Error
	if err != nil {
		return EditionView{}, err
	}
	out.Live, out.SaysAs = numbers.Live, numbers.SaysAs
	if out.Behind = numbers.Live != 0 && numbers.Live != numbers.SaysAs; out.Behind {
		var old library.WorkingCopy
		if numbers.SaysAs != 0 {
			if old, err = a.library.TextOf(db, source, fmt.Sprint(numbers.SaysAs)); err != nil {
				return EditionView{}, err
			}
		}
		since := library.Compare(old, now)
		out.Since = &since
	}
	return out, nil
}

// Matched says that an edition says the same as the source's live revision now.
func (a *Writing) Matched(ctx context.Context, by staff.Staff, reference string) error {
	if err := by.May("Matching an edition with its source", role.Author, role.Reviewer, role.Publisher); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		row, e, err := library.FindEdition(tx, reference, true)
		if err != nil {
			return err
		}
		var source store.Edition
		if err := tx.Where("article_id = ? AND language = ?", row.ID, article.SourceLanguage).
			First(&source).
			Error; err != nil {
			return err
		}
		if e.Language == article.SourceLanguage || source.LiveRevisionID == nil {
			return problem.New(problem.NotNow, "There is no live source to match.")
		}
		if err := tx.Model(&e).Update("source_revision_id", source.LiveRevisionID).Error; err != nil {
			return err
		}
		line := store.Trail{ArticleID: &row.ID, Subject: reference, Action: "matched with the source"}
		if err := a.trail.Note(tx, by, line); err != nil {
			return err
		}
		return store.Announce(tx, store.CopyChanged, e.ID)
	})
}
