// Package core_test holds the rule of the house: core depends on nothing of ours
// but core, and imports nothing of the web, of SQL or of an ORM.
package core_test

import (
	"os/exec"
	"strings"
	"testing"
)

func list(t *testing.T, args ...string) []string {
	t.Helper()
	out, err := exec.Command("go", append([]string{"list"}, args...)...).Output()
	if err != nil {
		t.Fatal(err)
	}
	return strings.Fields(string(out))
}

func TestCoreStandsAlone(t *testing.T) {
	for _, p := range list(t, "-deps", "-f", "{{.ImportPath}}", "./...") {
		if strings.HasPrefix(p, "hermeneus/") && !strings.HasPrefix(p+"/", "hermeneus/core/") {
			t.Errorf("core depends on %s", p)
		}
	}
	imports := list(t, "-f", `{{join .Imports " "}}`, "./...")
	if len(imports) < 20 {
		t.Fatalf("only %d imports were listed", len(imports))
	}
	for _, p := range imports {
		for _, outside := range []string{"gofiber", "gorm.io", "huma", "database/sql", "jackc/pgx", "net/http", "math/rand"} {
			if strings.Contains(p, outside) {
				t.Errorf("core imports %s", p)
			}
		}
	}
}
