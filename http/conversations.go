package http

import (
	"context"
	"net/url"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/exchange"
	"hermeneus/app/helpcentre"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/form"
	coresearch "hermeneus/core/search"
)

// conversationsAPI is what app/conversations offers over HTTP.
func conversationsAPI(api huma.API, a *conversations.Conversations) {
	fromReplyAPI(api, a)
	handoffAPI(api, a)
	chatAPI(api, a)
}

// fromReplyAPI makes an article of an answer to a customer.
func fromReplyAPI(api huma.API, a *conversations.Conversations) {
	type replied struct {
		HandoffRef
		Body struct {
			CategoryID int64 `json:"category_id"`
		}
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/handoffs/{reference}/article",
			"begin-from-reply",
			"Begin an article with the latest reply",
		),
		func(ctx context.Context, who staff.Staff, in *replied) (*body[exchange.FromMail], error) {
			return wrap(a.ArticleFromReply(ctx, who, in.Body.CategoryID, in.Reference))
		},
	)
}

func handoffAPI(api huma.API, a *conversations.Conversations) {
	type replying struct {
		HandoffRef
		Body struct {
			Text     string   `json:"text"`
			Articles []string `json:"articles,omitempty" doc:"References of articles to show with it"`
			Files    []int64  `json:"files,omitempty" doc:"Files that were kept for it"`
		}
	}
	type choosing struct {
		HandoffRef
		Name    string `query:"name" required:"true" maxLength:"200" doc:"Of the file"`
		RawBody []byte `contentType:"application/octet-stream"`
	}
	type dropping struct {
		HandoffRef
		ID int64 `path:"id"`
	}
	type asking struct {
		HandoffRef
		Words string `query:"words" maxLength:"400"`
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
		op("GET", "/api/staff/handoffs", "list-handoffs", "Conversations with people, the longest waiting first"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[[]conversations.HandoffLine], error) {
			return wrap(a.Handoffs(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/handoffs/{reference}", "read-handoff", "A conversation with its brief"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*body[conversations.Handoff], error) {
			return wrap(a.ReadHandoff(ctx, who, in.Reference))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/accept", "do-accept", "Accept a waiting conversation"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*none, error) {
			return nil, a.Accept(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/replies", "do-reply", "Answer the customer"),
		func(ctx context.Context, who staff.Staff, in *replying) (*none, error) {
			return nil, a.Reply(
				ctx,
				who,
				in.Reference,
				conversations.AgentReply{Text: in.Body.Text, Articles: in.Body.Articles, Files: in.Body.Files},
			)
		},
	)
	staffCall(
		api,
		keep,
		func(ctx context.Context, who staff.Staff, in *choosing) (*body[conversations.KeptFile], error) {
			return wrap(
				a.KeepReplyFile(
					ctx,
					who,
					in.Reference,
					form.Upload{Name: in.Name, Content: in.RawBody},
				),
			)
		},
	)
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/handoffs/{reference}/files/{id}",
			"drop-reply-file",
			"Take back a file that was not sent",
		),
		func(ctx context.Context, who staff.Staff, in *dropping) (*none, error) {
			return nil, a.DropReplyFile(ctx, who, in.Reference, in.ID)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/handoffs/{reference}/close", "do-close", "Close a conversation"),
		func(ctx context.Context, who staff.Staff, in *HandoffRef) (*none, error) {
			return nil, a.CloseHandoff(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/handoffs/{reference}/suggestions",
			"suggest-for-reply",
			"Articles that fit what the customer said",
		),
		func(ctx context.Context, who staff.Staff, in *asking) (*body[[]search.Result], error) {
			return wrap(a.SuggestForReply(ctx, who, in.Reference, in.Words))
		},
	)
}

func chatAPI(api huma.API, a *conversations.Conversations) {
	type begun struct {
		Token string `json:"token"`
	}
	type reading struct {
		ChatToken
		After int64 `query:"after" doc:"Only messages after this one"`
	}
	type saying struct {
		ChatToken
		Body struct {
			Kind flow.InputKind `json:"kind" enum:"words,choice,want_person"`
			Text string         `json:"text,omitempty"`
		}
	}
	type Opening struct {
		ChatToken
		ArticleRef
	}
	type marking struct {
		Opening
		Body seconds
	}
	type toldRead struct {
		ChatToken
		ID   int64 `path:"id"`
		Body seconds
	}
	publicCall(
		api,
		op("POST", "/api/chat", "start-chat", "Begin a conversation"),
		func(ctx context.Context, _ *none) (*body[begun], error) {
			token, err := a.StartChat(ctx, visitorOf(ctx))
			return wrap(begun{token}, err)
		},
	)
	publicCall(
		api,
		op("GET", "/api/chat/{token}", "read-chat", "A conversation as the customer sees it"),
		func(ctx context.Context, in *reading) (*body[conversations.ChatView], error) {
			return wrap(a.ReadChat(ctx, visitorOf(ctx), in.Token, in.After))
		},
	)
	publicCall(
		api,
		op("POST", "/api/chat/{token}/messages", "do-say", "Say or choose something"),
		func(ctx context.Context, in *saying) (*none, error) {
			return nil, a.SayInChat(
				ctx,
				visitorOf(ctx),
				in.Token,
				flow.Input{Kind: in.Body.Kind, Text: in.Body.Text},
			)
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/chat/{token}/articles/{reference}/open",
			"open-in-chat",
			"Open an article in the conversation",
		),
		func(ctx context.Context, in *Opening) (*body[helpcentre.Page], error) {
			return wrap(a.OpenInChat(ctx, visitorOf(ctx), in.Token, in.Reference))
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/chat/{token}/articles/{reference}/read",
			"do-read-in-chat",
			"An article in the conversation was really read",
		),
		func(ctx context.Context, in *marking) (*none, error) {
			return nil, a.ReadInChat(ctx, visitorOf(ctx), in.Token, in.Reference, in.Body.duration())
		},
	)
	publicCall(
		api,
		op(
			"POST",
			"/api/chat/{token}/messages/{id}/read",
			"do-read-told",
			"An answer that the bot told was really seen",
		),
		func(ctx context.Context, in *toldRead) (*none, error) {
			return nil, a.ToldReadInChat(ctx, visitorOf(ctx), in.Token, in.ID, in.Body.duration())
		},
	)
}

// HandoffRef names a conversation with people in a path.
type HandoffRef struct {
	Reference string `path:"reference" example:"H-0012"`
}

// seconds is how long the browser saw an article visible.
type seconds struct {
	Seconds float64 `json:"seconds" minimum:"0" maximum:"86400"`
}

func (n seconds) duration() time.Duration { return time.Duration(n.Seconds * float64(time.Second)) }

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
			list[i].Address = "/help/search?q=" + url.QueryEscape(f.Text) + "&n=" + evidence.NewKey()
		}
	}
	return list
}

// ChatToken opens a conversation; only its customer has it.
type ChatToken struct {
	Token string `path:"token" maxLength:"100"`
}
