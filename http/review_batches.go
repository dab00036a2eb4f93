package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

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
			return wrap(a.Batches.List(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/batches", "make-batch", "Put working copies together"),
		func(ctx context.Context, who staff.Staff, in *body[making]) (*body[madeBatch], error) {
			id, err := a.Batches.MakeBatch(ctx, who, in.Body.Name, in.Body.Note, in.Body.References)
			return wrap(madeBatch{id}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/batches/{id}", "read-batch", "A batch with its members"),
		func(ctx context.Context, who staff.Staff, in *BatchID) (*body[review.Batch], error) {
			return wrap(a.Batches.ReadBatch(ctx, who, in.ID))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/batches/{id}", "do-change-batch", "Rename it, put in, take out"),
		func(ctx context.Context, who staff.Staff, in *changingBatch) (*none, error) {
			return nil, a.Batches.ChangeBatch(
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
			return wrap(a.Batches.ActOnBatch(ctx, who, in.ID, in.Body.step()))
		},
	)
}

// BatchID names a batch in a path.
type BatchID struct {
	ID int64 `path:"id"`
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
			return wrap(a.Comments.List(ctx, in.Reference))
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
			id, err := a.Comments.AddComment(ctx, who, in.Reference, in.Body)
			return wrap(madeComment{id}, err)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/comments/{id}/replies", "do-reply-to-comment", "Answer a comment"),
		func(ctx context.Context, who staff.Staff, in *commentReplying) (*none, error) {
			return nil, a.Comments.ReplyToComment(ctx, who, in.Reference, in.ID, in.Body.Text)
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
			return nil, a.Comments.ResolveComment(ctx, who, in.Reference, in.ID, in.Body.Resolved)
		},
	)
}

// CommentID names a comment of an article in a path.
type CommentID struct {
	ArticleRef
	ID int64 `path:"id"`
}
