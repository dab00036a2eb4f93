package house_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"gorm.io/gorm/schema"

	"hermeneus/house"
	"hermeneus/store"
)

// room is a package of the module.
type room struct {
	name    string // below the module's root
	imports []string
}

func rooms(t *testing.T) []room {
	t.Helper()
	cmd := exec.Command("go", "list", "-json=ImportPath,Imports", "./...")
	cmd.Dir = ".."
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var list []room
	for dec := json.NewDecoder(bytes.NewReader(out)); dec.More(); {
		var p struct {
			ImportPath string
			Imports    []string
		}
		if err := dec.Decode(&p); err != nil {
			t.Fatal(err)
		}
		list = append(list, room{strings.TrimPrefix(p.ImportPath, "hermeneus/"), p.Imports})
	}
	return list
}

// within reports whether a room is the one named, or lies below a name that ends in a slash.
func within(room, name string) bool {
	return room == name || strings.HasSuffix(name, "/") && strings.HasPrefix(room+"/", name)
}

// faults says what is wrong with the imports of a room.
func faults(r room) (list []string) {
	place, known := house.Place(r.name)
	if !known {
		return []string{r.name + " has no place in the order"}
	}
	for _, path := range r.imports {
		ours, is := strings.CutPrefix(path, "hermeneus/")
		if to, known := house.Place(ours); is && known && to > place {
			list = append(list, fmt.Sprintf("%s imports %s, which stands above it", r.name, ours))
		}
		for name, barred := range house.Barred {
			for _, b := range barred {
				if is && within(r.name, name) && within(ours, b) {
					list = append(list, fmt.Sprintf("%s may not import %s", r.name, ours))
				}
			}
		}
		for name, barred := range house.Outside {
			for _, b := range barred {
				if !is && within(r.name, name) && strings.Contains(path+`"`, b) {
					list = append(list, fmt.Sprintf("%s may not import %s", r.name, path))
				}
			}
		}
	}
	return list
}

func TestRoomsImportOnlyWhatStandsBeforeThem(t *testing.T) {
	all := rooms(t)
	if len(all) < 40 {
		t.Fatalf("only %d rooms were found", len(all))
	}
	for _, r := range all {
		for _, fault := range faults(r) {
			t.Error(fault)
		}
	}
}

// A test of the order that finds nothing shows nothing: wrong imports that are planted are found.
func TestWrongImportsAreFound(t *testing.T) {
	for _, planted := range []room{
		{"app/library", []string{"hermeneus/app/review"}},
		{"app/review", []string{"hermeneus/app/desk"}},
		{"core/article", []string{"hermeneus/core/prose"}},
		{"core/flow", []string{"hermeneus/store"}},
		{"core/flow", []string{"gorm.io/gorm"}},
		{"http", []string{"hermeneus/store"}},
		{"http", []string{"gorm.io/gorm"}},
		{"app/search", []string{"github.com/gofiber/fiber/v2"}},
		{"store", []string{"hermeneus/core/article"}},
		{"app/novelty", nil},
	} {
		if len(faults(planted)) == 0 {
			t.Errorf("%s importing %v is let pass", planted.name, planted.imports)
		}
	}
	for _, right := range []room{
		{"app/review", []string{"hermeneus/app/library", "hermeneus/core/review", "hermeneus/store"}},
		{"http", []string{"hermeneus/app/review", "github.com/gofiber/fiber/v2"}},
	} {
		if list := faults(right); len(list) > 0 {
			t.Error(list)
		}
	}
}

// Every room says what it is for, what it promises, and what it may not do.
func TestRoomsSayWhatTheyAreFor(t *testing.T) {
	for _, r := range rooms(t) {
		if strings.HasPrefix(r.name, "bench") || strings.HasPrefix(r.name, "house/") {
			continue
		}
		doc := packageDoc(t, filepath.Join("..", filepath.FromSlash(r.name)))
		if lines := strings.Count(strings.TrimSpace(doc), "\n") + 1; lines < 3 {
			t.Errorf("%s: its doc comment has %d lines: %q", r.name, lines, doc)
		}
	}
}

func packageDoc(t *testing.T, dir string) string {
	t.Helper()
	for name, f := range parsed(t, dir) {
		if f.Doc != nil && !strings.HasSuffix(name, "_test.go") {
			return f.Doc.Text()
		}
	}
	return ""
}

func parsed(t *testing.T, dir string) map[string]*ast.File {
	t.Helper()
	files := map[string]*ast.File{}
	names, err := filepath.Glob(filepath.Join(dir, "*.go"))
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range names {
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ParseComments)
		if err != nil {
			t.Fatal(err)
		}
		files[name] = f
	}
	return files
}

// tables maps every table, and every kind of row, to the area that keeps it.
func tables(t *testing.T) map[string]string {
	t.Helper()
	of := map[string]string{}
	for area, rows := range store.Rows() {
		for _, row := range rows {
			s, err := schema.Parse(row, &sync.Map{}, schema.NamingStrategy{})
			if err != nil {
				t.Fatal(err)
			}
			of[s.Table], of["store."+s.Name] = area, area
		}
	}
	return of
}

var tablesSQL = regexp.MustCompile(`\b(?:FROM|JOIN|INTO|UPDATE)\s+([a-z_]+)`)

// An area asks its own tables and those of areas that stand before it, never of one above.
func TestAreasKeepToTheirTables(t *testing.T) {
	of := tables(t)
	seen := map[string]bool{}
	dirs, err := fs.ReadDir(os.DirFS("../app"), ".")
	if err != nil {
		t.Fatal(err)
	}
	read := 0
	for _, d := range dirs {
		if !d.IsDir() || d.Name() == "apptest" {
			continue
		}
		here, _ := house.Place("app/" + d.Name())
		for name, f := range parsed(t, filepath.Join("../app", d.Name())) {
			if strings.HasSuffix(name, "_test.go") {
				continue
			}
			reach := func(table string) {
				area, known := of[table]
				if !known || area == d.Name() {
					return
				}
				read++
				key := d.Name() + "/" + filepath.Base(name) + " " + table
				there, _ := house.Place("app/" + area)
				if there < here {
					return
				}
				seen[key] = true
				if house.Reaches[key] == "" {
					t.Errorf("%s: a table of %s", key, area)
				}
			}
			ast.Inspect(f, func(n ast.Node) bool {
				switch n := n.(type) {
				case *ast.BasicLit:
					if n.Kind != token.STRING {
						return true
					}
					text, err := strconv.Unquote(n.Value)
					if err != nil {
						return true
					}
					for _, m := range tablesSQL.FindAllStringSubmatch(text, -1) {
						reach(m[1])
					}
				case *ast.SelectorExpr:
					if x, ok := n.X.(*ast.Ident); ok && x.Name == "store" {
						reach("store." + n.Sel.Name)
					}
				}
				return true
			})
		}
	}
	if read < 50 {
		t.Fatalf("only %d reaches into other areas' tables were found: are they still looked for?", read)
	}
	for key := range house.Reaches {
		if !seen[key] {
			t.Errorf("%s is no more: take it out of the list", key)
		}
	}
}

// What one reads at a time fits: an object's methods, a file, a component.
const (
	mostMethods   = 39
	mostOfFile    = 400
	mostComponent = 250
)

func TestNothingGrowsTooLarge(t *testing.T) {
	methods := map[string]int{}
	files := 0
	err := fs.WalkDir(os.DirFS(".."), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() &&
			(d.Name() == "node_modules" || d.Name() == "dist" || strings.HasPrefix(d.Name(), ".") && path != ".") {
			return fs.SkipDir
		}
		most := map[string]int{".go": mostOfFile, ".vue": mostComponent}[filepath.Ext(path)]
		if most == 0 {
			return nil
		}
		files++
		text, err := os.ReadFile(filepath.Join("..", path))
		if err != nil {
			return err
		}
		if lines := bytes.Count(text, []byte("\n")); lines > most {
			t.Errorf("%s has %d lines, more than %d", path, lines, most)
		}
		if filepath.Ext(path) != ".go" || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		f, err := parser.ParseFile(token.NewFileSet(), path, text, 0)
		if err != nil {
			return err
		}
		for _, d := range f.Decls {
			if fd, ok := d.(*ast.FuncDecl); ok && fd.Recv != nil {
				of := fd.Recv.List[0].Type
				if star, ok := of.(*ast.StarExpr); ok {
					of = star.X
				}
				if name, ok := of.(*ast.Ident); ok {
					methods[filepath.Dir(path)+" "+name.Name]++
				}
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if files < 300 {
		t.Fatalf("only %d files were looked at", files)
	}
	for object, n := range methods {
		if n > mostMethods {
			t.Errorf("%s has %d methods, more than %d", object, n, mostMethods)
		}
	}
}

// The map names files, and they are there.
func TestTheMapIsTrue(t *testing.T) {
	found := 0
	for _, page := range []string{"docs/house.md", "CONTRIBUTING.md", "README.md"} {
		text, err := os.ReadFile(filepath.Join("..", page))
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range regexp.MustCompile("`([a-z0-9_]+(?:/[A-Za-z0-9_.]+)+\\.(?:go|ts|vue|css|md|sh))`").
			FindAllStringSubmatch(string(text), -1) {
			found++
			if _, err := os.Stat(filepath.Join("..", m[1])); err != nil {
				t.Errorf("%s names %s, which is not there", page, m[1])
			}
		}
		for _, m := range regexp.MustCompile(`\]\(([^)#:]+)\)`).FindAllStringSubmatch(string(text), -1) {
			found++
			if _, err := os.Stat(filepath.Join("..", filepath.Dir(page), m[1])); err != nil {
				t.Errorf("%s links to %s, which is not there", page, m[1])
			}
		}
	}
	if found < 50 {
		t.Fatalf("only %d names were found in the map", found)
	}
}

// What others may call says what it does, by its name.
func TestWhatIsExportedIsDocumented(t *testing.T) {
	named := func(name string, docs ...*ast.CommentGroup) bool {
		for _, doc := range docs {
			if doc != nil && strings.HasPrefix(doc.Text(), name) {
				return true
			}
		}
		return name == "Error" // that of the interface: its words are its documentation
	}
	checked := 0
	for _, r := range rooms(t) {
		if floor, _, _ := strings.Cut(r.name, "/"); !slices.Contains([]string{"core", "store", "app", "http"}, floor) {
			continue
		}
		for path, f := range parsed(t, filepath.Join("..", filepath.FromSlash(r.name))) {
			if strings.HasSuffix(path, "_test.go") {
				continue
			}
			for _, d := range f.Decls {
				switch d := d.(type) {
				case *ast.FuncDecl:
					if d.Name.IsExported() {
						checked++
						if !named(d.Name.Name, d.Doc) {
							t.Errorf("%s: %s does not say what it does", path, d.Name.Name)
						}
					}
				case *ast.GenDecl:
					for _, s := range d.Specs {
						if s, ok := s.(*ast.TypeSpec); ok && s.Name.IsExported() {
							checked++
							if !named(s.Name.Name, s.Doc, d.Doc) {
								t.Errorf("%s: %s does not say what it is", path, s.Name.Name)
							}
						}
					}
				}
			}
		}
	}
	if checked < 500 {
		t.Fatalf("only %d were checked", checked)
	}
}
