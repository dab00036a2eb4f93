package flow

import (
	"strings"
	"unicode"

	"hermeneus/core/outcome"
)

// Waiting is what a conversation waits for.
type Waiting string

// What a conversation can wait for.
const (
	ForChoice  Waiting = "choice"
	ForWords   Waiting = "words"   // what to look up
	ForFound   Waiting = "found"   // the shell, with what it found
	ForVerdict Waiting = "verdict" // whether it helped
	ForDetails Waiting = "details" // the text of a request
	ForAddress Waiting = "address" // by which mail address the customer is known
	ForPerson  Waiting = "person"  // the conversation is with people now
	ForNothing Waiting = "nothing" // it is closed
)

// State is everything the runtime knows of a conversation. It is plain data:
// kept as JSON between steps, and the brief of a handoff.
type State struct {
	Turn    string            `json:"turn"`
	Waiting Waiting           `json:"waiting"`
	Facts   map[string]string `json:"facts,omitempty"`
	Path    []Move            `json:"path,omitempty"`
	Shown   []Shown           `json:"shown,omitempty"`
	Offer   []string          `json:"offer,omitempty"` // revisions the present verdict is about
	Words   string            `json:"words,omitempty"` // what the customer last asked
	Heard   string            `json:"heard,omitempty"` // what the bot said last
}

// Move is one step of the path taken: the turn, what the bot had said last, and what
// the customer said to it.
type Move struct {
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

// World is what the conversation may know of the world around it.
type World struct {
	Articles map[string]Card // by reference: those the script names and the customer may see
	Staffed  map[string]bool // by team: whether anyone could take a conversation now
	Address  string          // the mail address of a signed-in customer
}

// InputKind says what an Input is.
type InputKind string

// The kinds of input.
const (
	Begin      InputKind = "begin"
	Words      InputKind = "words"       // the customer typed something
	Choice     InputKind = "choice"      // the customer took a choice, by label
	Verdict    InputKind = "verdict"     // Helped says which
	Open       InputKind = "open"        // the customer opened Revision
	WantPerson InputKind = "want_person" // the customer asks for a person
	Found      InputKind = "found"       // the shell answers a NeedSearch with Cards
)

// Input is what happens next in a conversation.
type Input struct {
	Kind     InputKind
	Text     string
	Helped   bool
	Revision string
	Cards    []Card
}

// Message is what the bot says, and what it offers with it.
type Message struct {
	Text    string   `json:"text"`
	Cards   []Card   `json:"cards,omitempty"`
	Choices []string `json:"choices,omitempty"`
}

// NeedKind says what the shell must do.
type NeedKind string

// The kinds of needs.
const (
	NeedRecord   NeedKind = "record"    // keep Evidence
	NeedSearch   NeedKind = "search"    // look for Text, and come back with Found
	NeedHandOver NeedKind = "hand_over" // put the conversation into Team's queue
	NeedRequest  NeedKind = "request"   // file Text as a request for Team, by whom Address names
	NeedClose    NeedKind = "close"     // close the conversation
)

// Need is something the runtime cannot do itself.
type Need struct {
	Kind     NeedKind
	Evidence outcome.Evidence // record: kind, text and references; the shell adds who and when
	Text     string
	Team     string
	Address  string
	Limit    int
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
