package http

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/text/feature/plural"
	tags "golang.org/x/text/language"

	"hermeneus/web"
)

// words are what customers read of the interface, by language and by key such as
// search.button. The front end reads the same files.
type words map[string]map[string]string

// fallback is the language whose words stand in for what another lacks.
const fallback = "en"

func loadWords() (words, error) {
	files, err := fs.Glob(web.Words, "words/*.json")
	if err != nil {
		return nil, err
	}
	all := words{}
	for _, name := range files {
		raw, err := web.Words.ReadFile(name)
		if err != nil {
			return nil, err
		}
		var groups map[string]map[string]string
		if err := json.Unmarshal(raw, &groups); err != nil {
			return nil, fmt.Errorf("reading the words of %s: %w", name, err)
		}
		flat := map[string]string{}
		for group, entries := range groups {
			for key, text := range entries {
				flat[group+"."+key] = text
			}
		}
		all[strings.TrimSuffix(path.Base(name), ".json")] = flat
	}
	return all, nil
}

// has reports whether the interface speaks a language.
func (w words) has(language string) bool { return w[language] != nil }

// say gives a text with its {names} filled in from pairs of name and value. Of a text
// with forms (one | many), the value of n chooses.
func (w words) say(language, key string, pairs ...any) string {
	text, ok := w[language][key]
	if !ok {
		if text, ok = w[fallback][key]; !ok {
			return key
		}
		language = fallback
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		if n, isCount := pairs[i+1].(int); isCount && pairs[i] == "n" {
			forms := strings.Split(text, " | ")
			text = forms[min(pluralForm(language, n), len(forms)-1)]
		}
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		text = strings.ReplaceAll(text, fmt.Sprintf("{%v}", pairs[i]), fmt.Sprint(pairs[i+1]))
	}
	return text
}

// pluralForm is which form of a word goes with a number, by the rules of the Unicode CLDR: the
// first for one, the last for all others.
func pluralForm(of string, n int) int {
	if plural.Cardinal.MatchPlural(tags.Make(of), n, 0, 0, 0, 0) == plural.One {
		return 0
	}
	return 1
}

// day is a day in the words of a language.
func (w words) day(language string, t time.Time) string {
	months := strings.Split(w.say(language, "day.months"), ", ")
	return w.say(
		language,
		"day.shape",
		"day",
		strconv.Itoa(t.Day()),
		"month",
		months[t.Month()-1],
		"year",
		strconv.Itoa(t.Year()),
	)
}

// ago is how long ago a time is, in plain words.
func (w words) ago(language string, t, now time.Time) string {
	y, m, d := t.Date()
	ny, nm, nd := now.Date()
	days := int(time.Date(ny, nm, nd, 0, 0, 0, 0, time.UTC).Sub(time.Date(y, m, d, 0, 0, 0, 0, time.UTC)).Hours() / 24)
	switch {
	case days <= 0:
		return w.say(language, "when.today")
	case days == 1:
		return w.say(language, "when.yesterday")
	case days < 14:
		return w.say(language, "when.days", "n", days)
	case days < 60:
		return w.say(language, "when.weeks", "n", days/7)
	case days < 730:
		return w.say(language, "when.months", "n", days/30)
	}
	return w.say(language, "when.years", "n", days/365)
}

// choose gives the language of a visit: the one asked for, else the one kept from
// before, else the one that suits the browser's wishes best (RFC 9110, section 12.5.4; BCP 47),
// of those that the help centre offers and the interface speaks.
func (w words) choose(offered []string, asked, kept, accept string) string {
	for _, l := range []string{asked, kept} {
		if slices.Contains(offered, l) && w.has(l) {
			return l
		}
	}
	wishes, weights, err := tags.ParseAcceptLanguage(accept)
	spoken := slices.DeleteFunc(slices.Clone(offered), func(l string) bool { return !w.has(l) })
	if err != nil || len(spoken) == 0 {
		return fallback
	}
	var wanted []tags.Tag
	for i, wish := range wishes {
		if weights[i] > 0 {
			wanted = append(wanted, wish)
		}
	}
	if _, at, sure := matcherOf(spoken).Match(wanted...); sure > tags.No {
		base, _ := tags.Make(spoken[at]).Base()
		return base.String()
	}
	return fallback
}

// matchers are kept by the languages they choose from, of which there are few lists: making one takes long.
var matchers sync.Map

func matcherOf(spoken []string) tags.Matcher {
	key := strings.Join(spoken, " ")
	if kept, there := matchers.Load(key); there {
		return kept.(tags.Matcher)
	}
	all := make([]tags.Tag, len(spoken))
	for i, l := range spoken {
		all[i] = tags.Make(l)
	}
	matcher := tags.NewMatcher(all)
	matchers.Store(key, matcher)
	return matcher
}
