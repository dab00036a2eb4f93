package flow

import (
	"strings"
	"testing"
)

func TestRenamingATurnTakesAllWithIt(t *testing.T) {
	out, err := Rename(sound, "person", "people")
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"      no -> people\n", "  people: hand over Accounts", "asked for: person, human"} {
		if !strings.Contains(out, want) {
			t.Errorf("%q is not in\n%s", want, out)
		}
	}
	if r := Read(out); len(r.Check(env)) > 0 {
		t.Errorf("%+v", r.Check(env))
	}
	back, err := Rename(out, "people", "person")
	if err != nil || back != sound {
		t.Errorf("it is not the same again: %v\n%s", err, back)
	}
	for _, c := range [][2]string{{"person", "bye"}, {"person", "Good Bye"}, {"person", "say"}, {"nobody", "x-y"}, {"person", ""}} {
		if _, err := Rename(sound, c[0], c[1]); err == nil {
			t.Errorf("%v: no error", c)
		}
	}
}

// Every text of a script can be put in another language, changed and taken out again, and nothing else changes.
func TestTextsArePutInAnotherLanguage(t *testing.T) {
	r := Read(sound)
	for _, said := range r.Texts() {
		put, err := SetText(sound, said.Turn, said.Field, "fr", "En français\navec une ligne de plus")
		if err != nil {
			t.Fatalf("%s %s: %v", said.Turn, said.Field, err)
		}
		read := Read(put)
		found := ""
		for _, now := range read.Texts() {
			if now.Turn == said.Turn && now.Field == said.Field {
				found = now.Texts["fr"]
			}
		}
		if found != "En français\navec une ligne de plus" || len(read.Faults) > 0 {
			t.Errorf("%s %s: %q %+v\n%s", said.Turn, said.Field, found, read.Faults, put)
		}
		out, err := SetText(put, said.Turn, said.Field, "fr", "")
		if err != nil || out != sound {
			t.Errorf("%s %s: it is not taken out again: %v\n%s", said.Turn, said.Field, err, out)
		}
	}
	for _, c := range [][3]string{{"hello", "text", "en"}, {"nobody", "text", "fr"}, {"hello", "wrong", "fr"}, {"hello", "text", "no"}} {
		if _, err := SetText(sound, c[0], c[1], c[2], "x"); err == nil {
			t.Errorf("%v: no error", c)
		}
	}
}
