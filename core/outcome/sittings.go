package outcome

import (
	"slices"
	"time"
)

// Silence is how long an asker must be silent for a sitting to end: the usual
// session timeout of web analytics (common practice).
const Silence = 30 * time.Minute

// visit is what belongs together while evidence is taken in order: a question, or a browsing visit
// that may still become one.
type visit struct {
	items    []*Evidence
	sitting  time.Time // when the sitting began in which it did
	after    int       // the place after its items, as long as they came one after the other; -1 if not
	question bool      // something in it makes a question
	verdict  Kind      // the last one
	contact  *Evidence // the first with a person
	unlikely bool
	shelved  bool // its last item lies too far back for verdicts to find it

	shown map[string]struct{} // articles and turns; nil where few items are looked through instead
}

// began is when its first item happened.
func (v *visit) began() time.Time { return v.items[0].At }

// last is when its last item happened.
func (v *visit) last() time.Time { return v.items[len(v.items)-1].At }

// showed reports that a thing was shown in it.
func (v *visit) showed(thing string) bool {
	if v.shown != nil {
		_, there := v.shown[thing]
		return there
	}
	return slices.ContainsFunc(v.items, func(e *Evidence) bool { return e.showed(thing) })
}

// ended reports that the next item that makes a question begins a new one.
func (v *visit) ended() bool { return v.verdict == Helped || v.contact != nil }

// sitter takes the items of one asker in order and puts each where it belongs.
type sitter struct {
	window time.Duration
	items  []*Evidence // all of them, in order
	visits []visit     // as they began

	// The sitting that went on last: visits from one on, or a single earlier one that it began with.
	from, only int
	began      time.Time // when it did
	until      time.Time // when it ends unless something keeps it going
	current    int       // the latest of its visits, -1 before the first

	holders map[string]int   // of each reference of a contact or thread: which visit
	showing map[string][]int // questions in which something was shown, as they began; nil where items are few
}

// fewItems is how many are looked through faster than an index of them is made.
const fewItems = 64

// sit cuts the items of one asker into questions and visits, in the order of their beginning. What it gives
// holds until it is called again, but for the items.
func (s *sitter) sit(items []*Evidence) []visit {
	s.items, s.visits = items, s.visits[:0]
	s.from, s.only, s.current = 0, -1, -1
	s.holders, s.showing = nil, nil
	if len(items) > fewItems && slices.ContainsFunc(items, func(e *Evidence) bool { return e.Kind.verdict() }) {
		s.showing = map[string][]int{}
	}
	for place := range items {
		s.take(place)
	}
	return s.visits
}

// take puts the item of a place where it belongs.
func (s *sitter) take(place int) {
	e := s.items[place]
	going := s.current >= 0 && e.At.Before(s.until)
	if at, ok := s.holder(e); ok {
		s.add(at, place)
		switch {
		case !going: // a sitting of which only that question is part
			s.from, s.only, s.current, s.began = len(s.visits), at, at, e.At
			s.until = e.At.Add(Silence)
		case at == s.current:
			s.until = e.At.Add(Silence)
		}
		return
	}
	if e.Kind.verdict() {
		if at, ok := s.about(e, going); ok {
			s.add(at, place)
			if going {
				s.until = e.At.Add(Silence)
			}
			return
		}
	}
	switch {
	case !going:
		s.from, s.only, s.began = len(s.visits), -1, e.At
		s.begin()
	case e.makesQuestion() && s.visits[s.current].ended():
		s.begin()
	}
	s.add(s.current, place)
	s.until = e.At.Add(Silence)
}

// begin makes a new visit the latest of the sitting.
func (s *sitter) begin() {
	s.visits = append(s.visits, visit{sitting: s.began})
	s.current = len(s.visits) - 1
}

// holder finds the visit that has the reference which an item carries, or its own if it is a contact.
func (s *sitter) holder(e *Evidence) (int, bool) {
	if e.Contact != "" {
		if at, ok := s.holders[e.Contact]; ok {
			return at, true
		}
	}
	if e.Kind.reachesPerson() && e.Ref != "" {
		at, ok := s.holders[e.Ref]
		return at, ok
	}
	return 0, false
}

// about finds the visit that a verdict is about: the latest question of the sitting in which the thing was
// shown, else the asker's latest whose last item came less than the return window before, else a visit of
// the sitting.
func (s *sitter) about(e *Evidence, going bool) (int, bool) {
	thing := WithoutRevision(e.Ref)
	if thing == "" {
		return 0, false
	}
	questions := s.questionsShowing(thing)
	if going {
		if last := len(questions) - 1; last >= 0 && questions[last] >= s.from {
			return questions[last], true
		}
		if s.only >= 0 && s.visits[s.only].question && s.visits[s.only].showed(thing) {
			return s.only, true
		}
	}
	for i := len(questions) - 1; i >= 0; i-- {
		at := questions[i]
		if e.At.Sub(s.visits[at].last()) < s.window {
			s.shelve(thing, questions[i+1:], questions[:i+1])
			return at, true
		}
	}
	s.shelve(thing, questions, nil)
	if going {
		for at := len(s.visits) - 1; at >= s.from; at-- {
			if !s.visits[at].question && s.visits[at].showed(thing) {
				return at, true
			}
		}
		if s.only >= 0 && s.visits[s.only].showed(thing) {
			return s.only, true
		}
	}
	return 0, false
}

// questionsShowing lists the questions in which something was shown, as they began.
func (s *sitter) questionsShowing(thing string) []int {
	if s.showing != nil {
		return s.showing[thing]
	}
	var questions []int
	for at := range s.visits {
		if s.visits[at].question && s.visits[at].showed(thing) {
			questions = append(questions, at)
		}
	}
	return questions
}

// shelve takes questions whose last item lies too far back out of the index, until something more comes in
// them: verdicts do not find them, and need not pass over them again.
func (s *sitter) shelve(thing string, old, rest []int) {
	if s.showing == nil || len(old) == 0 {
		return
	}
	for _, at := range old {
		s.visits[at].shelved = true
	}
	s.showing[thing] = rest
}

// add puts the item of a place into a visit.
func (s *sitter) add(at, place int) {
	v, e := &s.visits[at], s.items[place]
	switch {
	case len(v.items) == 0:
		v.items, v.after = s.items[place:place+1:place+1], place+1
	case v.after == place:
		first := place - len(v.items)
		v.items, v.after = s.items[first:place+1:place+1], place+1
	default:
		v.items, v.after = append(v.items, e), -1
	}
	v.unlikely = v.unlikely || e.Unlikely
	if e.Kind.verdict() {
		v.verdict = e.Kind
	}
	if e.Kind.reachesPerson() && v.contact == nil {
		v.contact = e
	}
	s.hold(e.Contact, at)
	if e.Kind.reachesPerson() {
		s.hold(e.Ref, at)
	}
	becomes := !v.question && e.makesQuestion()
	v.question = v.question || becomes
	if s.showing == nil {
		return
	}
	if becomes || v.shelved {
		v.shelved = false
		for thing := range v.shown {
			s.show(thing, at)
		}
	}
	e.shows(func(thing string) {
		if v.shown == nil {
			v.shown = map[string]struct{}{}
		}
		v.shown[thing] = struct{}{}
		if v.question {
			s.show(thing, at)
		}
	})
}

// hold keeps which visit has a reference: the first that did.
func (s *sitter) hold(reference string, at int) {
	if reference == "" {
		return
	}
	if s.holders == nil {
		s.holders = map[string]int{}
	}
	if _, there := s.holders[reference]; !there {
		s.holders[reference] = at
	}
}

// show keeps that a thing was shown in a question.
func (s *sitter) show(thing string, at int) {
	questions := s.showing[thing]
	if place, there := slices.BinarySearch(questions, at); !there {
		s.showing[thing] = slices.Insert(questions, place, at)
	}
}
