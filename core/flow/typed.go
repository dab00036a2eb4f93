package flow

import (
	"regexp"
	"strings"
)

// The words with which lines of a script begin, as they are typed.
var kindWords = map[Kind]string{
	Say: "say", Choose: "choose", Ask: "ask", Suggest: "suggest", LookUp: "look up", Branch: "branch",
	HandOver: "hand over", Request: "request", Link: "link", Rate: "rate", Close: "close", GoTo: "go to",
}

// Word is how a kind is typed.
func (k Kind) Word() string { return kindWords[k] }

// leadWords begin lines beneath a turn that say when something follows.
var leadWords = []string{OnYes, OnNo, OnNothing, OnWeak, OnElse, OnWhen, OnBusy, OnClosed}

// detailWords begin lines beneath a turn that say more of it.
var detailWords = []string{"wrong", "brief", "details", "stays", "pattern", "form", "for", "at most"}

const (
	flowWord     = "flow"
	wheneverWord = "whenever"
	personWords  = "a person is asked for"
	freeWords    = "anything else is typed"
)

var (
	twoLetters    = regexp.MustCompile(`^[a-z]{2}$`)
	nameShape     = regexp.MustCompile(`^\p{Ll}[\p{Ll}\p{Nd}-]*$`)
	namePrefix    = regexp.MustCompile(`^(\p{Ll}[\p{Ll}\p{Nd}-]*):\s+(\S.*)$`)
	languageShape = regexp.MustCompile(`^([a-z]{2}(?:-[A-Z]{2})?):\s*(.*)$`)
	arrowShape    = regexp.MustCompile(`^(.*?)\s*(?:->|→)\s*(\p{Ll}[\p{Ll}\p{Nd}-]*)$`)
	askShape      = regexp.MustCompile(`^([^(:\[\]",]+?)\s*(?:\(([^)]*)\))?\s*(?::\s*(.*))?$`)
	suggestShape  = regexp.MustCompile(`^(@?[\pL\pN][\pL\pN_-]*(?:\s*,\s*@?[\pL\pN][\pL\pN_-]*)*)\s*(?::\s*(.*))?$`)
	teamShape     = regexp.MustCompile(`^([^:]+?)\s*(?::\s*(.*))?$`)
	formShape     = regexp.MustCompile(`^form\s+([\pL\pN_-]+)\s*(?::\s*(.*))?$`)
	linkShape     = regexp.MustCompile(`^(\S+?):?(?:\s+(.*))?$`)
	titleShape    = regexp.MustCompile(`^flow\s+(.*?)\s*(?:\(([a-z]{2}(?:-[A-Z]{2})?)\))?$`)
)

// reserved are words that are no names of turns, since lines can begin with them.
func reserved(name string) bool {
	for _, list := range [][]string{leadWords, detailWords, {flowWord, wheneverWord}} {
		for _, w := range list {
			if w == name {
				return true
			}
		}
	}
	for _, w := range kindWords {
		if w == name {
			return true
		}
	}
	return twoLetters.MatchString(name) // a language
}

// row is a line of a script with what is indented beneath it.
type row struct {
	line int // from 1
	text string
	kids []*row
}

// sayable reports whether a name can be typed.
func sayable(name string) bool { return nameShape.MatchString(name) && !reserved(name) }

// sayAs gives a name that can be typed for one that cannot.
func sayAs(name string) string {
	if sayable(name) {
		return name
	}
	tidy := strings.TrimLeft(named(strings.ReplaceAll(name, "_", " ")), "0123456789-")
	if tidy == "" {
		tidy = "turn"
	}
	if !sayable(tidy) {
		tidy += "-turn"
	}
	return tidy
}

// tabWidth is how far a tab indents, in spaces.
const tabWidth = 2

// rows reads the indentation of a text. A line that is less deep than the one it should stand beneath stands
// beneath the next one that it can.
func rows(text string) []*row {
	root := &row{}
	type open struct {
		indent int
		row    *row
	}
	stack := []open{{-1, root}}
	for i, line := range strings.Split(text, "\n") {
		indent, rest := 0, strings.TrimRight(line, " \t\r")
		for rest != "" && (rest[0] == ' ' || rest[0] == '\t') {
			if rest[0] == '\t' {
				indent += tabWidth
			} else {
				indent++
			}
			rest = rest[1:]
		}
		if rest == "" {
			continue
		}
		for len(stack) > 1 && stack[len(stack)-1].indent >= indent {
			stack = stack[:len(stack)-1]
		}
		r := &row{line: i + 1, text: rest}
		top := stack[len(stack)-1].row
		top.kids = append(top.kids, r)
		stack = append(stack, open{indent, r})
	}
	return root.kids
}

// afterWord gives what follows a word at the beginning of a line, without the colon between them.
func afterWord(text, word string) (string, bool) {
	rest, ok := strings.CutPrefix(text, word)
	if !ok || rest != "" && rest[0] != ' ' && rest[0] != ':' {
		return "", false
	}
	rest = strings.TrimSpace(rest)
	return strings.TrimSpace(strings.TrimPrefix(rest, ":")), true
}

// kindOf tells a line's kind by the word that it begins with; a line that begins with none is said.
func kindOf(text string) (kind Kind, rest string) {
	for _, k := range Kinds {
		if rest, ok := afterWord(text, k.Word()); ok {
			return k, rest
		}
	}
	return Say, text
}

// leadOf tells by which word a line hangs on the turn above it.
func leadOf(text string) (on, rest string, ok bool) {
	if text == "-" {
		return OnOption, "", true
	}
	if rest, ok := strings.CutPrefix(text, "- "); ok {
		return OnOption, strings.TrimSpace(rest), true
	}
	for _, w := range leadWords {
		if rest, ok := afterWord(text, w); ok {
			return w, rest, true
		}
	}
	return "", "", false
}

// cutArrow takes the jump off the end of a line.
func cutArrow(text string) (rest, to string) {
	m := arrowShape.FindStringSubmatch(text)
	if m == nil || strings.HasSuffix(m[1], `\`) {
		return strings.ReplaceAll(text, `\->`, "->"), ""
	}
	return strings.ReplaceAll(m[1], `\->`, "->"), m[2]
}

// list takes what is separated by commas apart.
func list(text string) []string {
	var out []string
	for _, part := range strings.Split(text, ",") {
		if part = strings.Join(strings.Fields(part), " "); part != "" {
			out = append(out, part)
		}
	}
	return out
}
