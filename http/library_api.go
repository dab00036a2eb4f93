package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/desk"
	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

// ArticleRef names an article in a path.
type ArticleRef struct {
	Reference string `path:"reference" example:"A-0042"`
}

// CategoryID names a category in a path.
type CategoryID struct {
	ID int64 `path:"id"`
}

func (s *server) libraryAPI(api huma.API) {
	s.categoryAPI(api)
	s.articleAPI(api)
	s.reviewAPI(api)
	type upload struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}
	keep := op("POST", "/api/staff/media", "keep-media", "Keep a picture or a film for use in articles")
	keep.MaxBodyBytes = library.MaxFilm + 1<<20
	staffCall(api, keep, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(s.app.Library.KeepMedia(ctx, who, in.RawBody))
	})
	attach := op("POST", "/api/staff/attachments", "keep-attachment", "Keep a file to be fetched from an article")
	attach.MaxBodyBytes = library.MaxAttachment + 1<<20
	staffCall(api, attach, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(s.app.Library.KeepAttachment(ctx, who, in.RawBody))
	})
}

func (s *server) categoryAPI(api huma.API) {
	type addedCategory struct {
		ID int64 `json:"id"`
	}
	type changing struct {
		CategoryID
		Body library.NewCategory
	}
	staffCall(
		api,
		op("GET", "/api/staff/categories", "list-categories", "The category tree"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.Category], error) {
			return wrap(s.app.Library.Tree(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/categories", "add-category", "Add a category"),
		func(ctx context.Context, who staff.Staff, in *body[library.NewCategory]) (*body[addedCategory], error) {
			id, err := s.app.Library.AddCategory(ctx, who, in.Body)
			return wrap(addedCategory{id}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}", "do-change-category", "Change a category"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			return nil, s.app.Library.ChangeCategory(ctx, who, in.ID, in.Body)
		},
	)
	type removing struct {
		CategoryID
		MoveTo int64 `query:"move_to" doc:"The category that what it holds goes to"`
	}
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/categories/{id}",
			"remove-category",
			"Remove a category that is empty, or whose contents go elsewhere",
		),
		func(ctx context.Context, who staff.Staff, in *removing) (*none, error) {
			return nil, s.app.Library.RemoveCategory(ctx, who, in.ID, in.MoveTo)
		},
	)
}

// ArticleQuery is the filter of a list of articles, as an address holds it.
type ArticleQuery struct {
	Category int64             `query:"category"`
	Here     bool              `query:"here" doc:"The category alone, without those below it"`
	State    review.State      `query:"state" enum:"drafting,in_review,sent_back,approved,scheduled,published"`
	Live     bool              `query:"live"`
	Owner    int64             `query:"owner"`
	Left     bool              `query:"left" doc:"The owner has left"`
	Kind     string            `query:"kind"`
	Audience audience.Audience `query:"audience" maxLength:"50"`
	Language string            `query:"language" maxLength:"3"`
	Behind   bool              `query:"behind" doc:"An edition is behind the source"`
	Overdue  bool              `query:"overdue"`
	Interim  bool              `query:"interim"`
	Unlinked bool              `query:"unlinked"`
	Unopened bool              `query:"unopened"`
	Dead     bool              `query:"dead" doc:"It points to an address outside that does not answer"`
	Feedback bool              `query:"feedback" doc:"A reader waits for an answer"`
	Site     int64             `query:"site"`
	Words    string            `query:"words" maxLength:"200"`
	Sort     string            `query:"sort" enum:"title,-title,written,-written,owner,-owner,recheck,-recheck,state,-state"`
	Page     int               `query:"page" minimum:"1" maximum:"1000000" default:"1"`
}

func (q ArticleQuery) filter() lists.ArticleFilter {
	return lists.ArticleFilter{
		CategoryID: q.Category,
		Here:       q.Here,
		State:      q.State,
		Live:       q.Live,
		OwnerID:    q.Owner,
		LeftOwner:  q.Left,
		Kind:       q.Kind,
		Audience:   q.Audience,
		Language:   q.Language,
		Behind:     q.Behind,
		Overdue:    q.Overdue,
		Interim:    q.Interim,
		Unlinked:   q.Unlinked,
		Unopened:   q.Unopened,
		DeadLinks:  q.Dead,
		Feedback:   q.Feedback,
		SiteID:     q.Site,
		Words:      q.Words,
		Sort:       q.Sort,
		Page:       q.Page,
	}
}

// articleBody is the most that is read of a save: the text at its limit, twice
// over for its escapes, so that the refusal of a text too large is our own.
const articleBody = 4 << 20

func (s *server) articleAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/articles", "list-articles", "Articles, filtered"),
		func(ctx context.Context, _ staff.Staff, in *ArticleQuery) (*body[list[lists.ArticleLine]], error) {
			return wrapList(s.app.Lists.ListArticles(ctx, in.filter()))
		},
	)
	type begunArticle struct {
		Reference string `json:"reference"`
	}
	create := op("POST", "/api/staff/articles", "create-article", "Begin an article")
	create.MaxBodyBytes = articleBody
	staffCall(
		api,
		create,
		func(ctx context.Context, who staff.Staff, in *body[library.NewArticle]) (*body[begunArticle], error) {
			ref, err := s.app.Library.CreateArticle(ctx, who, in.Body)
			return wrap(begunArticle{ref}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}", "read-article", "An article with its working copy"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[desk.Article], error) {
			return wrap(s.app.Desk.ReadArticle(ctx, who, in.Reference))
		},
	)
	type saving struct {
		ArticleRef
		Body struct {
			Copy    library.WorkingCopy `json:"copy"`
			Version int                 `json:"version" doc:"The version the writer started from"`
			Tab     string              `json:"tab,omitempty" maxLength:"60" doc:"Names the browser tab that writes"`
			Key     string              `json:"key,omitempty" maxLength:"60" doc:"Made by whoever saves; the same again is the same save"`
		}
	}
	save := op("PUT", "/api/staff/articles/{reference}", "save-article", "Save the working copy")
	save.MaxBodyBytes = articleBody
	staffCall(api, save, func(ctx context.Context, who staff.Staff, in *saving) (*body[writing.Saved], error) {
		return wrap(
			s.app.Writing.SaveArticle(
				ctx,
				who,
				in.Reference,
				writing.Save{Text: in.Body.Copy, Version: in.Body.Version, Tab: in.Body.Tab, Key: in.Body.Key},
			),
		)
	})
	type setting struct {
		ArticleRef
		Body library.Properties
	}
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/articles/{reference}/properties",
			"do-set-properties",
			"Change category, owner, kind or audience",
		),
		func(ctx context.Context, who staff.Staff, in *setting) (*none, error) {
			return nil, s.app.Library.SetProperties(ctx, who, in.Reference, in.Body)
		},
	)
}

func (s *server) reviewAPI(api huma.API) {
	type comparing struct {
		ArticleRef
		Before string `query:"before" default:"live" doc:"A revision's number, copy, live, or autosave-12"`
		After  string `query:"after" default:"copy" doc:"Likewise"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/articles/{reference}/changes",
			"read-changes",
			"What differs between two states of the text",
		),
		func(ctx context.Context, _ staff.Staff, in *comparing) (*body[library.Changed], error) {
			return wrap(s.app.Library.Changes(ctx, in.Reference, in.Before, in.After))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/revisions", "list-revisions", "An edition's revisions"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]library.RevisionLine], error) {
			return wrap(s.app.Library.Revisions(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/autosaves", "list-autosaves", "Earlier states of the working copy"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]library.AutosaveLine], error) {
			return wrap(s.app.Library.Autosaves(ctx, in.Reference))
		},
	)
	type stateOfText struct {
		ArticleRef
		Which string `path:"which"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/articles/{reference}/texts/{which}",
			"read-text",
			"One state of the text: a revision's number, copy, live, or autosave-12",
		),
		func(ctx context.Context, _ staff.Staff, in *stateOfText) (*body[library.WorkingCopy], error) {
			return wrap(s.app.Library.ReadText(ctx, in.Reference, in.Which))
		},
	)
	type restoring struct {
		ArticleRef
		Body struct {
			Which   string `json:"which"`
			Version int    `json:"version"`
			Tab     string `json:"tab,omitempty" maxLength:"60"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/restore", "do-restore", "Make an earlier state the working copy"),
		func(ctx context.Context, who staff.Staff, in *restoring) (*none, error) {
			return nil, s.app.Writing.Restore(ctx, who, in.Reference, in.Body.Tab, in.Body.Which, in.Body.Version)
		},
	)
}
