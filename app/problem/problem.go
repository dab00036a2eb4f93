// Package problem is the one shape of an error that people can understand and mend (RFC 9457 where it leaves).
// It promises that errors of the rules and of the database which people can cause are said in words, once.
// It may not know the areas.
package problem

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"

	"hermeneus/core/article"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/review"
	"hermeneus/core/search"
)

// Kind says what sort of thing went wrong; each is a problem type of its own.
type Kind string

// The kinds of problems.
const (
	Invalid    Kind = "invalid"
	NotFound   Kind = "not-found"
	Withdrawn  Kind = "withdrawn"
	Denied     Kind = "denied"
	NotNow     Kind = "not-now"
	StaleSave  Kind = "stale-save"
	TooLarge   Kind = "too-large"
	TooLong    Kind = "question-too-long"
	TooDeep    Kind = "tree-too-deep"
	TooMany    Kind = "too-many"
	NotSigned  Kind = "not-signed-in"
	WrongLogin Kind = "wrong-sign-in"
	BadFile    Kind = "bad-file"
	Held       Kind = "held"
	Ended      Kind = "ended"
)

// Field is what is wrong with one field of the input.
type Field struct {
	Name    string
	Message string
}

// Problem is an error that the person who caused it can understand and mend.
type Problem struct {
	Kind   Kind
	Detail string
	Fields []Field
	cause  error // that it says in words, nil for none
}

func (p *Problem) Error() string { return p.Detail }

// Unwrap gives the error of core or of the database that the problem says in words, so
// that whoever knows what to do about it still recognises it.
func (p *Problem) Unwrap() error { return p.cause }

// ErrInReview keeps changes to many articles from clearing what reviewers passed.
var ErrInReview = New(
	NotNow,
	"Editing is not possible here while the working copy is in review: open it, or take it back first.",
)

// New is a problem of a kind, said in words.
func New(kind Kind, format string, args ...any) error {
	return &Problem{Kind: kind, Detail: fmt.Sprintf(format, args...)}
}

// Fields gathers what is wrong with an input.
type Fields []Field

// Require says that a field is wrong unless something holds.
func (f *Fields) Require(ok bool, name, message string) {
	if !ok {
		*f = append(*f, Field{name, message})
	}
}

// Text requires between 1 and most characters.
func (f *Fields) Text(name, value string, most int) {
	f.Require(strings.TrimSpace(value) != "", name, "This is missing.")
	f.AtMost(name, value, most)
}

// Address requires a mail address to which mail can be sent.
func (f *Fields) Address(name, value string) {
	if strings.TrimSpace(value) == "" {
		f.Require(false, name, "This is missing.")
		return
	}
	_, fault := form.Address(value)
	f.Require(fault == "", name, fault)
}

// AtMost bounds a text, in characters.
func (f *Fields) AtMost(name, value string, most int) {
	f.Require(
		len([]rune(value)) <= most,
		name,
		fmt.Sprintf("At most %d characters; this has %d.", most, len([]rune(value))),
	)
}

// Err is nil when nothing is wrong.
func (f Fields) Err() error {
	if len(f) == 0 {
		return nil
	}
	return &Problem{Kind: Invalid, Detail: "Some fields need another look.", Fields: f}
}

// OfField says what is wrong with one field.
func OfField(field, message string) error { return Fields{{field, message}}.Err() }

// From turns the errors of core and of the database that people can cause
// into problems, which keep them as their cause, and leaves the others as they are.
func From(err error, what string) error {
	said, ok := inWords(err, what)
	if !ok {
		return err
	}
	said.cause = err
	return &said
}

func inWords(err error, what string) (Problem, bool) {
	say := func(kind Kind, format string, args ...any) (Problem, bool) {
		return Problem{Kind: kind, Detail: fmt.Sprintf(format, args...)}, true
	}
	var refusal *review.Refusal
	var known *Problem
	switch {
	case errors.As(err, &known):
		return Problem{}, false
	case errors.As(err, &refusal) && refusal.Forbidden:
		return say(Denied, "%s", refusal.Reason)
	case errors.As(err, &refusal):
		return say(NotNow, "%s", refusal.Reason)
	case errors.Is(err, gorm.ErrRecordNotFound):
		return say(NotFound, "There is no such %s.", what)
	case errors.Is(err, article.ErrTooLarge):
		return say(
			TooLarge,
			"The article is larger than 1 MB. Split it, or make its tables smaller; pictures do not count.",
		)
	case errors.Is(err, article.ErrTooDeep):
		return say(
			TooLarge,
			"The elements of the text lie more than %d deep within each other. Take some of them away.",
			article.MaxDepth,
		)
	case errors.Is(err, search.ErrNoSuch):
		return say(NotFound, "The search does not know this article: it is not live.")
	case errors.Is(err, search.ErrTooLong):
		return say(
			TooLong,
			"A question can have at most %d characters. Shorten it to what you want to know.",
			search.MaxQuery,
		)
	case errors.Is(err, flow.ErrNotNow),
		errors.Is(err, flow.ErrNoSuch),
		errors.Is(err, flow.ErrClosed),
		errors.Is(err, flow.ErrWithPeople):
		return say(NotNow, "That does not fit here: %s.", err)
	}
	return Problem{}, false
}

// Unkeepable reports whether an error is of a text that the database does not take: one
// with a zero byte, or that is no UTF-8 (PostgreSQL, Appendix A, class 22).
func Unkeepable(err error) bool {
	var refused *pgconn.PgError
	return errors.As(err, &refused) && (refused.Code == "22021" || refused.Code == "22P05")
}

// CleanText leaves out of a question what no text can hold.
func CleanText(words string) string {
	return strings.TrimSpace(strings.ReplaceAll(strings.ToValidUTF8(words, ""), "\x00", ""))
}

// TidyList trims entries and drops the empty and the doubled.
func TidyList(list []string) []string {
	out := []string{}
	for _, s := range list {
		if s = strings.Join(strings.Fields(s), " "); s != "" && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}
