package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/jobs"
	"hermeneus/app/library"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/app/sites"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
)

// arrangeAPI puts things in their places: the tree, lists, known problems, sites.
func (s *server) arrangeAPI(api huma.API) {
	type movingCategory struct {
		CategoryID
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
			return nil, s.app.Library.MoveCategory(ctx, who, in.ID, in.Body)
		},
	)
	type merging struct {
		CategoryID
		Body struct {
			Into int64 `json:"into"`
		}
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/categories/{id}/merge",
			"do-merge-category",
			"Put everything of a category into another and remove it",
		),
		func(ctx context.Context, who staff.Staff, in *merging) (*none, error) {
			return nil, s.app.Library.MergeCategory(ctx, who, in.ID, in.Body.Into)
		},
	)
	type picturing struct {
		CategoryID
		Body struct {
			Hash string `json:"hash" doc:"Of a kept picture; empty for none"`
		}
	}
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}/picture", "do-set-category-picture", "Give a category a picture"),
		func(ctx context.Context, who staff.Staff, in *picturing) (*none, error) {
			return nil, s.app.Library.SetCategoryPicture(ctx, who, in.ID, in.Body.Hash)
		},
	)
	type movingArticle struct {
		ArticleRef
		Body library.Place
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/move", "do-move-article", "Put an article elsewhere"),
		func(ctx context.Context, who staff.Staff, in *movingArticle) (*none, error) {
			return nil, s.app.Library.MoveArticle(ctx, who, in.Reference, in.Body)
		},
	)
	type finding struct {
		Words string `query:"words" maxLength:"200"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/find", "find", "Find articles of any state while typing"),
		func(ctx context.Context, _ staff.Staff, in *finding) (*body[[]search.Found], error) {
			return wrap(s.app.Search.Find(ctx, in.Words))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/audiences", "list-audiences", "Who exactly each audience is"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.AudienceCount], error) {
			return wrap(s.app.Library.Audiences(ctx))
		},
	)
	s.bulkAPI(api)
	s.knownProblemAPI(api)
	s.siteAPI(api)
}

// JobID names a job in a path.
type JobID struct {
	ID int64 `path:"id"`
}

// begunJob is a job that was asked for.
type begunJob struct {
	ID int64 `json:"id"`
}

func (s *server) bulkAPI(api huma.API) {
	summarise := op("POST", "/api/staff/bulk-summaries", "summarise-bulk", "What a change to many articles would do")
	staffCall(
		api,
		summarise,
		func(ctx context.Context, who staff.Staff, in *body[writing.Bulk]) (*body[writing.BulkSummary], error) {
			return wrap(s.app.Writing.SummariseBulk(ctx, who, in.Body))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/bulk-changes", "begin-bulk", "Change many articles"),
		func(ctx context.Context, who staff.Staff, in *body[writing.Bulk]) (*body[begunJob], error) {
			id, err := s.app.Writing.AskBulk(ctx, who, in.Body)
			return wrap(begunJob{id}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/jobs/{id}", "read-job", "How far a job is"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*body[jobs.Job], error) {
			return wrap(s.app.Jobs.ReadJob(ctx, who, in.ID))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/jobs/{id}/undo", "undo-bulk", "Take a change to many articles back"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*body[begunJob], error) {
			id, err := s.app.Writing.AskUndo(ctx, who, in.ID)
			return wrap(begunJob{id}, err)
		},
	)
}

func (s *server) knownProblemAPI(api huma.API) {
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/known-problems",
			"list-known-problems",
			"Causes that interim articles wait for the end of",
		),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.KnownProblem], error) {
			return wrap(s.app.Library.KnownProblems(ctx))
		},
	)
	type named struct {
		Name string `json:"name"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/known-problems", "add-known-problem", "Open a known problem"),
		func(ctx context.Context, who staff.Staff, in *body[named]) (*body[library.KnownProblem], error) {
			return wrap(s.app.Review.AddKnownProblem(ctx, who, in.Body.Name))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/known-problems/{id}/solve", "do-solve-known-problem", "Solve a known problem"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*none, error) {
			return nil, s.app.Review.SolveKnownProblem(ctx, who, in.ID)
		},
	)
	type telling struct {
		JobID
		Body review.NewNotice
	}
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/known-problems/{id}/notice",
			"do-set-notice",
			"Change what customers are told of a known problem",
		),
		func(ctx context.Context, who staff.Staff, in *telling) (*none, error) {
			return nil, s.app.Review.SetNotice(ctx, who, in.ID, in.Body)
		},
	)
}

// SiteID names a help centre in a path.
type SiteID struct {
	ID int64 `path:"id"`
}

func (s *server) siteAPI(api huma.API) {
	type madeSite struct {
		ID int64 `json:"id"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/sites", "list-sites", "The help centres"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]sites.Site], error) {
			return wrap(s.app.Sites.Sites(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/sites", "add-site", "Add a help centre"),
		func(ctx context.Context, who staff.Staff, in *body[sites.Site]) (*body[madeSite], error) {
			in.Body.ID = 0
			id, err := s.app.Sites.KeepSite(ctx, who, in.Body)
			return wrap(madeSite{id}, err)
		},
	)
	type changing struct {
		SiteID
		Body sites.Site
	}
	staffCall(
		api,
		op("PUT", "/api/staff/sites/{id}", "do-change-site", "Change a help centre"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			in.Body.ID = in.ID
			_, err := s.app.Sites.KeepSite(ctx, who, in.Body)
			return nil, err
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/sites/{id}", "remove-site", "Remove a help centre"),
		func(ctx context.Context, who staff.Staff, in *SiteID) (*none, error) {
			return nil, s.app.Sites.RemoveSite(ctx, who, in.ID)
		},
	)
}
