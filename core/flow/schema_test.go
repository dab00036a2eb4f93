package flow

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Scripts as JSON keep to the published JSON Schema (2020-12), and what does not keep to it is refused there, too.
func TestScriptsKeepToThePublishedSchema(t *testing.T) {
	file, err := os.Open(filepath.Join("..", "..", "docs", "flow.schema.json"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = file.Close() }()
	document, err := jsonschema.UnmarshalJSON(file)
	if err != nil {
		t.Fatal(err)
	}
	compiler := jsonschema.NewCompiler()
	if err := compiler.AddResource("flow.json", document); err != nil {
		t.Fatal(err)
	}
	schema, err := compiler.Compile("flow.json")
	if err != nil {
		t.Fatal(err)
	}
	valid := func(raw []byte) error {
		value, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
		if err != nil {
			t.Fatal(err)
		}
		return schema.Validate(value)
	}
	r := rand.New(rand.NewPCG(31, 32))
	scripts := []Script{Read(sound).Script}
	for range 300 {
		scripts = append(scripts, randomScript(r))
	}
	for _, b := range Starters {
		scripts = append(scripts, Read(b.Text("x", "en", "Accounts")).Script)
	}
	for _, s := range scripts {
		raw, err := json.Marshal(s)
		if err != nil {
			t.Fatal(err)
		}
		if err := valid(raw); err != nil {
			t.Fatalf("%v\n%s", err, raw)
		}
	}
	for _, raw := range []string{
		`{"format":2,"name":"x","language":"en","turns":[{"id":"a","kind":"sing"}]}`, `{"format":1,"name":"x","language":"en","turns":[]}`,
		`{"format":2,"name":"x","language":"english","turns":[]}`, `{"format":2,"name":"x","language":"en","turns":[],"more":1}`,
	} {
		if valid([]byte(raw)) == nil {
			t.Errorf("%s is taken", raw)
		}
	}
}
