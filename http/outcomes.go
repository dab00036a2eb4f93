package http

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/hours"
	"hermeneus/core/outcome"
)

// outcomesAPI is what app/outcomes offers over HTTP.
func outcomesAPI(api huma.API, a *outcomes.Outcomes) {
	returnWindowAPI(api, a)
	figureAPI(api, a)
}

// returnWindowAPI is the time within which somebody who comes back is the same question.
func returnWindowAPI(api huma.API, a *outcomes.Outcomes) {
	type settings struct {
		Hours int `json:"return_window_hours" doc:"1 to 720"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/settings", "read-settings", "The settings"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[settings], error) {
			window, err := a.ReturnWindow(ctx)
			return wrap(settings{int(window.Hours())}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/settings", "do-change-settings", "Change the settings"),
		func(ctx context.Context, who staff.Staff, in *body[settings]) (*none, error) {
			return nil, a.SetReturnWindow(ctx, who, time.Duration(in.Body.Hours)*time.Hour)
		},
	)
}

func figureAPI(api huma.API, a *outcomes.Outcomes) {
	type key struct {
		Key string `query:"key" required:"true"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/outcomes", "read-outcomes", "The figures of a period"),
		func(ctx context.Context, who staff.Staff, in *figuresQuery) (*body[outcomes.Figures], error) {
			first, last, err := in.Dates.read(a.Now())
			if err != nil {
				return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
			}
			return wrap(a.Outcomes(ctx, who, first, last, in.split()))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/outcomes/choices", "read-outcome-choices", "What the figures can be split by"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[outcomes.Choices], error) {
			return wrap(a.Choices(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/ledger", "read-ledger", "The questions behind the figures"),
		func(ctx context.Context, who staff.Staff, in *ledgerQuery) (*body[list[outcomes.LedgerLine]], error) {
			filter := outcomes.LedgerFilter{
				Split:    in.split(),
				Again:    in.Again,
				Traced:   in.Traced,
				Followed: in.Followed,
				Group:    in.Group,
				Team:     in.Team,
				Outcome:  in.Outcome,
				Settling: in.Settling,
				Settled:  in.Settled,
				Article:  in.Article,
				Words:    in.Words,
				Page:     in.Page,
			}
			first, last, err := in.Dates.read(a.Now())
			if err != nil {
				return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
			}
			filter.Period = a.Days(first, last)
			return wrapList(a.Ledger(ctx, who, filter))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/question", "read-question", "One question with its evidence"),
		func(ctx context.Context, who staff.Staff, in *key) (*body[outcomes.LedgerQuestion], error) {
			return wrap(a.ReadQuestion(ctx, who, in.Key))
		},
	)
}

// Dates are days such as 2026-03-02; without them it is the last fortnight.
type Dates struct {
	From string `query:"from" format:"date" doc:"First day, in the site's zone"`
	To   string `query:"to" format:"date" doc:"Last day, included"`
}

// read gives the beginnings of the first and the last day, in the zone of now: without them, the
// last fourteen.
func (d Dates) read(now time.Time) (first, last time.Time, err error) {
	last = dayOf(now, 0)
	if d.To != "" {
		if last, err = readDay(d.To, now.Location()); err != nil {
			return
		}
	}
	first = dayOf(last, -13)
	if d.From != "" {
		first, err = readDay(d.From, now.Location())
	}
	return
}

// readDay gives the beginning of a day such as 2026-03-02. It is read without a zone first, since
// not every day has a midnight.
func readDay(text string, zone *time.Location) (time.Time, error) {
	day, err := time.Parse(time.DateOnly, text)
	y, m, d := day.Date()
	return hours.DayBegins(y, m, d, zone), err
}

// dayOf gives the beginning of the day of a time, or of one so many days later.
func dayOf(t time.Time, later int) time.Time {
	y, m, d := t.Date()
	return hours.DayBegins(y, m, d+later, t.Location())
}

// Split chooses the questions that figures are of.
type Split struct {
	Site     string          `query:"site" maxLength:"20" doc:"The help centre's number"`
	Channel  outcome.Channel `query:"channel"`
	Category string          `query:"category" maxLength:"20" doc:"The category's number"`
	Flow     string          `query:"flow" maxLength:"200" doc:"name@version"`
	Language string          `query:"language" maxLength:"20"`
	Since    string          `query:"since" pattern:"^[0-9A-F]{1,8}/[0-9A-F]{1,8}$" doc:"The state, as figures give it, that is the oldest to read"`
}

func (s Split) split() outcomes.Split {
	return outcomes.Split{
		Site:     s.Site,
		Channel:  s.Channel,
		Category: s.Category,
		Flow:     s.Flow,
		Language: s.Language,
		Since:    s.Since,
	}
}

type figuresQuery struct {
	Dates
	Split
}

type ledgerQuery struct {
	Dates
	Split
	Again    bool            `query:"again" doc:"Only those whose asker asked again"`
	Traced   string          `query:"traced" enum:"yes,no" doc:"Contacts before which something was looked for, or was not"`
	Followed string          `query:"followed" enum:"yes,no" doc:"Those of people who declined to be followed, or all others"`
	Group    string          `query:"group" maxLength:"100"`
	Team     string          `query:"team" maxLength:"100"`
	Outcome  outcome.Outcome `query:"outcome"`
	Settling bool            `query:"settling"`
	Settled  bool            `query:"settled"`
	Article  string          `query:"article"`
	Words    string          `query:"words" maxLength:"200"`
	Page     int             `query:"page" minimum:"1" maximum:"1000000" default:"1"`
}
