// Package prose judges how a text reads: reading ease, checks for the margin, and near-duplicates.
// It promises that a check says where, what, and why, and that the same text gets the same checks.
// It may not change a text.
package prose

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"hermeneus/core/article"
	"hermeneus/core/markup"
)

// CheckKind is what a check is about.
type CheckKind string

// The checks.
const (
	HardToRead      CheckKind = "hard_to_read"
	LongSentence    CheckKind = "long_sentence"
	Passive         CheckKind = "passive"
	Vague           CheckKind = "vague"
	StepWithoutVerb CheckKind = "step_without_verb"
	NoAltText       CheckKind = "no_alt_text"
	HeadingJump     CheckKind = "heading_jump"
	BrokenLink      CheckKind = "broken_link"
	AvoidedWord     CheckKind = "avoided_word"
	TitleWording    CheckKind = "title_wording"
	NoKeywords      CheckKind = "no_keywords"
	LongSearchTitle CheckKind = "long_search_title"
	LongDescription CheckKind = "long_description"
	NearDuplicate   CheckKind = "near_duplicate"
	SectionEmpty    CheckKind = "section_empty"
	PersonalData    CheckKind = "personal_data"
	DeadLink        CheckKind = "dead_link"
)

// The bounds of the checks. All are common practice.
const (
	MaxSentence          = 25  // words
	MinEase              = 50  // Flesch; below it is “fairly difficult”
	MinWordsForEase      = 40  // fewer say too little
	MaxSearchTitle       = 60  // characters a result shows of its title
	MaxSearchDescription = 160 // and of its description
	MinOverlap           = 0.5 // of the shorter text's word triples
)

// Check is one thing the margin says of a text.
type Check struct {
	Kind    CheckKind `json:"kind"`
	Line    int       `json:"line"` // index of the line it stands at; -1 for the title, the keywords or the whole
	Excerpt string    `json:"excerpt"`
	Message string    `json:"message"`
	Key     string    `json:"key"` // the same as long as the words it is about are
}

// Target is what a link points to.
type Target struct {
	Title string
	Live  bool
}

// Neighbour is another article with many of the same words.
type Neighbour struct {
	Reference string
	Title     string
	Overlap   float64 // 0 to 1
}

// Draft is a text to be checked, with what must be known from elsewhere.
type Draft struct {
	Language          string // "" for that of the source; the checks of wording know English alone
	Title             string
	Body              string
	Keywords          []string
	SearchTitle       string
	SearchDescription string

	Sections   []article.Section // of its template
	Targets    map[int]Target    // of its links; what is not there does not exist
	Dead       map[string]string // addresses outside that did not answer, with what is wrong
	Avoided    []string          // "word = instead", or a word alone
	Neighbours []Neighbour
	Asked      []string // what customers typed before they opened it
}

// Findings are what the margin says of a text, and how it reads.
type Findings struct {
	Reading  Reading           `json:"reading"`
	Sections []SectionReading  `json:"sections"`
	Contents []article.Heading `json:"contents"`
	Checks   []Check           `json:"checks"` // in the order of their lines
}

// SectionReading is how one section reads.
type SectionReading struct {
	Heading string  `json:"heading"` // "" for what stands before the first
	Line    int     `json:"line"`
	Reading Reading `json:"reading"`
}

// Examine checks a draft.
func Examine(d Draft) Findings {
	r := markup.Root(markup.Parse(markup.Canonical(d.Body)))
	lines := markup.LinesOf(r)
	a := examiner{draft: d, lines: lines, where: map[*html.Node]int{}}
	for i, l := range lines {
		a.where[l.Node] = i
	}
	out := Findings{Contents: article.Contents(lines)}
	if a.english = d.Language == "" || d.Language == article.SourceLanguage; a.english {
		out.Reading, out.Sections = a.sections()
	} else {
		out.Reading.Words = len(spoken(markup.Plain(d.Body)))
	}
	a.title()
	a.search()
	a.headings()
	for i, l := range lines {
		a.line(i, l)
	}
	a.pictures(r)
	a.links(r)
	a.template()
	slices.SortStableFunc(a.checks, func(x, y Check) int { return x.Line - y.Line })
	out.Checks = a.checks
	return out
}

type examiner struct {
	draft   Draft
	english bool
	lines   []markup.Line
	where   map[*html.Node]int
	checks  []Check
}

func (a *examiner) say(kind CheckKind, at int, excerpt, format string, args ...any) {
	sum := sha256.Sum256([]byte(string(kind) + "\x00" + excerpt))
	c := Check{
		kind,
		at,
		article.Shorten(excerpt, 90),
		fmt.Sprintf(format, args...),
		string(kind) + "-" + hex.EncodeToString(sum[:6]),
	}
	if !slices.ContainsFunc(a.checks, func(b Check) bool { return b.Key == c.Key && b.Line == c.Line }) {
		a.checks = append(a.checks, c)
	}
}

// sections measures each part under a heading of the first level, and the whole.
func (a *examiner) sections() (Reading, []SectionReading) {
	var all, texts []string
	var list []SectionReading
	heading, at := "", 0
	flush := func() {
		if r := ReadingOf(texts...); r.Words > 0 {
			list = append(list, SectionReading{heading, at, r})
			if r.Words >= MinWordsForEase && r.Ease < MinEase {
				a.say(
					HardToRead,
					at,
					heading+texts[0],
					"This part is hard to read: ease %.0f of 100, grade %.0f. Shorter sentences and everyday "+
						"words help.",
					max(0, r.Ease),
					r.Grade,
				)
			}
		}
		texts = nil
	}
	for i, l := range a.lines {
		if l.Node.Data == "h2" {
			flush()
			heading, at = l.Text, i
			continue
		}
		if l.Node.Data != "pre" && l.Text != "" {
			texts, all = append(texts, l.Text), append(all, l.Text)
		}
	}
	flush()
	return ReadingOf(all...), list
}

var (
	genericEnding = regexp.MustCompile(
		`(?i)\b(information|overview|guide|procedure|process|management|details|miscellaneous|general)$`,
	)
	gerund    = regexp.MustCompile(`^(?i)[a-z]{3,}ing\b`)
	notGerund = []string{"nothing", "something", "everything", "anything", "string", "spring", "bring", "building"}
)

func (a *examiner) headings() {
	last := 1
	for i, l := range a.lines {
		level := markup.HeadingLevel(l.Node)
		if level == 0 {
			continue
		}
		if level > last+1 {
			a.say(
				HeadingJump,
				i,
				l.Text,
				"A heading of level %d follows one of level %d. Readers who jump by headings lose the thread.",
				level-1,
				max(1, last-1),
			)
		}
		last = level
	}
}

var (
	irregular = `known|given|taken|sent|paid|made|done|seen|found|told|shown|read|held|kept|left|set|put|cut|written|chosen|brought|built|bought|lost|met|begun|broken|driven|worn|drawn`
	passive   = regexp.MustCompile(
		`(?i)\b(?:is|are|was|were|be|been|being|gets|got)\s+(?:[a-z]+ly\s+)?(?:[a-z]{2,}ed|` + irregular + `)\b`,
	)
	vague = regexp.MustCompile(
		`(?i)\b(simply|just|easily|obviously|of course|as appropriate|if necessary|and so on|etc\.?|as usual|various|somehow|should normally)(?:[\s.,;:!?)]|$)`,
	)
)

var fileName = regexp.MustCompile(`(?i)^(image|picture|photo|screenshot|img|dsc|untitled)?[\s_-]*\d*(\.\w{3,4})?$`)

func (a *examiner) pictures(r *html.Node) {
	for n := range r.Descendants() {
		if !markup.Is(n, "img") {
			continue
		}
		alt := strings.TrimSpace(markup.Attribute(n, "alt"))
		switch {
		case alt == "":
			a.say(
				NoAltText,
				a.nearest(n),
				markup.Attribute(n, "src"),
				"Say what this picture shows, for readers who cannot see it.",
			)
		case fileName.MatchString(alt):
			a.say(
				NoAltText,
				a.nearest(n),
				markup.Attribute(n, "src")+alt,
				"“%s” does not say what the picture shows.",
				alt,
			)
		}
	}
}

// nearest is the line a node stands in, or the first one after it.
func (a *examiner) nearest(n *html.Node) int {
	for up := n; up != nil; up = up.Parent {
		if i, ok := a.where[up]; ok {
			return i
		}
		if markup.Is(up, "figure") {
			for c := range up.Descendants() {
				if i, ok := a.where[c]; ok {
					return i
				}
			}
		}
	}
	return -1
}

func (a *examiner) links(r *html.Node) {
	for n := range r.Descendants() {
		if !markup.Is(n, "a") {
			continue
		}
		address := markup.Attribute(n, "href")
		at := a.nearest(n)
		if fault := a.draft.Dead[address]; fault != "" {
			a.say(DeadLink, at, address, "The link “%s” to %s is dead: %s", markup.InnerText(n), address, fault)
		}
		number, ok := article.LinkTarget(address)
		if !ok {
			continue
		}
		switch target, there := a.draft.Targets[number]; {
		case !there:
			a.say(
				BrokenLink,
				at,
				address,
				"The link “%s” points to %s, which is not there.",
				markup.InnerText(n),
				article.Reference(number),
			)
		case !target.Live:
			a.say(
				BrokenLink,
				at,
				address,
				"The link “%s” points to %s, “%s”, which customers cannot see yet.",
				markup.InnerText(n),
				article.Reference(number),
				target.Title,
			)
		}
	}
}

func (a *examiner) template() {
	for _, s := range article.MissingSections(a.draft.Sections, a.draft.Body) {
		if s.Heading == "" {
			a.say(SectionEmpty, s.Line, s.Heading, "The template asks for something at the beginning: %s", s.Prompt)
			continue
		}
		a.say(SectionEmpty, s.Line, s.Heading, "The template asks for “%s”: %s", s.Heading, s.Prompt)
	}
}
