package flow

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
)

// Spelling is a word that lines of a script begin with, and what it is for.
type Spelling struct {
	Word  string `json:"word"`
	About string `json:"about"`
}

// KindSpellings lists the words by which turns begin.
func KindSpellings() []Spelling {
	about := map[Kind]string{
		Say:      "says something",
		Choose:   "offers choices: lines beneath that begin with “- ”",
		Ask:      "asks for a fact: ask postcode (text): What is your postcode?",
		Suggest:  "shows articles, and asks whether they helped",
		LookUp:   "looks words up in the library",
		Branch:   "goes by what is known: “when …” and “else” beneath",
		HandOver: "passes on to a team: hand over Accounts: I pass you on.",
		Request:  "takes a question for later: request Accounts: What shall we answer?",
		Link:     "points to a page, or to a request form",
		Rate:     "asks for a mark from 1 to 5",
		Close:    "ends the conversation",
		GoTo:     "goes to a turn by its name, or to another flow",
	}
	list := make([]Spelling, len(Kinds))
	for i, k := range Kinds {
		list[i] = Spelling{k.Word(), about[k]}
	}
	return append(
		list,
		Spelling{
			wheneverWord + " " + personWords,
			"what happens whenever somebody asks for a person: words after a colon",
		},
		Spelling{wheneverWord + " " + freeWords, "what happens with words that fit nothing"},
	)
}

// LeadSpellings lists the words by which lines beneath a turn begin.
func LeadSpellings() []Spelling {
	return []Spelling{
		{
			"- ",
			"a choice",
		},
		{OnYes, "it helped"},
		{OnNo, "it did not help"},
		{OnNothing, "nothing was found, or nothing was said"},
		{OnWeak, "what was found fits only weakly"},
		{OnWhen, "a condition holds"},
		{OnElse, "none of them holds"},
		{OnBusy, "everybody has their hands full"},
		{OnClosed, "nobody is there"},
	}
}

// DetailSpellings lists the words by which lines begin that say more of a turn.
func DetailSpellings() []Spelling {
	return []Spelling{
		{"wrong", "what is said to what is no answer"}, {"brief", "what the agent reads, and the customer does not"},
		{"details", "what is asked for first: name, mail"}, {"stays", "the bot looks things up until somebody accepts"},
		{"for", "shown to these groups alone"}, {"at most", "how many articles"}, {"form", "the request form"},
	}
}

// ConditionSpellings lists conditions as they are typed.
func ConditionSpellings() []string {
	return []string{
		"group is …",
		"language is …",
		"channel is …",
		"page has …",
		"signed in",
		"not signed in",
		"we are open",
		"we are closed",
		"… is free",
		"… is busy",
		"… is away",
		"… is open",
		"… is closed",
		"[…] is known",
		"[…] is \"…\"",
		"result is yes",
		"result is no",
		"result is nothing",
		"result is skipped",
		"result is low",
		"result is high",
	}
}

// Rename gives a turn another name in a text: all that go to it follow. It changes nothing else.
func Rename(text, from, to string) (string, error) {
	to = strings.TrimSpace(to)
	if !sayable(to) {
		return "", fmt.Errorf("“%s” cannot be a name. Use small letters, digits and dashes, such as good-bye", to)
	}
	r := Read(text)
	named := map[int]bool{} // lines
	for _, p := range r.Places() {
		if p.Turn == to && p.Named {
			return "", fmt.Errorf("there is a turn “%s” already", to)
		}
		if p.Turn == from && p.Named {
			named[p.Line] = true
		}
	}
	if len(named) == 0 {
		return "", fmt.Errorf("there is no turn “%s”", from)
	}
	name := regexp.QuoteMeta(from)
	prefix := regexp.MustCompile(`^(\s*(?:[a-z ]+:?\s+)??)` + name + `:`)
	jump := regexp.MustCompile(`((?:^|:)\s*(?:\p{Ll}[\p{Ll}\p{Nd}-]*:\s+)?go to\s+)` + name + `\s*$`)
	arrow := regexp.MustCompile(`((?:->|→)\s*)` + name + `\s*$`)
	lines := strings.Split(text, "\n")
	for i, line := range lines {
		if named[i+1] {
			line = prefix.ReplaceAllString(line, "${1}"+to+":")
		}
		if jump.MatchString(line) {
			line = jump.ReplaceAllString(line, "${1}"+to)
		} else if _, target := cutArrow(strings.TrimSpace(line)); target == from {
			line = arrow.ReplaceAllString(line, "${1}"+to)
		}
		lines[i] = line
	}
	return strings.Join(lines, "\n"), nil
}

// SetText puts a text of a turn in a language other than that of the script; an empty one takes it out. The rest of
// the text stays as it was typed.
func SetText(text, turn, field, language, words string) (string, error) {
	r := Read(text)
	if language == r.Script.Language || !regexp.MustCompile(`^[a-z]{2}(-[A-Z]{2})?$`).MatchString(language) ||
		language == OnNo {
		return "", fmt.Errorf("“%s” is not another language", language)
	}
	var at *written
	for i := range r.turns {
		if r.turns[i].id == turn {
			at = &r.turns[i]
		}
	}
	if at == nil {
		return "", errors.New("there is no such turn any more")
	}
	lines := strings.Split(text, "\n")
	owner := at.line // the line beneath which the text stands
	if base, _, ok := strings.Cut(field, "."); ok && base != "text" {
		owner = at.parts[base]
	} else if field == "wrong" {
		owner = at.parts["wrong"]
	}
	if owner == 0 {
		return "", errors.New("there is no such text any more")
	}
	indent := leading(lines[owner-1]) + "  "
	var put []string
	if words = strings.TrimSpace(words); words != "" {
		first, more := linesOf(words)
		put = append(put, indent+language+": "+first)
		for _, m := range more {
			put = append(put, indent+"  / "+strings.TrimSpace(m))
		}
	}
	from, to := owner, owner // after the line it belongs to, and the further lines of its text
	for to < len(lines) && strings.HasPrefix(strings.TrimSpace(lines[to]), "/ ") && len(leading(lines[to])) > len(leading(lines[owner-1])) {
		from, to = from+1, to+1
	}
	if was := at.parts[field+"."+language]; was > 0 {
		from, to = was-1, was
		for to < len(lines) && strings.HasPrefix(strings.TrimSpace(lines[to]), "/") && len(leading(lines[to])) > len(leading(lines[was-1])) {
			to++
		}
	}
	out := append(append(append([]string{}, lines[:from]...), put...), lines[to:]...)
	return strings.Join(out, "\n"), nil
}

func leading(line string) string { return line[:len(line)-len(strings.TrimLeft(line, " \t"))] }

// Said is a text of a script, in each language that it is there in.
type Said struct {
	Turn  string `json:"turn"`
	Field string `json:"field"`
	Line  int    `json:"line"`
	What  string `json:"what"` // the kind of the turn, or option, busy, closed, wrong
	Texts Texts  `json:"texts"`
}

// Texts lists everything that the bot says, and the choices, in the order of the text.
func (r *Reading) Texts() []Said {
	list := []Said{}
	i := 0
	r.Script.Each(func(t *Turn) {
		at := r.turns[i]
		i++
		add := func(field, what string, line int, texts Texts) {
			if texts[r.Script.Language] != "" {
				list = append(list, Said{t.ID, field, line, what, texts})
			}
		}
		add("text", t.Kind.Word(), at.line, t.Text)
		add("wrong", "wrong", at.parts["wrong"], t.Wrong)
		for j, l := range t.Leads {
			field := fmt.Sprintf("leads[%d]", j)
			add(field+".text", l.On, at.parts[field], l.Text)
		}
	})
	return list
}
