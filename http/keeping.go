package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/keeping"
	"hermeneus/app/staff"
)

// keepingAPI is what app/keeping offers over HTTP.
func keepingAPI(api huma.API, a *keeping.Keeping) {
	periodsAPI(api, a)
}

// periodsAPI is for how long things are kept.
func periodsAPI(api huma.API, a *keeping.Keeping) {
	staffCall(
		api,
		op("GET", "/api/staff/keeping", "read-keeping", "For how many days things are kept"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[keeping.Periods], error) {
			return wrap(a.Keeping(ctx))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/keeping", "do-set-keeping", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[keeping.Periods]) (*none, error) {
			return nil, a.SetKeeping(ctx, who, in.Body)
		},
	)
}
