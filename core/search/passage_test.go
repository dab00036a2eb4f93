package search

import (
	"fmt"
	"testing"

	"hermeneus/core/audience"
)

// What is marked is found by the places of the terms in a block: it must be just the
// words whose term is asked for, looked up one by one.
func TestTheWordsMarkedAreThoseAskedFor(t *testing.T) {
	blocks := []string{
		"The wi-fi of sys.path and the Wi-Fi's own path, don't you see?",
		"To be or not to be", "", "«L'été», naïve — e.g. 3.5 kWh/day, c++ and c#; user@post.example",
		"電気 means electricity; meters metering metered meter's meter-reading",
		"a-b-c the/of and_or ’quoted’ rock'n'roll",
	}
	for _, language := range []string{"en", "fr", "de", "cy"} {
		x := New()
		body := ""
		for _, b := range blocks {
			body += b + "\n"
		}
		if err := x.Put(
			Document{Reference: "A-0001", Language: language, Title: "Marks", Body: body, Audience: audience.Everyone},
		); err != nil {
			t.Fatal(err)
		}
		s := x.segments[language]
		for _, words := range []string{"wi-fi path", "meter electricity", "été l'été naive", "day kWh", "to be", "don't a-b-c", "rock'n'roll c++ 電"} {
			p := &part{segment: s, request: Request{Words: words, Language: language, Limit: 5}}
			p.read()
			w := new(scratch)
			w.fit(len(s.docs), len(s.lists))
			p.mark(w, true)
			d := &s.docs[0]
			n := 0
			from := d.bodyFrom
			for at := d.bodyFrom; at < len(d.terms); at++ {
				if d.terms[at] != blockEnd {
					continue
				}
				text := line(d.body, n)
				var want []span
				for _, token := range cut(text) {
					id, empty := s.lexicon.lookUp(token.word)
					if empty || w.marks[id] == 0 ||
						token.joined && len(want) > 0 && want[len(want)-1].end > token.start {
						continue
					}
					want = append(want, span{token.start, token.end, token.word})
				}
				if got := p.spans(w, text, d.terms[from:at]); fmt.Sprint(got) != fmt.Sprint(want) {
					t.Errorf("%s, %q in %q: marked %v, want %v", language, words, text, got, want)
				}
				n, from = n+1, at+1
			}
			if n < len(blocks) {
				t.Fatalf("%d blocks, want at least %d", n, len(blocks))
			}
		}
	}
}
