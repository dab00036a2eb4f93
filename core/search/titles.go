package search

import (
	"slices"
	"strings"
)

// titleIndex finds documents by the beginnings of the words in their titles and keywords.
type titleIndex struct {
	words  map[string]*titleWord
	sorted []*titleWord
	fresh  []*titleWord        // not sorted in yet
	short  map[string][]uint32 // some documents by the first letters of words
	read   map[string][]uint32 // likewise, those that are read much
}

// titleWord is a word of titles and keywords.
type titleWord struct {
	word  string
	place int // among all, by the alphabet
	docs  []uint32
}

func newTitleIndex() titleIndex {
	return titleIndex{words: map[string]*titleWord{}, short: map[string][]uint32{}, read: map[string][]uint32{}}
}

// Of words of which only a few letters are typed, so many documents are kept ready.
const (
	shortest  = 4
	shortList = 200
)

// add puts a document under its words, and gives these. What is new among them is found
// once it is sorted in.
func (t *titleIndex) add(doc uint32, words []string) []*titleWord {
	known := make([]*titleWord, len(words))
	for i, word := range words {
		w := t.words[word]
		if w == nil {
			w = &titleWord{word: word}
			t.words[word] = w
			t.fresh = append(t.fresh, w)
		}
		if n := len(w.docs); n == 0 || w.docs[n-1] != doc {
			w.docs = append(w.docs, doc)
			keepShort(t.short, doc, word)
		}
		known[i] = w
	}
	return known
}

// fewFresh is how many new words are put in one by one, and not sorted with all.
const fewFresh = 32

// sort puts the new words in their places.
func (t *titleIndex) sort() {
	if len(t.fresh) == 0 {
		return
	}
	if len(t.fresh) > fewFresh {
		t.sorted = append(t.sorted, t.fresh...)
		slices.SortFunc(t.sorted, func(a, b *titleWord) int { return strings.Compare(a.word, b.word) })
	} else {
		for _, w := range t.fresh {
			t.sorted = slices.Insert(t.sorted, t.from(w.word), w)
		}
	}
	for i, w := range t.sorted {
		w.place = i
	}
	t.fresh = nil
}

// from is the place of the first word that is not before another.
func (t *titleIndex) from(word string) int {
	at, _ := slices.BinarySearchFunc(t.sorted, word, func(w *titleWord, word string) int { return strings.Compare(w.word, word) })
	return at
}

// beginning is what a word may go on to: a stretch of the sorted words.
type beginning struct{ from, to int }

func (b beginning) has(w *titleWord) bool { return b.from <= w.place && w.place < b.to }

// beginning gives the words that begin so.
func (t *titleIndex) beginning(prefix string) beginning {
	from := t.from(prefix)
	to, _ := slices.BinarySearchFunc(t.sorted[from:], prefix, func(w *titleWord, prefix string) int {
		if strings.HasPrefix(w.word, prefix) {
			return -1
		}
		return 1
	})
	return beginning{from, from + to}
}

// holds reports whether each of the beginnings begins one of the words.
func holds(words []*titleWord, beginnings []beginning) bool {
	for _, b := range beginnings {
		if !slices.ContainsFunc(words, b.has) {
			return false
		}
	}
	return true
}

// keepShort puts a document under the first letters of a word, as far as there is room.
func keepShort(lists map[string][]uint32, doc uint32, word string) {
	for n := 1; n <= shortest; n++ {
		beginning := firstLetters(word, n)
		list := lists[beginning]
		if beginning != "" && len(list) < shortList && (len(list) == 0 || list[len(list)-1] != doc) {
			lists[beginning] = append(list, doc)
		}
	}
}

// firstLetters gives the first n letters of a word, "" where it has fewer.
func firstLetters(word string, n int) string {
	for i := range word {
		if n == 0 {
			return word[:i]
		}
		n--
	}
	if n == 0 {
		return word
	}
	return ""
}
