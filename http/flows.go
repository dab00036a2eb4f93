package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/flows"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
)

// flowsAPI is what app/flows offers over HTTP.
func flowsAPI(api huma.API, a *flows.Flows) {
	flowAPI(api, a)
}

func flowAPI(api huma.API, a *flows.Flows) {
	type FlowSlug struct {
		Slug string `path:"slug"`
	}
	type FlowSource struct {
		Source string `json:"source" doc:"The script, as JSON"`
	}
	type publishing struct {
		FlowSlug
		Body struct {
			FlowSource
			Base int `json:"base" doc:"The version it was made from; 0 for a new flow"`
		}
	}
	type version struct {
		Version int `json:"version"`
	}
	check := op("POST", "/api/staff/flow-checks", "check-flow", "What is wrong with a script")
	check.MaxBodyBytes = 4 << 20
	publish := op("PUT", "/api/staff/flows/{slug}", "publish-flow", "Publish a script as the live version")
	publish.MaxBodyBytes = 4 << 20
	staffCall(
		api,
		op("GET", "/api/staff/flows/{slug}", "read-flow", "The live version of a flow"),
		func(ctx context.Context, _ staff.Staff, in *FlowSlug) (*body[flows.FlowView], error) {
			return wrap(a.ReadFlow(ctx, in.Slug))
		},
	)
	staffCall(api, check, func(ctx context.Context, _ staff.Staff, in *body[FlowSource]) (*body[[]flow.Fault], error) {
		return wrap(a.CheckFlow(ctx, in.Body.Source))
	})
	staffCall(api, publish, func(ctx context.Context, who staff.Staff, in *publishing) (*body[version], error) {
		n, err := a.PublishFlow(ctx, who, in.Slug, in.Body.Source, in.Body.Base)
		return wrap(version{n}, err)
	})
}
