package http

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
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
		func(ctx context.Context, who staff.Staff, in *Dates) (*body[outcomes.Figures], error) {
			first, last, err := in.read(a.Now())
			if err != nil {
				return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
			}
			return wrap(a.Outcomes(ctx, who, first, last))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/ledger", "read-ledger", "The questions behind the figures"),
		func(ctx context.Context, who staff.Staff, in *ledgerQuery) (*body[list[outcomes.LedgerLine]], error) {
			filter := outcomes.LedgerFilter{
				Outcome:  in.Outcome,
				Settling: in.Settling,
				Settled:  in.Settled,
				Channel:  in.Channel,
				Article:  in.Article,
				Words:    in.Words,
				Page:     in.Page,
			}
			if in.From != "" || in.To != "" {
				first, last, err := in.Dates.read(a.Now())
				if err != nil {
					return nil, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
				}
				filter.Period = a.Days(first, last)
			}
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
