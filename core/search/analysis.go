package search

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"github.com/blevesearch/bleve/v2/analysis"
	"github.com/blevesearch/bleve/v2/analysis/lang/da"
	"github.com/blevesearch/bleve/v2/analysis/lang/de"
	"github.com/blevesearch/bleve/v2/analysis/lang/en"
	"github.com/blevesearch/bleve/v2/analysis/lang/es"
	"github.com/blevesearch/bleve/v2/analysis/lang/fi"
	"github.com/blevesearch/bleve/v2/analysis/lang/fr"
	"github.com/blevesearch/bleve/v2/analysis/lang/it"
	"github.com/blevesearch/bleve/v2/analysis/lang/nl"
	"github.com/blevesearch/bleve/v2/analysis/lang/no"
	"github.com/blevesearch/bleve/v2/analysis/lang/pl"
	"github.com/blevesearch/bleve/v2/analysis/lang/pt"
	"github.com/blevesearch/bleve/v2/analysis/lang/sv"
	"github.com/blevesearch/bleve/v2/registry"
	"golang.org/x/text/unicode/norm"
)

// English is the language taken where none is named.
const English = "en"

// filters name what the search library does to a word in each language, in order:
// what is glued to it comes off, the empty words fall out, the rest is stemmed. In
// other languages words are taken as they are written.
var filters = map[string][]string{
	"en": {en.PossessiveName, en.StopName, en.SnowballStemmerName},
	"de": {de.StopName, de.NormalizeName, de.SnowballStemmerName},
	"fr": {fr.ElisionName, fr.StopName, fr.SnowballStemmerName},
	"es": {es.StopName, es.SnowballStemmerName},
	"it": {it.ElisionName, it.StopName, it.SnowballStemmerName},
	"nl": {nl.StopName, nl.SnowballStemmerName},
	"pl": {pl.StopName, pl.SnowballStemmerName},
	"pt": {pt.StopName, pt.LightStemmerName},
	"da": {da.StopName, da.SnowballStemmerName},
	"sv": {sv.StopName, sv.SnowballStemmerName},
	"nb": {no.StopName, no.SnowballStemmerName},
	"fi": {fi.StopName, fi.SnowballStemmerName},
}

// lexicon turns the words of a language into numbered terms, and remembers each word
// that documents hold. It only ever grows, and is safe for use by many goroutines.
type lexicon struct {
	filters []analysis.TokenFilter

	mu       sync.RWMutex
	words    map[string]uint32 // as written → its term, with emptyBit for an empty word
	empties  map[string]bool   // the empty words among them
	terms    map[string]uint32 // from 1
	spelling vocabulary
}

// emptyBit marks the terms of empty words; those are kept of titles, keywords and
// headings only, so that a question of nothing else is found by these.
const emptyBit = 1 << 31

func newLexicon(language string) (*lexicon, error) {
	x := &lexicon{words: map[string]uint32{}, empties: map[string]bool{}, terms: map[string]uint32{}}
	cache := registry.NewCache()
	for _, name := range filters[language] {
		f, err := cache.TokenFilterNamed(name)
		if err != nil {
			return nil, fmt.Errorf("preparing the search for %s: %w", language, err)
		}
		x.filters = append(x.filters, f)
	}
	return x, nil
}

// learn gives the term of a word of a document, in small letters. What is joined of
// several words is not taken for a word that somebody could have misspelt.
func (x *lexicon) learn(t token) uint32 {
	x.mu.RLock()
	id, known := x.words[t.word]
	x.mu.RUnlock()
	if known {
		return id
	}
	term := x.work(t.word)
	x.mu.Lock()
	defer x.mu.Unlock()
	if id, known = x.words[t.word]; known {
		return id
	}
	word, empty := strings.Clone(t.word), uint32(0)
	if term == "" {
		term, empty = "\x00"+word, emptyBit
	}
	if id, known = x.terms[term]; !known {
		id = uint32(len(x.terms)+1) | empty
		x.terms[strings.Clone(term)] = id
	}
	x.words[word] = id
	if id&emptyBit != 0 {
		x.empties[word] = true
	}
	if !t.joined && empty == 0 {
		x.spelling.add(word, id)
	}
	return id
}

// size is one more than the highest number of a term.
func (x *lexicon) size() int {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return len(x.terms) + 1
}

// lookUp gives the term of a word, 0 when no document ever held it; empty tells an
// empty word.
func (x *lexicon) lookUp(word string) (id uint32, empty bool) {
	x.mu.RLock()
	id, known := x.words[word]
	x.mu.RUnlock()
	if known {
		return id &^ emptyBit, id&emptyBit != 0
	}
	term := x.work(word)
	if term == "" {
		return 0, true
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.terms[term], false
}

// work gives the term of a word, "" for an empty one.
func (x *lexicon) work(word string) string {
	if strings.ContainsFunc(word, unicode.IsDigit) {
		return fold(word) // a number or a reference is what it is
	}
	tokens := analysis.TokenStream{
		{Term: []byte(word), Start: 0, End: len(word), Position: 1, Type: analysis.AlphaNumeric},
	}
	for _, f := range x.filters {
		tokens = f.Filter(tokens)
	}
	if len(tokens) == 0 {
		return ""
	}
	return fold(string(tokens[0].Term))
}

// fold writes letters without their marks, so that they are found without them.
func fold(s string) string {
	plain := true
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf || s[i] == '\'' {
			plain = false
		}
	}
	if plain {
		return s
	}
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r) || r == '\'':
			return -1
		case r == 'ß':
			return 's'
		}
		return r
	}, norm.NFKD.String(s))
}

// token is a word of a text with its place there, in bytes. What is written with
// connectors (wi-fi, sys.path) is each of its words, and then the whole without them.
type token struct {
	word       string
	start, end int
	joined     bool // the whole of the tokens before it
}

// cut takes a text apart into words in small letters.
func cut(text string) []token {
	tokens := make([]token, 0, len(text)/6)
	parts, start, connected := 0, -1, false
	flush := func(end int) {
		if start < 0 {
			return
		}
		if w := lower(text[start:end]); w != "" {
			tokens = append(tokens, token{word: w, start: start, end: end})
			parts++
		}
		start = -1
	}
	join := func() {
		if parts > 1 {
			run := tokens[len(tokens)-parts:]
			var whole strings.Builder
			for _, t := range run {
				whole.WriteString(t.word)
			}
			if whole.Len() <= longestWord {
				tokens = append(tokens, token{whole.String(), run[0].start, run[len(run)-1].end, true})
			}
		}
		parts = 0
	}
	for i, r := range text {
		switch {
		case isCJK(r):
			flush(i)
			join()
			tokens = append(tokens, token{word: string(r), start: i, end: i + utf8.RuneLen(r)})
			connected = false
		case unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r):
			if start < 0 {
				if !connected {
					join()
				}
				start = i
			}
			connected = false
		case (r == '\'' || r == '’') && start >= 0:
			// Stays in the word, as in don't; what hangs loose at its end is cut off.
		case (r == '+' || r == '#') && start >= 0 && i-start <= 2:
			// c++ and c# are words.
		case (r == '-' || r == '.' || r == '_' || r == '/' || r == '@') && start >= 0:
			flush(i)
			connected = true
		default:
			flush(i)
			join()
			connected = false
		}
	}
	flush(len(text))
	join()
	return tokens
}

// longestWord is the longest that a word is taken to be, in bytes.
const longestWord = 64

func isCJK(r rune) bool {
	return r >= 0x2E80 && unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul)
}

func lower(word string) string {
	plain := true
	for i := range len(word) {
		if c := word[i]; c >= utf8.RuneSelf || 'A' <= c && c <= 'Z' || c == '\'' {
			plain = false
		}
	}
	if !plain {
		word = strings.Trim(strings.ReplaceAll(strings.ToLower(norm.NFC.String(word)), "’", "'"), "'")
	}
	if len(word) > longestWord {
		word = strings.ToValidUTF8(word[:longestWord], "")
	}
	return word
}

// Words gives the terms of a text in a language, without empty words and each once:
// what tells whether two questions are the same one.
func Words(language, text string) []string {
	x, err := wordsOf(language)
	if err != nil {
		return nil
	}
	var terms []string
	for _, t := range cut(text) {
		if term := x.work(t.word); term != "" && !t.joined && !slices.Contains(terms, term) {
			terms = append(terms, term)
		}
	}
	return terms
}

// wordLexicons are made once for each language: they hold no words, only what is done to them.
var wordLexicons sync.Map

func wordsOf(language string) (*lexicon, error) {
	if known, ok := wordLexicons.Load(language); ok {
		return known.(*lexicon), nil
	}
	x, err := newLexicon(language)
	if _, named := filters[language]; err == nil && named {
		wordLexicons.Store(language, x)
	}
	return x, err
}

// Telling reports whether a question has any word that is not an empty one.
func Telling(text string) bool { return len(Words(English, text)) > 0 }
