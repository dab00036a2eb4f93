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
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// hermeneus runs the binary's command and gives what it prints.
func hermeneus(args ...string) (string, error) {
	var out bytes.Buffer
	err := run(context.Background(), args, &out)
	return out.String(), err
}

func file(t *testing.T, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "evidence.jsonl")
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

const evidence = `{"at":"2026-03-02T09:00:00Z","asker":"a","channel":"help","kind":"asked","text":"bill"}
{"at":"2026-03-02T10:02:00+01:00","asker":"a","channel":"help","kind":"helped","ref":"A-0007@3"}
{"at":"2026-03-02T09:01:00Z","asker":"b","channel":"chat","kind":"handed_off","ref":"H-0001"}
{"at":"2026-03-02T09:01:00Z","asker":"c","channel":"help","kind":"opened","ref":"A-0007@3"}
{"at":"2026-03-09T09:00:00Z","asker":"d","channel":"help","kind":"asked"}
`

func TestOutcomesPrintsTheReport(t *testing.T) {
	out, err := hermeneus(
		"outcomes",
		"--evidence",
		file(t, evidence),
		"--as-of",
		"2026-03-09T09:10:00Z",
		"--window",
		"72h",
		"--json",
	)
	if err != nil {
		t.Fatal(err)
	}
	var got, want any
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	rates := `{"proven":{"value":0.5,"low":0.05462075552885201,"high":0.9453792444711481},"deflection":{"value":0.5,"low":0.05462075552885201,"high":0.9453792444711481},"claimed":{"value":0.5,"low":0.05462075552885201,"high":0.9453792444711481}}`
	_ = json.Unmarshal([]byte(`{"questions":[
		{"asker":"a","began":"2026-03-02T09:00:00Z","closed":"2026-03-02T09:02:00Z","outcome":"confirmed","settled":true,"asked_again":false,"evidence":[1,2]},
		{"asker":"b","began":"2026-03-02T09:01:00Z","closed":"2026-03-02T09:01:00Z","outcome":"person","settled":true,"asked_again":false,"evidence":[3]},
		{"asker":"c","began":"2026-03-02T09:01:00Z","closed":"2026-03-02T09:31:00Z","outcome":"browsing","settled":true,"asked_again":false,"evidence":[4]},
		{"asker":"d","began":"2026-03-09T09:00:00Z","closed":null,"outcome":"open","settled":false,"asked_again":false,"evidence":[5]}],
		"counts":{"confirmed":1,"presumed":0,"unanswered":0,"returned":0,"person":1,"open":1,"settling":0,"browsing":1,"unseen":0,"unlikely":0,"asked_again":0},"rates":`+rates+`}`), &want)
	a, _ := json.Marshal(got)
	b, _ := json.Marshal(want)
	if !bytes.Equal(a, b) {
		t.Errorf("\ngot  %s\nwant %s", a, b)
	}
}

func TestOutcomesRefusesABadLineAndPrintsNothing(t *testing.T) {
	out, err := hermeneus("outcomes", "--evidence", file(t, evidence+"{\"at\":\"yesterday\"}\n"), "--json")
	var bad *outcome.LineError
	if out != "" || !errors.As(err, &bad) || bad.Line != 6 {
		t.Errorf("printed %q, %v", out, err)
	}
}

func TestOutcomesSummarises(t *testing.T) {
	out, err := hermeneus("outcomes", "--evidence", file(t, evidence), "--as-of", "2026-03-09T09:10:00Z")
	if err != nil || !strings.Contains(out, "2 settled questions: 1 confirmed") || !strings.Contains(out, "50.0 %") {
		t.Errorf("%v\n%s", err, out)
	}
	out, err = hermeneus("outcomes", "--evidence", file(t, ""))
	if err != nil || !strings.Contains(out, "nothing has settled yet") {
		t.Errorf("of nothing: %v\n%s", err, out)
	}
}

func TestTheSearchIsMeasuredOnAnyFiles(t *testing.T) {
	docs := file(t, `{"id":"a","title":"Give a meter reading","body":"Write down the five digits."}
{"id":"b","title":"","body":"A bill is estimated when no reading reached us."}
`)
	queries := file(t, `{"text":"why is my bill estimated?","relevant":["b"]}
{"text":"estimated","relevant":["a"]}
`)
	out, err := hermeneus("search-eval", "--docs", docs, "--queries", queries, "--json")
	if err != nil {
		t.Fatal(err)
	}
	var got map[string]float64
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	if got["queries"] != 2 || got["mrr10"] != 0.5 || got["recall1"] != 0.5 || got["recall3"] != 0.5 ||
		got["ndcg10"] != 0.5 ||
		len(got) != 6 {
		t.Errorf("printed %s", out)
	}
	if _, ok := got["ms_per_query"]; !ok {
		t.Errorf("no time: %s", out)
	}
	if _, err := hermeneus("search-eval", "--docs", docs); !errors.Is(err, errUsage) {
		t.Errorf("without questions: %v", err)
	}
	if _, err := hermeneus(
		"search-eval",
		"--docs",
		file(t, "{"),
		"--queries",
		queries,
	); err == nil ||
		!strings.Contains(err.Error(), "line 1") {
		t.Errorf("a broken file: %v", err)
	}
}

func TestWrongCallsSayWhatIsWrong(t *testing.T) {
	t.Setenv("HERMENEUS_DATABASE", "")
	for _, args := range [][]string{
		{"outcomes"}, {"outcomes", "--evidence", "/nowhere"}, {"outcomes", "--evidence", file(t, ""), "--as-of", "soon"},
		{"outcomes", "--evidence", file(t, ""), "--window", "30m"}, {"outcomes", "--evidence", file(t, ""), "extra"},
		{"dance"}, {}, {"export"}, {"export", "everything"}, {"export", "evidence"}, {"serve"}, {"outcomes", "--nonsense"},
	} {
		if out, err := hermeneus(args...); err == nil || out != "" {
			t.Errorf("%v: printed %q, %v", args, out, err)
		}
	}
}

func TestHelpNamesEverySetting(t *testing.T) {
	help := settingsHelp("")
	for _, s := range settings {
		if !strings.Contains(help, s.name) {
			t.Errorf("%s is not explained", s.name)
		}
	}
}

func TestTheClockFileMovesTheClock(t *testing.T) {
	path := filepath.Join(t.TempDir(), "clock")
	now := clock(path)
	if d := time.Until(now()); d > time.Minute {
		t.Errorf("without a file it is %v ahead", d)
	}
	if err := os.WriteFile(path, []byte("73h\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if d := time.Until(now()); d < 72*time.Hour || d > 74*time.Hour {
		t.Errorf("with a file it is %v ahead", d)
	}
}

func TestExportAndStaffWorkOnADatabase(t *testing.T) {
	w := apptest.OpenAlone(t)
	_, err := w.Search.Search(w.Context, apptest.Visitor("k"), "bill")
	w.Must(err)
	t.Setenv("HERMENEUS_DATABASE", w.URL)
	out, err := hermeneus("export", "evidence")
	if err != nil ||
		out != `{"at":"2026-03-02T09:00:00Z","asker":"`+apptest.Visitor("k").
			Asker()+
			`","channel":"help","kind":"asked","text":"bill"}`+"\n" {
		t.Errorf("%v\n%s", err, out)
	}

	password := filepath.Join(t.TempDir(), "password")
	w.Must(os.WriteFile(password, []byte("a long password\n"), 0o600))
	in, err := os.Open(password)
	w.Must(err)
	stdin := os.Stdin
	os.Stdin = in
	defer func() { os.Stdin = stdin; _ = in.Close() }()
	if _, err := hermeneus(
		"staff",
		"--name",
		"Ada",
		"--email",
		"ada@wrenmoor.example",
		"--roles",
		"administrator, author",
	); err != nil {
		t.Fatal(err)
	}
	_, who, err := w.Accounts.SignInStaff(
		w.Context,
		accounts.SignIn{Email: "ada@wrenmoor.example", Password: "a long password", Network: "here"},
	)
	if err != nil || !who.Roles.Has(role.Administrator) || !who.Roles.Has(role.Author) {
		t.Errorf("%v %+v", err, who)
	}
}

func TestTheLibraryIsBroughtInAndTakenOut(t *testing.T) {
	w := apptest.OpenAlone(t)
	w.Hire("ada", role.Author)
	t.Setenv("HERMENEUS_DATABASE", w.URL)
	folder := filepath.Join(t.TempDir(), "set")
	for name, text := range map[string]string{"bills/high.md": "# High bill\n\nSee [moving](../moving/out.md).\n", "moving/out.md": "# Move out\n\nTell us.\n"} {
		if err := os.MkdirAll(filepath.Dir(filepath.Join(folder, name)), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for _, step := range []struct{ args, want string }{
		{"import library " + folder + " --dry-run", "2 would be created, 0 changed, 0 skipped"},
		{"import --dry-run library " + folder, "2 would be created"},
		{"import library " + folder, "2 created, 0 changed, 0 skipped"},
		{"import library " + folder + " --as ada@wrenmoor.example", "0 created, 0 changed, 2 skipped"},
		{"export library " + folder + "-out", "4 files written"},
		{"export library " + folder + ".zip", "4 files written"},
		{"import library " + folder + ".zip --json", `"skipped": 2`},
	} {
		out, err := hermeneus(strings.Fields(step.args)...)
		if err != nil || !strings.Contains(out, step.want) {
			t.Errorf("%s: %v\n%s", step.args, err, out)
		}
	}
	raw, err := os.ReadFile(filepath.Join(folder+"-out", "bills", "A-0001-high-bill.md"))
	if err != nil || !strings.Contains(string(raw), "[moving](../moving/A-0002-move-out.md)") {
		t.Errorf("%v\n%s", err, raw)
	}
	for _, bad := range []string{"export library " + folder + "-out", "import library /nowhere", "import flows " + folder, "import library " + folder + " --as nobody@wrenmoor.example", "import library " + folder + " --split words"} {
		if _, err := hermeneus(strings.Fields(bad)...); err == nil {
			t.Errorf("%s went through", bad)
		}
	}
}
