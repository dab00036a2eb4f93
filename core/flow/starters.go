package flow

import (
	"embed"
	"fmt"
	"strings"
)

//go:embed starters/*.flow
var starterTexts embed.FS

// Beginning is a script to begin with, for a need that many have.
type Beginning struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	About string `json:"about"`
}

// Starters lists them, the emptiest first. The needs are those of the trade at large (common practice).
var Starters = []Beginning{
	{"", "An empty script", "A greeting, and nothing else."},
	{"hours", "Opening hours and contact", "Whether somebody is there, and three ways to reach them."},
	{"fault", "Report a fault", "Danger first, then what and where, then a report."},
	{"change", "Change a booking or an address", "What changes, and from when."},
	{"cancel", "Cancel", "Asks why, tries to help, and files it."},
	{"signin", "Reset a sign-in", "The usual causes, then a person."},
	{"where", "Where is my …", "A number, a look-up, then a person who can see it."},
	{"feedback", "Feedback", "A mark, a reason, and whether to write back."},
	{"nothing", "When nothing fits", "A look-up, other words, a person, a message."},
}

// Starter finds a beginning by its key.
func Starter(key string) (Beginning, bool) {
	for _, b := range Starters {
		if b.Key == key {
			return b, true
		}
	}
	return Beginning{}, false
}

// Text gives the script of a beginning under a name, for a team. It is written in English, whatever the language of
// the script: its writer puts it into their own words.
func (b Beginning) Text(name, language, team string) string {
	file := b.Key
	if file == "" {
		file = "empty"
	}
	raw, err := starterTexts.ReadFile("starters/" + file + ".flow")
	if err != nil {
		return ""
	}
	return fmt.Sprintf("flow %s (%s)\n", name, language) + strings.ReplaceAll(string(raw), "{team}", team)
}
