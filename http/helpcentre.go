package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/helpcentre"
	"hermeneus/app/staff"
	"hermeneus/core/outcome"
)

// helpCentreAPI is what app/helpcentre offers over HTTP.
func helpCentreAPI(api huma.API, a *helpcentre.HelpCentre) {
	helpPageAPI(api, a)
	feedbackAPI(api, a)
}

// helpPageAPI is what a page of the help centre says back.
func helpPageAPI(api huma.API, a *helpcentre.HelpCentre) {
	type reading struct {
		ArticleRef
		Body seconds
	}
	type voting struct {
		ArticleRef
		Body struct {
			Helped  bool   `json:"helped"`
			Comment string `json:"comment,omitempty"`
			Quote   string `json:"quote,omitempty" doc:"The passage the comment is about"`
			Line    int    `json:"line,omitempty" doc:"The line in which it stands, from 0"`
		}
	}
	publicCall(
		api,
		op(
			"POST",
			"/api/help/articles/{reference}/open",
			"open-beside-form",
			"Open an article beside the request form",
		),
		func(ctx context.Context, in *ArticleRef) (*body[helpcentre.Page], error) {
			return wrap(a.OpenPage(ctx, visitorOf(ctx), outcome.Form, in.Reference))
		},
	)
	publicCall(
		api,
		op("POST", "/api/help/articles/{reference}/read", "do-mark-read", "An article was really read"),
		func(ctx context.Context, in *reading) (*none, error) {
			return nil, a.MarkRead(ctx, visitorOf(ctx), outcome.Help, in.Reference, in.Body.duration())
		},
	)
	publicCall(
		api,
		op("POST", "/api/help/articles/{reference}/vote", "do-vote", "Say whether an article helped"),
		func(ctx context.Context, in *voting) (*none, error) {
			said := helpcentre.Verdict{
				Helped:  in.Body.Helped,
				Comment: in.Body.Comment,
				Quote:   in.Body.Quote,
				Line:    in.Body.Line,
			}
			return nil, a.VoteOn(ctx, visitorOf(ctx), in.Reference, said)
		},
	)
}

// feedbackAPI is what readers said of articles.
func feedbackAPI(api huma.API, a *helpcentre.HelpCentre) {
	type answering struct {
		PersonID
		Body helpcentre.FeedbackAnswer
	}
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/feedback", "list-feedback", "What readers said of an article"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[[]helpcentre.Feedback], error) {
			return wrap(a.ArticleFeedback(ctx, who, in.Reference))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/feedback/{id}/answer", "do-answer-feedback", "Answer what a reader said"),
		func(ctx context.Context, who staff.Staff, in *answering) (*none, error) {
			return nil, a.AnswerFeedback(ctx, who, in.ID, in.Body)
		},
	)
}
