package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hermeneus/core/flow"
)

func TestFlowsAreRehearsedFromFiles(t *testing.T) {
	const script = "flow Door (en)\nchoose What is it?\n  - My bill\n    say It is fine.\n  - Nothing\nclose Bye.\n"
	folder := t.TempDir()
	write := func(name, text string) string {
		file := filepath.Join(folder, name)
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return file
	}
	rehearse := func(args ...string) (string, error) {
		var out bytes.Buffer
		err := run(context.Background(), append([]string{"flow", "rehearse"}, args...), &out)
		return out.String(), err
	}
	kept, err := flow.Keep(flow.Compile(flow.Read(script).Script), flow.Rehearsal{
		Name: "A bill", Inputs: []flow.ExampleStep{{Kind: flow.Choice, Text: "My bill"}},
	}, nil)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		t.Fatal(err)
	}
	same := write("same.flow", script)
	other := write("other.flow", strings.Replace(script, "It is fine.", "It is high.", 1))
	for _, file := range []string{write("one.json", string(raw)), write("list.json", "["+string(raw)+"]")} {
		if out, err := rehearse(file, "--script", same); err != nil || out != "" {
			t.Errorf("as it is kept: %q, %v", out, err)
		}
		out, err := rehearse(file, "--script", other)
		var n otherwise
		if !errors.As(err, &n) || n != 1 {
			t.Errorf("otherwise: %v", err)
		}
		if !strings.Contains(out, "-       bot: It is fine.") || !strings.Contains(out, "+       bot: It is high.") {
			t.Errorf("the lines that changed: %q", out)
		}
	}
	out, err := rehearse(write("two.json", string(raw)+"\n"+string(raw)), "--script", other, "--json")
	var n otherwise
	if lines := strings.Split(strings.TrimSpace(out), "\n"); !errors.As(err, &n) || n != 2 || len(lines) != 2 {
		t.Errorf("two as JSON Lines: %v, %q", err, out)
	}
	for what, args := range map[string][]string{
		"no script":    {write("a.json", string(raw))},
		"no rehearsal": {write("empty.json", ""), "--script", same},
		"no JSON":      {write("text.json", "hello"), "--script", same},
		"no file":      {filepath.Join(folder, "nothing"), "--script", same},
	} {
		if _, err := rehearse(args...); !errors.Is(err, errUsage) {
			t.Errorf("%s: %v", what, err)
		}
	}
}
