package prose

import (
	"strings"

	"hermeneus/core/markup"
	"hermeneus/core/redact"
)

func (a *examiner) line(i int, l markup.Line) {
	if l.Node.Data == "pre" || l.Text == "" {
		return
	}
	if a.english {
		a.wording(i, l)
	}
	a.avoided(i, l.Text)
	if redact.Text(l.Text) != l.Text {
		a.say(
			PersonalData,
			i,
			l.Text,
			"This looks like personal data (a mail address, a phone or a card number). Is it meant for everybody "+
				"to read?",
		)
	}
}

// wording checks a line of English.
func (a *examiner) wording(i int, l markup.Line) {
	for _, s := range sentences(l.Text) {
		if n := len(spoken(s)); n > MaxSentence {
			a.say(LongSentence, i, s, "%d words in one sentence; up to %d are read at one go.", n, MaxSentence)
		}
	}
	if found := vague.FindStringSubmatch(l.Text); found != nil {
		a.say(Vague, i, l.Text, "“%s” helps nobody who is stuck. Leave it out, or say what exactly.", found[1])
	}
	if l.Step {
		if found := passive.FindString(l.Text); found != "" {
			a.say(Passive, i, l.Text, "“%s”: say who does it. In a step that is the reader.", found)
		}
		if !hasInstruction(l.Text) {
			a.say(StepWithoutVerb, i, l.Text, "A step says what to do: begin with a verb.")
		}
	}
}

func (a *examiner) avoided(i int, text string) {
	low := " " + strings.Join(spoken(strings.ToLower(text)), " ") + " "
	for _, entry := range a.draft.Avoided {
		word, instead, _ := strings.Cut(entry, "=")
		word, instead = strings.ToLower(strings.TrimSpace(word)), strings.TrimSpace(instead)
		if word == "" || !strings.Contains(low, " "+word+" ") {
			continue
		}
		if instead != "" {
			a.say(AvoidedWord, i, word+"\x00"+text, "The house says “%s”, not “%s”.", instead, word)
		} else {
			a.say(AvoidedWord, i, word+"\x00"+text, "The house avoids “%s”.", word)
		}
	}
}

// verbs that instructions begin with, in their plain form.
var verbs = wordSet(
	`accept access activate add adjust agree allow answer apply ask assign attach avoid back begin book break bring
browse build buy call cancel carry change charge check choose claim clean clear click close collect compare complete confirm connect
contact continue copy count cover create cut decide delete describe disable disconnect do download drag drive drop edit email
enable end ensure enter exit expect explain fill find finish fit fix flip fold follow forget free get give go hang hold identify
ignore include inform insert install invite join keep know label lay leave let lift list load locate lock log look lower make mark
measure mend mind mount move name note offer open order pair pass paste pay phone photograph pick plan plug point post pour press
print provide publish pull push put quote raise reach read receive record refresh register release remember remove rename
repeat replace reply report request reset resize restart restore return ring rotate run save say scan scroll search see select
send separate set share show shut sign sit slide sort speak stand start state stay stick stop store submit switch take talk
tap tell test text tick tie tighten touch transfer trip try turn type undo unlock unplug untick update upgrade upload use
verify view visit wait walk warn wash watch wear weigh wipe withdraw work write zoom`,
)

func wordSet(words string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(words) {
		set[w] = true
	}
	return set
}

// hasInstruction looks for a verb that tells the reader to do something, where an
// instruction has it: at the beginning, or after the condition it starts with.
func hasInstruction(step string) bool {
	for n, w := range spoken(strings.ToLower(step)) {
		if n >= 14 {
			break
		}
		if verbs[w] {
			return true
		}
	}
	return false
}
