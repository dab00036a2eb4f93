package outcome

import (
	"cmp"
	"slices"
	"time"
)

// Silence is how long an asker must be silent for a question to end: the usual
// session timeout of web analytics (common practice).
const Silence = 30 * time.Minute

// The return window: its default and its bounds.
const (
	DefaultWindow = 72 * time.Hour
	MinWindow     = time.Hour
	MaxWindow     = 30 * 24 * time.Hour
)

// Outcome is how a question ended.
type Outcome string

// The outcomes. Open and Browsing stand outside every rate.
const (
	Confirmed  Outcome = "confirmed"
	Presumed   Outcome = "presumed"
	Unanswered Outcome = "unanswered"
	Returned   Outcome = "returned"
	Person     Outcome = "person"
	Open       Outcome = "open"
	Browsing   Outcome = "browsing"
)

// All lists the outcomes in the order in which they are shown.
var All = []Outcome{Confirmed, Presumed, Unanswered, Returned, Person, Open, Browsing}

// Question is one asker's attempt to get one thing answered, with its outcome
// as of the time it was folded at.
type Question struct {
	Asker    string
	Began    time.Time
	Closed   time.Time // when it closed, or will close if nothing more happens
	Outcome  Outcome
	Settled  bool       // the return window has passed
	Evidence []Evidence // in order; an agent's answer joins by reference
	// ReturnedIn is when the question that made this one Returned began.
	ReturnedIn time.Time
}

// Settling reports whether the question is closed but may still become Returned.
func (q Question) Settling() bool {
	return !q.Settled && q.Outcome != Open && q.Outcome != Browsing
}

// Label is what the asker wanted in their own words: the first text of the
// question, or "" when there is none.
func (q Question) Label() string {
	for _, e := range q.Evidence {
		if e.Text != "" {
			return e.Text
		}
	}
	return ""
}

// Fold groups evidence into questions and decides their outcomes as of asOf,
// ignoring whatever lies later. The result is ordered by beginning, then asker,
// and does not depend on the order of items. The window is the time within which
// a contact turns an answered question into a Returned one (DefaultWindow).
func Fold(items []Evidence, asOf time.Time, window time.Duration) []Question {
	byAsker := map[string][]Evidence{}
	for _, e := range items {
		if !e.At.After(asOf) {
			byAsker[e.Asker] = append(byAsker[e.Asker], e)
		}
	}
	var questions []Question
	for _, own := range byAsker {
		slices.SortFunc(own, compare)
		asked := split(own)
		decide(asked, asOf, window)
		joinAnswers(asked, own)
		questions = append(questions, asked...)
	}
	slices.SortFunc(questions, func(a, b Question) int {
		return cmp.Or(a.Began.Compare(b.Began), cmp.Compare(a.Asker, b.Asker), a.Closed.Compare(b.Closed))
	})
	return questions
}

// split cuts one asker's ordered evidence into questions: at a silence of 30:00
// or more, and before the next asking once an answer was confirmed.
func split(own []Evidence) []Question {
	var questions []Question
	var confirmed bool
	var last time.Time
	for _, e := range own {
		if e.Kind == AgentAnswered {
			continue
		}
		ended := e.At.Sub(last) >= Silence || (confirmed && e.Kind == Asked)
		if len(questions) == 0 || ended {
			questions = append(questions, Question{Asker: e.Asker, Began: e.At})
			confirmed = false
		}
		q := &questions[len(questions)-1]
		q.Evidence = append(q.Evidence, e)
		confirmed = confirmed || e.Kind == Helped
		last = e.At
	}
	return questions
}

// decide sets closing, outcome and settlement of one asker's questions, in order.
func decide(own []Question, asOf time.Time, window time.Duration) {
	for i := range own {
		q := &own[i]
		q.Closed = closing(q.Evidence)
		q.Outcome = provisional(q.Evidence)
		if q.Outcome == Confirmed || q.Outcome == Presumed {
			if back, ok := contactWithin(own[i+1:], q.Closed.Add(window)); ok {
				q.Outcome, q.ReturnedIn = Returned, back
			}
		}
		if q.Outcome != Browsing && asOf.Before(q.Closed) {
			q.Outcome = Open
		}
		q.Settled = !asOf.Before(q.Closed.Add(window))
	}
}

// closing is the first contact with a person, else the confirming verdict, else
// 30:00 after the last item.
func closing(own []Evidence) time.Time {
	var verdict Evidence
	for _, e := range own {
		switch {
		case e.Kind.reachesPerson():
			return e.At
		case e.Kind == Helped || e.Kind == NotHelped:
			verdict = e
		}
	}
	if verdict.Kind == Helped {
		return verdict.At
	}
	return own[len(own)-1].At.Add(Silence)
}

// provisional is the outcome by what happened in the question itself, before
// later contacts and the as-of time are looked at.
func provisional(own []Evidence) Outcome {
	question := false
	var verdict Kind
	answered := false // something read or told, and nothing since that says otherwise
	for _, e := range own {
		question = question || e.Kind.opensQuestion()
		switch e.Kind {
		case HandedOff, Requested:
			return Person
		case Helped:
			verdict = Helped
		case NotHelped:
			verdict, answered = NotHelped, false
		case Asked, WantedPerson:
			answered = false
		case Read, Told:
			answered = true
		}
	}
	switch {
	case !question:
		return Browsing
	case verdict == Helped:
		return Confirmed
	case answered:
		return Presumed
	}
	return Unanswered
}

// contactWithin finds the first later question in which the asker reached a
// person at or before the end of the window, and gives its beginning.
func contactWithin(later []Question, end time.Time) (time.Time, bool) {
	for _, q := range later {
		for _, e := range q.Evidence {
			if e.Kind.reachesPerson() && !e.At.After(end) {
				return q.Began, true
			}
		}
	}
	return time.Time{}, false
}

// joinAnswers puts each agent's answer into the latest of the asker's questions
// that reached a person with a reference in common, at or before the answer.
func joinAnswers(own []Question, items []Evidence) {
	for _, answer := range items {
		if answer.Kind != AgentAnswered {
			continue
		}
		for i := len(own) - 1; i >= 0; i-- {
			contact := func(e Evidence) bool {
				return e.Kind.reachesPerson() && !e.At.After(answer.At) && refersToSame(answer, e)
			}
			if slices.ContainsFunc(own[i].Evidence, contact) {
				own[i].Evidence = append(own[i].Evidence, answer)
				slices.SortFunc(own[i].Evidence, compare)
				break
			}
		}
	}
}
