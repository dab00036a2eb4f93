package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/notify"
	"hermeneus/app/staff"
)

// notifyAPI is what app/notify offers over HTTP.
func notifyAPI(api huma.API, a *notify.Notify) {
	newsAPI(api, a)
}

// newsAPI is what people are told, and what was done.
func newsAPI(api huma.API, a *notify.Notify) {
	type newsQuery struct {
		Kind string `query:"kind" maxLength:"40"`
		Page int    `query:"page" minimum:"1" maximum:"1000000" default:"1"`
	}
	type unreadNews struct {
		Unread int `json:"unread"`
	}
	type readNews struct {
		Body struct {
			ID int64 `json:"id" doc:"0 for all"`
		}
	}
	staffCall(
		api,
		op("GET", "/api/staff/news", "list-news", "What one was told, the newest first"),
		func(ctx context.Context, who staff.Staff, in *newsQuery) (*body[notify.NewsPage], error) {
			return wrap(a.News(ctx, who, in.Kind, in.Page))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/news/unread", "count-news", "How much of it is unread"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[unreadNews], error) {
			n, err := a.UnreadNews(ctx, who)
			return wrap(unreadNews{n}, err)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/news/read", "do-read-news", "Note that it was read"),
		func(ctx context.Context, who staff.Staff, in *readNews) (*none, error) {
			return nil, a.MarkNewsRead(ctx, who, in.Body.ID)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/news/wishes", "read-news-wishes", "What one wants to be told, and how"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[notify.NewsWishes], error) {
			return wrap(a.ReadNewsWishes(ctx, who))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/news/wishes", "do-keep-news-wishes", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[notify.NewsWishes]) (*none, error) {
			return nil, a.KeepNewsWishes(ctx, who, in.Body)
		},
	)
}
