package http

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/desk"
	"hermeneus/app/library"
	"hermeneus/app/problem"
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
			return wrap(a.AddKnownProblem(ctx, who, in.Body.Name))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/known-problems/{id}/solve", "do-solve-known-problem", "Solve a known problem"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*none, error) {
			return nil, a.SolveKnownProblem(ctx, who, in.ID)
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
			return nil, a.SetNotice(ctx, who, in.ID, in.Body)
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
			return nil, a.StillTrue(ctx, who, in.Reference, in.Body.Note)
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
			return nil, a.NotStillTrue(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/articles/{reference}/following", "do-follow", "Be told of what happens to it, or not"),
		func(ctx context.Context, who staff.Staff, in *following) (*none, error) {
			return nil, a.Follow(ctx, who, in.Reference, in.Body.Follow)
		},
	)
}

// commentAPI is what staff say of passages.
func commentAPI(api huma.API, a *review.Review) {
	type commenting struct {
		ArticleRef
		Body review.NewComment
	}
	type madeComment struct {
		ID int64 `json:"id"`
	}
	type commentReplying struct {
		CommentID
		Body struct {
			Text string `json:"text"`
		}
	}
	type resolving struct {
		CommentID
		Body struct {
			Resolved bool `json:"resolved"`
		}
	}
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/comments", "list-comments", "What was said of passages of a text"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]review.Comment], error) {
			return wrap(a.Comments(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/articles/{reference}/comments",
			"add-comment",
			"Say something of a passage, or suggest other words",
		),
		func(ctx context.Context, who staff.Staff, in *commenting) (*body[madeComment], error) {
			id, err := a.AddComment(ctx, who, in.Reference, in.Body)
			return wrap(madeComment{id}, err)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/comments/{id}/replies", "do-reply-to-comment", "Answer a comment"),
		func(ctx context.Context, who staff.Staff, in *commentReplying) (*none, error) {
			return nil, a.ReplyToComment(ctx, who, in.Reference, in.ID, in.Body.Text)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/articles/{reference}/comments/{id}/resolved",
			"do-resolve-comment",
			"Close a comment, or open it again",
		),
		func(ctx context.Context, who staff.Staff, in *resolving) (*none, error) {
			return nil, a.ResolveComment(ctx, who, in.Reference, in.ID, in.Body.Resolved)
		},
	)
}

// batchAPI is working copies that go live together.
func batchAPI(api huma.API, a *review.Review) {
	type making struct {
		Name       string   `json:"name"`
		Note       string   `json:"note,omitempty" doc:"For the change log of each"`
		References []string `json:"references"`
	}
	type madeBatch struct {
		ID int64 `json:"id"`
	}
	type changingBatch struct {
		BatchID
		Body struct {
			Name   string   `json:"name"`
			Note   string   `json:"note,omitempty"`
			Add    []string `json:"add,omitempty"`
			Remove []string `json:"remove,omitempty"`
		}
	}
	type actingOnBatch struct {
		BatchID
		Body StepBody
	}
	staffCall(
		api,
		op("GET", "/api/staff/batches", "list-batches", "Batches, the open ones first"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]review.BatchLine], error) {
			return wrap(a.Batches(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/batches", "make-batch", "Put working copies together"),
		func(ctx context.Context, who staff.Staff, in *body[making]) (*body[madeBatch], error) {
			id, err := a.MakeBatch(ctx, who, in.Body.Name, in.Body.Note, in.Body.References)
			return wrap(madeBatch{id}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/batches/{id}", "read-batch", "A batch with its members"),
		func(ctx context.Context, who staff.Staff, in *BatchID) (*body[review.Batch], error) {
			return wrap(a.ReadBatch(ctx, who, in.ID))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/batches/{id}", "do-change-batch", "Rename it, put in, take out"),
		func(ctx context.Context, who staff.Staff, in *changingBatch) (*none, error) {
			return nil, a.ChangeBatch(
				ctx,
				who,
				in.ID,
				in.Body.Name,
				in.Body.Note,
				in.Body.Add,
				in.Body.Remove,
			)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/batches/{id}/actions", "act-on-batch", "Review, schedule, publish or undo it as one"),
		func(ctx context.Context, who staff.Staff, in *actingOnBatch) (*body[review.BatchDone], error) {
			return wrap(a.ActOnBatch(ctx, who, in.ID, in.Body.step()))
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
			return wrap(a.RecheckBase(ctx))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/recheck-rule", "do-set-recheck-rule", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[map[string]int]) (*none, error) {
			return nil, a.SetRecheckBase(ctx, who, in.Body)
		},
	)
}

// StepBody is something that a person does to an article, or a batch, on its way.
type StepBody struct {
	Action   corereview.Action `json:"action" enum:"submit,recall,approve,send_back,publish,schedule,unschedule,withdraw,undo,give_up"`
	Version  int               `json:"version,omitempty" doc:"The version that was looked at"`
	Gate     string            `json:"gate,omitempty" doc:"That it stood before when it was looked at"`
	Seen     corereview.State  `json:"seen,omitempty" doc:"The state in which it was looked at, such as in_review"`
	Stand    string            `json:"stand,omitempty" doc:"Of a batch: how it stood when it was looked at"`
	Note     string            `json:"note,omitempty" doc:"The decision note"`
	Audience audience.Audience `json:"audience,omitempty" doc:"Who may see it from then on"`
	Change   string            `json:"change,omitempty" doc:"For the change log"`
	At       string            `json:"at,omitempty" doc:"When, on the clocks of the help centre, such as 2026-03-02T09:30; empty for now"`
	Second   bool              `json:"second,omitempty" doc:"Of a time that clocks show twice, the later"`
	To       string            `json:"to,omitempty" doc:"Where readers of a withdrawn article are sent"`
	Notice   string            `json:"notice,omitempty" doc:"Or what they are told"`
}

func (b StepBody) step() review.Step {
	return review.Step{
		Action:   b.Action,
		Version:  b.Version,
		Seen:     b.Seen,
		Stand:    b.Stand,
		Gate:     b.Gate,
		Note:     b.Note,
		Audience: b.Audience,
		Change:   b.Change,
		Wall:     b.At,
		Second:   b.Second,
		To:       b.To,
		Notice:   b.Notice,
	}
}

// CommentID names a comment of an article in a path.
type CommentID struct {
	ArticleRef
	ID int64 `path:"id"`
}

// BatchID names a batch in a path.
type BatchID struct {
	ID int64 `path:"id"`
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
		f.From = startOfDay(first)
	}
	if q.To != "" {
		f.To = startOfDay(last).AddDate(0, 0, 1)
	}
	return f, nil
}

func startOfDay(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, 0, 0, 0, 0, t.Location())
}
