package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/evidence"
	"hermeneus/app/staff"
)

// evidenceAPI is what app/evidence offers over HTTP.
func evidenceAPI(api huma.API, a *evidence.Recorder) {
	type newcomers struct {
		PerHour int `json:"per_hour" doc:"New askers of one network within an hour that are likely to be people"`
	}
	publicCall(
		api,
		op("POST", "/api/help/seen", "do-be-seen", "The script of a page reports that somebody looks at it"),
		func(ctx context.Context, _ *none) (*none, error) {
			return nil, a.Look(visitorOf(ctx))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/newcomers", "read-newcomers", "How many new askers of one network are likely"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[newcomers], error) {
			most, err := a.Newcomers(ctx)
			return wrap(newcomers{most}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/newcomers", "do-set-newcomers", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[newcomers]) (*none, error) {
			return nil, a.SetNewcomers(ctx, who, in.Body.PerHour)
		},
	)
}
