package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/lists"
	"hermeneus/app/staff"
)

// listsAPI is what app/lists offers over HTTP.
func listsAPI(api huma.API, a *lists.Lists) {
	articleListAPI(api, a)
}

// articleListAPI lists articles.
func articleListAPI(api huma.API, a *lists.Lists) {
	staffCall(
		api,
		op("GET", "/api/staff/articles", "list-articles", "Articles, filtered"),
		func(ctx context.Context, _ staff.Staff, in *ArticleQuery) (*body[list[lists.ArticleLine]], error) {
			return wrapList(a.ListArticles(ctx, in.filter()))
		},
	)
}
