package article

import (
	"fmt"
	"strings"

	"hermeneus/core/markup"
)

// Section is a named part of a template.
type Section struct {
	Heading  string `json:"heading"`
	Prompt   string `json:"prompt"` // what belongs there
	Required bool   `json:"required"`
	Steps    bool   `json:"steps"` // begins as a numbered list
}

// Template is what an article begins from.
type Template struct {
	Name     string    `json:"name"`
	Kind     string    `json:"kind"`
	Purpose  string    `json:"purpose"`
	Sections []Section `json:"sections"`
}

// The limits of a template.
const (
	MaxSections = 20
	maxHeading  = 80
	maxPrompt   = 300
)

// Faults lists what is wrong with a template, in words, by field.
func (t Template) Faults() map[string]string {
	faults := map[string]string{}
	if strings.TrimSpace(t.Name) == "" || len([]rune(t.Name)) > 60 {
		faults["name"] = "Give it a name of at most 60 characters."
	}
	if len([]rune(t.Purpose)) > maxPrompt {
		faults["purpose"] = fmt.Sprintf("At most %d characters.", maxPrompt)
	}
	if len(t.Sections) == 0 || len(t.Sections) > MaxSections {
		faults["sections"] = fmt.Sprintf("A template has 1 to %d sections.", MaxSections)
	}
	seen := map[string]bool{}
	for i, s := range t.Sections {
		field := fmt.Sprintf("sections.%d.heading", i)
		heading := strings.ToLower(strings.TrimSpace(s.Heading))
		switch {
		case heading == "" && i > 0:
			faults[field] = "Only the first section can go without a heading."
		case len([]rune(heading)) > maxHeading:
			faults[field] = fmt.Sprintf("At most %d characters.", maxHeading)
		case seen[heading]:
			faults[field] = "Another section has this heading."
		case len([]rune(s.Prompt)) > maxPrompt:
			faults[fmt.Sprintf("sections.%d.prompt", i)] = fmt.Sprintf("At most %d characters.", maxPrompt)
		}
		seen[heading] = true
	}
	return faults
}

// Body is the text that an article of the template begins with: the headings and
// room beneath them. The prompts are shown by the editor and are no part of it.
func (t Template) Body() string {
	r := markup.Element("body")
	for _, s := range t.Sections {
		if s.Heading != "" {
			h := markup.Element("h2")
			h.AppendChild(markup.TextNode(s.Heading))
			r.AppendChild(h)
		}
		room := markup.Element("p")
		if s.Steps {
			item, list := markup.Element("li"), markup.Element("ol")
			item.AppendChild(room)
			list.AppendChild(item)
			r.AppendChild(list)
			continue
		}
		r.AppendChild(room)
	}
	return markup.RenderInside(r)
}

// MissingSection is a required section with nothing in it.
type MissingSection struct {
	Section
	Line int // of its heading; -1 when the heading is gone too
}

// MissingSections lists the required sections that a text has no words for.
func MissingSections(sections []Section, body string) []MissingSection {
	words, at := map[string]int{}, map[string]int{}
	current := ""
	at[""] = -1
	r := markup.Root(markup.Parse(body))
	for i, l := range markup.LinesOf(r) {
		if l.Node.Data == "h2" {
			current = strings.ToLower(l.Text)
			if _, there := at[current]; !there {
				at[current] = i
			}
			continue
		}
		words[current] += len(strings.Fields(l.Text))
	}
	current = ""
	for n := range r.Descendants() {
		switch {
		case markup.Is(n, "h2"):
			current = strings.ToLower(markup.InnerText(n))
		case markup.Is(n, "img", "video"):
			words[current]++
		}
	}
	var missing []MissingSection
	for _, s := range sections {
		heading := strings.ToLower(strings.TrimSpace(s.Heading))
		if s.Required && words[heading] == 0 {
			line, there := at[heading]
			if !there {
				line = -1
			}
			missing = append(missing, MissingSection{s, line})
		}
	}
	return missing
}

// Shipped are the templates that a new library begins with.
func Shipped() []Template {
	return []Template{
		{"Fix a problem", "fix", "Something does not work, and the reader wants it to work again.", []Section{
			{"", "What the reader sees, in their words, and whether it is dangerous.", true, false},
			{"What to do", "One thing to do in each step. Begin each with a verb.", true, true},
			{"If that did not help", "What to try next, or whom to tell and what to have at hand.", true, false},
			{"Why it happens", "In a sentence or two, for those who want to know.", false, false},
		}},
		{"How to", "how-to", "The reader wants to get something done.", []Section{
			{"", "When this is the right thing to do, and what comes of it.", true, false},
			{"Before you begin", "What to have at hand; what cannot be undone.", false, false},
			{"Steps", "One thing to do in each step. Begin each with a verb.", true, true},
			{"Afterwards", "What happens then, and by when.", false, false},
		}},
		{"Policy", "policy", "What we do, and what members can rely on.", []Section{
			{"", "The rule in one sentence.", true, false},
			{"Who it is for", "Whom it covers, and whom not.", true, false},
			{"What we do", "What members can rely on, with times and amounts.", true, false},
			{"If you do not agree", "How to object, and to whom.", false, false},
		}},
		{"Reference", "reference", "Facts to look up: prices, times, meanings.", []Section{
			{"", "What is listed here, and since when it holds.", true, false},
			{"At a glance", "A table, with units in its headings.", true, false},
			{"Notes", "Exceptions, and where the figures come from.", false, false},
		}},
		{"Known problem", "fix", "Something is wrong on our side, and many are asking.", []Section{
			{"", "What is wrong, since when, and for whom.", true, false},
			{"What you can do meanwhile", "A way round, if there is one.", true, false},
			{"What we are doing", "What happens next, and when we will say more.", true, false},
		}},
	}
}
