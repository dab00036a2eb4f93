package outcome

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
)

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
		return cmp.Or(
			a.At.Compare(b.At),
			slices.Index(kindOrder, a.Kind)-slices.Index(kindOrder, b.Kind),
			cmp.Compare(a.Ref, b.Ref),
			slices.Compare(a.Refs, b.Refs),
			cmp.Compare(a.Source, b.Source),
			cmp.Compare(
				a.Contact,
				b.Contact,
			),
			cmp.Compare(a.Asker, b.Asker),
			cmp.Compare(a.Channel, b.Channel),
			a.Line-b.Line,
		)
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
					had := o.Contact == reference ||
						(o.Ref == reference && (o.Kind == HandedOff || o.Kind == Requested))
					if at := slices.IndexFunc(
						own,
						func(x Evidence) bool { return x.Line == o.Line },
					); had &&
						(first < 0 || at < first) {
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
