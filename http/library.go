package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/staff"
)

// libraryAPI is what app/library offers over HTTP.
func libraryAPI(api huma.API, a *library.Library) {
	arrangeAPI(api, a)
	knownProblemListAPI(api, a)
	uploadAPI(api, a)
	categoryAPI(api, a)
	articleAPI(api, a)
	revisionAPI(api, a)
	sourceAPI(api, a)
	templateAPI(api, a)
}

// arrangeAPI puts things in their places: the tree, lists, known problems, sites.
func arrangeAPI(api huma.API, a *library.Library) {
	type movingCategory struct {
		CategoryID
		Body library.Place
	}
	type merging struct {
		CategoryID
		Body struct {
			Into int64 `json:"into"`
		}
	}
	type picturing struct {
		CategoryID
		Body struct {
			Hash string `json:"hash" doc:"Of a kept picture; empty for none"`
		}
	}
	type movingArticle struct {
		ArticleRef
		Body library.Place
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/categories/{id}/move",
			"do-move-category",
			"Put a category, with everything in it, elsewhere",
		),
		func(ctx context.Context, who staff.Staff, in *movingCategory) (*none, error) {
			return nil, a.MoveCategory(ctx, who, in.ID, in.Body)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/categories/{id}/merge",
			"do-merge-category",
			"Put everything of a category into another and remove it",
		),
		func(ctx context.Context, who staff.Staff, in *merging) (*none, error) {
			return nil, a.MergeCategory(ctx, who, in.ID, in.Body.Into)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}/picture", "do-set-category-picture", "Give a category a picture"),
		func(ctx context.Context, who staff.Staff, in *picturing) (*none, error) {
			return nil, a.SetCategoryPicture(ctx, who, in.ID, in.Body.Hash)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/move", "do-move-article", "Put an article elsewhere"),
		func(ctx context.Context, who staff.Staff, in *movingArticle) (*none, error) {
			return nil, a.MoveArticle(ctx, who, in.Reference, in.Body)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/audiences", "list-audiences", "Who exactly each audience is"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.AudienceCount], error) {
			return wrap(a.Audiences(ctx))
		},
	)
}

// knownProblemListAPI lists known problems.
func knownProblemListAPI(api huma.API, a *library.Library) {
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/known-problems",
			"list-known-problems",
			"Causes that interim articles wait for the end of",
		),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.KnownProblem], error) {
			return wrap(a.KnownProblems(ctx))
		},
	)
}

// uploadAPI takes pictures, films and attachments.
func uploadAPI(api huma.API, a *library.Library) {
	type upload struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}
	attach := op("POST", "/api/staff/attachments", "keep-attachment", "Keep a file to be fetched from an article")
	attach.MaxBodyBytes = library.MaxAttachment + 1<<20
	keep := op("POST", "/api/staff/media", "keep-media", "Keep a picture or a film for use in articles")
	keep.MaxBodyBytes = library.MaxFilm + 1<<20
	staffCall(api, keep, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(a.KeepMedia(ctx, who, in.RawBody))
	})
	staffCall(api, attach, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(a.KeepAttachment(ctx, who, in.RawBody))
	})
}

func categoryAPI(api huma.API, a *library.Library) {
	type addedCategory struct {
		ID int64 `json:"id"`
	}
	type changing struct {
		CategoryID
		Body library.NewCategory
	}
	type removing struct {
		CategoryID
		MoveTo int64 `query:"move_to" doc:"The category that what it holds goes to"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/categories", "list-categories", "The category tree"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.Category], error) {
			return wrap(a.Tree(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/categories", "add-category", "Add a category"),
		func(ctx context.Context, who staff.Staff, in *body[library.NewCategory]) (*body[addedCategory], error) {
			id, err := a.AddCategory(ctx, who, in.Body)
			return wrap(addedCategory{id}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}", "do-change-category", "Change a category"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			return nil, a.ChangeCategory(ctx, who, in.ID, in.Body)
		},
	)
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/categories/{id}",
			"remove-category",
			"Remove a category that is empty, or whose contents go elsewhere",
		),
		func(ctx context.Context, who staff.Staff, in *removing) (*none, error) {
			return nil, a.RemoveCategory(ctx, who, in.ID, in.MoveTo)
		},
	)
}

func articleAPI(api huma.API, a *library.Library) {
	type begunArticle struct {
		Reference string `json:"reference"`
	}
	type setting struct {
		ArticleRef
		Body library.Properties
	}
	create := op("POST", "/api/staff/articles", "create-article", "Begin an article")
	create.MaxBodyBytes = articleBody
	staffCall(
		api,
		create,
		func(ctx context.Context, who staff.Staff, in *body[library.NewArticle]) (*body[begunArticle], error) {
			ref, err := a.CreateArticle(ctx, who, in.Body)
			return wrap(begunArticle{ref}, err)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/articles/{reference}/properties",
			"do-set-properties",
			"Change category, owner, kind or audience",
		),
		func(ctx context.Context, who staff.Staff, in *setting) (*none, error) {
			return nil, a.SetProperties(ctx, who, in.Reference, in.Body)
		},
	)
}

// ArticleRef names an article in a path.
type ArticleRef struct {
	Reference string `path:"reference" example:"A-0042"`
}

// CategoryID names a category in a path.
type CategoryID struct {
	ID int64 `path:"id"`
}
