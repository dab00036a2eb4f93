package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/forms"
	"hermeneus/app/staff"
)

// formsAPI is what app/forms offers over HTTP.
func formsAPI(api huma.API, a *forms.Forms) {
	type keeping struct {
		Body forms.RequestKind
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
		func(ctx context.Context, _ staff.Staff, in *SiteNumber) (*body[[]forms.RequestKind], error) {
			return wrap(a.Kinds(ctx, in.Site))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/request-kinds", "keep-request-kind", "Make a kind of request, or change one"),
		func(ctx context.Context, who staff.Staff, in *keeping) (*body[MadeRow], error) {
			id, err := a.Keep(ctx, who, in.Body)
			return wrap(MadeRow{id}, err)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/request-kinds/{id}", "do-retire-request-kind", "Take a kind of request from the form"),
		func(ctx context.Context, who staff.Staff, in *retiring) (*none, error) {
			return nil, a.Retire(ctx, who, in.ID)
		},
	)
}
