package flow

import (
	"slices"
	"strings"

	"hermeneus/core/form"
)

// Form is a request form of the site, as the conversation knows it.
type Form struct {
	Name    string       `json:"name"`
	Fields  []form.Field `json:"fields"`
	URL     string       `json:"url"`     // where it stands by itself
	Minutes int          `json:"minutes"` // that it takes, about
}

// FormKey is how a script names a request form: its name in small letters, with dashes.
func FormKey(name string) string { return named(name) }

// AsksForFile reports whether a form cannot be sent without a file, which nobody can give in a conversation.
func (f Form) AsksForFile() bool {
	return slices.ContainsFunc(f.Fields, func(one form.Field) bool { return one.Kind == form.File && one.Required })
}

// field is the next field of a request's form that is to be asked for; false for none.
func (m *telling) field(t *Turn) (form.Field, bool) {
	for _, f := range form.Asked(m.world.Forms[t.Form].Fields, m.state.Answers) {
		if _, asked := m.state.Answers[f.Key]; !asked && f.Kind != form.File {
			return f, true
		}
	}
	return form.Field{}, false
}

// askField asks for the next field of a request's form; false when all are asked for.
func (m *recording) askField(t *Turn) bool {
	f, ok := m.field(t)
	if !ok {
		return false
	}
	text := f.Label
	if f.Help != "" {
		text += "\n" + f.Help
	}
	if !f.Required {
		text += "\n" + m.own().CanSkip
	}
	m.say(Message{Text: text, Choices: f.Options})
	m.state.Waiting, m.state.Tries = ForField, 0
	return true
}

// fielded takes what was typed or chosen for a field. What cannot be taken is asked for again, and then left out: a
// person reads the request.
func (m *machine) fielded(n *node, text string) error {
	f, ok := m.field(n.turn)
	if !ok { // the form is another by now
		return m.goOn(n, ResultGiven)
	}
	if m.asksForPerson(text) && (wantsOf[f.Kind] != WantsText || m.isPersonWord(text)) {
		return m.wantPerson(text)
	}
	m.said(text)
	value, ok := fieldValue(f, text)
	switch {
	case !f.Required && m.skips(text):
		m.answer(f.Key, "")
	case ok:
		m.answer(f.Key, value)
	case m.state.Tries >= askedAgain:
		m.answer(f.Key, "")
	default:
		m.state.Tries++
		m.say(Message{Text: m.own().AskAgain[wantsOf[f.Kind]], Choices: f.Options})
		return nil
	}
	return m.goOn(n, ResultGiven)
}

// wantsOf is by which words an answer to a field of a kind is asked for again.
var wantsOf = map[form.Kind]Wants{
	form.Text: WantsText, form.LongText: WantsText, form.Choice: WantsChoice, form.Date: WantsDate,
	form.Reference: WantsReference,
}

// fieldValue takes what was typed for the answer to a field, as the form would.
func fieldValue(f form.Field, text string) (string, bool) {
	value := strings.TrimSpace(text)
	switch f.Kind {
	case form.Date:
		return Answer(WantsDate, "", value)
	case form.Choice:
		for _, o := range f.Options {
			if plain(o) == plain(value) {
				return o, true
			}
		}
		return "", false
	}
	f.When = form.When{}
	taken, faults := form.Take([]form.Field{f}, map[string]string{f.Key: value}, nil)
	return value, len(taken) > 0 && len(faults) == 0
}

func (m *recording) answer(key, value string) {
	answers := map[string]string{key: value}
	for k, v := range m.state.Answers {
		answers[k] = v
	}
	m.state.Answers = answers
}
