package writing

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/library"
	"hermeneus/app/outcomes"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/prose"
	"hermeneus/store"
)

// Checks is what the margin says of a working copy.
type Checks struct {
	prose.Findings
	Version   int              `json:"version"` // of the working copy that was looked at
	Dismissed []DismissedCheck `json:"dismissed"`
	Asked     []AskedWords     `json:"asked"`    // what customers typed before they opened it
	Keywords  []string         `json:"keywords"` // suggestions from it
}

// DismissedCheck is a check that was set aside.
type DismissedCheck struct {
	prose.Check
	Reason string `json:"reason"`
	Who    string `json:"who"`
}

// AskedWords is something customers typed, and how many did.
type AskedWords struct {
	Text  string `json:"text"`
	Count int    `json:"count"`
}

// Checks checks a working copy. What customers typed is for those who read the Ledger.
func (a *Writing) Checks(ctx context.Context, by staff.Staff, reference string) (Checks, error) {
	db := a.base.DB.WithContext(ctx)
	row, e, err := library.FindEdition(db, reference, false)
	if err != nil {
		return Checks{}, err
	}
	draft := prose.Draft{
		Language:          e.Language,
		Title:             e.Title,
		Body:              e.Body,
		Keywords:          e.Keywords,
		SearchTitle:       e.SearchTitle,
		SearchDescription: e.SearchDescription,
	}
	draft.Sections, err = sectionsOf(row, e)
	if err != nil {
		return Checks{}, err
	}
	if draft.Dead, err = review.DeadOutside(db, e.ID); err != nil {
		return Checks{}, err
	}
	if draft.Targets, err = targets(db, e.Body); err != nil {
		return Checks{}, err
	}
	if err := db.Raw(`SELECT DISTINCT unnest(avoided_words) FROM sites`).Scan(&draft.Avoided).Error; err != nil {
		return Checks{}, err
	}
	if e.Language == article.SourceLanguage {
		if draft.Neighbours, err = a.neighbours(db, row, e); err != nil {
			return Checks{}, err
		}
	}
	var asked []string
	if e.Language == article.SourceLanguage && by.Roles.Has(outcomes.FigureRoles...) {
		if asked, err = a.askedBefore(ctx, article.Reference(row.Number)); err != nil {
			return Checks{}, err
		}
	}
	draft.Asked = asked
	out := Checks{Findings: prose.Examine(draft), Version: e.Version}
	out.Asked, out.Keywords = tally(asked), suggestions(asked, e)
	return out, a.setAside(db, e.ID, &out)
}

func sectionsOf(row store.Article, e store.Edition) ([]article.Section, error) {
	if e.Language != article.SourceLanguage {
		return nil, nil // the headings of the template are in the source's language
	}
	t, err := library.TemplateOf(store.Template{Sections: row.Sections})
	return t.Sections, err
}

func targets(db *gorm.DB, body string) (map[int]prose.Target, error) {
	numbers := article.Read(body).Links
	list := map[int]prose.Target{}
	if len(numbers) == 0 {
		return list, nil
	}
	var rows []struct {
		Number int
		Title  string
		Live   bool
	}
	err := db.Raw(`SELECT a.number, e.title, e.live_revision_id IS NOT NULL AS live
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ? WHERE a.number IN ?`, article.SourceLanguage, numbers).Scan(&rows).Error
	for _, r := range rows {
		list[r.Number] = prose.Target{Title: r.Title, Live: r.Live}
	}
	return list, err
}

// neighbours finds other articles with many of the same words: those that search
// would offer for it, and those with words of its title.
func (a *Writing) neighbours(db *gorm.DB, row store.Article, e store.Edition) ([]prose.Neighbour, error) {
	const candidates, shown = 8, 3
	words := strings.Fields(e.Title + " " + e.Text)
	numbers, err := a.search.Nearest(db, words[:min(len(words), 24)], candidates)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		Number      int
		Title, Text string
	}
	err = db.Raw(`SELECT a.number, e.title, left(e.text, 60000) AS text
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
		WHERE a.id <> ?
			AND (a.number = ANY(?)
			OR a.id IN
			(SELECT article_id FROM editions WHERE found_by_name @@ plainto_tsquery('simple', ?) LIMIT ?))`,
		article.SourceLanguage, row.ID, store.Numbers(numbers), e.Title, candidates).
		Scan(&rows).
		Error
	if err != nil {
		return nil, fmt.Errorf("looking for neighbours: %w", err)
	}
	var list []prose.Neighbour
	for _, r := range rows {
		if overlap := prose.Overlap(e.Text, r.Text); overlap > 0.2 {
			list = append(
				list,
				prose.Neighbour{Reference: article.Reference(r.Number), Title: r.Title, Overlap: overlap},
			)
		}
	}
	slices.SortFunc(list, func(x, y prose.Neighbour) int {
		return cmp.Or(cmp.Compare(y.Overlap, x.Overlap), strings.Compare(x.Reference, y.Reference))
	})
	return list[:min(len(list), shown)], nil
}

// askedBefore gives what customers typed in questions in which they opened the
// article, the latest last. Options of a flow that they took are no words of theirs.
func (a *Writing) askedBefore(ctx context.Context, reference string) ([]string, error) {
	const latest = 200
	return a.outcomes.TypedBefore(ctx, reference, latest)
}

func tally(asked []string) []AskedWords {
	var list []AskedWords
	for _, text := range asked {
		at := slices.IndexFunc(list, func(w AskedWords) bool { return strings.EqualFold(w.Text, text) })
		if at < 0 {
			list, at = append(list, AskedWords{Text: text}), len(list)
		}
		list[at].Count++
	}
	slices.SortStableFunc(list, func(x, y AskedWords) int { return y.Count - x.Count })
	return list[:min(len(list), 12)]
}

// suggestions are short things that customers typed and that are no keywords yet.
func suggestions(asked []string, e store.Edition) []string {
	var list []string
	for _, w := range tally(asked) {
		text := strings.ToLower(strings.Trim(w.Text, " ?!."))
		known := strings.Contains(strings.ToLower(e.Title), text) ||
			slices.ContainsFunc([]string(e.Keywords), func(k string) bool { return strings.EqualFold(k, text) })
		if n := len(strings.Fields(text)); n >= 1 && n <= 4 && !known && !strings.Contains(text, "[") {
			list = append(list, text)
		}
	}
	return list[:min(len(list), 6)]
}

// setAside takes dismissed checks from the list.
func (a *Writing) setAside(db *gorm.DB, edition int64, out *Checks) error {
	var rows []struct{ Key, Reason, Who string }
	err := db.Raw(`SELECT d.key, d.reason, s.name AS who
		FROM dismissals d JOIN staff s ON s.id = d.staff_id WHERE d.edition_id = ?`, edition).
		Scan(&rows).
		Error
	if err != nil {
		return err
	}
	kept := []prose.Check{}
	for _, c := range out.Checks {
		at := slices.IndexFunc(rows, func(r struct{ Key, Reason, Who string }) bool { return r.Key == c.Key })
		if at < 0 {
			kept = append(kept, c)
		} else {
			out.Dismissed = append(out.Dismissed, DismissedCheck{c, rows[at].Reason, rows[at].Who})
		}
	}
	out.Checks = kept
	return nil
}
