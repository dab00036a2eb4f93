package flow

import (
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"hermeneus/core/search"
)

// texts checks what is said: that it is there in every language, is not too long, holds only facts that can
// be filled in, and keeps to the voice.
func (c *checker) texts(turn, field string, t Texts, optional bool, missing string) {
	source := t[c.script.Language]
	if strings.TrimSpace(source) == "" {
		if !optional {
			c.wrong(turn, field, "%s", missing)
		}
	}
	for _, language := range t.Languages() {
		at := field
		if language != c.script.Language {
			at += "." + language
		}
		text := t[language]
		c.length(turn, at, text)
		c.filled(turn, at, text, false)
		c.voice(turn, at, text)
	}
	if source == "" {
		return
	}
	for _, language := range c.env.Languages {
		if language != c.script.Language && strings.TrimSpace(t[language]) == "" {
			c.warn(
				turn,
				field+"."+language,
				"The text in “%s” is missing: who reads that language gets this one.",
				language,
			)
		}
	}
}

func (c *checker) length(turn, field, text string) {
	n := utf8.RuneCountInString(text)
	if n > MaxText {
		c.wrong(turn, field, "The text has %d characters; at most %d are kept.", n, MaxText)
		return
	}
	for channel, limit := range c.env.Limits {
		if n > limit {
			c.wrong(turn, field, "The text has %d characters; the channel “%s” takes %d.", n, channel, limit)
		}
	}
}

// inserted is what looks like something that the program fills in.
var inserted = regexp.MustCompile(`\[[^\[\]]*\]?`)

// filled checks the facts that stand in a text. In what agents alone read, no fallback is needed.
func (c *checker) filled(turn, field, text string, brief bool) {
	for _, one := range inserted.FindAllString(text, -1) {
		if !place.MatchString(one) {
			c.wrong(turn, field, "“%s” cannot be filled in: write a fact as [first name, else \"there\"].", one)
		}
	}
	for _, in := range insertions(text) {
		switch {
		case !knowable(in.fact) && !c.asked(in.fact):
			c.wrong(turn, field, "Nothing asks for “%s”, so nobody can fill it in.", in.fact)
		case !in.given && !brief:
			c.wrong(turn, field, "Say what stands there while “%s” is not known: [%s, else \"…\"].", in.fact, in.fact)
		}
	}
}

func (c *checker) voice(turn, field, text string) {
	for _, word := range c.env.Avoided {
		if says(text, word) {
			c.warn(turn, field, "“%s” is a word that the bot's voice avoids.", word)
		}
	}
}

// alike is the share of telling words from which on two texts say nearly the same.
const alike = 0.8

// twice finds texts that follow each other and say nearly the same.
func (c *checker) twice() {
	for _, n := range c.program.order {
		after := n.next
		if after == nil || len(n.turn.Leads) > 0 || after.turn.Kind == Branch || after.turn.Kind == GoTo {
			continue
		}
		one, two := n.turn.Text[c.script.Language], after.turn.Text[c.script.Language]
		if share := common(c.script.Language, one, two); share >= alike {
			c.warn(after.turn.ID, "text", "This says nearly the same as the turn before it.")
		}
	}
}

// common is the share of telling words that two texts have in common, 0 to 1: Jaccard's coefficient.
func common(language, one, two string) float64 {
	a, b := search.Words(language, one), search.Words(language, two)
	slices.Sort(a)
	slices.Sort(b)
	a, b = slices.Compact(a), slices.Compact(b)
	if len(a) < 3 || len(b) < 3 {
		return 0
	}
	both := 0
	for _, w := range a {
		if _, ok := slices.BinarySearch(b, w); ok {
			both++
		}
	}
	return float64(both) / float64(len(a)+len(b)-both)
}
