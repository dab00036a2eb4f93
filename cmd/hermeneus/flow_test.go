package main

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestFlowsAreCheckedAndWrittenBothWays(t *testing.T) {
	demo := func(name string) string { return filepath.Join("..", "..", "demo", "flows", name+".flow") }
	flow := func(args ...string) (string, error) {
		var out bytes.Buffer
		err := run(context.Background(), append([]string{"flow"}, args...), &out)
		return out.String(), err
	}
	if out, err := flow("check", demo("front-door")); err != nil || out != "" {
		t.Errorf("a sound script: %q, %v", out, err)
	}
	out, err := flow("check", demo("street-chargers"))
	var faults flowFaults
	if !errors.As(err, &faults) || faults == 0 || !strings.Contains(out, "There is no turn “bils”.") {
		t.Errorf("a faulty one: %q, %v", out, err)
	}
	if _, err := flow("check", demo("nothing-there")); !errors.Is(err, errUsage) {
		t.Errorf("a file that is not there: %v", err)
	}
	text, err := flow("text", demo("moving-home"))
	if err != nil {
		t.Fatal(err)
	}
	asJSON, err := flow("json", demo("moving-home"))
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "flow.json")
	if err := os.WriteFile(file, []byte(asJSON), 0o600); err != nil {
		t.Fatal(err)
	}
	if back, err := flow("text", file); err != nil || back != text {
		t.Errorf("out of JSON it is another text: %v\n%s\n%s", err, back, text)
	}
}
