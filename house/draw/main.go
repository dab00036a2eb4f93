// Command draw draws the house from the code as SVG: its rooms, each as wide as its code is long,
// with an arrow to every room that it stands on and that it does not reach by another anyway.
package main

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"html"
	"log"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"hermeneus/house"
)

// room is a package as it is drawn.
type room struct {
	name   string
	lines  int // of code, without tests
	tests  int
	on     []*room // that it imports, without those it reaches by another of them
	level  int     // how many rooms stand below it, one upon the other
	x, y   float64
	width  float64
	all    map[*room]bool // all that it stands on
	direct []*room
}

const (
	sheet  = 1180.0
	height = 34.0
	gap    = 66.0
)

func main() {
	rooms, err := read()
	if err != nil {
		log.Fatal(err)
	}
	stack(rooms)
	out := bufio.NewWriter(os.Stdout)
	draw(out, rooms)
	if err := out.Flush(); err != nil {
		log.Fatal(err)
	}
}

// read lists the rooms of the application, as the compiler sees their imports.
func read() ([]*room, error) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Dir,Imports,GoFiles,TestGoFiles,XTestGoFiles", "./...").
		Output()
	if err != nil {
		return nil, err
	}
	byName := map[string]*room{}
	imports := map[string][]string{}
	var rooms []*room
	for dec := json.NewDecoder(bytes.NewReader(out)); dec.More(); {
		var p struct {
			ImportPath, Dir                             string
			Imports, GoFiles, TestGoFiles, XTestGoFiles []string
		}
		if err := dec.Decode(&p); err != nil {
			return nil, err
		}
		name := strings.TrimPrefix(p.ImportPath, "hermeneus/")
		if strings.HasPrefix(name, "bench") || strings.HasPrefix(name, "house") || name == "app/apptest" {
			continue
		}
		r := &room{name: name}
		if r.lines, err = count(p.Dir, p.GoFiles); err != nil {
			return nil, err
		}
		if r.tests, err = count(p.Dir, append(p.TestGoFiles, p.XTestGoFiles...)); err != nil {
			return nil, err
		}
		byName[name], imports[name] = r, p.Imports
		rooms = append(rooms, r)
	}
	slices.SortFunc(rooms, func(a, b *room) int {
		i, _ := house.Place(a.name)
		j, _ := house.Place(b.name)
		return cmp.Compare(i, j)
	})
	for _, r := range rooms { // in their order: what a room stands on is known before it
		r.all = map[*room]bool{}
		for _, path := range imports[r.name] {
			if to := byName[strings.TrimPrefix(path, "hermeneus/")]; to != nil &&
				strings.HasPrefix(path, "hermeneus/") {
				r.direct = append(r.direct, to)
				r.all[to] = true
				for below := range to.all {
					r.all[below] = true
				}
				r.level = max(r.level, to.level+1)
			}
		}
		for _, to := range r.direct {
			if !slices.ContainsFunc(r.direct, func(other *room) bool { return other.all[to] }) {
				r.on = append(r.on, to)
			}
		}
	}
	return rooms, nil
}

func count(dir string, files []string) (lines int, err error) {
	for _, f := range files {
		text, err := os.ReadFile(filepath.Join(dir, f))
		if err != nil {
			return 0, err
		}
		lines += bytes.Count(text, []byte("\n"))
	}
	return lines, nil
}

// stack gives every room its place: a floor for each level, and on it beside what it stands on.
func stack(rooms []*room) {
	floors := map[int][]*room{}
	top := 0
	for _, r := range rooms {
		r.width = max(float64(len(r.name))*6.6+18, 24+2.1*math.Sqrt(float64(r.lines)))
		floors[r.level] = append(floors[r.level], r)
		top = max(top, r.level)
	}
	for level := 0; level <= top; level++ {
		floor := floors[level]
		middle := func(r *room) float64 {
			if len(r.on) == 0 {
				return 0
			}
			sum := 0.0
			for _, to := range r.on {
				sum += to.x + to.width/2
			}
			return sum / float64(len(r.on))
		}
		if level > 0 {
			slices.SortStableFunc(floor, func(a, b *room) int { return cmp.Compare(middle(a), middle(b)) })
		}
		used := 0.0
		for _, r := range floor {
			used += r.width
		}
		space := (sheet - used) / float64(len(floor)+1)
		x := space
		for _, r := range floor {
			r.x, r.y = x, float64(top-level)*gap+44
			x += r.width + space
		}
	}
}

func draw(out *bufio.Writer, rooms []*room) {
	bottom := 0.0
	for _, r := range rooms {
		bottom = max(bottom, r.y)
	}
	say := func(format string, args ...any) { _, _ = fmt.Fprintf(out, format, args...) } // Flush tells of errors
	say(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %.0f %.0f" font-family="sans-serif" font-size="11">`+"\n",
		sheet, bottom+height+20)
	say(`<title>The rooms of the house, and what each stands on</title>` + "\n")
	say(`<defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="6" markerHeight="6" orient="auto">` +
		`<path d="M0 0L8 4L0 8z" fill="#8a8f98"/></marker></defs>` + "\n")
	say(`<rect width="100%%" height="100%%" fill="#faf7f0"/>` + "\n")
	x := 16.0
	for _, f := range floorsOf {
		say(`<rect x="%.0f" y="12" width="12" height="12" fill="%s" stroke="#1f2328"/>`, x, f.colour)
		say(`<text x="%.0f" y="22" fill="#1f2328">%s</text>`+"\n", x+17, f.name)
		x += 30 + 6.2*float64(len(f.name))
	}
	for _, r := range rooms {
		for _, to := range r.on {
			x1, y1, x2, y2 := r.x+r.width/2, r.y+height, to.x+to.width/2, to.y
			bend := (y2 - y1) / 2
			say(`<path d="M%.1f %.1fC%.1f %.1f %.1f %.1f %.1f %.1f" fill="none" stroke="#8a8f98" stroke-width="0.9" `+
				`marker-end="url(#tip)"/>`+"\n", x1, y1, x1, y1+bend, x2, y2-bend, x2, y2-1)
		}
	}
	for _, r := range rooms {
		say(`<g><title>%s: %d lines, %d of tests</title>`, html.EscapeString(r.name), r.lines, r.tests)
		say(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.0f" rx="3" fill="%s" stroke="#1f2328"/>`,
			r.x, r.y, r.width, height, colourOf(r.name))
		say(`<text x="%.1f" y="%.1f" text-anchor="middle" fill="#1f2328" font-weight="600">%s</text>`,
			r.x+r.width/2, r.y+14, html.EscapeString(r.name))
		say(`<text x="%.1f" y="%.1f" text-anchor="middle" fill="#5a6069" font-size="9">%d + %d</text></g>`+"\n",
			r.x+r.width/2, r.y+27, r.lines, r.tests)
	}
	say("</svg>\n")
}

// floorsOf are the floors by the beginnings of their rooms' names; the last one takes the rest.
var floorsOf = []struct{ begins, name, colour string }{
	{"core", "the rules: pure", "#dfeee6"},
	{"store", "tables", "#e6e0d2"},
	{"app", "use cases, by area", "#f4e3d6"},
	{"http", "the door", "#dde6f3"},
	{"", "the binary, the demo, what is outside (lines of code + of tests)", "#eeeeee"},
}

func colourOf(name string) string {
	for _, f := range floorsOf {
		if strings.HasPrefix(name, f.begins) {
			return f.colour
		}
	}
	return ""
}
