package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/flows"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
)

// RehearsalPath names a rehearsal of a flow in an address.
type RehearsalPath struct {
	FlowSlug
	ID int64 `path:"id"`
}

func rehearsalsAPI(api huma.API, a *flows.Flows) {
	type rehearsalKeeping struct {
		FlowSlug
		Body struct {
			Name  string          `json:"name"`
			Trial flows.FlowTrial `json:"trial" doc:"the conversation, as it is had with a script"`
		}
	}
	type rehearsalAcceptance struct {
		RehearsalPath
		Body struct {
			Source string `json:"source" doc:"the script with which it goes as it should"`
		}
	}
	keep := op("POST", "/api/staff/flows/{slug}/rehearsals", "keep-rehearsal",
		"Keep a conversation that the flow must go on having")
	keep.MaxBodyBytes = apiLimit
	accept := op("POST", "/api/staff/flows/{slug}/rehearsals/{id}/accepted", "accept-rehearsal",
		"Say that a rehearsal should go as it does with a script")
	accept.MaxBodyBytes = apiLimit
	staffCall(api, keep,
		func(ctx context.Context, who staff.Staff, in *rehearsalKeeping) (*body[flows.RehearsalLine], error) {
			return wrap(a.Rehearsals.Keep(ctx, who, in.Slug, in.Body.Name, in.Body.Trial))
		})
	staffCall(api, accept, func(ctx context.Context, who staff.Staff, in *rehearsalAcceptance) (*none, error) {
		return nil, a.Rehearsals.Accept(ctx, who, in.Slug, in.ID, in.Body.Source)
	})
	staffCall(
		api,
		op("GET", "/api/staff/flows/{slug}/rehearsals/{id}", "read-rehearsal", "A rehearsal, as the command takes it"),
		func(ctx context.Context, _ staff.Staff, in *RehearsalPath) (*body[flow.Rehearsal], error) {
			return wrap(a.Rehearsals.Read(ctx, in.Slug, in.ID))
		},
	)
	staffCall(api, op("DELETE", "/api/staff/flows/{slug}/rehearsals/{id}", "remove-rehearsal", "Let a rehearsal go"),
		func(ctx context.Context, who staff.Staff, in *RehearsalPath) (*none, error) {
			return nil, a.Rehearsals.Remove(ctx, who, in.Slug, in.ID)
		})
}
