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
	"unicode"

	"golang.org/x/net/html"

	"hermeneus/core/article"
	"hermeneus/core/markup"
	"hermeneus/core/redact"
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

// Advice is what the margin says of a text, and how it reads.
type Advice struct {
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

// Advise checks a draft.
func Advise(d Draft) Advice {
	r := markup.Root(markup.Parse(markup.Canonical(d.Body)))
	lines := markup.LinesOf(r)
	a := adviser{draft: d, lines: lines, where: map[*html.Node]int{}}
	for i, l := range lines {
		a.where[l.Node] = i
	}
	out := Advice{Contents: article.Contents(lines)}
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

type adviser struct {
	draft   Draft
	english bool
	lines   []markup.Line
	where   map[*html.Node]int
	checks  []Check
}

func (a *adviser) say(kind CheckKind, at int, excerpt, format string, args ...any) {
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
func (a *adviser) sections() (Reading, []SectionReading) {
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
					"This part is hard to read: ease %.0f of 100, grade %.0f. Shorter sentences and everyday words help.",
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

func (a *adviser) title() {
	title := strings.TrimSpace(a.draft.Title)
	first, _, _ := strings.Cut(strings.ToLower(title), " ")
	words := spoken(title)
	switch {
	case title == "":
		return
	case !a.english:
	case len(words) == 1:
		a.say(TitleWording, -1, title, "One word is no question. Say what the customer wants to do or know.")
	case strings.ToUpper(title) == title && strings.ContainsFunc(title, unicode.IsLetter):
		a.say(TitleWording, -1, title, "Capitals throughout are hard to read.")
	case genericEnding.MatchString(title):
		a.say(
			TitleWording,
			-1,
			title,
			"Nobody asks for “%s”. Use the words of the question.",
			strings.ToLower(words[len(words)-1]),
		)
	case gerund.MatchString(title) && !slices.Contains(notGerund, first):
		a.say(
			TitleWording,
			-1,
			title,
			"Customers ask “how do I …”, not “%s …”. Begin with what they do.",
			strings.ToLower(first),
		)
	}
	if a.english {
		a.titleAgainstQuestions(title)
	}
	a.avoided(-1, title)
	if redact.Text(title) != title {
		a.say(PersonalData, -1, title, "The title holds personal data.")
	}
}

// titleAgainstQuestions compares the title with what customers typed before they
// opened the article, once enough did.
func (a *adviser) titleAgainstQuestions(title string) {
	const enough = 5
	if len(a.draft.Asked) < enough {
		return
	}
	own := map[string]bool{}
	for _, w := range contentWords(title + " " + strings.Join(a.draft.Keywords, " ")) {
		own[w] = true
	}
	missed := map[string]int{}
	for _, q := range a.draft.Asked {
		seen := map[string]bool{}
		for _, w := range contentWords(q) {
			if !own[w] && !seen[w] {
				seen[w] = true
				missed[w]++
			}
		}
	}
	most, count := "", 0
	for w, n := range missed {
		if n > count || n == count && w < most {
			most, count = w, n
		}
	}
	if 3*count >= len(a.draft.Asked) {
		a.say(
			TitleWording,
			-1,
			"asked:"+most,
			"%d of the last %d who opened it had asked with “%s”, which is neither in the title nor in the keywords.",
			count,
			len(a.draft.Asked),
			most,
		)
	}
}

var stopWords = strings.Fields(
	"a an and any are as at be because been but by can could did do does for from get had has have how i if in into is it its me my no not of off on or our out so than that the their them then there they this to up us was we were what when where which who why will with would you your please need want hello hi",
)

func contentWords(text string) []string {
	var list []string
	for _, w := range spoken(strings.ToLower(text)) {
		if len(w) > 2 && !slices.Contains(stopWords, w) {
			list = append(list, strings.TrimSuffix(w, "s"))
		}
	}
	return list
}

func (a *adviser) search() {
	d := a.draft
	shown := d.SearchTitle
	if shown == "" {
		shown = d.Title
	}
	if n := len([]rune(shown)); n > MaxSearchTitle {
		a.say(
			LongSearchTitle,
			-1,
			shown,
			"A result shows about %d characters of its title; this has %d.",
			MaxSearchTitle,
			n,
		)
	}
	if n := len([]rune(d.SearchDescription)); n > MaxSearchDescription {
		a.say(
			LongDescription,
			-1,
			d.SearchDescription,
			"A result shows about %d characters of its description; this has %d.",
			MaxSearchDescription,
			n,
		)
	}
	if len(d.Keywords) == 0 {
		a.say(NoKeywords, -1, "", "No keywords yet: add the words customers use and the text does not.")
	}
	for _, n := range d.Neighbours {
		if n.Overlap >= MinOverlap {
			a.say(
				NearDuplicate,
				-1,
				n.Reference,
				"%s, “%s”, says nearly the same (%.0f %% in common). Mend that one instead, or say here what differs.",
				n.Reference,
				n.Title,
				100*n.Overlap,
			)
		}
	}
}

func (a *adviser) headings() {
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

func (a *adviser) line(i int, l markup.Line) {
	if l.Node.Data == "pre" || l.Text == "" {
		return
	}
	if a.english {
		a.wording(i, l)
	}
	a.avoided(i, l.Text)
	if redact.Text(l.Text) != l.Text {
		a.say(
			PersonalData,
			i,
			l.Text,
			"This looks like personal data (a mail address, a phone or a card number). Is it meant for everybody to read?",
		)
	}
}

// wording checks a line of English.
func (a *adviser) wording(i int, l markup.Line) {
	for _, s := range sentences(l.Text) {
		if n := len(spoken(s)); n > MaxSentence {
			a.say(LongSentence, i, s, "%d words in one sentence; up to %d are read at one go.", n, MaxSentence)
		}
	}
	if found := vague.FindStringSubmatch(l.Text); found != nil {
		a.say(Vague, i, l.Text, "“%s” helps nobody who is stuck. Leave it out, or say what exactly.", found[1])
	}
	if l.Step {
		if found := passive.FindString(l.Text); found != "" {
			a.say(Passive, i, l.Text, "“%s”: say who does it. In a step that is the reader.", found)
		}
		if !hasInstruction(l.Text) {
			a.say(StepWithoutVerb, i, l.Text, "A step says what to do: begin with a verb.")
		}
	}
}

func (a *adviser) avoided(i int, text string) {
	low := " " + strings.Join(spoken(strings.ToLower(text)), " ") + " "
	for _, entry := range a.draft.Avoided {
		word, instead, _ := strings.Cut(entry, "=")
		word, instead = strings.ToLower(strings.TrimSpace(word)), strings.TrimSpace(instead)
		if word == "" || !strings.Contains(low, " "+word+" ") {
			continue
		}
		if instead != "" {
			a.say(AvoidedWord, i, word+"\x00"+text, "The house says “%s”, not “%s”.", instead, word)
		} else {
			a.say(AvoidedWord, i, word+"\x00"+text, "The house avoids “%s”.", word)
		}
	}
}

// verbs that instructions begin with, in their plain form.
var verbs = wordSet(
	`accept access activate add adjust agree allow answer apply ask assign attach avoid back begin book break bring
browse build buy call cancel carry change charge check choose claim clean clear click close collect compare complete confirm connect
contact continue copy count cover create cut decide delete describe disable disconnect do download drag drive drop edit email
enable end ensure enter exit expect explain fill find finish fit fix flip fold follow forget free get give go hang hold identify
ignore include inform insert install invite join keep know label lay leave let lift list load locate lock log look lower make mark
measure mend mind mount move name note offer open order pair pass paste pay phone photograph pick plan plug point post pour press
print provide publish pull push put quote raise reach read receive record refresh register release remember remove rename
repeat replace reply report request reset resize restart restore return ring rotate run save say scan scroll search see select
send separate set share show shut sign sit slide sort speak stand start state stay stick stop store submit switch take talk
tap tell test text tick tie tighten touch transfer trip try turn type undo unlock unplug untick update upgrade upload use
verify view visit wait walk warn wash watch wear weigh wipe withdraw work write zoom`,
)

func wordSet(words string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(words) {
		set[w] = true
	}
	return set
}

// hasInstruction looks for a verb that tells the reader to do something, where an
// instruction has it: at the beginning, or after the condition it starts with.
func hasInstruction(step string) bool {
	for n, w := range spoken(strings.ToLower(step)) {
		if n >= 14 {
			break
		}
		if verbs[w] {
			return true
		}
	}
	return false
}

var fileName = regexp.MustCompile(`(?i)^(image|picture|photo|screenshot|img|dsc|untitled)?[\s_-]*\d*(\.\w{3,4})?$`)

func (a *adviser) pictures(r *html.Node) {
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
func (a *adviser) nearest(n *html.Node) int {
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

func (a *adviser) links(r *html.Node) {
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

func (a *adviser) template() {
	for _, s := range article.MissingSections(a.draft.Sections, a.draft.Body) {
		if s.Heading == "" {
			a.say(SectionEmpty, s.Line, s.Heading, "The template asks for something at the beginning: %s", s.Prompt)
			continue
		}
		a.say(SectionEmpty, s.Line, s.Heading, "The template asks for “%s”: %s", s.Heading, s.Prompt)
	}
}
