package outcome

import (
	"testing"
	"time"
)

func TestWhatIsDoneAgainIsToldFromAReload(t *testing.T) {
	asked := func(words string) Evidence { return Evidence{Kind: Asked, Channel: Help, Text: words} }
	offered := func(refs ...string) Evidence { return Evidence{Kind: Offered, Channel: Help, Refs: refs} }
	opened := func(ref string) Evidence { return Evidence{Kind: Opened, Channel: Help, Ref: ref} }
	numbered := func(words, number string, after time.Duration) Evidence {
		return Evidence{Kind: Asked, Channel: Help, Text: words, Ref: number, At: day0.Add(after)}
	}
	helped := Evidence{Kind: Helped, Channel: Help, Ref: "A-0001@1", At: day0}
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
		{"the same number, an hour later", []Evidence{numbered("no power", "r:1", 0)}, []Evidence{numbered("no power", "r:1", time.Hour)}, 0},
		{"another number within ten seconds", []Evidence{numbered("no power", "r:1", 0)}, []Evidence{numbered("no power", "r:2", 9*time.Second)}, 0},
		{"another number after ten seconds", []Evidence{numbered("no power", "r:1", 0)}, []Evidence{numbered("no power", "r:2", 10*time.Second)}, 1},
		{"the same words after a verdict", []Evidence{numbered("no power", "", 0), helped}, []Evidence{numbered("no power", "", time.Minute)}, 1},
		{"the same words after a contact", []Evidence{numbered("no power", "", 0), {Kind: Requested, Ref: "R-1"}}, []Evidence{numbered("no power", "", time.Minute)}, 1},
		{"the same verdict after new words", []Evidence{helped, asked("no power")}, []Evidence{helped}, 1},
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
