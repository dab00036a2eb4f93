package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/requests"
	"hermeneus/app/search"
)

// requestsAPI is what app/requests offers over HTTP.
func requestsAPI(api huma.API, a *requests.Requests) {
	requestFormAPI(api, a)
}

// requestFormAPI offers answers while a request is written.
func requestFormAPI(api huma.API, a *requests.Requests) {
	type subject struct {
		Subject string `json:"subject,omitempty"`
		Text    string `json:"text,omitempty" doc:"The description, as far as it is typed"`
	}
	publicCall(
		api,
		op("POST", "/api/help/offers", "offer-for-form", "Answers to a request that is being typed"),
		func(ctx context.Context, in *body[subject]) (*body[[]search.Result], error) {
			return wrap(a.OfferForForm(ctx, visitorOf(ctx), in.Body.Subject, in.Body.Text))
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/help/articles/{reference}/answered",
			"do-answer-in-form",
			"An article offered beside the request form answered what was asked",
		),
		func(ctx context.Context, in *ArticleRef) (*none, error) {
			return nil, a.AnsweredInForm(ctx, visitorOf(ctx), in.Reference)
		},
	)
}
