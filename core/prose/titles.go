package prose

import (
	"slices"
	"strings"
	"unicode"

	"hermeneus/core/redact"
)

func (a *examiner) title() {
	title := strings.TrimSpace(a.draft.Title)
	first, _, _ := strings.Cut(strings.ToLower(title), " ")
	words := spoken(title)
	switch {
	case title == "":
		return
	case !a.english:
	case len(words) == 1:
		a.say(TitleWording, -1, title, "One word is no question. Say what the customer wants to do or know.")
	case strings.ToUpper(title) == title && strings.ContainsFunc(title, unicode.IsLetter):
		a.say(TitleWording, -1, title, "Capitals throughout are hard to read.")
	case genericEnding.MatchString(title):
		a.say(
			TitleWording,
			-1,
			title,
			"Nobody asks for “%s”. Use the words of the question.",
			strings.ToLower(words[len(words)-1]),
		)
	case gerund.MatchString(title) && !slices.Contains(notGerund, first):
		a.say(
			TitleWording,
			-1,
			title,
			"Customers ask “how do I …”, not “%s …”. Begin with what they do.",
			strings.ToLower(first),
		)
	}
	if a.english {
		a.titleAgainstQuestions(title)
	}
	a.avoided(-1, title)
	if redact.Text(title) != title {
		a.say(PersonalData, -1, title, "The title holds personal data.")
	}
}

// titleAgainstQuestions compares the title with what customers typed before they
// opened the article, once enough did.
func (a *examiner) titleAgainstQuestions(title string) {
	const enough = 5
	if len(a.draft.Asked) < enough {
		return
	}
	own := map[string]bool{}
	for _, w := range contentWords(title + " " + strings.Join(a.draft.Keywords, " ")) {
		own[w] = true
	}
	missed := map[string]int{}
	for _, q := range a.draft.Asked {
		seen := map[string]bool{}
		for _, w := range contentWords(q) {
			if !own[w] && !seen[w] {
				seen[w] = true
				missed[w]++
			}
		}
	}
	most, count := "", 0
	for w, n := range missed {
		if n > count || n == count && w < most {
			most, count = w, n
		}
	}
	if 3*count >= len(a.draft.Asked) {
		a.say(
			TitleWording,
			-1,
			"asked:"+most,
			"%d of the last %d who opened it had asked with “%s”, which is neither in the title nor in the keywords.",
			count,
			len(a.draft.Asked),
			most,
		)
	}
}

var stopWords = strings.Fields(
	"a an and any are as at be because been but by can could did do does for from get had has have how i if in " +
		"into is it its me my no not of off on or our out so than that the their them then there they this to up us " +
		"was we were what when where which who why will with would you your please need want hello hi",
)

func contentWords(text string) []string {
	var list []string
	for _, w := range spoken(strings.ToLower(text)) {
		if len(w) > 2 && !slices.Contains(stopWords, w) {
			list = append(list, strings.TrimSuffix(w, "s"))
		}
	}
	return list
}

func (a *examiner) search() {
	d := a.draft
	shown := d.SearchTitle
	if shown == "" {
		shown = d.Title
	}
	if n := len([]rune(shown)); n > MaxSearchTitle {
		a.say(
			LongSearchTitle,
			-1,
			shown,
			"A result shows about %d characters of its title; this has %d.",
			MaxSearchTitle,
			n,
		)
	}
	if n := len([]rune(d.SearchDescription)); n > MaxSearchDescription {
		a.say(
			LongDescription,
			-1,
			d.SearchDescription,
			"A result shows about %d characters of its description; this has %d.",
			MaxSearchDescription,
			n,
		)
	}
	if len(d.Keywords) == 0 {
		a.say(NoKeywords, -1, "", "No keywords yet: add the words customers use and the text does not.")
	}
	for _, n := range d.Neighbours {
		if n.Overlap >= MinOverlap {
			a.say(
				NearDuplicate,
				-1,
				n.Reference,
				"%s, “%s”, says nearly the same (%.0f %% in common). Mend that one instead, or say here what "+
					"differs.",
				n.Reference,
				n.Title,
				100*n.Overlap,
			)
		}
	}
}
