package outcome

import "testing"

func TestWhatIsDoneAgainIsToldFromAReload(t *testing.T) {
	asked := func(words string) Evidence { return Evidence{Kind: Asked, Channel: Help, Text: words} }
	offered := func(refs ...string) Evidence { return Evidence{Kind: Offered, Channel: Help, Refs: refs} }
	opened := func(ref string) Evidence { return Evidence{Kind: Opened, Channel: Help, Ref: ref} }
	inChat := Evidence{Kind: Asked, Channel: Chat, Text: "no power"}
	for _, c := range []struct {
		name        string
		before, now []Evidence
		kept        int
	}{
		{"the first words", nil, []Evidence{asked("no power"), offered("A-0001@1")}, 2},
		{"the same search", []Evidence{asked("no power"), offered("A-0001@1")}, []Evidence{asked("no power"), offered("A-0001@1")}, 0},
		{"the same words, other results: an article went live meanwhile", []Evidence{asked("no power"), offered("A-0001@1")}, []Evidence{asked("no power"), offered("A-0002@1")}, 0},
		{"coming back to the results from an article", []Evidence{asked("no power"), offered("A-0001@1"), opened("A-0001@1")}, []Evidence{asked("no power"), offered("A-0001@1")}, 0},
		{"other words", []Evidence{asked("no power")}, []Evidence{asked("power cut")}, 1},
		{"back to earlier words", []Evidence{asked("no power"), asked("power cut")}, []Evidence{asked("no power")}, 1},
		{"a double click", []Evidence{opened("A-0001@1")}, []Evidence{opened("A-0001@1")}, 0},
		{"opened again after another", []Evidence{opened("A-0001@1"), opened("A-0002@1")}, []Evidence{opened("A-0001@1")}, 1},
		{"the next revision", []Evidence{opened("A-0001@1")}, []Evidence{opened("A-0001@2")}, 1},
		{"searched for after the chat was asked", []Evidence{inChat, offered("A-0001@1")}, []Evidence{asked("no power")}, 0},
		{"the chat asked again after something else", []Evidence{inChat, offered("A-0001@1")}, []Evidence{inChat}, 1},
	} {
		var trace Trace
		if n := len(trace.Dedupe(c.before...)); n != len(c.before) {
			t.Fatalf("%s: %d of %d items before it are fresh", c.name, n, len(c.before))
		}
		if n := len(trace.Dedupe(c.now...)); n != c.kept {
			t.Errorf("%s: %d kept, want %d", c.name, n, c.kept)
		}
	}
}
