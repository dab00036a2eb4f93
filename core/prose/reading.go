package prose

import (
	"regexp"
	"strings"
	"unicode"
)

// Reading says how hard a text is to read.
type Reading struct {
	Sentences int     `json:"sentences"`
	Words     int     `json:"words"`
	Syllables int     `json:"syllables"`
	Ease      float64 `json:"ease"`  // Flesch (1948): 206.835 − 1.015·ASL − 84.6·ASW; 100 is very easy, 0 very hard
	Grade     float64 `json:"grade"` // Kincaid et al. (1975): 0.39·ASL + 11.8·ASW − 15.59, in years of school
}

// ReadingOf measures lines of English. A line that ends without a mark is a
// sentence of its own. A text without words measures as zero.
func ReadingOf(lines ...string) Reading {
	var r Reading
	for _, text := range lines {
		for _, s := range sentences(text) {
			words := spoken(s)
			if len(words) == 0 {
				continue
			}
			r.Sentences++
			r.Words += len(words)
			for _, w := range words {
				r.Syllables += Syllables(w)
			}
		}
	}
	if r.Words > 0 {
		length := float64(r.Words) / float64(r.Sentences)
		weight := float64(r.Syllables) / float64(r.Words)
		r.Ease = 206.835 - 1.015*length - 84.6*weight
		r.Grade = 0.39*length + 11.8*weight - 15.59
	}
	return r
}

var sentenceEnd = regexp.MustCompile(`[.!?…]+["”’')\]]*(\s+|$)`)

// abbreviations end in a point that ends no sentence.
var abbreviations = regexp.MustCompile(`(?i)\b(e\.g|i\.e|etc|mr|mrs|ms|dr|st|no|vs|approx|[a-z])\.$`)

func sentences(text string) []string {
	var list []string
	from := 0
	for _, at := range sentenceEnd.FindAllStringIndex(text, -1) {
		candidate := strings.TrimSpace(text[from:at[1]])
		if at[1] < len(text) && abbreviations.MatchString(candidate) {
			continue
		}
		if candidate != "" {
			list = append(list, candidate)
		}
		from = at[1]
	}
	if rest := strings.TrimSpace(text[from:]); rest != "" {
		list = append(list, rest)
	}
	return list
}

// spoken gives the words of a sentence that are read aloud: those with a letter
// or digit in them.
func spoken(sentence string) []string {
	return strings.FieldsFunc(sentence, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' && r != '’'
	})
}

// The rules are those of the trade since Fast's Lingua::EN::Syllable (from
// memory): vowel groups, and where they mislead.
var (
	vowelGroup = regexp.MustCompile(`[aeiouy]+`)
	fewer      = compile(
		`cial`,
		`tia`,
		`cius`,
		`cious`,
		`giu`,
		`iou`,
		`sia$`,
		`.ely$`,
		`ely[^aeiouy]`,
		`[^aeiouytd]ed$`,
		`[^aeiouycgszx]es$`,
		`eau`,
		`[^aeiouy]eful`,
		`[aeiouy][^aeiouy]eless`,
		`[aeiouy][^aeiouyl]ement`,
		`rely`,
	)
	more = compile(
		`ia`,
		`riet`,
		`dien`,
		`iu`,
		`[^stlg]io`,
		`ii`,
		`[aeiou]{3}`,
		`^mc`,
		`ism$`,
		`[^aeiouyl]l$`,
		`[^l]lien`,
		`^coa[dglx].`,
		`[^gq]ua[^auieo]`,
		`dnt$`,
		`uity$`,
		`[^aeiouy]ying$`,
		`creat`,
		`^re[aeiou]`,
		`[aeiou]ing`,
		`eo`,
		`[^aeiouy]les$`,
		`^bus[iy]`,
		`^triang`,
		`rea$`,
	)
	undone = compile(`[aeiou]{3}ing`, `^rea[dlr]`, `^rei[gn]`, `peopl`, `geo[^gmlp]`)
)

func compile(patterns ...string) []*regexp.Regexp {
	list := make([]*regexp.Regexp, len(patterns))
	for i, p := range patterns {
		list[i] = regexp.MustCompile(p)
	}
	return list
}

// Syllables estimates how many syllables an English word has, at least one.
func Syllables(word string) int {
	w := strings.ToLower(strings.NewReplacer("'", "", "’", "").Replace(word))
	if len(w) <= 3 {
		return 1
	}
	stem := strings.TrimSuffix(w, "e")
	if strings.HasSuffix(w, "le") && len(w) > 3 && !strings.ContainsRune("aeiouy", rune(w[len(w)-3])) {
		stem = w[:len(w)-1] // ta-ble: the rule for a lone l adds it again
	}
	n := len(vowelGroup.FindAllString(stem, -1))
	for _, p := range fewer {
		if p.MatchString(stem) {
			n--
		}
	}
	for _, p := range more {
		if p.MatchString(stem) {
			n++
		}
	}
	for _, p := range undone {
		if p.MatchString(stem) {
			n--
		}
	}
	return max(1, n)
}
