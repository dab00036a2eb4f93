package flow

import (
	"strings"
	"unicode"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
)

// Waiting is what a conversation waits for.
type Waiting string

// What a conversation can wait for.
const (
	ForChoice  Waiting = "choice"
	ForFact    Waiting = "fact"    // the answer to an ask
	ForDetail  Waiting = "detail"  // a fact that is asked for before a person is
	ForWords   Waiting = "words"   // what to look up
	ForFound   Waiting = "found"   // the shell, with what it found
	ForVerdict Waiting = "verdict" // whether it helped
	ForMark    Waiting = "mark"    // how good it was, from 1 to 5
	ForField   Waiting = "field"   // the answer to a field of a request form
	ForDetails Waiting = "details" // the text of a request
	ForAddress Waiting = "address" // by which mail address the customer is known
	ForMore    Waiting = "more"    // the script has ended: anything may be asked
	ForPerson  Waiting = "person"  // the conversation is with people now
	ForNothing Waiting = "nothing" // it is closed
)

// State is everything the runtime knows of a conversation. It is plain data: kept as JSON between steps,
// and the brief of a handoff. What older versions of the program kept is still understood.
type State struct {
	Turn     string            `json:"turn"`
	Flow     string            `json:"flow,omitempty"` // another flow than the one it began in
	Waiting  Waiting           `json:"waiting"`
	Language string            `json:"language,omitempty"` // that the bot speaks here
	Facts    map[string]string `json:"facts,omitempty"`
	Path     []Step            `json:"path,omitempty"`
	Shown    []Shown           `json:"shown,omitempty"`
	Offer    []string          `json:"offer,omitempty"`    // revisions the present verdict is about
	Words    string            `json:"words,omitempty"`    // what the customer last asked
	Heard    string            `json:"heard,omitempty"`    // what the bot said last
	Result   string            `json:"result,omitempty"`   // of the last turn that had one
	Tries    int               `json:"tries,omitempty"`    // how often the present answer was refused
	Answers  map[string]string `json:"answers,omitempty"`  // to the fields of a request form; "" for none given
	Detail   string            `json:"detail,omitempty"`   // the fact that is asked for before a person is
	Asked    bool              `json:"asked,omitempty"`    // it was asked once which choice was meant
	Meant    bool              `json:"meant,omitempty"`    // it was asked which choice was meant
	Back     []Place           `json:"back,omitempty"`     // where to come back to, the last first to be left
	Versions map[string]int64  `json:"versions,omitempty"` // of the other flows that it came to; kept by the shell
}

// Place is a turn of a flow.
type Place struct {
	Flow  string `json:"flow,omitempty"`
	Turn  string `json:"turn"`
	After bool   `json:"after,omitempty"` // go on with what follows it, else it is asked again
}

// Step is one step of the path taken: the turn, what the bot had said last, and what the customer said to it.
type Step struct {
	Turn  string `json:"turn"`
	Heard string `json:"heard,omitempty"`
	Said  string `json:"said,omitempty"`
}

// Shown is an article that was shown, and what the customer made of it.
type Shown struct {
	Card    Card   `json:"card"`
	Opened  bool   `json:"opened,omitempty"`
	Verdict string `json:"verdict,omitempty"` // "helped", "not_helped" or ""
}

// Card is an article as the chat shows it.
type Card struct {
	Reference string `json:"reference"` // A-0042
	Revision  string `json:"revision"`  // A-0042@3
	Title     string `json:"title"`
	Summary   string `json:"summary"`
}

// Passage is a part of a composed answer, word for word as it stands in an article.
type Passage struct {
	Reference string          `json:"reference"`
	Revision  string          `json:"revision"`
	Title     string          `json:"title"`
	Heading   string          `json:"heading,omitempty"`
	Anchor    string          `json:"anchor,omitempty"`
	Blocks    []article.Block `json:"blocks"`
}

// Presence is whether a team can take a conversation now.
type Presence string

// The states of a team.
const (
	Free Presence = "free"
	Busy Presence = "busy" // somebody is there, with hands full
	Away Presence = "away" // nobody is there
)

// Team is what the bot may know of a team.
type Team struct {
	Open     bool     `json:"open"` // its opening hours
	Presence Presence `json:"presence"`
	Next     string   `json:"next,omitempty"` // when it opens next, in the customer's words; "" while open, or for never
}

// World is what the conversation may know of the world around it.
type World struct {
	Articles map[string]Card   `json:"articles"`         // by reference: those named that the customer may see
	Teams    map[string]Team   `json:"teams"`            // by name
	Facts    map[string]string `json:"facts,omitempty"`  // known before: see Known
	Groups   []string          `json:"groups,omitempty"` // of the customer
	SignedIn bool              `json:"signed_in,omitempty"`
	Language string            `json:"language,omitempty"` // that the customer reads
	Channel  string            `json:"channel,omitempty"`
	Page     string            `json:"page,omitempty"`   // on which the chat stands
	Open     bool              `json:"open"`             // the site's opening hours
	Next     string            `json:"next,omitempty"`   // when the site opens next
	Busy     string            `json:"busy,omitempty"`   // said while everybody is busy; "" for the standard sentence
	Closed   string            `json:"closed,omitempty"` // said while nobody is there
	Forms    map[string]Form   `json:"forms,omitempty"`  // request forms, by key

	Flows map[string]*Program `json:"-"` // the other flows that the script goes to
}

// InputKind says what an Input is.
type InputKind string

// The kinds of input.
const (
	Begin      InputKind = "begin"       // at the turn that Text names, or at the first
	Words      InputKind = "words"       // the customer typed something
	Choice     InputKind = "choice"      // the customer took a choice, by label
	Verdict    InputKind = "verdict"     // Helped says which
	Open       InputKind = "open"        // the customer opened Revision
	WantPerson InputKind = "want_person" // the customer asks for a person
	Found      InputKind = "found"       // the shell answers a NeedSearch with Cards, and with Told if sure
)

// Input is what happens next in a conversation.
type Input struct {
	Kind     InputKind
	Text     string
	Helped   bool
	Revision string
	Cards    []Card
	Weak     bool      // found: what was found fits only weakly
	Told     []Passage // found: an answer, word for word
	Sure     float64   // found: how likely it is that the answer answers, 0 to 1
}

// Message is what the bot says, and what it offers with it.
type Message struct {
	Text    string    `json:"text"`
	Cards   []Card    `json:"cards,omitempty"`
	Choices []string  `json:"choices,omitempty"`
	Told    []Passage `json:"told,omitempty"`
	Link    *Linked   `json:"link,omitempty"`
	Turn    string    `json:"turn,omitempty"` // that said it
	Why     string    `json:"why,omitempty"`  // how the conversation came to the turn
}

// Linked is a page that a message points to.
type Linked struct {
	URL  string `json:"url,omitempty"`
	Form string `json:"form,omitempty"` // the key of the request form that stands there
}

// NeedKind says what the shell must do.
type NeedKind string

// The kinds of needs.
const (
	NeedRecord   NeedKind = "record"    // keep Evidence
	NeedSearch   NeedKind = "search"    // look for Text, and come back with Found
	NeedHandOver NeedKind = "hand_over" // put the conversation into Team's queue, with Brief
	NeedRequest  NeedKind = "request"   // file Text as a request for Team, by whom Address names
	NeedClose    NeedKind = "close"     // close the conversation
)

// Need is something the runtime cannot do itself.
type Need struct {
	Kind     NeedKind
	Evidence outcome.Evidence // record: kind, text and references; the shell adds who and when
	Flow     string           // in which it arose; "" for the one that the conversation began in
	Text     string
	Team     string
	Brief    string
	Address  string
	Limit    int
	Form     string            // request: the key of the form whose fields were answered
	Answers  map[string]string // request: to the form's fields, by key
}

// Move is one move of a conversation: from a turn to a turn, and why. Neither holds a word of the customer's.
type Move struct {
	Flow string // of To; "" for the one that the conversation began in
	From string // "" at the beginning
	To   string // "" where the script ends
	Why  string
}

// plain folds case, marks and spaces, for comparing what people type.
func plain(text string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}), " ")
}

// says reports whether the text holds the phrase as whole words.
func says(text, phrase string) bool {
	phrase = plain(phrase)
	return phrase != "" && strings.Contains(" "+plain(text)+" ", " "+phrase+" ")
}
