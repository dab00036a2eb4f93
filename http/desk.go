package http

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/desk"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
)

// deskAPI is what app/desk offers over HTTP.
func deskAPI(api huma.API, a *desk.Desk) {
	articlePageAPI(api, a)
	todayAPI(api, a)
	articleFiguresAPI(api, a)
	trailAPI(api, a)
}

// articlePageAPI is an article with all that stands around it.
func articlePageAPI(api huma.API, a *desk.Desk) {
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}", "read-article", "An article with its working copy"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[desk.Article], error) {
			return wrap(a.ReadArticle(ctx, who, in.Reference))
		},
	)
}

// todayAPI is the page a day begins with.
func todayAPI(api huma.API, a *desk.Desk) {
	staffCall(
		api,
		op("GET", "/api/staff/today", "read-today", "What needs this person now"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[desk.Today], error) {
			return wrap(a.Today(ctx, who))
		},
	)
}

// articleFiguresAPI is how a live article is doing.
func articleFiguresAPI(api huma.API, a *desk.Desk) {
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/doing", "read-doing", "How the live article is doing"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[desk.ArticleFigures], error) {
			return wrap(a.ArticleFigures(ctx, in.Reference))
		},
	)
}

// trailAPI is who did what, and handing over what a leaver has.
func trailAPI(api huma.API, a *desk.Desk) {
	type trailFile struct {
		ContentType        string `header:"Content-Type"`
		ContentDisposition string `header:"Content-Disposition"`
		Body               []byte
	}
	type handingOver struct {
		PersonID
		Body desk.HandOver
	}
	staffCall(
		api,
		op("GET", "/api/staff/trail", "list-trail", "Who did what, the latest first"),
		func(ctx context.Context, who staff.Staff, in *TrailQuery) (*body[list[desk.TrailRow]], error) {
			f, err := in.filter(a.Now())
			if err != nil {
				return nil, err
			}
			return wrapList(a.Trail(ctx, who, f))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/trail-actions", "list-trail-actions", "The actions that the trail knows"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]string], error) {
			return wrap(a.TrailActions(ctx))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/trail/file", "export-trail", "The trail as CSV (RFC 4180)"),
		func(ctx context.Context, who staff.Staff, in *TrailQuery) (*trailFile, error) {
			f, err := in.filter(a.Now())
			if err != nil {
				return nil, err
			}
			raw, err := a.TrailFile(ctx, who, f)
			return &trailFile{"text/csv; charset=utf-8", `attachment; filename="trail.csv"`, raw}, err
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/people/{id}/belongings",
			"read-belongings",
			"Everything that is somebody's to look after",
		),
		func(ctx context.Context, who staff.Staff, in *PersonID) (*body[desk.Belongings], error) {
			return wrap(a.ReadBelongings(ctx, who, in.ID))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/people/{id}/hand-over", "hand-over", "Give everything that is somebody's to others"),
		func(ctx context.Context, who staff.Staff, in *handingOver) (*body[desk.HandedOver], error) {
			return wrap(a.HandOverAll(ctx, who, in.ID, in.Body))
		},
	)
}

// TrailQuery is the filter of the trail, as an address holds it.
type TrailQuery struct {
	Dates
	Article  string `query:"article" maxLength:"20"`
	Category int64  `query:"category" doc:"And all below it"`
	Who      int64  `query:"who" doc:"-1 for the program itself"`
	Action   string `query:"action" maxLength:"60"`
	Words    string `query:"words" maxLength:"200"`
	Page     int    `query:"page" minimum:"1" maximum:"1000000" default:"1"`
}

func (q TrailQuery) filter(now time.Time) (desk.TrailFilter, error) {
	f := desk.TrailFilter{
		Article:    q.Article,
		CategoryID: q.Category,
		StaffID:    q.Who,
		Action:     q.Action,
		Words:      q.Words,
		Page:       q.Page,
	}
	first, last, err := q.read(now)
	if err != nil {
		return f, &problem.Problem{Kind: problem.Invalid, Detail: "A day is written as 2026-03-02."}
	}
	if q.From != "" {
		f.From = first
	}
	if q.To != "" {
		f.To = dayOf(last, 1)
	}
	return f, nil
}
