package flow

import (
	"fmt"
	"slices"
	"strings"
)

// MaxDepth is how deep branches may hang beneath each other.
const MaxDepth = 30

// Reading is a script read from its text, with where each part of it stands.
type Reading struct {
	Script Script
	Faults []Fault // what could not be read
	turns  []written
}

// written is where the parts of a turn stand, in the order of Script.Each; lines count from 1.
type written struct {
	id    string
	line  int
	parts map[string]int // by field, as faults name it
}

// Read reads a script as it is typed. Whatever was typed gives a script: what makes no sense is left out of it,
// and said among the faults.
func Read(text string) Reading {
	r := &reader{}
	r.out.Script = Script{Format: Format, Language: "en"}
	if len(text) > MaxScript {
		r.fault(1, "The script is larger than %d bytes.", MaxScript)
		return r.out
	}
	list := rows(text)
	if len(list) > 0 {
		if m := titleShape.FindStringSubmatch(list[0].text); m != nil {
			r.out.Script.Name = m[1]
			if m[2] != "" {
				r.out.Script.Language = m[2]
			}
			list = append(slices.Clone(list[0].kids), list[1:]...)
		}
	}
	var handlers []*row
	body := slices.DeleteFunc(slices.Clone(list), func(l *row) bool {
		_, is := afterWord(l.text, wheneverWord)
		if is {
			handlers = append(handlers, l)
		}
		return is
	})
	r.language = r.out.Script.Language
	r.out.Script.Turns = r.sequence(body, 0)
	for _, l := range handlers {
		r.handler(l)
	}
	r.out.Script.identify()
	i := 0
	r.out.Script.Each(func(t *Turn) {
		r.out.turns[i].id = t.ID
		i++
	})
	return r.out
}

// Line gives the line on which a part of a turn stands: that of the turn if the part has none of its own, 0
// for no such turn. A field is named as faults name it; "" is the turn itself.
func (r *Reading) Line(turn, field string) int {
	for _, w := range r.turns {
		if w.id == turn {
			for ; field != ""; field = field[:max(0, strings.LastIndexAny(field, ".["))] {
				if line, ok := w.parts[field]; ok {
					return line
				}
			}
			return w.line
		}
	}
	return 0
}

// TurnAt gives the turn to which a line belongs: the last that begins at it or above it.
func (r *Reading) TurnAt(line int) string {
	id, at := "", 0
	for _, w := range r.turns {
		if w.line <= line && w.line >= at {
			id, at = w.id, w.line
		}
	}
	return id
}

type reader struct {
	out      Reading
	language string
}

func (r *reader) fault(line int, format string, args ...any) {
	r.out.Faults = append(r.out.Faults, Fault{Line: line, Level: Error, Message: fmt.Sprintf(format, args...)})
}

func (r *reader) handler(l *row) {
	rest, _ := afterWord(l.text, wheneverWord)
	h := Handler{}
	for on, spellings := range map[string][]string{
		WheneverPerson: {personWords, "somebody asks for a person", "person"},
		WheneverWords:  {freeWords, "words"},
	} {
		for _, spelling := range spellings {
			if words, ok := afterWord(rest, spelling); ok && h.On == "" {
				h.On, h.Words = on, list(words)
			}
		}
	}
	switch {
	case h.On == "":
		r.fault(l.line, "“Whenever” is followed by “%s” or by “%s”.", personWords, freeWords)
		return
	case r.out.Script.handler(h.On) != nil:
		r.fault(l.line, "The script says twice what to do whenever %s.", rest)
		return
	case h.On == WheneverWords && len(h.Words) > 0:
		r.fault(l.line, "“Whenever %s” takes no words: it is for all others.", freeWords)
	}
	h.Turns = r.sequence(l.kids, 1)
	r.out.Script.Whenever = append(r.out.Script.Whenever, h)
}

// sequence reads turns that follow each other.
func (r *reader) sequence(list []*row, depth int) []Turn {
	var turns []Turn
	if depth > MaxDepth {
		if len(list) > 0 {
			r.fault(list[0].line, "Branches hang more than %d deep here. Give the turn a name, and go to it.", MaxDepth)
		}
		return nil
	}
	for _, l := range list {
		if strings.HasPrefix(l.text, "//") {
			continue
		}
		if on, _, ok := leadOf(l.text); ok {
			r.fault(l.line, "%s hangs on nothing here: indent it beneath the turn that it belongs to.", quoted(on))
			turns = append(turns, r.sequence(l.kids, depth+1)...)
			continue
		}
		turns = append(turns, r.turn(l, depth)...)
	}
	return turns
}

func quoted(on string) string {
	if on == OnOption {
		return "A choice"
	}
	return "“" + on + "”"
}

// turn reads a turn with all beneath it. What stands beneath it but hangs on nothing follows it.
func (r *reader) turn(l *row, depth int) []Turn {
	t := Turn{}
	w := written{line: l.line, parts: map[string]int{}}
	at := len(r.out.turns)
	r.out.turns = append(r.out.turns, w)
	text := l.text
	if m := namePrefix.FindStringSubmatch(text); m != nil && !reserved(m[1]) {
		t.ID, t.Named, text = m[1], true, m[2]
	} else if bare, ok := strings.CutSuffix(text, ":"); ok && nameShape.MatchString(bare) && !reserved(bare) {
		t.ID, t.Named, text = bare, true, ""
	}
	kind, rest := kindOf(text)
	t.Kind = kind
	r.head(&t, l, rest)
	b := beneath{r: r, t: &t, w: w, depth: depth}
	var after []*row
	for _, kid := range l.kids {
		if !b.take(kid) {
			after = append(after, kid)
		}
	}
	r.out.turns[at].parts = w.parts
	return append([]Turn{t}, r.sequence(after, depth+1)...)
}

// head reads what follows the kind on the line of a turn.
func (r *reader) head(t *Turn, l *row, rest string) {
	text := rest
	switch t.Kind {
	case Ask:
		m := askShape.FindStringSubmatch(rest)
		if m == nil {
			r.fault(l.line, "Say what is asked for, and how: “ask postcode (text): What is your postcode?”.")
			return
		}
		t.Fact, t.Wants, text = factName(m[1]), WantsText, m[3]
		r.askOptions(t, l, m[2])
	case Suggest:
		m := suggestShape.FindStringSubmatch(rest)
		if m == nil {
			r.fault(l.line, "Say which articles: “suggest A-0001, A-0002: These may help.”.")
			return
		}
		t.Articles, text = list(m[1]), m[2]
	case HandOver, Request:
		m := teamShape.FindStringSubmatch(rest)
		if m == nil {
			r.fault(l.line, "Say which team: “%s Accounts: I pass you on.”.", t.Kind.Word())
			return
		}
		t.Team, text = strings.TrimSpace(m[1]), m[2]
	case Link:
		if m := formShape.FindStringSubmatch(rest); m != nil {
			t.Form, text = m[1], m[2]
		} else if m := linkShape.FindStringSubmatch(rest); m != nil {
			t.URL, text = m[1], m[2]
		}
	case GoTo:
		text = ""
		if flow, ok := afterWord(rest, flowWord); ok && flow != "" {
			t.Flow, t.Back = strings.CutSuffix(flow, " and back")
			t.Flow = strings.TrimSpace(t.Flow)
		} else {
			t.To = rest
		}
	case Branch:
		if rest != "" {
			r.fault(l.line, "A branch says nothing: what it goes by stands beneath it, as “when …” and “else”.")
		}
		text = ""
	}
	if text != "" {
		t.Text = Texts{r.language: text}
	}
}

func (r *reader) askOptions(t *Turn, l *row, options string) {
	for _, o := range list(options) {
		switch {
		case o == "personal":
			t.Personal = true
		case o == "may be skipped":
			t.Skip = true
		case slices.Contains(AllWants, Wants(o)):
			t.Wants = Wants(o)
		case strings.HasPrefix(o, string(WantsReference)+" "):
			t.Wants, t.Pattern = WantsReference, strings.TrimSpace(strings.TrimPrefix(o, string(WantsReference)))
		default:
			r.fault(l.line, "“%s” is nothing that can be asked for. It is one of text, mail, phone, number, date, "+
				"choice or reference; “personal”; or “may be skipped”.", o)
		}
	}
}

// Begins is where a turn begins in a text.
type Begins struct {
	Turn  string `json:"turn"`
	Named bool   `json:"named"`
	Kind  Kind   `json:"kind"`
	Line  int    `json:"line"` // from 1
}

// Places lists where the turns of the script begin, in the order of the text.
func (r *Reading) Places() []Begins {
	list := []Begins{}
	i := 0
	r.Script.Each(func(t *Turn) {
		list = append(list, Begins{t.ID, t.Named, t.Kind, r.turns[i].line})
		i++
	})
	return list
}
