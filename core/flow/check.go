package flow

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"hermeneus/core/audience"
)

// The limits of a script.
const (
	MaxTurns    = 2000
	MaxText     = 4000 // characters of one turn
	MinOptions  = 2
	MaxOptions  = 10
	MaxShown    = 5 // articles in one turn
	MaxLabel    = 80
	MaxHandlers = 2
)

// Level says what a fault means for publishing.
type Level string

// The levels of faults.
const (
	Error   Level = "error"   // refuses publication
	Warning Level = "warning" // asks for a note
)

// Fault is something wrong with a script, at a turn's field ("" for the script).
type Fault struct {
	Turn    string          `json:"turn,omitempty"`
	Field   string          `json:"field,omitempty"`
	Line    int             `json:"line,omitempty"` // of the text that was checked, from 1
	Level   Level           `json:"level"`
	Message string          `json:"message"`
	Example *CounterExample `json:"example,omitempty"` // a conversation that meets it
}

// Env is what the checks know of the world that a script will run in. What is nil is not known, and not
// checked: with the zero Env the structure alone is.
type Env struct {
	Articles  map[string]Shows // by reference
	Teams     map[string]Staffing
	Flows     []string        // that can be gone to
	Groups    []string        // of customers
	Languages []string        // of the site; the script's own is not among those that can lack a text
	Forms     map[string]Form // that there are wherever the flow is met, by key
	Openings  []Opening
	Limits    map[string]int // characters of a text, by channel
	Avoided   []string       // words of the voice
	Names     bool           // names such as @power-is-off stand for articles
}

// Shows is what the checks know of an article.
type Shows struct {
	Title    string
	Audience audience.Audience
	Groups   []string // that may read it, where the audience is that of groups
	Ends     bool     // it has a date at which it ends
}

// Staffing is what the checks know of a team.
type Staffing struct {
	Agents int
	Never  bool // its hours are never open
}

// Opening is who is open together at some moment of the week.
type Opening struct {
	Site  bool
	Teams map[string]bool
}

// Check lists what is wrong with a script: what is written in it, and whether everybody gets on. A script
// without errors always gets an answer out of the runtime, and leaves nobody without a way on.
func Check(s Script, env Env) []Fault {
	c := &checker{program: Compile(s), env: env}
	c.script = &c.program.script
	c.whole()
	c.script.Each(c.turn)
	c.twice()
	c.prove()
	slices.SortStableFunc(c.faults, func(a, b Fault) int { return cmp.Compare(c.place(a.Turn), c.place(b.Turn)) })
	return c.faults
}

// Check lists what is wrong with a script as it was typed, each fault with its line.
func (r *Reading) Check(env Env) []Fault {
	faults := slices.Clone(r.Faults)
	for i := range faults {
		faults[i].Turn = r.TurnAt(faults[i].Line)
	}
	for _, f := range Check(r.Script, env) {
		f.Line = max(1, r.Line(f.Turn, f.Field))
		faults = append(faults, f)
	}
	slices.SortStableFunc(faults, func(a, b Fault) int { return cmp.Compare(a.Line, b.Line) })
	return faults
}

// Errors counts the faults that refuse publication.
func Errors(faults []Fault) int {
	n := 0
	for _, f := range faults {
		if f.Level == Error {
			n++
		}
	}
	return n
}

type checker struct {
	script  *Script
	program *Program
	env     Env
	faults  []Fault
	places  map[string]int
}

// place is where a turn comes in the script; what is wrong with the whole comes first.
func (c *checker) place(turn string) int {
	if c.places == nil {
		c.places = map[string]int{"": -1}
		for i, n := range c.program.order {
			if _, there := c.places[n.turn.ID]; !there {
				c.places[n.turn.ID] = i
			}
		}
	}
	return c.places[turn]
}

func (c *checker) add(level Level, turn, field, format string, args ...any) {
	c.faults = append(c.faults, Fault{Turn: turn, Field: field, Level: level, Message: fmt.Sprintf(format, args...)})
}

func (c *checker) wrong(turn, field, format string, args ...any) {
	c.add(Error, turn, field, format, args...)
}
func (c *checker) warn(turn, field, format string, args ...any) {
	c.add(Warning, turn, field, format, args...)
}

func (c *checker) whole() {
	s := c.script
	if strings.TrimSpace(s.Name) == "" {
		c.wrong("", "name", "The flow needs a name: begin with “flow Opening hours (en)”.")
	}
	if n := len(c.program.order); n == 0 || n > MaxTurns {
		c.wrong("", "turns", "A flow has between 1 and %d turns; this one has %d.", MaxTurns, n)
	}
	seen := map[string]bool{}
	for _, n := range c.program.order {
		if seen[n.turn.ID] {
			c.wrong(n.turn.ID, "id", "Two turns have the name “%s”.", n.turn.ID)
		}
		seen[n.turn.ID] = true
		if n.turn.Named && !sayable(n.turn.ID) {
			c.warn(
				n.turn.ID,
				"id",
				"“%s” cannot be typed as a name: in the text it will be “%s”.",
				n.turn.ID,
				sayAs(n.turn.ID),
			)
		}
	}
	if h := s.handler(WheneverPerson); h == nil {
		c.warn("", "whenever", "Nothing says what happens whenever a person is asked for. Write it at the end: "+
			"“whenever a person is asked for: person, human, agent”, and a hand over beneath it.")
	} else if len(h.Words) == 0 {
		c.warn("", "whenever", "No words ask for a person. Name some after “whenever a person is asked for”.")
	}
	for _, h := range s.Whenever {
		if len(h.Turns) == 0 {
			c.wrong("", "whenever", "Nothing stands beneath a “whenever”.")
		}
		if h.On != WheneverPerson && h.On != WheneverWords {
			c.wrong("", "whenever", "“%s” is no occasion.", h.On)
		}
	}
	if len(s.Whenever) > MaxHandlers {
		c.wrong("", "whenever", "A script says at most once what to do on each occasion.")
	}
}

func (c *checker) turn(t *Turn) {
	if !slices.Contains(Kinds, t.Kind) {
		c.wrong(t.ID, "kind", "“%s” is not a kind of turn.", t.Kind)
		return
	}
	if t.Kind != Branch && t.Kind != GoTo {
		optional := t.Kind == HandOver
		c.texts(t.ID, "text", t.Text, optional, "The bot has nothing to say here.")
	}
	c.leads(t)
	switch t.Kind {
	case Choose:
		c.options(t)
	case Ask:
		c.asking(t)
	case Suggest:
		c.articles(t)
	case LookUp:
		if t.Limit < 0 || t.Limit > MaxShown {
			c.wrong(t.ID, "at most", "Show at most %d articles at once.", MaxShown)
		}
	case HandOver, Request:
		c.team(t)
	case Link:
		c.link(t)
	case GoTo:
		c.target(t)
	}
}

func (c *checker) target(t *Turn) {
	switch {
	case t.Flow != "":
		if c.env.Flows != nil && !slices.Contains(c.env.Flows, t.Flow) {
			c.wrong(t.ID, "flow", "There is no flow “%s” that is live.", t.Flow)
		}
	case t.To == "":
		c.wrong(t.ID, "to", "Say where to go: “go to” and the name of a turn.")
	case c.program.nodes[t.To] == nil:
		c.wrong(t.ID, "to", "There is no turn “%s”.%s", t.To, c.meant(t.To))
	}
}

// meant names the turn whose name is nearest to one that is not there.
func (c *checker) meant(name string) string {
	for _, n := range c.program.order {
		id := n.turn.ID
		if n.turn.Named && len(id) > 3 && strings.HasPrefix(name, id[:3]) {
			return " Did you mean “" + id + "”?"
		}
	}
	return ""
}

// leads checks that what hangs beneath a turn can hang there, and once.
func (c *checker) leads(t *Turn) {
	seen := map[string]bool{}
	for i, l := range t.Leads {
		field := fmt.Sprintf("leads[%d]", i)
		if !slices.Contains(leadsOf[t.Kind], l.On) {
			c.wrong(t.ID, field, "“%s” cannot hang on “%s”.", l.On, t.Kind.Word())
		}
		if seen[l.On] && l.On != OnOption && l.On != OnWhen {
			c.wrong(t.ID, field, "“%s” stands here twice.", l.On)
		}
		if seen[OnElse] && l.On == OnWhen {
			c.wrong(t.ID, field, "Nothing comes after “else”.")
		}
		seen[l.On] = true
		if l.On == OnWhen && len(l.When) == 0 {
			c.wrong(t.ID, field, "Say when.")
		}
		c.conditions(t.ID, field, l.When)
		if l.On == OnBusy || l.On == OnClosed {
			c.texts(t.ID, field+".text", l.Text, true, "")
		}
	}
	if t.Kind == Branch && len(t.Leads) == 0 {
		c.wrong(t.ID, "leads", "Write beneath the branch what it goes by: “when …” and “else”.")
	}
}

func (c *checker) conditions(turn, field string, list []Condition) {
	for _, condition := range list {
		if _, ok := ReadCondition(condition.String()); !ok {
			c.wrong(turn, field, "“%s” is nothing that can be asked for.", condition)
		}
		switch {
		case condition.What == IfGroup && c.env.Groups != nil && !slices.Contains(c.env.Groups, condition.Is):
			c.wrong(turn, field, "There is no group of customers “%s”.", condition.Is)
		case condition.What == IfTeam && c.env.Teams != nil:
			if _, ok := c.env.Teams[condition.Of]; !ok {
				c.wrong(turn, field, "There is no team “%s”.", condition.Of)
			}
		case condition.What == IfFact && !knowable(condition.Of) && !c.asked(condition.Of):
			c.wrong(turn, field, "Nothing asks for “%s”, so it is never known.", condition.Of)
		}
	}
}

// asked reports whether some turn asks for a fact.
func (c *checker) asked(fact string) bool {
	found := false
	c.script.Each(func(t *Turn) {
		found = found || t.Kind == Ask && t.Fact == fact || slices.Contains(t.Details, fact)
	})
	return found
}
