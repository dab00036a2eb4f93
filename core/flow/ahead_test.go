package flow

import (
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
)

// With the articles alone that are ahead, a conversation goes just as with all of them.
func TestNoArticleIsShownThatIsNotAhead(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	spared, asked := 0, 0
	for range 1500 {
		s := randomScript(r)
		p := Compile(s)
		other := Compile(randomScript(r))
		if len(s.Turns) > 0 && r.IntN(2) == 0 {
			s.Turns = append([]Turn{{Kind: GoTo, Flow: "other", Back: r.IntN(2) == 0}}, s.Turns...)
			p = Compile(s)
		}
		w := randomWorlds[r.IntN(len(randomWorlds))]
		w.Flows = map[string]*Program{"other": other}
		var state State
		in := Input{Kind: Begin}
		for range 15 {
			few := w
			few.Articles = map[string]Card{}
			for _, ref := range Ahead(p, state, w.Flows) {
				if card, ok := w.Articles[ref]; ok {
					few.Articles[ref] = card
				}
			}
			spared, asked = spared+len(w.Articles)-len(few.Articles), asked+len(w.Articles)
			for pending := []Input{in}; len(pending) > 0; pending = pending[1:] { // one step, with what is found in it
				all, err := Run(p, state, pending[0], w)
				less, lessErr := Run(p, state, pending[0], few)
				if !reflect.DeepEqual(all, less) || (err == nil) != (lessErr == nil) {
					t.Fatalf("with what is ahead it goes otherwise at %s\n%s", state.Turn, Write(s))
				}
				if err != nil {
					break
				}
				state = all.State
				if slices.ContainsFunc(all.Needs, func(n Need) bool { return n.Kind == NeedSearch }) {
					found := []Input{
						{Kind: Found},
						{Kind: Found, Cards: []Card{bill}},
						{Kind: Found, Cards: []Card{bill}, Weak: true},
					}
					pending = append(pending, found[r.IntN(len(found))])
				}
			}
			list := append(inputsAt(state, []Message{{}}), Input{Kind: WantPerson}, Input{Kind: Words, Text: "zebra"},
				Input{Kind: Choice, Text: "choice 0"}, Input{Kind: Choice, Text: "choice 1"})
			in = list[r.IntN(len(list))]
		}
	}
	if spared*4 < asked {
		t.Errorf("only %d of %d articles need not be read", spared, asked)
	}
}
