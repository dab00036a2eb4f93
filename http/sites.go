package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/sites"
	"hermeneus/app/staff"
)

// sitesAPI is what app/sites offers over HTTP.
func sitesAPI(api huma.API, a *sites.Sites) {
	siteAPI(api, a)
}

func siteAPI(api huma.API, a *sites.Sites) {
	type madeSite struct {
		ID int64 `json:"id"`
	}
	type changing struct {
		SiteID
		Body sites.Site
	}
	staffCall(
		api,
		op("GET", "/api/staff/sites", "list-sites", "The help centres"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]sites.Site], error) {
			return wrap(a.Sites(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/sites", "add-site", "Add a help centre"),
		func(ctx context.Context, who staff.Staff, in *body[sites.Site]) (*body[madeSite], error) {
			in.Body.ID = 0
			id, err := a.KeepSite(ctx, who, in.Body)
			return wrap(madeSite{id}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/sites/{id}", "do-change-site", "Change a help centre"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			in.Body.ID = in.ID
			_, err := a.KeepSite(ctx, who, in.Body)
			return nil, err
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/sites/{id}", "remove-site", "Remove a help centre"),
		func(ctx context.Context, who staff.Staff, in *SiteID) (*none, error) {
			return nil, a.RemoveSite(ctx, who, in.ID)
		},
	)
}

// SiteID names a help centre in a path.
type SiteID struct {
	ID int64 `path:"id"`
}
