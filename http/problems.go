package http

import (
	"errors"
	"log/slog"
	"net/http"
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/instance"
	"hermeneus/app/problem"
)

// Problem is the one shape of an error (RFC 9457), with a list of what is wrong
// with which field.
type Problem struct {
	Type   string         `json:"type" doc:"What sort of problem this is: the last part is stable and can be relied on." format:"uri-reference"`
	Title  string         `json:"title"`
	Status int            `json:"status"`
	Detail string         `json:"detail" doc:"What happened and what to do, in words for people."`
	Errors []ProblemField `json:"errors,omitempty"`
}

// ProblemField is what is wrong with one field.
type ProblemField struct {
	Field   string `json:"field"`
	Message string `json:"message"`
}

func (p *Problem) Error() string { return p.Detail }

// GetStatus gives the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType is that of RFC 9457.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

var kinds = map[problem.Kind]struct {
	status int
	title  string
}{
	problem.Invalid:    {http.StatusUnprocessableEntity, "Some fields need another look"},
	problem.NotFound:   {http.StatusNotFound, "Not found"},
	problem.Withdrawn:  {http.StatusGone, "Withdrawn"},
	problem.Ended:      {http.StatusGone, "Ended"},
	problem.Denied:     {http.StatusForbidden, "Not allowed"},
	problem.NotNow:     {http.StatusConflict, "Not possible now"},
	problem.StaleSave:  {http.StatusConflict, "Changed since"},
	problem.TooLarge:   {http.StatusRequestEntityTooLarge, "Too large"},
	problem.TooLong:    {http.StatusUnprocessableEntity, "The question is too long"},
	problem.TooDeep:    {http.StatusUnprocessableEntity, "The tree is too deep"},
	problem.TooMany:    {http.StatusTooManyRequests, "Too many requests"},
	problem.NotSigned:  {http.StatusUnauthorized, "Not signed in"},
	problem.WrongLogin: {http.StatusUnauthorized, "The sign-in is not right"},
	problem.Held:       {http.StatusLocked, "Somebody else is writing"},
	problem.BadFile:    {http.StatusUnsupportedMediaType, "This file cannot be used"},
}

// toProblem is the one place where errors become problem documents.
func toProblem(err error) *Problem {
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	var known *problem.Problem
	if errors.As(err, &known) {
		k := kinds[known.Kind]
		out := &Problem{Type: "/problems/" + string(known.Kind), Title: k.title, Status: k.status, Detail: known.Detail}
		for _, f := range known.Fields {
			out.Errors = append(out.Errors, ProblemField{f.Name, f.Message})
		}
		return out
	}
	var before *instance.MadeBefore
	if errors.As(err, &before) {
		return toProblem(&problem.Problem{Kind: problem.NotNow, Detail: before.Error()})
	}
	if problem.Unkeepable(err) {
		return toProblem(
			&problem.Problem{
				Kind:   problem.Invalid,
				Detail: "The text holds a character that cannot be kept, such as a zero byte. Take it out, and try again.",
			},
		)
	}
	return plainProblem(
		http.StatusInternalServerError,
		"Something went wrong on our side. Nothing you typed is lost; try again in a moment.",
	)
}

func plainProblem(status int, detail string) *Problem {
	title := http.StatusText(status)
	if title == "" {
		title = "Error"
	}
	return &Problem{Type: "about:blank", Title: title, Status: status, Detail: detail}
}

// newError gives the framework's own refusals the same shape. It leaves out the
// values that were sent, which may be secret.
func newError(status int, message string, errs ...error) huma.StatusError {
	p := plainProblem(status, message)
	if status == http.StatusUnprocessableEntity || status == http.StatusBadRequest {
		p.Type, p.Title = "/problems/"+string(problem.Invalid), kinds[problem.Invalid].title
	}
	if status == http.StatusRequestEntityTooLarge {
		p.Type, p.Title = "/problems/"+string(problem.TooLarge), kinds[problem.TooLarge].title
	}
	for _, err := range errs {
		var detail huma.ErrorDetailer
		switch {
		case errors.As(err, &detail):
			d := detail.ErrorDetail()
			p.Errors = append(p.Errors, ProblemField{d.Location, d.Message})
		case status >= 500:
			slog.Error("a request failed", "error", err)
		case err != nil:
			p.Errors = append(p.Errors, ProblemField{"", err.Error()})
		}
	}
	return p
}

// answer turns an error of a use case into what the framework sends.
func answer(err error) error {
	if err == nil {
		return nil
	}
	p := toProblem(err)
	if p.Status >= 500 {
		slog.Error("a request failed", "error", err)
	}
	return p
}

// noNilLists sends an empty list where a list is empty, so that no reader of the
// API has to tell nothing from null.
func noNilLists(_ huma.Context, _ string, v any) (any, error) {
	value := reflect.ValueOf(v)
	if !value.IsValid() {
		return v, nil
	}
	copied := reflect.New(value.Type()).Elem()
	copied.Set(value)
	fillLists(copied)
	return copied.Interface(), nil
}

func fillLists(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			fillLists(v.Elem())
		}
	case reflect.Slice:
		if v.IsNil() && v.CanSet() {
			v.Set(reflect.MakeSlice(v.Type(), 0, 0))
		}
		if v.Type().Elem().Kind() != reflect.Uint8 {
			for i := range v.Len() {
				fillLists(v.Index(i))
			}
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Field(i); f.CanSet() {
				fillLists(f)
			}
		}
	}
}
