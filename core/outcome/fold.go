package outcome

import (
	"cmp"
	"slices"
	"time"
)

// The return window: its default and its bounds.
const (
	DefaultWindow = 72 * time.Hour
	MinWindow     = time.Hour
	MaxWindow     = 30 * 24 * time.Hour
)

// Outcome is how a question ended.
type Outcome string

// The outcomes. Those after Person stand outside every rate.
const (
	Confirmed  Outcome = "confirmed"
	Presumed   Outcome = "presumed"
	Unanswered Outcome = "unanswered"
	Returned   Outcome = "returned"
	Person     Outcome = "person"
	Open       Outcome = "open"
	Browsing   Outcome = "browsing"
	Unseen     Outcome = "unseen"   // nothing shows that anybody looked
	Unlikely   Outcome = "unlikely" // of too many new askers from one network
)

// All lists the outcomes in the order in which they are shown.
var All = []Outcome{Confirmed, Presumed, Unanswered, Returned, Person, Open, Browsing, Unseen, Unlikely}

// SetAside reports whether questions of this outcome are in no rate, whenever they closed.
func (o Outcome) SetAside() bool { return o == Browsing || o == Unseen || o == Unlikely }

// Question is one asker's attempt to get one thing answered, with its outcome
// as of the time it was folded at.
type Question struct {
	Asker      string // the alphabetically first of the keys that are linked
	Began      time.Time
	Closed     time.Time // when it closed, or will close if nothing more happens
	Outcome    Outcome
	Settled    bool        // the return window has passed
	AskedAgain bool        // Presumed, but the asker began another with an article offered in both
	Evidence   []*Evidence // in order; an agent's answer joins by its contact's reference
	ReturnedBy *Evidence   // the contact that made it Returned
	Sitting    time.Time   // when the sitting began in which it did

	nth int // of its asker's, in the order of their beginning
}

// Settling reports whether the question is closed but may still become Returned.
func (q Question) Settling() bool {
	return !q.Settled && q.Outcome != Open && !q.Outcome.SetAside()
}

// NotFollowed reports whether somebody asked it, in any part, who declined to be followed from page to page.
func (q Question) NotFollowed() bool {
	return slices.ContainsFunc(q.Evidence, func(e *Evidence) bool { return e.NotFollowed })
}

// InRates reports whether the question counts in the rates: it has settled, and is not set aside.
func (q Question) InRates() bool { return q.Settled && q.Outcome != Open && !q.Outcome.SetAside() }

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
// a contact turns an answered question into a Returned one (DefaultWindow). The
// questions point into items, which must not be changed afterwards.
func Fold(items []Evidence, asOf time.Time, window time.Duration) []Question {
	askers, answers := askersOf(items, asOf)
	questions := make([]Question, 0, len(askers))
	sitter := &sitter{window: window}
	for _, a := range askers {
		questions = a.appendQuestions(questions, sitter.sit(a.items), asOf, window)
	}
	joinAnswers(questions, answers)
	return byBeginning(questions)
}

// Ever is an as-of time at which everything has settled.
var Ever = time.Date(9000, 1, 1, 0, 0, 0, 0, time.UTC)

// FoldOne decides what one asker did, whose keys are all linked, when everything has settled: nothing is open. Known
// is what is known of the asker beside the items at hand. Answers of agents are left aside.
func FoldOne(name string, items []Evidence, known Known, window time.Duration) []Question {
	a := asker{name: name, Known: known}
	own := make([]taken, 0, len(items))
	for i := range items {
		a.Know(&items[i])
		if rank := items[i].Kind.rank(); rank <= requestedRank {
			own = append(own, taken{&items[i], rank})
		}
	}
	inOrder(own)
	for _, e := range own {
		a.items = append(a.items, e.Evidence)
	}
	sitter := &sitter{window: window}
	return a.appendQuestions(nil, sitter.sit(a.items), Ever, window)
}

// byBeginning orders questions by beginning, then asker. Places are sorted, since questions are large.
func byBeginning(questions []Question) []Question {
	type place struct {
		second int64
		at     int32
	}
	places := make([]place, len(questions))
	for i := range places {
		places[i] = place{questions[i].Began.Unix(), int32(i)}
	}
	slices.SortFunc(places, func(i, j place) int {
		if i.second != j.second {
			return cmp.Compare(i.second, j.second)
		}
		a, b := &questions[i.at], &questions[j.at]
		return cmp.Or(a.Began.Compare(b.Began), cmp.Compare(a.Asker, b.Asker), cmp.Compare(a.nth, b.nth))
	})
	ordered := make([]Question, len(questions))
	for to, from := range places {
		ordered[to] = questions[from.at]
	}
	return ordered
}

// appendQuestions decides all that one asker did, in the order of its beginning.
func (a asker) appendQuestions(all []Question, visits []visit, asOf time.Time, window time.Duration) []Question {
	var back []*Evidence
	if a.Reached {
		back = contactsAfter(visits)
	}
	before := len(all)
	for i := range visits {
		v := &visits[i]
		q := Question{
			Asker:    a.name,
			Began:    v.began(),
			Closed:   v.closes(),
			Evidence: v.items,
			Sitting:  v.sitting,
			nth:      i,
		}
		q.Outcome = v.provisional()
		until := q.Closed.Add(window)
		q.Settled = !asOf.Before(until)
		var contact *Evidence
		if back != nil {
			contact = back[i]
		}
		switch {
		case v.unlikely && !a.Named && !a.Reached:
			q.Outcome = Unlikely
		case q.Outcome == Browsing:
		case a.unseen():
			q.Outcome = Unseen
		case asOf.Before(q.Closed):
			q.Outcome = Open
		case (q.Outcome == Confirmed || q.Outcome == Presumed) && contact != nil && !contact.At.After(until):
			q.Outcome, q.ReturnedBy = Returned, contact
		}
		all = append(all, q)
	}
	markAskedAgain(all[before:], window)
	return all
}

// contactsAfter gives, for each visit, the first contact in those that began later; nil for none.
func contactsAfter(visits []visit) []*Evidence {
	back := make([]*Evidence, len(visits))
	var first *Evidence
	for i := len(visits) - 1; i >= 0; i-- {
		back[i] = first
		if c := visits[i].contact; c != nil && (first == nil || !c.At.After(first.At)) {
			first = c
		}
	}
	return back
}

// closes is the first contact with a person, else the confirming verdict, else
// 30:00 after the last item.
func (v *visit) closes() time.Time {
	if v.contact != nil {
		return v.contact.At
	}
	if v.verdict == Helped {
		for _, e := range slices.Backward(v.items) {
			if e.Kind == Helped {
				return e.At
			}
		}
	}
	return v.last().Add(Silence)
}

// provisional is the outcome by what happened in the visit itself, before later contacts
// and the as-of time are looked at.
func (v *visit) provisional() Outcome {
	switch {
	case !v.question:
		return Browsing
	case v.contact != nil:
		return Person
	case v.verdict == Helped:
		return Confirmed
	}
	answered := false // something was read, and nothing since says otherwise
	wanted := false   // a person, since the last asking
	for _, e := range v.items {
		switch e.Kind {
		case Asked:
			answered, wanted = false, false
		case NotHelped, CameBack:
			answered = false
		case WantedPerson:
			wanted = true
		case Read:
			answered = true
		}
	}
	if answered && !wanted {
		return Presumed
	}
	return Unanswered
}

// markAskedAgain marks the Presumed ones of an asker's questions after which another began by the end of the
// window with an article offered in both, whatever its revision.
func markAskedAgain(own []Question, window time.Duration) {
	if !anyFollowed(own, window) {
		return
	}
	offeredIn := map[string][]int{} // questions, in order, by article
	for i, q := range own {
		if q.Outcome == Browsing {
			continue
		}
		for _, e := range q.Evidence {
			for _, ref := range e.offers() {
				article := WithoutRevision(ref)
				if in := offeredIn[article]; len(in) == 0 || in[len(in)-1] != i {
					offeredIn[article] = append(in, i)
				}
			}
		}
	}
	for i := range own {
		q := &own[i]
		if q.Outcome != Presumed {
			continue
		}
		until := q.Closed.Add(window)
		for _, e := range q.Evidence {
			for _, ref := range e.offers() {
				in := offeredIn[WithoutRevision(ref)]
				next, _ := slices.BinarySearch(in, i+1)
				if next < len(in) && !own[in[next]].Began.After(until) {
					q.AskedAgain = true
				}
			}
		}
	}
}

// anyFollowed reports whether after any of the Presumed questions something began by the end of the window.
func anyFollowed(own []Question, window time.Duration) bool {
	for i := 0; i+1 < len(own); i++ {
		if own[i].Outcome == Presumed && !own[i+1].Began.After(own[i].Closed.Add(window)) {
			return true
		}
	}
	return false
}

// offers lists the article revisions that the item offered.
func (e *Evidence) offers() []string {
	if e.Kind == Offered {
		return e.Refs
	}
	return nil
}

// contactOf is the reference of the contact that an agent's answer belongs to.
func (e *Evidence) contactOf() string {
	if e.Contact != "" {
		return e.Contact
	}
	return e.Ref
}

// joinAnswers puts each agent's answer into the question in which its contact was made, by the contact's
// reference alone. Where several askers have a contact of one reference, it is the answered asker's own,
// else the one that was made first.
func joinAnswers(questions []Question, answers []answer) {
	if len(answers) == 0 {
		return
	}
	homes := map[string]*contactHome{}
	for _, one := range answers {
		if reference := one.contactOf(); reference != "" {
			homes[reference] = &contactHome{first: -1, own: map[string]int{}}
		}
	}
	for i, q := range questions {
		for _, e := range q.Evidence {
			if home := homes[e.Ref]; home != nil && e.Kind.reachesPerson() {
				home.add(questions, i, e)
			}
		}
	}
	slices.SortFunc(answers, func(a, b answer) int { return compare(a.taken, b.taken) })
	for _, one := range answers {
		home := homes[one.contactOf()]
		if home == nil || home.first < 0 {
			continue
		}
		at := home.first
		if own, ok := home.own[one.asker]; ok {
			at = own
		}
		q := &questions[at]
		place := len(q.Evidence)
		for place > 0 && q.Evidence[place-1].At.After(one.At) {
			place--
		}
		q.Evidence = slices.Insert(q.Evidence, place, one.Evidence)
	}
}

// contactHome is where a contact of some reference was made.
type contactHome struct {
	first int            // the question in which it was made first, -1 for none
	at    *Evidence      // that contact
	own   map[string]int // the question of each asker
}

func (h *contactHome) add(questions []Question, i int, e *Evidence) {
	if _, there := h.own[questions[i].Asker]; !there {
		h.own[questions[i].Asker] = i
	}
	if h.first < 0 || cmp.Or(e.At.Compare(h.at.At), cmp.Compare(questions[i].Asker, questions[h.first].Asker)) < 0 {
		h.first, h.at = i, e
	}
}
