package main

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// Only the clock reads the time, so that every part of the program sees the same one.
func TestTheTimeIsReadInOnePlace(t *testing.T) {
	read := 0
	for _, room := range []string{"app", "cmd", "core", "demo", "http", "standin", "store"} {
		err := filepath.WalkDir(filepath.Join("..", "..", room), func(path string, d fs.DirEntry, err error) error {
			helper := d.IsDir() || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "apptest")
			if err != nil || helper || !strings.HasSuffix(path, ".go") || filepath.Base(path) == "clock.go" {
				return err
			}
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			read++
			for i, line := range strings.Split(string(text), "\n") {
				for _, direct := range []string{"time.Now", "time.Since(", "time.Until("} {
					if strings.Contains(line, direct) {
						t.Errorf("%s:%d reads the time by itself: %s", path, i+1, strings.TrimSpace(line))
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if read < 150 {
		t.Fatalf("only %d files were read", read)
	}
}

func TestTheClockGoesAheadByWhatItsFileSays(t *testing.T) {
	file := filepath.Join(t.TempDir(), "clock")
	for said, want := range map[string]time.Duration{"": 0, "no time": 0, "73h": 73 * time.Hour, "-2h\n": -2 * time.Hour} {
		if err := os.WriteFile(file, []byte(said), 0o600); err != nil {
			t.Fatal(err)
		}
		if ahead := time.Until(clock(file)()); (ahead - want).Abs() > time.Minute {
			t.Errorf("%q is %s ahead", said, ahead)
		}
	}
}
