package search

import (
	"maps"
	"slices"
	"strings"
)

// titleIndex finds documents by the beginnings of the words in their titles and keywords.
// The words are numbered in the order in which they came.
type titleIndex struct {
	numbers map[string]uint32
	words   []string
	docs    [][]uint32          // by word
	place   []int32             // of each word among all, by the alphabet
	sorted  []uint32            // the words sorted in so far
	short   map[string][]uint32 // some documents by the first letters of words
	read    map[string][]uint32 // likewise, those that are read much
}

func newTitleIndex() titleIndex {
	return titleIndex{numbers: map[string]uint32{}, short: map[string][]uint32{}, read: map[string][]uint32{}}
}

// Of words of which only a few letters are typed, so many documents are kept ready.
const (
	shortest  = 4
	shortList = 200
)

// add puts a document under its words, and gives these. What is new among them is found
// once it is sorted in.
func (t *titleIndex) add(doc uint32, words []string) []uint32 {
	numbers := make([]uint32, len(words))
	for i, word := range words {
		w, known := t.numbers[word]
		if !known {
			w = uint32(len(t.words))
			t.numbers[word] = w
			t.words, t.docs = append(t.words, word), append(t.docs, nil)
		}
		if list := t.docs[w]; len(list) == 0 || list[len(list)-1] != doc {
			t.docs[w] = append(list, doc)
			keepShort(t.short, doc, word)
		}
		numbers[i] = w
	}
	return numbers
}

// clone gives a copy that can be changed without changing the index.
func (t *titleIndex) clone() titleIndex {
	c := titleIndex{
		numbers: maps.Clone(t.numbers),
		words:   slices.Clip(t.words),
		docs:    slices.Clone(t.docs),
		place:   slices.Clone(t.place),
		sorted:  slices.Clone(t.sorted),
		short:   maps.Clone(t.short),
		read:    t.read,
	}
	for w, list := range c.docs {
		c.docs[w] = slices.Clip(list)
	}
	for w, list := range c.short {
		c.short[w] = slices.Clip(list)
	}
	return c
}

// spelt are numbered words as they are written.
func (t *titleIndex) spelt(numbers []uint32) []string {
	list := make([]string, len(numbers))
	for i, w := range numbers {
		list[i] = t.words[w]
	}
	return list
}

// fewFresh is how many new words are put in one by one, and not sorted with all.
const fewFresh = 32

// sort puts the new words in their places.
func (t *titleIndex) sort() {
	from, to := len(t.sorted), len(t.words)
	if from == to {
		return
	}
	for w := uint32(from); w < uint32(to); w++ {
		if to-from > fewFresh {
			t.sorted = append(t.sorted, w)
		} else {
			t.sorted = slices.Insert(t.sorted, t.from(t.words[w]), w)
		}
	}
	if to-from > fewFresh {
		slices.SortFunc(t.sorted, func(a, b uint32) int { return strings.Compare(t.words[a], t.words[b]) })
	}
	t.place = append(t.place, make([]int32, to-from)...)
	for i, w := range t.sorted {
		t.place[w] = int32(i)
	}
}

// from is the place of the first word that is not before another.
func (t *titleIndex) from(word string) int {
	at, _ := slices.BinarySearchFunc(
		t.sorted,
		word,
		func(w uint32, word string) int { return strings.Compare(t.words[w], word) },
	)
	return at
}

// beginning is what a word may go on to: a stretch of the sorted words.
type beginning struct{ from, to int32 }

// has reports whether a word stands in some title, or did.
func (t *titleIndex) has(word string) bool {
	_, ok := t.numbers[word]
	return ok
}

// begins reports whether a word begins so.
func (t *titleIndex) begins(b beginning, word uint32) bool {
	at := t.place[word]
	return b.from <= at && at < b.to
}

// beginning gives the words that begin so.
func (t *titleIndex) beginning(prefix string) beginning {
	from := t.from(prefix)
	to, _ := slices.BinarySearchFunc(t.sorted[from:], prefix, func(w uint32, prefix string) int {
		if strings.HasPrefix(t.words[w], prefix) {
			return -1
		}
		return 1
	})
	return beginning{int32(from), int32(from + to)}
}

// holds reports whether each of the beginnings begins one of the words.
func (t *titleIndex) holds(words []uint32, beginnings []beginning) bool {
	for _, b := range beginnings {
		if !slices.ContainsFunc(words, func(w uint32) bool { return t.begins(b, w) }) {
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
