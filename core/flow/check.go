package flow

import (
	"fmt"
	"regexp"
	"strings"

	"hermeneus/core/article"
)

// The limits of a script.
const (
	MaxTurns   = 500
	MaxText    = 4000 // characters of one turn
	MaxOptions = 12
	MaxShown   = 5 // articles in one turn
)

// Fault is something wrong with a script, at a turn's field ("" for the script).
type Fault struct {
	Turn    string `json:"turn,omitempty"`
	Field   string `json:"field,omitempty"`
	Message string `json:"message"`
}

// Check lists what is wrong with a script. A script without problems always gets
// an answer out of the runtime: it never hangs between turns and never names a
// turn that is not there.
func Check(s Script) []Fault {
	c := checker{script: s, ids: map[string]Kind{}}
	c.whole()
	for _, t := range s.Turns {
		c.turn(t)
	}
	c.loops()
	c.wayOn()
	c.reach()
	return c.problems
}

type checker struct {
	script   Script
	ids      map[string]Kind
	problems []Fault
}

func (c *checker) add(turn, field, format string, args ...any) {
	c.problems = append(c.problems, Fault{turn, field, fmt.Sprintf(format, args...)})
}

func (c *checker) whole() {
	s := c.script
	if strings.TrimSpace(s.Name) == "" {
		c.add("", "name", "The flow needs a name.")
	}
	if len(s.Turns) == 0 || len(s.Turns) > MaxTurns {
		c.add("", "turns", "A flow has between 1 and %d turns; this one has %d.", MaxTurns, len(s.Turns))
	}
	for i, t := range s.Turns {
		if _, twice := c.ids[t.ID]; twice {
			c.add(t.ID, "id", "Two turns have the id %q.", t.ID)
		}
		if t.ID == "" {
			c.add("", fmt.Sprintf("turns[%d].id", i), "Turn %d has no id.", i+1)
		}
		c.ids[t.ID] = t.Kind
	}
	c.target("", "start", s.Start)
	if s.FreeText != "" {
		if kind, ok := c.ids[s.FreeText]; !ok || kind != LookUp {
			c.add("", "free_text", "Free text must lead to a look_up turn; %q is none.", s.FreeText)
		}
	}
	if s.Person != "" {
		c.target("", "person", s.Person)
	}
	if s.Person == "" && len(s.PersonWords) > 0 {
		c.add("", "person", "There are words that ask for a person, but no turn they lead to.")
	}
}

func (c *checker) target(turn, field, to string) {
	if to == "" {
		c.add(turn, field, "This must name the turn it leads to.")
	} else if _, ok := c.ids[to]; !ok {
		c.add(turn, field, "There is no turn %q.", to)
	}
}

func (c *checker) turn(t Turn) {
	switch t.Kind {
	case Say, Choose, Suggest, LookUp, HandOver, Request, Close:
	default:
		c.add(t.ID, "kind", "%q is not a kind of turn.", t.Kind)
		return
	}
	if strings.TrimSpace(t.Text) == "" {
		c.add(t.ID, "text", "The bot has nothing to say here.")
	} else if len([]rune(t.Text)) > MaxText {
		c.add(t.ID, "text", "The text is longer than %d characters.", MaxText)
	}
	c.filled(t.ID, "text", t.Text)
	for _, l := range t.leads() {
		c.target(t.ID, l.field, l.to)
	}
	switch t.Kind {
	case Choose:
		c.options(t)
	case Suggest:
		if len(t.Articles) == 0 || len(t.Articles) > MaxShown {
			c.add(t.ID, "articles", "Name between 1 and %d articles; there are %d.", MaxShown, len(t.Articles))
		}
		for i, ref := range t.Articles {
			if _, revision, ok := article.ParseReference(ref); !ok || revision != 0 {
				c.add(t.ID, fmt.Sprintf("articles[%d]", i), "%q is not a reference such as A-0042.", ref)
			}
		}
	case LookUp:
		if t.Limit < 0 || t.Limit > MaxShown {
			c.add(t.ID, "limit", "Show at most %d articles at once.", MaxShown)
		}
	case HandOver, Request:
		if strings.TrimSpace(t.Team) == "" {
			c.add(t.ID, "team", "Say which team this goes to.")
		}
	}
}

// inserted is what looks like something that the program fills in.
var inserted = regexp.MustCompile(`\[[^\[\]]*\]`)

// filled finds what a customer would read in square brackets: nothing is filled in there.
func (c *checker) filled(turn, field, text string) {
	if found := inserted.FindString(text); found != "" {
		c.add(turn, field, "Nothing is filled in for %q: customers would read it as it stands. Say it in words.", found)
	}
}

func (c *checker) options(t Turn) {
	if len(t.Options) == 0 || len(t.Options) > MaxOptions {
		c.add(t.ID, "options", "Offer between 1 and %d choices; there are %d.", MaxOptions, len(t.Options))
	}
	seen := map[string]bool{}
	for i, o := range t.Options {
		label := plain(o.Label)
		c.filled(t.ID, fmt.Sprintf("options[%d].label", i), o.Label)
		if label == "" {
			c.add(t.ID, fmt.Sprintf("options[%d].label", i), "A choice has no words.")
		} else if seen[label] {
			c.add(t.ID, fmt.Sprintf("options[%d].label", i), "Two choices read %q.", o.Label)
		}
		seen[label] = true
	}
}

// unasked is where a turn can lead without the customer doing anything.
func (t Turn) unasked() []string {
	switch t.Kind {
	case Say:
		return []string{t.Next}
	case Suggest, LookUp:
		return []string{t.Nothing}
	case HandOver:
		return []string{t.Nobody}
	}
	return nil
}

// loops finds turns that could run in a circle without ever waiting for the customer.
func (c *checker) loops() {
	const entered, done = 1, 2
	mark := map[string]int{}
	var walk func(id string)
	walk = func(id string) {
		t, ok := c.script.Turn(id)
		if !ok || mark[id] == done {
			return
		}
		if mark[id] == entered {
			c.add(id, "", "From here the bot could go in a circle without waiting for the customer.")
			return
		}
		mark[id] = entered
		for _, to := range t.unasked() {
			walk(to)
		}
		mark[id] = done
	}
	for _, t := range c.script.Turns {
		walk(t.ID)
	}
}

// wayOn finds turns from which whoever says "no" only ever comes back to them: who is not
// helped must be able to reach a request or an end, or a person where one is there, without
// being asked the same again, and without saying that something helped.
func (c *checker) wayOn() {
	for _, t := range c.script.Turns {
		if (t.Kind == Suggest || t.Kind == LookUp) && c.comesBack(t) {
			c.add(
				t.ID,
				"not_helped",
				"Who says no here comes back to this turn and gets no further, at least while nobody is there. "+
					"Lead them to a request or an end.",
			)
		}
	}
}

// comesBack reports whether every way on from a turn's "no" ends at the turn itself. Ways
// that lead nowhere are other faults.
func (c *checker) comesBack(from Turn) bool {
	seen := map[string]bool{}
	back := false
	queue := []string{from.NotHelped}
	for ; len(queue) > 0; queue = queue[1:] {
		t, ok := c.script.Turn(queue[0])
		switch {
		case !ok || seen[t.ID]:
			continue
		case t.ID == from.ID:
			back = true
			continue
		case t.Kind == Request || t.Kind == Close: // a person is an end only while somebody is there
			return false
		}
		seen[t.ID] = true
		for _, l := range t.leads() {
			shown := t.Kind == Suggest && l.field == "nothing" // who is shown something is not led there
			if l.field != "helped" && !shown {
				queue = append(queue, l.to)
			}
		}
	}
	return back
}

// reach finds turns that no conversation comes to.
func (c *checker) reach() {
	seen := map[string]bool{}
	queue := []string{c.script.Start, c.script.FreeText, c.script.Person}
	for len(queue) > 0 {
		id := queue[0]
		queue = queue[1:]
		t, ok := c.script.Turn(id)
		if !ok || seen[id] {
			continue
		}
		seen[id] = true
		for _, l := range t.leads() {
			queue = append(queue, l.to)
		}
	}
	for _, t := range c.script.Turns {
		if t.ID != "" && !seen[t.ID] {
			c.add(t.ID, "", "No conversation ever comes to this turn.")
		}
	}
}
