package flow

import (
	"reflect"
	"strings"
	"testing"

	"hermeneus/core/form"
)

var faultForm = Form{Name: "A fault", URL: "/help/request?kind=A+fault", Minutes: 2, Fields: []form.Field{
	{Key: "where", Label: "Where is it?", Kind: form.Text, Required: true},
	{Key: "what", Label: "What is it?", Kind: form.Choice, Required: true, Options: []string{"Dark", "Flickers"}},
	{Key: "since", Label: "Since when?", Kind: form.Date, When: form.When{Key: "what", Is: "Dark"}},
	{Key: "meter", Label: "The meter", Help: "On its front.", Kind: form.Reference, Pattern: "WR-000"},
	{Key: "photo", Label: "A photo", Kind: form.File},
}}

// The fields of a request form are asked one by one, as the form would: what depends on another answer only then, what
// need not be given may be skipped, and what cannot be taken is asked for again, twice.
func TestTheFieldsOfAFormAreAskedInTheConversation(t *testing.T) {
	p := Compile(Read("flow Fault (en)\nrequest Field: Tell us more.\n  form: A fault\nclose Bye.\n").Script)
	w := World{Forms: map[string]Form{"a-fault": faultForm}, Facts: map[string]string{"mail": "a@post.example"}}
	for _, c := range []struct {
		name    string
		typed   string // of the customer, one after the other
		says    string // what the bot says last
		answers map[string]string
	}{
		{"all", "Mill Lane|Dark|31.3.2026|wr123|it hums", "Bye.",
			map[string]string{"where": "Mill Lane", "what": "Dark", "since": "2026-03-31", "meter": "wr123"}},
		{"what is not asked for", "Mill Lane|flickers|skip|it hums", "Bye.",
			map[string]string{"where": "Mill Lane", "what": "Flickers", "meter": ""}},
		{"what is no answer", "Mill Lane|Purple", "Please choose one of these.", nil},
		{"no answer three times", "Mill Lane|Purple|Red|Blue|skip|it hums", "Bye.",
			map[string]string{"where": "Mill Lane", "what": "", "meter": ""}},
		{"a reference that does not fit", "Mill Lane|flickers|12", "That does not look right.", nil},
		{"help stands beside the field", "Mill Lane|flickers", "The meter\nOn its front.", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := Run(p, State{}, Input{Kind: Begin}, w)
			var need Need
			last := ""
			for _, typed := range strings.Split(c.typed, "|") {
				if err != nil {
					t.Fatal(err)
				}
				r, err = Run(p, r.State, Input{Kind: Words, Text: typed}, w)
				for _, n := range r.Needs {
					if n.Kind == NeedRequest {
						need = n
					}
				}
			}
			if err != nil {
				t.Fatal(err)
			}
			last = r.Messages[len(r.Messages)-1].Text
			if !strings.HasPrefix(last, c.says) || !reflect.DeepEqual(need.Answers, c.answers) {
				t.Errorf("said %q, and filed %v", last, need.Answers)
			}
			if c.answers != nil && (need.Form != "a-fault" || need.Text != "it hums") {
				t.Errorf("filed %+v", need)
			}
		})
	}
}

// Whoever asks for a person at a field of a form gets one, and finds the same field asked for again.
func TestAPersonCanBeAskedForWithinAForm(t *testing.T) {
	p := Compile(Read("flow Fault (en)\nrequest Field: Tell us more.\n  form: A fault\nclose Bye.\n" +
		"whenever a person is asked for: person\n  say Nobody is there.\n").Script)
	w := World{Forms: map[string]Form{"a-fault": faultForm}}
	r, err := Run(p, State{}, Input{Kind: Begin}, w)
	for _, typed := range []string{"Mill Lane", "a person please"} {
		if err != nil {
			t.Fatal(err)
		}
		r, err = Run(p, r.State, Input{Kind: Words, Text: typed}, w)
	}
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Messages) != 2 || r.Messages[0].Text != "Nobody is there." || r.Messages[1].Text != "What is it?" {
		t.Errorf("said %+v", r.Messages)
	}
}

// A link to a form says how long it takes; of a form that is not there, the text alone is said.
func TestALinkToAFormSaysHowLongItTakes(t *testing.T) {
	p := Compile(Read("flow Fault (en)\nlink form a-fault: Report it here.\nclose Bye.\n").Script)
	r, err := Run(p, State{}, Input{Kind: Begin}, World{Forms: map[string]Form{"a-fault": faultForm}})
	if err != nil {
		t.Fatal(err)
	}
	if m := r.Messages[0]; m.Text != "Report it here.\nIt takes about 2 min." || m.Link.URL != faultForm.URL {
		t.Errorf("said %+v", m)
	}
	if r, err = Run(p, State{}, Input{Kind: Begin}, World{}); err != nil || r.Messages[0].Link != nil {
		t.Errorf("pointed to nothing: %+v, %v", r.Messages, err)
	}
}

func TestFormsAreChecked(t *testing.T) {
	withFile := faultForm
	withFile.Fields = append(
		[]form.Field{{Key: "bill", Label: "The bill", Kind: form.File, Required: true}},
		faultForm.Fields...)
	e := Env{Forms: map[string]Form{"a-fault": faultForm, "a-bill": withFile}}
	for script, want := range map[string]string{
		"request Field: What?\n  form: A fault": "",
		"request Field: What?\n  form: nowhere": "There is no request form “nowhere”",
		"request Field: What?\n  form: A bill":  "asks for a file",
		"link form a-bill: Here.\nclose Bye.":   "",
		"link form nowhere: Here.\nclose Bye.":  "There is no request form “nowhere”",
	} {
		got := ""
		r := Read("flow X (en)\n" + script + "\n")
		for _, f := range r.Check(e) {
			if f.Field == "form" {
				got = f.Message
			}
		}
		if (want == "") != (got == "") || !strings.Contains(got, want) {
			t.Errorf("%s: %q", script, got)
		}
	}
}
