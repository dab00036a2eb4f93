package flow

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Condition is one thing that a branch asks of the world.
type Condition struct {
	What string `json:"what"`
	Of   string `json:"of,omitempty"` // of team, fact: its name
	Is   string `json:"is,omitempty"`
	Not  bool   `json:"not,omitempty"`
}

// What conditions can ask for.
const (
	IfGroup    = "group"     // the customer is in it
	IfLanguage = "language"  // that the customer reads
	IfChannel  = "channel"   //
	IfPage     = "page"      // the address of the page has it in it
	IfSignedIn = "signed_in" //
	IfOpen     = "open"      // the opening hours of the site
	IfTeam     = "team"      // open, closed, free, busy or away
	IfFact     = "fact"      // is known, or is just that
	IfResult   = "result"    // of the last turn that had one
)

// The results of turns.
const (
	ResultYes     = "yes"
	ResultNo      = "no"
	ResultNothing = "nothing"
	ResultGiven   = "given"
	ResultSkipped = "skipped"
	ResultWrong   = "wrong"
	ResultLow     = "low"  // a mark of 1 or 2
	ResultHigh    = "high" // of 4 or 5
)

var results = []string{
	ResultYes, ResultNo, ResultNothing, ResultGiven, ResultSkipped, ResultWrong, ResultLow, ResultHigh,
}

var (
	conditionWord = regexp.MustCompile(`^(group|language|channel|result) is( not)? (.+)$`)
	conditionPage = regexp.MustCompile(`^page( does not)? (?:has|have) (\S+)$`)
	conditionFact = regexp.MustCompile(`^\[([^\[\],"]+)\] is( not)? (known|"([^"]+)")$`)
	conditionTeam = regexp.MustCompile(`^(.+?) is( not)? (open|closed|free|busy|away)$`)
)

// ReadCondition reads one condition as it is typed, such as "group is Members", "[postcode] is known",
// "Field is away", "we are open", "not signed in", "page has /tariffs" or "result is skipped".
func ReadCondition(text string) (Condition, bool) {
	text = strings.Join(strings.Fields(text), " ")
	switch text {
	case "signed in":
		return Condition{What: IfSignedIn}, true
	case "not signed in":
		return Condition{What: IfSignedIn, Not: true}, true
	case "we are open":
		return Condition{What: IfOpen}, true
	case "we are closed":
		return Condition{What: IfOpen, Not: true}, true
	}
	if m := conditionFact.FindStringSubmatch(text); m != nil {
		return Condition{What: IfFact, Of: factName(m[1]), Is: m[4], Not: m[2] != ""}, true
	}
	if m := conditionPage.FindStringSubmatch(text); m != nil {
		return Condition{What: IfPage, Is: m[2], Not: m[1] != ""}, true
	}
	if m := conditionWord.FindStringSubmatch(text); m != nil {
		if m[1] == IfResult && !slices.Contains(results, m[3]) {
			return Condition{}, false
		}
		return Condition{What: m[1], Is: m[3], Not: m[2] != ""}, true
	}
	if m := conditionTeam.FindStringSubmatch(text); m != nil && !strings.Contains(m[1], "[") {
		return Condition{What: IfTeam, Of: m[1], Is: m[3], Not: m[2] != ""}, true
	}
	return Condition{}, false
}

// ReadConditions reads conditions joined by "and", all of which must hold. Names may hold the word, too: the
// shortest reading that makes sense of everything is taken.
func ReadConditions(text string) ([]Condition, bool) {
	return readConditions(strings.Join(strings.Fields(text), " "), 0)
}

func readConditions(text string, depth int) ([]Condition, bool) {
	if depth > 10 {
		return nil, false
	}
	for at := 0; ; {
		i := strings.Index(text[at:], " and ")
		if i < 0 {
			break
		}
		at += i
		if first, ok := ReadCondition(text[:at]); ok {
			if rest, ok := readConditions(text[at+len(" and "):], depth+1); ok {
				return append([]Condition{first}, rest...), true
			}
		}
		at += len(" and ")
	}
	one, ok := ReadCondition(text)
	return []Condition{one}, ok
}

// String writes the condition as it is typed.
func (c Condition) String() string {
	not := ""
	if c.Not {
		not = " not"
	}
	switch c.What {
	case IfSignedIn:
		return strings.TrimSpace(not + " signed in")
	case IfOpen:
		if c.Not {
			return "we are closed"
		}
		return "we are open"
	case IfPage:
		if c.Not {
			return "page does not have " + c.Is
		}
		return "page has " + c.Is
	case IfFact:
		if c.Is == "" {
			return fmt.Sprintf("[%s] is%s known", c.Of, not)
		}
		return fmt.Sprintf("[%s] is%s %q", c.Of, not, c.Is)
	case IfTeam:
		return fmt.Sprintf("%s is%s %s", c.Of, not, c.Is)
	}
	return fmt.Sprintf("%s is%s %s", c.What, not, c.Is)
}

func writeConditions(list []Condition) string {
	words := make([]string, len(list))
	for i, c := range list {
		words[i] = c.String()
	}
	return strings.Join(words, " and ")
}

// allHold reports whether all conditions hold.
func (m *telling) allHold(list []Condition) bool {
	return !slices.ContainsFunc(list, func(c Condition) bool { return m.holds(c) == c.Not })
}

// holds reports whether a condition holds, were it not denied.
func (m *telling) holds(c Condition) bool {
	switch c.What {
	case IfGroup:
		return slices.Contains(m.world.Groups, c.Is)
	case IfLanguage:
		return m.language() == c.Is
	case IfChannel:
		return m.world.Channel == c.Is
	case IfPage:
		return strings.Contains(m.world.Page, c.Is)
	case IfSignedIn:
		return m.world.SignedIn
	case IfOpen:
		return m.world.Open
	case IfTeam:
		return m.world.Teams[c.Of].is(c.Is)
	case IfFact:
		value, known := m.fact(c.Of)
		if c.Is == "" {
			return known
		}
		return known && plain(value) == plain(c.Is)
	case IfResult:
		return m.state.Result == c.Is
	}
	return false
}

// is reports whether a team is what a condition says. Outside its hours nobody is there.
func (t Team) is(what string) bool {
	switch what {
	case "open":
		return t.Open
	case "closed":
		return !t.Open
	}
	return t.now() == Presence(what)
}

// now is whether a team can take a conversation, its hours included.
func (t Team) now() Presence {
	if !t.Open || t.Presence == "" {
		return Away
	}
	return t.Presence
}
