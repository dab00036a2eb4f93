package helpcentre

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/evidence"
	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/outcome"
	"hermeneus/core/redact"
	"hermeneus/store"
)

// Page is a live article as a customer reads it.
type Page struct {
	Reference   string               `json:"reference"`
	Revision    string               `json:"revision"`
	Title       string               `json:"title"`
	SearchTitle string               `json:"search_title"`
	Description string               `json:"description"`
	Body        string               `json:"body"` // sanitised HTML, made ready to be read
	Contents    []article.Heading    `json:"contents"`
	Language    string               `json:"language"`
	Languages   []PageLanguage       `json:"languages"` // live editions, this one too
	Audience    audience.Audience    `json:"audience"`
	Category    instance.Name        `json:"category"`
	Attachments []article.Attachment `json:"attachments"`
	Picture     string               `json:"-"`       // path of the first one
	Behind      bool                 `json:"behind"`  // the source says something else since
	Missing     string               `json:"missing"` // the language asked for, when it is not written in it
	LiveSince   time.Time            `json:"live_since"`
	Change      string               `json:"change"` // what changed with it, in words; may be empty
	ReadAfter   time.Duration        `json:"-"`
	ReadSeconds float64              `json:"read_seconds"` // how long it must be visible to count as read
	Voted       *bool                `json:"voted"`        // what this asker said of this revision
	revisionID  int64
}

// Gone is given for an article that was withdrawn, to who might have read it.
type Gone struct {
	To     string // the article its readers are sent to, "" for none
	Title  string // of the withdrawn one
	Notice string
}

func (g *Gone) Error() string { return g.Unwrap().Error() }

// Unwrap gives the problem that it is.
func (g *Gone) Unwrap() error {
	detail := "This article was withdrawn."
	if g.Notice != "" {
		detail += " " + g.Notice
	}
	return problem.New(problem.Withdrawn, "%s", detail)
}

// goneOrNot tells what was withdrawn from what never was there for the visitor.
func goneOrNot(tx *gorm.DB, v evidence.Visitor, number int) error {
	var row struct {
		Title, Notice string
		To            int
	}
	err := tx.Raw(`SELECT r.title, a.withdrawn_notice AS notice, coalesce(t.number, 0) AS "to"
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ? AND e.live_revision_id IS NULL
		JOIN LATERAL
			(SELECT v.title FROM changes c JOIN revisions v ON v.id = c.revision_id WHERE c.edition_id = e.id
			ORDER BY c.id DESC LIMIT 1) r ON true
		LEFT JOIN articles t ON t.id = a.withdrawn_to AND t.audience IN ?
			AND EXISTS
			(SELECT 1 FROM editions x
			WHERE x.article_id = t.id AND x.language = e.language AND x.live_revision_id IS NOT NULL)
		WHERE a.number = ? AND a.withdrawn_at IS NOT NULL AND a.audience IN ? AND `+library.FilterOf(v),
		article.SourceLanguage, v.Viewer().Sees(), number, v.Viewer().Sees()).Take(&row).Error
	if err != nil {
		return problem.From(err, "article")
	}
	gone := &Gone{Title: row.Title, Notice: row.Notice}
	if row.To != 0 {
		gone.To = article.Reference(row.To)
	}
	return gone
}

// PageLanguage is a language that an article can be read in.
type PageLanguage struct {
	Reference string `json:"reference"`
	Language  string `json:"language"`
	Name      string `json:"name"`
}

// browse gives a live edition (A-0042, or A-0042.de) without keeping anything. What
// is not live in that language is given in the source's.
func (a *HelpCentre) browse(tx *gorm.DB, v evidence.Visitor, reference string) (Page, error) {
	return a.BrowseRevision(tx, v, reference, 0)
}

// BrowseRevision gives a revision that was live before in the place of the live one,
// as long as some revision still is and the visitor may see the article; 0 gives the
// live one.
func (a *HelpCentre) BrowseRevision(tx *gorm.DB, v evidence.Visitor, reference string, revision int) (Page, error) {
	number, language, ok := article.ParseEdition(reference)
	if !ok {
		return Page{}, problem.New(problem.NotFound, "There is no such article.")
	}
	var row struct {
		store.Revision
		CategoryID   int64
		CategoryName string
		Audience     string
		Language     string
		LiveSince    time.Time
		Change       string
		Behind       bool
		Voted        *bool
		Languages    store.Strings `gorm:"type:text[]"`
	}
	err := tx.Raw(
		`SELECT r.*, c.id AS category_id, c.name AS category_name, a.audience, e.language, e.live_since,
			e.language <> '`+article.SourceLanguage+`' AND e.source_revision_id IS DISTINCT FROM (
				SELECT s.live_revision_id FROM editions s WHERE s.article_id = a.id AND s.language = '`+article.SourceLanguage+`'
			) AS behind,
			ARRAY(
				SELECT l.language FROM editions l WHERE l.article_id = a.id AND l.live_revision_id IS NOT NULL
				ORDER BY l.language <> '`+article.SourceLanguage+`', l.language
			) AS languages,
			coalesce((SELECT w.note FROM changes w WHERE w.revision_id = r.id ORDER BY w.id DESC LIMIT 1), '') AS change,
			(SELECT o.helped FROM votes o WHERE o.revision_id = r.id AND o.asker = ?) AS voted
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language IN ?
		JOIN LATERAL (
			SELECT x.* FROM revisions x WHERE x.edition_id = e.id AND e.live_revision_id IS NOT NULL
				AND (x.id = e.live_revision_id
				OR x.number = ? AND EXISTS (SELECT 1 FROM changes w WHERE w.revision_id = x.id))
			ORDER BY x.number = ? DESC LIMIT 1
		) r ON true
		JOIN categories c ON c.id = a.category_id
		WHERE a.number = ? AND a.audience IN ? AND `+library.FilterOf(v)+` ORDER BY e.language = ? DESC LIMIT 1`,
		v.Asker(),
		[]string{language, article.SourceLanguage},
		revision,
		revision,
		number,
		v.Viewer().Sees(),
		language,
	).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Page{}, goneOrNot(tx, v, number)
	} else if err != nil {
		return Page{}, err
	}
	outline := article.Read(row.Body)
	pictures, err := library.PicturesOf(tx, outline.Files)
	if err != nil {
		return Page{}, err
	}
	shown := article.Present(row.Body, pictures)
	page := Page{
		Reference:   article.EditionReference(number, row.Language),
		Revision:    article.RevisionReference(number, row.Number),
		Title:       row.Title,
		SearchTitle: row.SearchTitle,
		Description: article.Summary(row.SearchDescription, outline),
		Body:        shown.HTML,
		Contents:    shown.Contents,
		Language:    row.Language,
		Audience:    audience.Audience(row.Audience),
		Category:    instance.Name{ID: row.CategoryID, Name: row.CategoryName},
		Attachments: shown.Attachments,
		Picture:     shown.Picture,
		Behind:      row.Behind,
		LiveSince:   row.LiveSince,
		Change:      row.Change,
		ReadAfter:   article.ReadAfter(row.Words),
		ReadSeconds: article.ReadAfter(row.Words).Seconds(),
		Voted:       row.Voted,
		revisionID:  row.ID,
	}
	if language == article.SourceLanguage && v.Language != "" {
		language = v.Language // what the visitor reads, where the address names no language
	}
	if language != row.Language {
		page.Missing = language
	}
	for _, l := range row.Languages {
		if l == page.Missing {
			page.Missing = "" // it is; the reader may choose it
		}
		page.Languages = append(
			page.Languages,
			PageLanguage{article.EditionReference(number, l), l, article.Languages[l]},
		)
	}
	return page, nil
}

// Stood is where what is done with the page stands.
func (p Page) Stood() *outcome.Stood {
	return &outcome.Stood{Category: strconv.FormatInt(p.Category.ID, 10), Language: p.Language}
}

// OpenPage gives a live article to a visitor and keeps that it was opened.
func (a *HelpCentre) OpenPage(
	ctx context.Context,
	v evidence.Visitor,
	channel outcome.Channel,
	reference string,
) (Page, error) {
	return a.OpenFrom(ctx, v, channel, reference, "")
}

// OpenFrom gives a live article that was opened from results, and keeps that, and that the visitor came back to
// them for it.
func (a *HelpCentre) OpenFrom(
	ctx context.Context,
	v evidence.Visitor,
	channel outcome.Channel,
	reference, from string,
) (Page, error) {
	db := a.base.Steady.WithContext(ctx)
	page, err := a.browse(db, v, reference)
	if err != nil {
		return page, err
	}
	items, err := a.recorder.CameBack(db, v, from, page.Revision)
	if err != nil {
		return page, err
	}
	where := page.Stood()
	where.Turn = from
	items = append(items, outcome.Evidence{Kind: outcome.Opened, Ref: page.Revision, Stood: where})
	return page, a.recorder.RecordAlone(v, channel, items...)
}

// Where is where an article's revision stands now.
func (a *HelpCentre) Where(db *gorm.DB, revision string) (*outcome.Stood, error) {
	number, _, ok := article.ParseReference(revision)
	if !ok {
		return nil, nil
	}
	var category int64
	err := db.Raw(`SELECT category_id FROM articles WHERE number = ?`, number).Scan(&category).Error
	return &outcome.Stood{Category: strconv.FormatInt(category, 10)}, err
}

// MarkRead keeps that a visitor really read the live article: the browser saw it
// visible for as long as that takes, and the opening lies that far back.
func (a *HelpCentre) MarkRead(
	ctx context.Context,
	v evidence.Visitor,
	channel outcome.Channel,
	reference string,
	visible time.Duration,
) error {
	return a.MarkRevisionRead(ctx, v, channel, reference, 0, visible)
}

// MarkRevisionRead is MarkRead for a revision that was shown before, 0 for the live one.
func (a *HelpCentre) MarkRevisionRead(
	ctx context.Context,
	v evidence.Visitor,
	channel outcome.Channel,
	reference string,
	revision int,
	visible time.Duration,
) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		page, err := a.BrowseRevision(tx, v, reference, revision)
		if err != nil || !v.Counted() {
			return err
		}
		var opened time.Time
		if err := tx.Raw(`SELECT coalesce(max(at), 'epoch')
			FROM evidence
			WHERE asker = ? AND kind = 'opened' AND ref = ?`, v.Asker(), page.Revision).
			Scan(&opened).
			Error; err != nil {
			return err
		}
		// Clocks and timers of browsers are coarse: a tenth is forgiven.
		need := page.ReadAfter * 9 / 10
		if visible < need || a.base.Now().Sub(opened) < need || a.base.Now().Sub(opened) >= 24*time.Hour {
			return problem.New(problem.NotNow, "The article was not visible for long enough to count as read.")
		}
		return a.recorder.Record(tx, v, channel,
			outcome.Evidence{Kind: outcome.Read, Ref: page.Revision, Stood: page.Stood()})
	})
}

// Vote keeps what a visitor says of the live article, once for each revision and
// changeable; a comment says what was missing.
func (a *HelpCentre) Vote(
	ctx context.Context,
	v evidence.Visitor,
	reference string,
	helped bool,
	comment string,
) error {
	return a.VoteOn(ctx, v, reference, Verdict{Helped: helped, Comment: comment})
}

// Verdict is what a visitor says of an article.
type Verdict struct {
	Helped  bool
	Comment string
	Quote   string // the passage the comment is about, "" for none
	Line    int    // in which it stands
}

// VoteOn keeps a verdict, and its comment as feedback that waits for an answer.
func (a *HelpCentre) VoteOn(ctx context.Context, v evidence.Visitor, reference string, said Verdict) error {
	return a.VoteIn(ctx, v, outcome.Help, reference, said)
}

// VoteIn keeps a verdict that was given in a channel.
func (a *HelpCentre) VoteIn(
	ctx context.Context,
	v evidence.Visitor,
	channel outcome.Channel,
	reference string,
	said Verdict,
) error {
	helped, comment := said.Helped, redact.Text(said.Comment)
	var f problem.Fields
	f.AtMost("comment", comment, 2000)
	f.AtMost("quote", said.Quote, 2000)
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		page, err := a.browse(tx, v, reference)
		if err != nil || !v.Counted() {
			return err
		}
		var before store.Vote
		if err := tx.Where("revision_id = ? AND asker = ?", page.revisionID, v.Asker()).
			Limit(1).
			Find(&before).
			Error; err != nil {
			return err
		}
		vote := store.Vote{
			RevisionID: page.revisionID,
			Asker:      v.Asker(),
			Helped:     helped,
			Comment:    strings.TrimSpace(comment),
			At:         a.base.Now(),
		}
		if vote.Comment == "" && before.Helped == helped {
			vote.Comment = before.Comment
		}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&vote).Error; err != nil {
			return err
		}
		page.Voted = &helped
		if err := a.keepFeedback(tx, v, page, comment, said.Quote, said.Line); err != nil {
			return err
		}
		kind := outcome.NotHelped
		if helped {
			kind = outcome.Helped
		}
		if same, err := a.recorder.SaidAlready(tx, v, kind, page.Revision); err != nil || same {
			return err // the comment was added; the verdict is the same
		}
		return a.recorder.Record(tx, v, channel,
			outcome.Evidence{Kind: kind, Ref: page.Revision, Stood: page.Stood()})
	})
}
