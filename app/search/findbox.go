package search

import (
	"context"
	"fmt"
	"strings"
	"unicode"

	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/review"
	"hermeneus/core/search"
)

// Found is an article that the find field found.
type Found struct {
	Reference string         `json:"reference"`
	Title     search.Passage `json:"title"`
	Match     search.Passage `json:"match"` // where else the words are: in the keywords or the text
	State     review.State   `json:"state"`
	Live      bool           `json:"live"`
	Category  string         `json:"category"`
}

const maxFound = 12

type foundRow struct {
	Number   int
	Language string
	Title    string
	Keywords string
	Text     string
	State    string
	Live     bool
	Category string
}

const foundColumns = `SELECT a.number, e.language, e.title, array_to_string(e.keywords, ' · ') AS keywords, e.state,
	e.live_revision_id IS NOT NULL AS live, c.name AS category`

const foundFrom = ` FROM editions e JOIN articles a ON a.id = e.article_id JOIN categories c ON c.id = a.category_id `

// Find looks for words as somebody types them, in references, titles, keywords and
// texts of every state; the last word may be unfinished. What its name holds comes
// first. Text is looked through in the order of writing, the newest first, so that
// a word in half the library answers as fast as a rare one.
func (a *Search) Find(ctx context.Context, words string) ([]Found, error) {
	words = strings.TrimSpace(words)
	if len([]rune(words)) > 200 {
		return nil, problem.From(search.ErrTooLong, "")
	}
	terms := findTerms(words)
	if len(terms) == 0 {
		return []Found{}, nil
	}
	query := prefixQuery(terms)
	db := a.base.DB.WithContext(ctx)
	var rows []foundRow
	// One index scan for each kind of name, bounded, then a sort of what they gave.
	err := db.Raw(`WITH named AS (
			(SELECT id, 0 AS rank FROM editions WHERE article_id IN (SELECT id FROM articles WHERE number = ?))
			UNION ALL (SELECT id, 1 FROM editions WHERE found_by_name @@ to_tsquery('simple', ?) LIMIT 200)),
		best AS (SELECT id, min(rank) AS rank FROM named GROUP BY id)
		`+foundColumns+foundFrom+`JOIN best ON best.id = e.id ORDER BY best.rank, length(e.title), a.number LIMIT ?`,
		numberIn(words), query, maxFound).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("finding by name: %w", err)
	}
	if len(rows) < maxFound {
		var more []foundRow
		err = db.Raw(`WITH named AS
				(SELECT id, written_at FROM editions WHERE found_by_text @@ to_tsquery('simple', ?) LIMIT 400)
		`+foundColumns+`, left(e.text, 20000) AS text`+foundFrom+`JOIN
				(SELECT id FROM named ORDER BY written_at DESC LIMIT ?) n ON n.id = e.id
			ORDER BY e.written_at DESC`,
			query, maxFound).
			Scan(&more).
			Error
		if err != nil {
			return nil, fmt.Errorf("finding in texts: %w", err)
		}
		rows = append(rows, more...)
	}
	return foundList(rows, terms), nil
}

func foundList(rows []foundRow, terms []string) []Found {
	list := []Found{}
	seen := map[string]bool{}
	for _, r := range rows {
		ref := article.EditionReference(r.Number, r.Language)
		if seen[ref] || len(list) == maxFound {
			continue
		}
		seen[ref] = true
		title := r.Title
		if title == "" {
			title = "Untitled"
		}
		f := Found{
			Reference: ref,
			Title:     search.Highlight(title, terms),
			State:     review.State(r.State),
			Live:      r.Live,
			Category:  r.Category,
		}
		for _, text := range []string{r.Keywords, r.Text} {
			if p := search.Highlight(text, terms); p.Hits() > 0 {
				f.Match = p
				break
			}
		}
		list = append(list, f)
	}
	return list
}

// findTerms gives the words as the database's text search takes them: letters and
// digits only.
func findTerms(words string) []string {
	terms := strings.FieldsFunc(
		strings.ToLower(words),
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) },
	)
	return terms[:min(len(terms), 8)]
}

// prefixQuery asks for all terms as beginnings of words, or without an ending, so
// that “bills” finds a bill and “readi” a reading.
func prefixQuery(terms []string) string {
	each := make([]string, len(terms))
	for i, t := range terms {
		each[i] = t + ":*"
		for _, ending := range []string{"ing", "es", "ed", "s"} {
			if stem, found := strings.CutSuffix(t, ending); found && len(stem) >= 3 {
				each[i] = "(" + each[i] + " | " + stem + ":*)"
				break
			}
		}
	}
	return strings.Join(each, " & ")
}

// numberIn gives the number of an article when the words are its reference, or the
// beginning of one that is typed.
func numberIn(words string) int {
	digits := strings.TrimLeft(strings.TrimPrefix(strings.ToUpper(words), "A-"), "0")
	n := 0
	for _, r := range digits {
		if r < '0' || r > '9' || n > 1e8 {
			return 0
		}
		n = 10*n + int(r-'0')
	}
	return n
}
