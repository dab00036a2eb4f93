package outcome

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"
)

// randomEvidence makes many items for few askers within few days, with times in whole minutes so that equal
// instants and both sides of every boundary occur; a third come at the instant of another.
func randomEvidence(r *rand.Rand, n int) []Evidence {
	items := make([]Evidence, n)
	keys := []string{"visitor:1", "visitor:2", "visitor:3", "visitor:4", "customer:5", "mail:6"}
	things := []string{"A-0001@1", "A-0001@2", "A-0002@1", "turn:x", "A-0003@1"}
	pick := func(from []string) string { return from[r.IntN(len(from))] }
	minute, step := 0, 1+r.IntN(40)
	for i := range items {
		if r.IntN(3) > 0 {
			minute += r.IntN(step)
		}
		e := Evidence{
			At:      day0.Add(time.Duration(minute) * time.Minute),
			Asker:   pick(keys),
			Channel: Channels[r.IntN(len(Channels))],
			Kind:    kindOrder[r.IntN(len(kindOrder))],
			Line:    i + 1,
		}
		switch e.Kind {
		case Opened, Read, Helped, NotHelped:
			e.Ref = pick(things)
		case Offered, Told:
			e.Refs = things[r.IntN(3) : 3+r.IntN(3)]
			e.Source = []Source{FromSearch, FromForm, FromBot}[r.IntN(3)]
		case HandedOff, Requested, AgentAnswered:
			e.Ref = fmt.Sprint("R-", r.IntN(n/4+2))
		case Linked:
			if e.Kind, e.To = Linked, pick(keys); r.IntN(4) > 0 {
				e.Kind, e.To = Asked, ""
			}
		}
		if e.Kind != Linked && r.IntN(4) == 0 {
			e.Contact = fmt.Sprint("R-", r.IntN(n/4+2))
		}
		e.Unlikely = r.IntN(60) == 0
		items[i] = e
	}
	return items
}

// plainly reads the rules a second time, sentence by sentence, without any index: slow and short.
func plainly(items []Evidence, asOf time.Time, window time.Duration) []string {
	items = slices.DeleteFunc(slices.Clone(items), func(e Evidence) bool { return e.At.After(asOf) })
	name := func(key string) string { // of everybody reached by links, the first
		reached := []string{key}
		for i := 0; i < len(reached); i++ {
			for _, e := range items {
				for _, pair := range [][2]string{{e.Asker, e.To}, {e.To, e.Asker}} {
					if e.Kind == Linked && pair[0] == reached[i] && !slices.Contains(reached, pair[1]) {
						reached = append(reached, pair[1])
					}
				}
			}
		}
		return slices.Min(reached)
	}
	byAsker := map[string][]Evidence{}
	named, looked, contacted := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for _, e := range items {
		who := name(e.Asker)
		byAsker[who] = append(byAsker[who], e)
		named[who] = named[who] || !strings.HasPrefix(who, "visitor:") || !strings.HasPrefix(e.Asker, "visitor:")
		if e.To != "" && !strings.HasPrefix(e.To, "visitor:") {
			named[who] = true
		}
		looked[who] = looked[who] || slices.Contains([]Kind{
			Seen, Read, Helped, NotHelped, CameBack, WantedPerson, HandedOff, Requested,
		}, e.Kind)
		contacted[who] = contacted[who] || e.Kind == HandedOff || e.Kind == Requested
	}
	var told []string
	for who, own := range byAsker {
		questions := plainQuestions(plainOrder(own), window)
		for i, q := range questions {
			out := plainOutcome(q, questions[i+1:], window)
			closes := plainClosing(q)
			switch {
			case !named[who] && !contacted[who] && slices.ContainsFunc(q, func(e Evidence) bool { return e.Unlikely }):
				out = Unlikely
			case out == Browsing:
			case !named[who] && !looked[who]:
				out = Unseen
			case asOf.Before(closes):
				out = Open
			}
			var lines []int
			for _, e := range q {
				lines = append(lines, e.Line)
			}
			again := out == Presumed && plainAgain(q, questions[i+1:], closes.Add(window))
			settled := !asOf.Before(closes.Add(window))
			told = append(told, fmt.Sprint(who, q[0].At, closes, out, settled, again, lines))
		}
	}
	slices.Sort(told)
	return told
}

// plainOrder takes, again and again, the first by the table that waits for no contact at its instant.
func plainOrder(own []Evidence) []Evidence {
	slices.SortFunc(own, func(a, b Evidence) int {
		return cmp.Or(a.At.Compare(b.At), slices.Index(kindOrder, a.Kind)-slices.Index(kindOrder, b.Kind),
			cmp.Compare(a.Ref, b.Ref), slices.Compare(a.Refs, b.Refs), cmp.Compare(a.Source, b.Source),
			cmp.Compare(a.Contact, b.Contact), cmp.Compare(a.Asker, b.Asker), cmp.Compare(a.Channel, b.Channel), a.Line-b.Line)
	})
	var ordered []Evidence
	for len(own) > 0 {
		next := slices.IndexFunc(own, func(e Evidence) bool {
			return !slices.ContainsFunc(own, func(c Evidence) bool {
				isContact := c.Kind == HandedOff || c.Kind == Requested
				itself := e.Ref == e.Contact && (e.Kind == HandedOff || e.Kind == Requested)
				return isContact && c.At.Equal(e.At) && e.Contact != "" && c.Ref == e.Contact && !itself
			})
		})
		next = max(0, next)
		if !own[next].At.Equal(own[0].At) { // a circle: the order of kinds
			next = 0
		}
		ordered = append(ordered, own[next])
		own = slices.Delete(own, next, next+1)
	}
	return ordered
}

func plainQuestions(own []Evidence, window time.Duration) [][]Evidence {
	var questions [][]Evidence
	var sitting []int // which of the questions are part of it, in order
	var last time.Time
	makes := func(e Evidence) bool {
		return slices.Contains([]Kind{Asked, WantedPerson, HandedOff, Requested}, e.Kind) ||
			(e.Kind == Offered && e.Source == FromForm)
	}
	shown := func(q []Evidence, ref string) bool {
		same := func(other string) bool { return strings.Split(other, "@")[0] == strings.Split(ref, "@")[0] }
		return slices.ContainsFunc(q, func(e Evidence) bool {
			return slices.Contains([]Kind{Offered, Opened, Told, Read}, e.Kind) &&
				(same(e.Ref) || slices.ContainsFunc(e.Refs, same))
		})
	}
	for _, e := range own {
		if slices.Index(kindOrder, e.Kind) >= slices.Index(kindOrder, AgentAnswered) {
			continue
		}
		going := len(sitting) > 0 && e.At.Sub(last) < 30*time.Minute
		if !going {
			sitting = nil
		}
		isContact := e.Kind == HandedOff || e.Kind == Requested
		home := -1
		for _, reference := range []string{e.Contact, e.Ref} {
			if reference == "" || home >= 0 || (reference == e.Ref && reference != e.Contact && !isContact) {
				continue
			}
			first := -1 // the item that had it first
			for i, q := range questions {
				for _, o := range q {
					had := o.Contact == reference || (o.Ref == reference && (o.Kind == HandedOff || o.Kind == Requested))
					if at := slices.IndexFunc(own, func(x Evidence) bool { return x.Line == o.Line }); had && (first < 0 || at < first) {
						first, home = at, i
					}
				}
			}
		}
		if home >= 0 {
			questions[home] = append(questions[home], e)
			if !going {
				sitting, last = []int{home}, e.At
			} else if home == sitting[len(sitting)-1] {
				last = e.At
			}
			continue
		}
		if e.Kind == Helped || e.Kind == NotHelped {
			for _, i := range slices.Backward(sitting) {
				if home < 0 && slices.ContainsFunc(questions[i], makes) && shown(questions[i], e.Ref) {
					home = i
				}
			}
			for i := len(questions) - 1; i >= 0 && home < 0; i-- {
				q := questions[i]
				if slices.ContainsFunc(q, makes) && shown(q, e.Ref) && e.At.Sub(q[len(q)-1].At) < window {
					home = i
				}
			}
			for _, i := range slices.Backward(sitting) {
				if home < 0 && shown(questions[i], e.Ref) {
					home = i
				}
			}
			if home >= 0 {
				questions[home] = append(questions[home], e)
				if going {
					last = e.At
				}
				continue
			}
		}
		if going {
			q := questions[sitting[len(sitting)-1]]
			verdict := Kind("")
			person := false
			for _, o := range q {
				if o.Kind == Helped || o.Kind == NotHelped {
					verdict = o.Kind
				}
				person = person || o.Kind == HandedOff || o.Kind == Requested
			}
			if !makes(e) || (verdict != Helped && !person) {
				home = sitting[len(sitting)-1]
			}
		}
		if home < 0 {
			home = len(questions)
			questions = append(questions, nil)
			sitting = append(sitting, home)
		}
		questions[home] = append(questions[home], e)
		last = e.At
	}
	return questions
}

func plainClosing(q []Evidence) time.Time {
	var verdict Evidence
	for _, e := range q {
		if e.Kind == HandedOff || e.Kind == Requested {
			return e.At
		}
		if e.Kind == Helped || e.Kind == NotHelped {
			verdict = e
		}
	}
	if verdict.Kind == Helped {
		return verdict.At
	}
	return q[len(q)-1].At.Add(30 * time.Minute)
}

func plainOutcome(q []Evidence, later [][]Evidence, window time.Duration) Outcome {
	last := func(kinds ...Kind) int {
		at := -1
		for i, e := range q {
			if slices.Contains(kinds, e.Kind) {
				at = i
			}
		}
		return at
	}
	form := slices.ContainsFunc(q, func(e Evidence) bool { return e.Kind == Offered && e.Source == FromForm })
	var out Outcome
	switch {
	case last(Asked, WantedPerson, HandedOff, Requested) < 0 && !form:
		return Browsing
	case last(HandedOff, Requested) >= 0:
		return Person
	case last(Helped) > last(NotHelped):
		out = Confirmed
	case last(Read) > last(Asked, NotHelped, CameBack) && last(WantedPerson) < max(0, last(Asked)):
		out = Presumed
	default:
		return Unanswered
	}
	for _, l := range later {
		for _, e := range l {
			if (e.Kind == HandedOff || e.Kind == Requested) && !e.At.After(plainClosing(q).Add(window)) {
				return Returned
			}
		}
	}
	return out
}

func plainAgain(q []Evidence, later [][]Evidence, until time.Time) bool {
	offered := func(q []Evidence) (list []string) {
		for _, e := range q {
			for _, ref := range e.Refs {
				if e.Kind == Offered {
					list = append(list, strings.Split(ref, "@")[0])
				}
			}
		}
		return list
	}
	for _, l := range later {
		if plainOutcome(l, nil, 0) == Browsing || l[0].At.After(until) {
			continue
		}
		if slices.ContainsFunc(offered(l), func(ref string) bool { return slices.Contains(offered(q), ref) }) {
			return true
		}
	}
	return false
}

// The fold agrees with the plain reading of the rules on every question of random histories, in whatever
// order their items arrive.
func TestFoldAgreesWithAPlainReading(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	compared := 0
	for n := range 1500 {
		most := 60
		if n%20 == 0 {
			most = 300 // enough for what is shown to be looked up in an index
		}
		items := randomEvidence(r, 1+r.IntN(most))
		asOf := items[len(items)-1].At.Add(time.Duration(r.IntN(60*100)-60) * time.Minute)
		window := []time.Duration{time.Hour, 5 * time.Hour, DefaultWindow}[n%3]
		shuffled := slices.Clone(items)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		var got []string
		for _, q := range Fold(shuffled, asOf, window) {
			var lines []int
			for _, e := range q.Evidence {
				if e.Kind != AgentAnswered {
					lines = append(lines, e.Line)
				}
			}
			got = append(got, fmt.Sprint(q.Asker, q.Began, q.Closed, q.Outcome, q.Settled, q.AskedAgain, lines))
		}
		slices.Sort(got)
		want := plainly(items, asOf, window)
		compared += len(want)
		if !slices.Equal(got, want) {
			for i := range max(len(got), len(want)) {
				if i >= len(got) || i >= len(want) || got[i] != want[i] {
					t.Errorf("history %d, question %d of %d and %d\ngot  %v\nwant %v", n, i, len(got), len(want),
						got[min(i, len(got)-1)], want[min(i, len(want)-1)])
					break
				}
			}
			t.FailNow()
		}
	}
	if compared < 10_000 {
		t.Errorf("only %d questions were compared", compared)
	}
}

func TestFoldHoldsForRandomEvidence(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		items := randomEvidence(r, 1+r.IntN(300))
		asOf := items[len(items)-1].At.Add(time.Duration(r.IntN(60*200)-600) * time.Minute)
		questions := Fold(items, asOf, DefaultWindow)

		shuffled := slices.Clone(items)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if !reflect.DeepEqual(questions, Fold(shuffled, asOf, DefaultWindow)) {
			t.Fatal("the fold depends on the order of arrival")
		}
		seen := map[int]bool{}
		for _, q := range questions {
			for _, e := range q.Evidence {
				if seen[e.Line] {
					t.Fatalf("line %d is in two questions", e.Line)
				}
				seen[e.Line] = true
				if e.At.After(asOf) || e.Kind.rank() > AgentAnswered.rank() {
					t.Fatalf("line %d does not belong to a question", e.Line)
				}
			}
			if q.Settled && (q.Outcome == Open) {
				t.Fatal("an open question is settled")
			}
		}
		for _, e := range items {
			if e.Kind.rank() <= requestedRank && !e.At.After(asOf) && !seen[e.Line] {
				t.Fatalf("line %d is in no question", e.Line)
			}
		}
		c := Count(questions)
		if c.Settled()+c.Open+c.Settling+c.Browsing+c.Unseen+c.Unlikely != len(questions) {
			t.Fatalf("counts %+v do not add up to %d questions", c, len(questions))
		}
	}
}
