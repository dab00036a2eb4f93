package http

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/desk"
	"hermeneus/app/helpcentre"
	"hermeneus/app/keeping"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	corereview "hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

// StepBody is something that a person does to an article, or a batch, on its way.
type StepBody struct {
	Action   review.Action     `json:"action" enum:"submit,recall,approve,send_back,publish,schedule,unschedule,withdraw,undo,give_up"`
	Version  int               `json:"version,omitempty" doc:"The version that was looked at"`
	Gate     string            `json:"gate,omitempty" doc:"That it stood before when it was looked at"`
	Seen     review.State      `json:"seen,omitempty" doc:"The state in which it was looked at, such as in_review"`
	Stand    string            `json:"stand,omitempty" doc:"Of a batch: how it stood when it was looked at"`
	Note     string            `json:"note,omitempty" doc:"The decision note"`
	Audience audience.Audience `json:"audience,omitempty" doc:"Who may see it from then on"`
	Change   string            `json:"change,omitempty" doc:"For the change log"`
	At       string            `json:"at,omitempty" doc:"When, on the clocks of the help centre, such as 2026-03-02T09:30; empty for now"`
	Second   bool              `json:"second,omitempty" doc:"Of a time that clocks show twice, the later"`
	To       string            `json:"to,omitempty" doc:"Where readers of a withdrawn article are sent"`
	Notice   string            `json:"notice,omitempty" doc:"Or what they are told"`
}

func (b StepBody) step() corereview.Step {
	return corereview.Step{
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

// pathsAPI is who reviews what.
func (s *server) pathsAPI(api huma.API) {
	type pathBody struct {
		Name     string        `json:"name"`
		Gates    []review.Gate `json:"gates"`
		Standard bool          `json:"standard,omitempty"`
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
	keep := func(ctx context.Context, who staff.Staff, id int64, b pathBody) (*body[keptPath], error) {
		kept, err := s.app.Review.KeepPath(ctx, who, id, review.Path{Name: b.Name, Gates: b.Gates}, b.Standard)
		return wrap(keptPath{kept}, err)
	}
	staffCall(
		api,
		op("GET", "/api/staff/paths", "list-paths", "The review paths"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]corereview.ReviewPath], error) {
			return wrap(s.app.Review.Paths(ctx))
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
			return nil, s.app.Review.RetirePath(ctx, who, in.ID)
		},
	)
	type reviewingChange struct {
		CategoryID
		Body struct {
			PathID    int64 `json:"path_id" doc:"0 for its parent's"`
			StewardID int64 `json:"steward_id" doc:"0 for its parent's"`
		}
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/categories/{id}/reviewing",
			"read-reviewing",
			"Which path and which steward hold for a category",
		),
		func(ctx context.Context, _ staff.Staff, in *CategoryID) (*body[corereview.Reviewing], error) {
			return wrap(s.app.Review.ReviewingOf(ctx, in.ID))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}/reviewing", "do-set-reviewing", "Choose its path and steward"),
		func(ctx context.Context, who staff.Staff, in *reviewingChange) (*none, error) {
			return nil, s.app.Review.SetReviewing(ctx, who, in.ID, in.Body.PathID, in.Body.StewardID)
		},
	)
}

// roundAPI is a text on its way through the gates.
func (s *server) roundAPI(api huma.API) {
	type acting struct {
		ArticleRef
		Body StepBody
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/actions", "do-act", "Move an article along its way"),
		func(ctx context.Context, who staff.Staff, in *acting) (*none, error) {
			return nil, s.app.Review.Move(ctx, who, in.Reference, in.Body.step())
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/lanes", "list-lanes", "What is on its way, by gate"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[[]corereview.Lane], error) {
			return wrap(s.app.Review.Queue(ctx, who))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/round", "read-round", "How a working copy stands on its path"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[corereview.ReviewRound], error) {
			return wrap(s.app.Review.ReadRound(ctx, who, in.Reference))
		},
	)
	type handing struct {
		ArticleRef
		Body struct {
			To   int64  `json:"to"`
			Note string `json:"note,omitempty"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/hand-on", "do-hand-on", "Ask one person to decide"),
		func(ctx context.Context, who staff.Staff, in *handing) (*none, error) {
			return nil, s.app.Review.Reassign(ctx, who, in.Reference, in.Body.To, in.Body.Note)
		},
	)
	type touching struct {
		ArticleRef
		Audience audience.Audience `query:"audience" maxLength:"50" doc:"As if it were for them: everyone, signed_in, staff, or group: and a group's key"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/articles/{reference}/touches",
			"read-touches",
			"What publishing or withdrawing it touches",
		),
		func(ctx context.Context, _ staff.Staff, in *touching) (*body[corereview.Impact], error) {
			return wrap(s.app.Review.Impact(ctx, in.Reference, in.Audience))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/doing", "read-doing", "How the live article is doing"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[desk.ArticleFigures], error) {
			return wrap(s.app.Desk.ArticleFigures(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/articles/{reference}/end", "drop-end", "Take back that it ends at a set time"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*none, error) {
			return nil, s.app.Review.DropEnd(ctx, who, in.Reference)
		},
	)
	type confirming struct {
		ArticleRef
		Body struct {
			Note string `json:"note,omitempty"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/still-true", "do-still-true", "Confirm a live article as it is"),
		func(ctx context.Context, who staff.Staff, in *confirming) (*none, error) {
			return nil, s.app.Review.StillTrue(ctx, who, in.Reference, in.Body.Note)
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
			return nil, s.app.Review.NotStillTrue(ctx, who, in.Reference)
		},
	)
	type following struct {
		ArticleRef
		Body struct {
			Follow bool `json:"follow"`
		}
	}
	staffCall(
		api,
		op("PUT", "/api/staff/articles/{reference}/following", "do-follow", "Be told of what happens to it, or not"),
		func(ctx context.Context, who staff.Staff, in *following) (*none, error) {
			return nil, s.app.Review.Follow(ctx, who, in.Reference, in.Body.Follow)
		},
	)
}

// CommentID names a comment of an article in a path.
type CommentID struct {
	ArticleRef
	ID int64 `path:"id"`
}

// sayingAPI is what is said of a text: by the staff, and by its readers.
func (s *server) sayingAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/comments", "list-comments", "What was said of passages of a text"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]corereview.Comment], error) {
			return wrap(s.app.Review.Comments(ctx, in.Reference))
		},
	)
	type commenting struct {
		ArticleRef
		Body corereview.NewComment
	}
	type madeComment struct {
		ID int64 `json:"id"`
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/articles/{reference}/comments",
			"add-comment",
			"Say something of a passage, or suggest other words",
		),
		func(ctx context.Context, who staff.Staff, in *commenting) (*body[madeComment], error) {
			id, err := s.app.Review.AddComment(ctx, who, in.Reference, in.Body)
			return wrap(madeComment{id}, err)
		},
	)
	type commentReplying struct {
		CommentID
		Body struct {
			Text string `json:"text"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/comments/{id}/replies", "do-reply-to-comment", "Answer a comment"),
		func(ctx context.Context, who staff.Staff, in *commentReplying) (*none, error) {
			return nil, s.app.Review.ReplyToComment(ctx, who, in.Reference, in.ID, in.Body.Text)
		},
	)
	type resolving struct {
		CommentID
		Body struct {
			Resolved bool `json:"resolved"`
		}
	}
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/articles/{reference}/comments/{id}/resolved",
			"do-resolve-comment",
			"Close a comment, or open it again",
		),
		func(ctx context.Context, who staff.Staff, in *resolving) (*none, error) {
			return nil, s.app.Review.ResolveComment(ctx, who, in.Reference, in.ID, in.Body.Resolved)
		},
	)
	type accepting struct {
		CommentID
		Body struct {
			Version int    `json:"version"`
			Tab     string `json:"tab,omitempty" maxLength:"60"`
		}
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/articles/{reference}/comments/{id}/accept",
			"accept-suggestion",
			"Put suggested words into the text",
		),
		func(ctx context.Context, who staff.Staff, in *accepting) (*body[writing.Saved], error) {
			return wrap(s.app.Writing.AcceptSuggestion(ctx, who, in.Reference, in.ID, in.Body.Tab, in.Body.Version))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/feedback", "list-feedback", "What readers said of an article"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[[]helpcentre.Feedback], error) {
			return wrap(s.app.HelpCentre.ArticleFeedback(ctx, who, in.Reference))
		},
	)
	type answering struct {
		PersonID
		Body helpcentre.FeedbackAnswer
	}
	staffCall(
		api,
		op("POST", "/api/staff/feedback/{id}/answer", "do-answer-feedback", "Answer what a reader said"),
		func(ctx context.Context, who staff.Staff, in *answering) (*none, error) {
			return nil, s.app.HelpCentre.AnswerFeedback(ctx, who, in.ID, in.Body)
		},
	)
}

// BatchID names a batch in a path.
type BatchID struct {
	ID int64 `path:"id"`
}

// batchAPI is working copies that go live together.
func (s *server) batchAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/batches", "list-batches", "Batches, the open ones first"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]corereview.BatchLine], error) {
			return wrap(s.app.Review.Batches(ctx))
		},
	)
	type making struct {
		Name       string   `json:"name"`
		Note       string   `json:"note,omitempty" doc:"For the change log of each"`
		References []string `json:"references"`
	}
	type madeBatch struct {
		ID int64 `json:"id"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/batches", "make-batch", "Put working copies together"),
		func(ctx context.Context, who staff.Staff, in *body[making]) (*body[madeBatch], error) {
			id, err := s.app.Review.MakeBatch(ctx, who, in.Body.Name, in.Body.Note, in.Body.References)
			return wrap(madeBatch{id}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/batches/{id}", "read-batch", "A batch with its members"),
		func(ctx context.Context, who staff.Staff, in *BatchID) (*body[corereview.Batch], error) {
			return wrap(s.app.Review.ReadBatch(ctx, who, in.ID))
		},
	)
	type changingBatch struct {
		BatchID
		Body struct {
			Name   string   `json:"name"`
			Note   string   `json:"note,omitempty"`
			Add    []string `json:"add,omitempty"`
			Remove []string `json:"remove,omitempty"`
		}
	}
	staffCall(
		api,
		op("PUT", "/api/staff/batches/{id}", "do-change-batch", "Rename it, put in, take out"),
		func(ctx context.Context, who staff.Staff, in *changingBatch) (*none, error) {
			return nil, s.app.Review.ChangeBatch(
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
	type actingOnBatch struct {
		BatchID
		Body StepBody
	}
	staffCall(
		api,
		op("POST", "/api/staff/batches/{id}/actions", "act-on-batch", "Review, schedule, publish or undo it as one"),
		func(ctx context.Context, who staff.Staff, in *actingOnBatch) (*body[corereview.BatchDone], error) {
			return wrap(s.app.Review.ActOnBatch(ctx, who, in.ID, in.Body.step()))
		},
	)
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

func (s *server) trailFilter(q TrailQuery) (desk.TrailFilter, error) {
	f := desk.TrailFilter{
		Article:    q.Article,
		CategoryID: q.Category,
		StaffID:    q.Who,
		Action:     q.Action,
		Words:      q.Words,
		Page:       q.Page,
	}
	first, last, err := s.days(q.Dates)
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

// newsAPI is what people are told, and what was done.
func (s *server) newsAPI(api huma.API) {
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
			return wrap(s.app.Notify.News(ctx, who, in.Kind, in.Page))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/news/unread", "count-news", "How much of it is unread"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[unreadNews], error) {
			n, err := s.app.Notify.UnreadNews(ctx, who)
			return wrap(unreadNews{n}, err)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/news/read", "do-read-news", "Note that it was read"),
		func(ctx context.Context, who staff.Staff, in *readNews) (*none, error) {
			return nil, s.app.Notify.MarkNewsRead(ctx, who, in.Body.ID)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/news/wishes", "read-news-wishes", "What one wants to be told, and how"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[notify.NewsWishes], error) {
			return wrap(s.app.Notify.ReadNewsWishes(ctx, who))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/news/wishes", "do-keep-news-wishes", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[notify.NewsWishes]) (*none, error) {
			return nil, s.app.Notify.KeepNewsWishes(ctx, who, in.Body)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/trail", "list-trail", "Who did what, the latest first"),
		func(ctx context.Context, who staff.Staff, in *TrailQuery) (*body[list[desk.TrailRow]], error) {
			f, err := s.trailFilter(*in)
			if err != nil {
				return nil, err
			}
			return wrapList(s.app.Desk.Trail(ctx, who, f))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/trail-actions", "list-trail-actions", "The actions that the trail knows"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]string], error) {
			return wrap(s.app.Desk.TrailActions(ctx))
		},
	)
	type trailFile struct {
		ContentType        string `header:"Content-Type"`
		ContentDisposition string `header:"Content-Disposition"`
		Body               []byte
	}
	staffCall(
		api,
		op("GET", "/api/staff/trail/file", "export-trail", "The trail as CSV (RFC 4180)"),
		func(ctx context.Context, who staff.Staff, in *TrailQuery) (*trailFile, error) {
			f, err := s.trailFilter(*in)
			if err != nil {
				return nil, err
			}
			raw, err := s.app.Desk.TrailFile(ctx, who, f)
			return &trailFile{"text/csv; charset=utf-8", `attachment; filename="trail.csv"`, raw}, err
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/people/{id}/belongings",
			"read-belongings",
			"Everything that is somebody's to look after",
		),
		func(ctx context.Context, who staff.Staff, in *PersonID) (*body[desk.Belongings], error) {
			return wrap(s.app.Desk.ReadBelongings(ctx, who, in.ID))
		},
	)
	type handingOver struct {
		PersonID
		Body desk.HandOver
	}
	staffCall(
		api,
		op("POST", "/api/staff/people/{id}/hand-over", "hand-over", "Give everything that is somebody's to others"),
		func(ctx context.Context, who staff.Staff, in *handingOver) (*body[desk.HandedOver], error) {
			return wrap(s.app.Desk.HandOverAll(ctx, who, in.ID, in.Body))
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/recheck-rule",
			"read-recheck-rule",
			"After how many days each kind of article must be confirmed",
		),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[map[string]int], error) {
			return wrap(s.app.Review.RecheckBase(ctx))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/recheck-rule", "do-set-recheck-rule", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[map[string]int]) (*none, error) {
			return nil, s.app.Review.SetRecheckBase(ctx, who, in.Body)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/keeping", "read-keeping", "For how many days things are kept"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[keeping.Periods], error) {
			return wrap(s.app.Keeping.Keeping(ctx))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/keeping", "do-set-keeping", "Change that"),
		func(ctx context.Context, who staff.Staff, in *body[keeping.Periods]) (*none, error) {
			return nil, s.app.Keeping.SetKeeping(ctx, who, in.Body)
		},
	)
}
