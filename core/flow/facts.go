package flow

import (
	"regexp"
	"slices"
	"strings"
)

// Known lists the facts that a conversation can have without asking: of a customer who is signed in, of what
// the page handed over, of the world.
var Known = []string{
	"first name", "name", "mail", "language", "channel", "page", "group", "words", "next opening",
}

// place is a fact within a text: [first name, else "there"].
var place = regexp.MustCompile(`\[([^\[\],"]+)(,\s*else\s*[“"]([^"”\]]*)["”])?\s*\]`)

// insertion is a place of a text where a fact is filled in.
type insertion struct {
	fact     string
	fallback string
	given    bool // there is a fallback
}

// insertions lists the facts that stand in a text.
func insertions(text string) []insertion {
	if !strings.Contains(text, "[") {
		return nil
	}
	var list []insertion
	for _, m := range place.FindAllStringSubmatch(text, -1) {
		list = append(list, insertion{factName(m[1]), m[3], m[2] != ""})
	}
	return list
}

// factName folds what is typed between brackets.
func factName(text string) string { return strings.ToLower(strings.Join(strings.Fields(text), " ")) }

// fill puts what is known into a text, and the fallback where it is not.
func (m *telling) fill(text string) string {
	if !strings.Contains(text, "[") {
		return text
	}
	return place.ReplaceAllStringFunc(text, func(found string) string {
		part := place.FindStringSubmatch(found)
		if value, ok := m.fact(factName(part[1])); ok {
			return value
		}
		return part[3]
	})
}

// fact gives what is known under a name: what was said here, else what was known before.
func (m *telling) fact(name string) (string, bool) {
	if value := m.state.Facts[name]; value != "" {
		return value, true
	}
	if value := m.world.Facts[name]; value != "" {
		return value, true
	}
	value := ""
	switch name {
	case "language":
		value = m.language()
	case "channel":
		value = m.world.Channel
	case "page":
		value = m.world.Page
	case "group":
		value = strings.Join(m.world.Groups, ", ")
	case "words":
		value = m.state.Words
	case "next opening":
		value = m.world.Next
		if n := m.node(); n != nil && n.turn.Team != "" {
			value = m.world.Teams[n.turn.Team].Next
		}
	case "first name":
		if full, ok := m.fact("name"); ok {
			value, _, _ = strings.Cut(full, " ")
		}
	default:
		if team, ok := strings.CutPrefix(name, "next opening of "); ok {
			for t, state := range m.world.Teams {
				if strings.EqualFold(t, team) {
					value = state.Next
				}
			}
		}
	}
	return value, value != ""
}

// learn keeps a fact.
func (m *telling) learn(name, value string) {
	if m.state.Facts == nil {
		m.state.Facts = map[string]string{}
	}
	m.state.Facts[name] = value
}

// Tellable reports whether a fact was given by the customer, and is not what the runtime keeps for itself.
func Tellable(name string) bool { return name != detailsFact && !strings.HasPrefix(name, declined) }

// knowable reports whether a fact can be known without asking.
func knowable(name string) bool {
	return slices.Contains(Known, name) || strings.HasPrefix(name, "next opening of ")
}
