package http

import (
	"context"
	"net/url"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/conversations"
	"hermeneus/app/helpcentre"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	"hermeneus/core/outcome"
	coresearch "hermeneus/core/search"
)

// HandoffRef names a conversation with people in a path.
type HandoffRef struct {
	Reference string `path:"reference" example:"H-0012"`
}

func (s *server) handoffAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/handoffs", "list-handoffs", "Conversations with people, the longest waiting first"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[[]conversations.HandoffLine], error) {
			return wrap(s.app.Conversations.Handoffs(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/handoffs/{reference}", "read-handoff", "A conversation with its brief"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*body[conversations.Handoff], error) {
			return wrap(s.app.Conversations.ReadHandoff(ctx, who, in.Reference))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/accept", "do-accept", "Accept a waiting conversation"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*none, error) {
			return nil, s.app.Conversations.Accept(ctx, who, in.Reference)
		},
	)
	type replying struct {
		HandoffRef
		Body struct {
			Text     string   `json:"text"`
			Articles []string `json:"articles,omitempty" doc:"References of articles to show with it"`
			Files    []int64  `json:"files,omitempty" doc:"Files that were kept for it"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/replies", "do-reply", "Answer the customer"),
		func(ctx context.Context, who staff.Staff, in *replying) (*none, error) {
			return nil, s.app.Conversations.Reply(
				ctx,
				who,
				in.Reference,
				conversations.AgentReply{Text: in.Body.Text, Articles: in.Body.Articles, Files: in.Body.Files},
			)
		},
	)
	type choosing struct {
		HandoffRef
		Name    string `query:"name" required:"true" maxLength:"200" doc:"Of the file"`
		RawBody []byte `contentType:"application/octet-stream"`
	}
	keep := op(
		"POST",
		"/api/staff/handoffs/{reference}/files",
		"keep-reply-file",
		"Keep a file for a reply that is being written",
	)
	keep.MaxBodyBytes = form.MaxFile + 1
	staffCall(
		api,
		keep,
		func(ctx context.Context, who staff.Staff, in *choosing) (*body[conversations.KeptFile], error) {
			return wrap(
				s.app.Conversations.KeepReplyFile(
					ctx,
					who,
					in.Reference,
					form.Upload{Name: in.Name, Content: in.RawBody},
				),
			)
		},
	)
	type dropping struct {
		HandoffRef
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/handoffs/{reference}/files/{id}",
			"drop-reply-file",
			"Take back a file that was not sent",
		),
		func(ctx context.Context, who staff.Staff, in *dropping) (*none, error) {
			return nil, s.app.Conversations.DropReplyFile(ctx, who, in.Reference, in.ID)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/close", "do-close", "Close a conversation"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*none, error) {
			return nil, s.app.Conversations.CloseHandoff(ctx, who, in.Reference)
		},
	)
	type asking struct {
		HandoffRef
		Words string `query:"words" maxLength:"400"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/handoffs/{reference}/suggestions",
			"suggest-for-reply",
			"Articles that fit what the customer said",
		),
		func(ctx context.Context, who staff.Staff, in *asking) (*body[[]search.Result], error) {
			return wrap(s.app.Conversations.SuggestForReply(ctx, who, in.Reference, in.Words))
		},
	)
}

// seconds is how long the browser saw an article visible.
type seconds struct {
	Seconds float64 `json:"seconds" minimum:"0" maximum:"86400"`
}

func (n seconds) duration() time.Duration { return time.Duration(n.Seconds * float64(time.Second)) }

func (s *server) helpAPI(api huma.API) {
	type subject struct {
		Subject string `json:"subject,omitempty"`
		Text    string `json:"text,omitempty" doc:"The description, as far as it is typed"`
	}
	publicCall(
		api,
		op("POST", "/api/help/offers", "offer-for-form", "Answers to a request that is being typed"),
		func(ctx context.Context, in *body[subject]) (*body[[]search.Result], error) {
			return wrap(s.app.Requests.OfferForForm(ctx, visitorOf(ctx), in.Body.Subject, in.Body.Text))
		},
	)
	type typing struct {
		Q string `query:"q" maxLength:"200" doc:"What is typed so far"`
	}
	publicCall(
		api,
		op(
			"GET",
			"/api/help/suggestions",
			"suggest",
			"Ways to go on with what is being typed: questions asked often, and titles",
		),
		func(ctx context.Context, in *typing) (*body[[]Suggestion], error) {
			found, err := s.app.Search.Suggest(ctx, visitorOf(ctx), in.Q)
			return wrap(suggestions(found), err)
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/help/articles/{reference}/open",
			"open-beside-form",
			"Open an article beside the request form",
		),
		func(ctx context.Context, in *ArticleRef) (*body[helpcentre.Page], error) {
			return wrap(s.app.HelpCentre.OpenPage(ctx, visitorOf(ctx), outcome.Form, in.Reference))
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/help/articles/{reference}/answered",
			"do-answer-in-form",
			"An article offered beside the request form answered what was asked",
		),
		func(ctx context.Context, in *ArticleRef) (*none, error) {
			return nil, s.app.Requests.AnsweredInForm(ctx, visitorOf(ctx), in.Reference)
		},
	)
	type reading struct {
		ArticleRef
		Body seconds
	}
	publicCall(
		api,
		op("POST", "/api/help/articles/{reference}/read", "do-mark-read", "An article was really read"),
		func(ctx context.Context, in *reading) (*none, error) {
			return nil, s.app.HelpCentre.MarkRead(ctx, visitorOf(ctx), outcome.Help, in.Reference, in.Body.duration())
		},
	)
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
		op("POST", "/api/help/articles/{reference}/vote", "do-vote", "Say whether an article helped"),
		func(ctx context.Context, in *voting) (*none, error) {
			said := helpcentre.Verdict{
				Helped:  in.Body.Helped,
				Comment: in.Body.Comment,
				Quote:   in.Body.Quote,
				Line:    in.Body.Line,
			}
			return nil, s.app.HelpCentre.VoteOn(ctx, visitorOf(ctx), in.Reference, said)
		},
	)
}

// Suggestion completes what is being typed: a question to be asked, or an article to
// be opened.
type Suggestion struct {
	Text    string `json:"text"`
	Address string `json:"address" doc:"Where it leads"`
	Asked   bool   `json:"asked" doc:"A question that others asked"`
}

func suggestions(found []coresearch.Suggestion) []Suggestion {
	list := make([]Suggestion, len(found))
	for i, f := range found {
		list[i] = Suggestion{f.Text, articlePath(f.Reference, f.Text), f.Question}
		if f.Question {
			list[i].Address = "/help/search?q=" + url.QueryEscape(f.Text)
		}
	}
	return list
}

// ChatToken opens a conversation; only its customer has it.
type ChatToken struct {
	Token string `path:"token" maxLength:"100"`
}

func (s *server) chatAPI(api huma.API) {
	type begun struct {
		Token string `json:"token"`
	}
	publicCall(
		api,
		op("POST", "/api/chat", "start-chat", "Begin a conversation"),
		func(ctx context.Context, _ *none) (*body[begun], error) {
			token, err := s.app.Conversations.StartChat(ctx, visitorOf(ctx))
			return wrap(begun{token}, err)
		},
	)
	type reading struct {
		ChatToken
		After int64 `query:"after" doc:"Only messages after this one"`
	}
	publicCall(
		api,
		op("GET", "/api/chat/{token}", "read-chat", "A conversation as the customer sees it"),
		func(ctx context.Context, in *reading) (*body[conversations.ChatView], error) {
			return wrap(s.app.Conversations.ReadChat(ctx, visitorOf(ctx), in.Token, in.After))
		},
	)
	type saying struct {
		ChatToken
		Body struct {
			Kind flow.InputKind `json:"kind" enum:"words,choice,want_person"`
			Text string         `json:"text,omitempty"`
		}
	}
	publicCall(
		api,
		op("POST", "/api/chat/{token}/messages", "do-say", "Say or choose something"),
		func(ctx context.Context, in *saying) (*none, error) {
			return nil, s.app.Conversations.SayInChat(
				ctx,
				visitorOf(ctx),
				in.Token,
				flow.Input{Kind: in.Body.Kind, Text: in.Body.Text},
			)
		},
	)
	type Opening struct {
		ChatToken
		ArticleRef
	}
	publicCall(
		api,
		op(
			"POST",
			"/api/chat/{token}/articles/{reference}/open",
			"open-in-chat",
			"Open an article in the conversation",
		),
		func(ctx context.Context, in *Opening) (*body[helpcentre.Page], error) {
			return wrap(s.app.Conversations.OpenInChat(ctx, visitorOf(ctx), in.Token, in.Reference))
		},
	)
	type marking struct {
		Opening
		Body seconds
	}
	publicCall(
		api,
		op(
			"POST",
			"/api/chat/{token}/articles/{reference}/read",
			"do-read-in-chat",
			"An article in the conversation was really read",
		),
		func(ctx context.Context, in *marking) (*none, error) {
			return nil, s.app.Conversations.ReadInChat(ctx, visitorOf(ctx), in.Token, in.Reference, in.Body.duration())
		},
	)
}
