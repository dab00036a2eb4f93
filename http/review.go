package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

// reviewAPI is what app/review offers over HTTP.
func reviewAPI(api huma.API, a *review.Review) {
	knownProblemAPI(api, a)
	pathsAPI(api, a)
	roundAPI(api, a)
	commentAPI(api, a)
	batchAPI(api, a)
	recheckAPI(api, a)
}

func knownProblemAPI(api huma.API, a *review.Review) {
	type named struct {
		Name string `json:"name"`
	}
	type telling struct {
		JobID
		Body review.NewNotice
	}
	staffCall(
		api,
		op("POST", "/api/staff/known-problems", "add-known-problem", "Open a known problem"),
		func(ctx context.Context, who staff.Staff, in *body[named]) (*body[library.KnownProblem], error) {
			return wrap(a.Rechecks.AddKnownProblem(ctx, who, in.Body.Name))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/known-problems/{id}/solve", "do-solve-known-problem", "Solve a known problem"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*none, error) {
			return nil, a.Rechecks.SolveKnownProblem(ctx, who, in.ID)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/known-problems/{id}/notice",
			"do-set-notice",
			"Change what customers are told of a known problem",
		),
		func(ctx context.Context, who staff.Staff, in *telling) (*none, error) {
			return nil, a.Rechecks.SetNotice(ctx, who, in.ID, in.Body)
		},
	)
}

// pathsAPI is who reviews what.
func pathsAPI(api huma.API, a *review.Review) {
	type pathBody struct {
		Name     string            `json:"name"`
		Gates    []corereview.Gate `json:"gates"`
		Standard bool              `json:"standard,omitempty"`
	}
	type PathID struct {
		ID int64 `path:"id"`
	}
	type pathChange struct {
		PathID
		Body pathBody
	}
	type keptPath struct {
		ID int64 `json:"id"`
	}
	type reviewingChange struct {
		CategoryID
		Body struct {
			PathID    int64 `json:"path_id" doc:"0 for its parent's"`
			StewardID int64 `json:"steward_id" doc:"0 for its parent's"`
		}
	}
	keep := func(ctx context.Context, who staff.Staff, id int64, b pathBody) (*body[keptPath], error) {
		kept, err := a.KeepPath(ctx, who, id, corereview.Path{Name: b.Name, Gates: b.Gates}, b.Standard)
		return wrap(keptPath{kept}, err)
	}
	staffCall(
		api,
		op("GET", "/api/staff/paths", "list-paths", "The review paths"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]review.ReviewPath], error) {
			return wrap(a.Paths(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/paths", "add-path", "Make a review path"),
		func(ctx context.Context, who staff.Staff, in *body[pathBody]) (*body[keptPath], error) {
			return keep(ctx, who, 0, in.Body)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/paths/{id}",
			"change-path",
			"Change a review path; what is in review stays on it as it was",
		),
		func(ctx context.Context, who staff.Staff, in *pathChange) (*body[keptPath], error) {
			return keep(ctx, who, in.ID, in.Body)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/paths/{id}", "retire-path", "Take a review path out of use"),
		func(ctx context.Context, who staff.Staff, in *PathID) (*none, error) {
			return nil, a.RetirePath(ctx, who, in.ID)
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/categories/{id}/reviewing",
			"read-reviewing",
			"Which path and which steward hold for a category",
		),
		func(ctx context.Context, _ staff.Staff, in *CategoryID) (*body[review.Reviewing], error) {
			return wrap(a.ReviewingOf(ctx, in.ID))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}/reviewing", "do-set-reviewing", "Choose its path and steward"),
		func(ctx context.Context, who staff.Staff, in *reviewingChange) (*none, error) {
			return nil, a.SetReviewing(ctx, who, in.ID, in.Body.PathID, in.Body.StewardID)
		},
	)
}

// roundAPI is a text on its way through the gates.
func roundAPI(api huma.API, a *review.Review) {
	type acting struct {
		ArticleRef
		Body StepBody
	}
	type handing struct {
		ArticleRef
		Body struct {
			To   int64  `json:"to"`
			Note string `json:"note,omitempty"`
		}
	}
	type touching struct {
		ArticleRef
		Audience audience.Audience `query:"audience" maxLength:"50" doc:"As if it were for them: everyone, signed_in, staff, or group: and a group's key"`
	}
	type confirming struct {
		ArticleRef
		Body struct {
			Note string `json:"note,omitempty"`
		}
	}
	type following struct {
		ArticleRef
		Body struct {
			Follow bool `json:"follow"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/actions", "do-act", "Move an article along its way"),
		func(ctx context.Context, who staff.Staff, in *acting) (*none, error) {
			return nil, a.Move(ctx, who, in.Reference, in.Body.step())
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/lanes", "list-lanes", "What is on its way, by gate"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[[]review.Lane], error) {
			return wrap(a.Queue(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/round", "read-round", "How a working copy stands on its path"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[review.ReviewRound], error) {
			return wrap(a.ReadRound(ctx, who, in.Reference))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/hand-on", "do-hand-on", "Ask one person to decide"),
		func(ctx context.Context, who staff.Staff, in *handing) (*none, error) {
			return nil, a.Reassign(ctx, who, in.Reference, in.Body.To, in.Body.Note)
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/articles/{reference}/touches",
			"read-touches",
			"What publishing or withdrawing it touches",
		),
		func(ctx context.Context, _ staff.Staff, in *touching) (*body[review.Impact], error) {
			return wrap(a.Impact(ctx, in.Reference, in.Audience))
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/articles/{reference}/end", "drop-end", "Take back that it ends at a set time"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*none, error) {
			return nil, a.DropEnd(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/still-true", "do-still-true", "Confirm a live article as it is"),
		func(ctx context.Context, who staff.Staff, in *confirming) (*none, error) {
			return nil, a.Rechecks.StillTrue(ctx, who, in.Reference, in.Body.Note)
		},
	)
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/articles/{reference}/still-true",
			"undo-still-true",
			"Take one's own confirmation back, within the hour",
		),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*none, error) {
			return nil, a.Rechecks.NotStillTrue(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/articles/{reference}/following", "do-follow", "Be told of what happens to it, or not"),
		func(ctx context.Context, who staff.Staff, in *following) (*none, error) {
			return nil, a.Rechecks.Follow(ctx, who, in.Reference, in.Body.Follow)
		},
	)
}

// recheckAPI is how often articles are looked at again.
func recheckAPI(api huma.API, a *review.Review) {
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/recheck-rule",
			"read-recheck-rule",
			"After how many days each kind of article must be confirmed",
		),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[map[string]int], error) {
			return wrap(a.Rechecks.RecheckBase(ctx))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/recheck-rule", "do-set-recheck-rule", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[map[string]int]) (*none, error) {
			return nil, a.Rechecks.SetRecheckBase(ctx, who, in.Body)
		},
	)
}
