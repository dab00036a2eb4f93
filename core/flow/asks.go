package flow

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"hermeneus/core/form"
)

// Wants is what an ask takes for an answer.
type Wants string

// What can be asked for.
const (
	WantsText      Wants = "text"
	WantsMail      Wants = "mail"
	WantsPhone     Wants = "phone"
	WantsNumber    Wants = "number"
	WantsDate      Wants = "date"
	WantsChoice    Wants = "choice"
	WantsReference Wants = "reference"
)

// AllWants lists them.
var AllWants = []Wants{WantsText, WantsMail, WantsPhone, WantsNumber, WantsDate, WantsChoice, WantsReference}

// MaxAnswer is the longest answer that is kept, in characters.
const MaxAnswer = 500

// askedAgain is how often an answer that is none is asked for again.
const askedAgain = 2

var (
	phoneShape  = regexp.MustCompile(`^\+?[0-9][0-9 ()/.-]{4,24}$`)
	numberShape = regexp.MustCompile(`^[+-]?[0-9]{1,15}([.,][0-9]{1,6})?$`)
)

// dateShapes are the ways in which a day is typed. Days come before months, as in most of the world; what is
// meant the other way round can only be told where the day is past the twelfth.
var dateShapes = []string{
	"2006-1-2",
	"2.1.2006",
	"2/1/2006",
	"1/2/2006",
	"2 January 2006",
	"January 2 2006",
	"2 Jan 2006",
}

// Answer takes what was typed for an answer, and gives it as it is kept: numbers with a point, days as
// 2026-03-31, references in capitals.
func Answer(wants Wants, pattern, text string) (string, bool) {
	text = strings.TrimSpace(text)
	if text == "" || len([]rune(text)) > MaxAnswer {
		return "", false
	}
	switch wants {
	case WantsMail:
		address, fault := form.Address(text)
		return address, fault == ""
	case WantsPhone:
		return text, phoneShape.MatchString(text) && digits(text) >= 5
	case WantsNumber:
		number := strings.ReplaceAll(text, " ", "")
		return strings.Replace(number, ",", ".", 1), numberShape.MatchString(number)
	case WantsDate:
		for _, shape := range dateShapes {
			if day, err := time.Parse(shape, strings.ReplaceAll(text, ",", "")); err == nil {
				return day.Format(time.DateOnly), true
			}
		}
		return "", false
	case WantsReference:
		value := strings.ToUpper(text)
		return value, form.Fits(pattern, value)
	}
	return text, true
}

func digits(text string) int {
	n := 0
	for _, r := range text {
		if r >= '0' && r <= '9' {
			n++
		}
	}
	return n
}

// ask asks for a fact, unless it is known: then it gives true, and the conversation goes on.
func (m *recording) ask(t *Turn) bool {
	if _, known := m.fact(t.Fact); known {
		m.state.Result = ResultGiven
		return true
	}
	text := m.text(t.Text)
	if t.Skip {
		text += "\n" + m.own().CanSkip
	}
	m.say(Message{Text: text, Choices: m.options(t)})
	m.state.Waiting, m.state.Tries = ForFact, 0
	return false
}

// answered takes what was typed for the answer to an ask.
func (m *machine) answered(n *node, text string) error {
	t := n.turn
	if t.Skip && m.skips(text) {
		return m.unanswered(n, ResultSkipped)
	}
	if t.Wants == WantsChoice {
		if at, ok := m.option(n, text); ok {
			return m.chosen(n, at)
		}
		if m.asksForPerson(text) {
			return m.wantPerson(text)
		}
		return m.again(n, text)
	}
	if m.asksForPerson(text) && (t.Wants != WantsText || m.isPersonWord(text)) {
		return m.wantPerson(text)
	}
	value, ok := Answer(t.Wants, t.Pattern, text)
	if !ok {
		return m.again(n, text)
	}
	m.heardBy(t, text)
	m.learn(t.Fact, value)
	m.state.Result = ResultGiven
	return m.goOn(n.next, ResultGiven)
}

// heardBy notes what was said to an ask; what is personal stays out of the path that others read.
func (m *recording) heardBy(t *Turn, text string) {
	if t.Personal {
		text = "…"
	}
	m.said(text)
}

// again asks once more, with a helpful word, and at last goes on without an answer.
func (m *machine) again(n *node, text string) error {
	t := n.turn
	m.heardBy(t, text)
	if m.state.Tries >= askedAgain {
		return m.unanswered(n, ResultWrong)
	}
	m.state.Tries++
	words := m.text(t.Wrong)
	if words == "" {
		words = m.own().AskAgain[t.Wants]
	}
	if words == "" {
		words = m.own().AskAgain[WantsText]
	}
	m.say(Message{Text: words, Choices: m.options(t)})
	return nil
}

// skips reports whether somebody typed the word that skips a question.
func (m *telling) skips(text string) bool {
	return plain(text) == plain(m.own().Skip) || plain(text) == "skip"
}

func (m *machine) unanswered(n *node, result string) error {
	m.state.Result = result
	_, to := n.way(OnNothing)
	return m.goOn(to, result)
}

// missing gives the first of the details that a turn needs and nobody knows, "" for none.
func (m *telling) missing(t *Turn) string {
	for _, name := range t.Details {
		if _, known := m.fact(name); !known && m.state.Facts[declined+name] == "" {
			return name
		}
	}
	return ""
}

// declined marks a detail that the customer would not give.
const declined = "without "

func (m *recording) askDetail(name string) {
	words, ok := m.own().AskFor[name]
	if !ok {
		words = fmt.Sprintf(m.own().AskForFact, name)
	}
	m.say(Message{Text: words + "\n" + m.own().CanSkip})
	m.state.Waiting, m.state.Detail, m.state.Tries = ForDetail, name, 0
}

// detailed takes what was typed for a detail, and enters the turn that needed it again.
func (m *machine) detailed(n *node, text string) error {
	name := m.state.Detail
	wants := WantsText
	switch name {
	case "mail":
		wants = WantsMail
	case "phone":
		wants = WantsPhone
	}
	m.said("…")
	value, ok := Answer(wants, "", text)
	switch {
	case m.skips(text):
		m.learn(declined+name, "yes")
	case ok:
		m.learn(name, value)
	case m.state.Tries >= askedAgain:
		m.learn(declined+name, "yes")
	default:
		m.state.Tries++
		m.say(Message{Text: m.own().AskAgain[wants]})
		return nil
	}
	m.state.Detail = ""
	return m.goOn(n, ResultGiven)
}

// mark reads a mark from 1 to 5 in what was typed or chosen.
func (m *telling) mark(text string) (float64, bool) {
	for i, label := range m.own().Marks {
		if plain(label) == plain(text) {
			return float64(i + 1), true
		}
	}
	n, err := strconv.Atoi(strings.TrimSpace(text))
	return float64(n), err == nil && n >= 1 && n <= 5
}
