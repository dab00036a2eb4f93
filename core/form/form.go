// Package form holds the rules of request forms: which fields there are, which of them are asked for given
// the answers so far, and whether answers can be taken.
// It promises the same verdict in the browser's form and in what arrives without one.
// It may not keep what was answered.
package form

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/gabriel-vasile/mimetype"
)

// Kind is what a field takes.
type Kind string

// The kinds of fields.
const (
	Text      Kind = "text"
	LongText  Kind = "long_text"
	Choice    Kind = "choice"
	Date      Kind = "date"
	Reference Kind = "reference" // a number or code as it stands on a bill or a meter
	File      Kind = "file"
)

// Kinds lists them all.
var Kinds = []Kind{Text, LongText, Choice, Date, Reference, File}

// Field is one thing that a form asks for.
type Field struct {
	Key      string   `json:"key"` // a to z, 0 to 9 and _, the same for ever
	Label    string   `json:"label"`
	Kind     Kind     `json:"kind"`
	Help     string   `json:"help"`
	Required bool     `json:"required"`
	Options  []string `json:"options"` // of a choice
	Pattern  string   `json:"pattern"` // of a reference: 0 for a digit, A for a letter, all else as it stands; "" for any
	When     When     `json:"when"`    // asked for only then
}

// When says on which answer of an earlier choice a field depends; the zero When on none.
type When struct {
	Key string `json:"key"`
	Is  string `json:"is"`
}

// Answer is what a field of a sent form held.
type Answer struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Value string `json:"value"`
}

// Upload is a file that came with a form.
type Upload struct {
	Name    string
	Content []byte
}

// Fault is what is wrong with one field.
type Fault struct{ Key, Message string }

// The limits of forms.
const (
	MaxFields  = 30
	MaxOptions = 40
	MaxText    = 500  // characters of a text
	MaxLong    = 4000 // characters of a long text
	MaxFile    = 10 << 20
	MaxFiles   = 5 // with one message

	MaxTogether = 25 << 20 // bytes of all files of one message
)

var keyShape = regexp.MustCompile(`^[a-z][a-z0-9_]{0,39}$`)

// reserved are the keys of what every form asks for.
var reserved = []string{"subject", "text", "address", "kind", "files"}

// CheckFields says what is wrong with the fields of a form, by "fields[2].label".
func CheckFields(fields []Field) []Fault {
	var faults []Fault
	add := func(i int, name, message string) {
		faults = append(faults, Fault{fmt.Sprintf("fields[%d].%s", i, name), message})
	}
	if len(fields) > MaxFields {
		return []Fault{{"fields", fmt.Sprintf("A form has at most %d fields of its own.", MaxFields)}}
	}
	for i, f := range fields {
		if !keyShape.MatchString(f.Key) || slices.Contains(reserved, f.Key) {
			add(
				i,
				"key",
				"A key is made of small letters, digits and _, begins with a letter, and is none of "+strings.Join(
					reserved,
					", ",
				)+".",
			)
		}
		if slices.ContainsFunc(fields[:i], func(o Field) bool { return o.Key == f.Key }) {
			add(i, "key", "Another field has this key.")
		}
		if n := len([]rune(strings.TrimSpace(f.Label))); n == 0 || n > 120 {
			add(i, "label", "Say in at most 120 characters what is asked for.")
		}
		if len([]rune(f.Help)) > 300 {
			add(i, "help", "At most 300 characters.")
		}
		if !slices.Contains(Kinds, f.Kind) {
			add(i, "kind", "Choose what the field takes.")
		}
		if f.Kind == Choice && (len(f.Options) < 2 || len(f.Options) > MaxOptions) {
			add(i, "options", fmt.Sprintf("A choice has between 2 and %d options.", MaxOptions))
		}
		if slices.ContainsFunc(
			f.Options,
			func(o string) bool { return strings.TrimSpace(o) == "" || len([]rune(o)) > 120 },
		) {
			add(i, "options", "An option says something, in at most 120 characters.")
		}
		if len(f.Pattern) > 60 {
			add(i, "pattern", "At most 60 characters.")
		}
		if f.When.Key != "" {
			at := slices.IndexFunc(fields[:i], func(o Field) bool { return o.Key == f.When.Key && o.Kind == Choice })
			if at < 0 {
				add(i, "when", "It can depend only on a choice that is asked before.")
			} else if !slices.Contains(fields[at].Options, f.When.Is) {
				add(i, "when", fmt.Sprintf("%q is none of the options of %q.", f.When.Is, fields[at].Label))
			}
		}
	}
	return faults
}

// Asked lists the fields that are asked for, given the answers so far: one that
// depends on a choice that is not asked for is not asked for either.
func Asked(fields []Field, answers map[string]string) []Field {
	var asked []Field
	for _, f := range fields {
		if f.When.Key == "" || answers[f.When.Key] == f.When.Is &&
			slices.ContainsFunc(asked, func(o Field) bool { return o.Key == f.When.Key }) {
			asked = append(asked, f)
		}
	}
	return asked
}

// Seconds that it takes to fill in a field, by what it takes; and the subject and text that every form asks for. They
// are rough estimates of ours, not measured.
var seconds = map[Kind]int{Text: 15, LongText: 60, Choice: 8, Date: 12, Reference: 30, File: 45}

const secondsOfText = 60

// Minutes is about how long a form takes, from one up.
func Minutes(fields []Field) int {
	all := secondsOfText
	for _, f := range fields {
		all += seconds[f.Kind]
	}
	return max(1, (all+30)/60)
}

// Take checks answers and uploads, by key. It gives what was answered, in the form's
// order, or what is wrong; what is not asked for is left out.
func Take(fields []Field, answers map[string]string, uploads map[string]Upload) (taken []Answer, faults []Fault) {
	for _, f := range Asked(fields, answers) {
		if f.Kind == File {
			upload, sent := uploads[f.Key]
			if !sent || len(upload.Content) == 0 {
				if f.Required {
					faults = append(faults, Fault{f.Key, "Add a file."})
				}
				continue
			}
			if _, fault := CheckFile(upload); fault != "" {
				faults = append(faults, Fault{f.Key, fault})
			}
			taken = append(taken, Answer{f.Key, f.Label, upload.Name})
			continue
		}
		value := strings.TrimSpace(answers[f.Key])
		if value == "" {
			if f.Required {
				faults = append(faults, Fault{f.Key, "This is missing."})
			}
			continue
		}
		if fault := f.fault(value); fault != "" {
			faults = append(faults, Fault{f.Key, fault})
		}
		taken = append(taken, Answer{f.Key, f.Label, value})
	}
	return taken, faults
}

// fault says what is wrong with a value, "" for nothing.
func (f Field) fault(value string) string {
	switch f.Kind {
	case Choice:
		if !slices.Contains(f.Options, value) {
			return "Choose one of the options."
		}
	case Date:
		if _, err := time.Parse(time.DateOnly, value); err != nil {
			return "Write the day as 2026-03-31."
		}
	case Reference:
		if !Fits(f.Pattern, value) {
			return "Write it as it stands there, such as " + example(f.Pattern) + "."
		}
		return atMost(value, MaxText)
	case LongText:
		return atMost(value, MaxLong)
	default:
		return atMost(value, MaxText)
	}
	return ""
}

func atMost(value string, most int) string {
	if len([]rune(value)) > most {
		return fmt.Sprintf("At most %d characters.", most)
	}
	return ""
}

// Fits reports whether a value has the shape of a pattern: 0 for a digit, A for a letter, all else as it stands.
// Spaces and dashes do not matter. An empty pattern takes everything.
func Fits(pattern, value string) bool {
	if pattern == "" {
		return true
	}
	want, got := []rune(tight(pattern)), []rune(tight(value))
	if len(want) != len(got) {
		return false
	}
	for i, w := range want {
		switch {
		case w == '0' && (got[i] < '0' || got[i] > '9'),
			w == 'A' && (got[i] < 'A' || got[i] > 'Z'),
			w != '0' && w != 'A' && w != got[i]:
			return false
		}
	}
	return true
}

func tight(text string) string {
	return strings.NewReplacer(" ", "", "-", "").Replace(strings.ToUpper(text))
}

// example is a value that fits a pattern.
func example(pattern string) string {
	digits, letters := "4821907356", "KRWMTS"
	d, l := 0, 0
	return strings.Map(func(r rune) rune {
		switch r {
		case '0':
			d++
			return rune(digits[(d-1)%len(digits)])
		case 'A':
			l++
			return rune(letters[(l-1)%len(letters)])
		}
		return r
	}, pattern)
}

// takenTypes are the types of files that are taken, as their content tells them.
var takenTypes = []string{"image/png", "image/jpeg", "image/gif", "image/webp", "application/pdf", "text/plain"}

// CheckFile gives the type of a file by its content (by the marks that files begin with), and
// what is wrong with it, "" for nothing. Its name is not believed, but one that machines run
// files by is refused, whatever the file holds.
func CheckFile(u Upload) (mediaType, fault string) {
	switch {
	case len(u.Content) == 0:
		return "", "The file is empty."
	case len(u.Content) > MaxFile:
		return "", "A file can have at most 10 MB."
	}
	mediaType, _, _ = strings.Cut(mimetype.Detect(u.Content).String(), ";")
	if !slices.Contains(takenTypes, mediaType) || runByName(u.Name) ||
		mediaType == "text/plain" && runByContent(u.Content) {
		return mediaType, "This kind of file is not taken. Send a picture (PNG, JPEG, GIF, WebP), a PDF or a plain text."
	}
	return mediaType, ""
}
