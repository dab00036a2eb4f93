package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/app/staff"
)

// requestsAPI is what app/requests offers over HTTP.
func requestsAPI(api huma.API, a *requests.Requests) {
	requestFormAPI(api, a)
	requestKindAPI(api, a)
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

// requestKindAPI sets what the request form asks for.
func requestKindAPI(api huma.API, a *requests.Requests) {
	type keeping struct {
		Body requests.RequestKind
	}
	type retiring struct {
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/sites/{site}/request-kinds",
			"list-request-kinds",
			"The kinds of request that a help centre's form offers",
		),
		func(ctx context.Context, _ staff.Staff, in *SiteNumber) (*body[[]requests.RequestKind], error) {
			return wrap(a.RequestKinds(ctx, in.Site))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/request-kinds", "keep-request-kind", "Make a kind of request, or change one"),
		func(ctx context.Context, who staff.Staff, in *keeping) (*body[MadeRow], error) {
			id, err := a.KeepRequestKind(ctx, who, in.Body)
			return wrap(MadeRow{id}, err)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/request-kinds/{id}", "do-retire-request-kind", "Take a kind of request from the form"),
		func(ctx context.Context, who staff.Staff, in *retiring) (*none, error) {
			return nil, a.RetireRequestKind(ctx, who, in.ID)
		},
	)
}
