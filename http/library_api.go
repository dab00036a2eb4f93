package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app"
	"hermeneus/core/article"
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
	keep := op("POST", "/api/staff/pictures", "keep-picture", "Keep a picture for use in articles")
	keep.MaxBodyBytes = bodyLimit
	staffCall(api, keep, func(ctx context.Context, who app.Staff, in *upload) (*body[app.Picture], error) {
		return wrap(s.app.KeepPicture(ctx, who, in.RawBody))
	})
}

func (s *server) categoryAPI(api huma.API) {
	type addedCategory struct {
		ID int64 `json:"id"`
	}
	type changing struct {
		CategoryID
		Body app.NewCategory
	}
	staffCall(api, op("GET", "/api/staff/categories", "list-categories", "The category tree"), func(ctx context.Context, _ app.Staff, _ *none) (*body[[]app.Category], error) {
		return wrap(s.app.Tree(ctx))
	})
	staffCall(api, op("POST", "/api/staff/categories", "add-category", "Add a category"), func(ctx context.Context, who app.Staff, in *body[app.NewCategory]) (*body[addedCategory], error) {
		id, err := s.app.AddCategory(ctx, who, in.Body)
		return wrap(addedCategory{id}, err)
	})
	staffCall(api, op("PUT", "/api/staff/categories/{id}", "do-change-category", "Change a category"), func(ctx context.Context, who app.Staff, in *changing) (*none, error) {
		return nil, s.app.ChangeCategory(ctx, who, in.ID, in.Body)
	})
	staffCall(api, op("DELETE", "/api/staff/categories/{id}", "remove-category", "Remove an empty category"), func(ctx context.Context, who app.Staff, in *CategoryID) (*none, error) {
		return nil, s.app.RemoveCategory(ctx, who, in.ID)
	})
}

type articleQuery struct {
	Category int64         `query:"category"`
	State    article.State `query:"state" enum:"drafting,in_review,sent_back,approved,published"`
	Live     bool          `query:"live"`
	Owner    int64         `query:"owner"`
	Words    string        `query:"words" maxLength:"200"`
	Page     int           `query:"page" minimum:"1" default:"1"`
}

// articleBody is the most that is read of a save: the text at its limit, twice
// over for its escapes, so that the refusal of a text too large is our own.
const articleBody = 4 << 20

func (s *server) articleAPI(api huma.API) {
	staffCall(api, op("GET", "/api/staff/articles", "list-articles", "Articles, filtered"), func(ctx context.Context, _ app.Staff, in *articleQuery) (*body[list[app.ArticleLine]], error) {
		return wrapList(s.app.ListArticles(ctx, app.ArticleFilter{CategoryID: in.Category, State: in.State, Live: in.Live, OwnerID: in.Owner, Words: in.Words, Page: in.Page}))
	})
	type begunArticle struct {
		Reference string `json:"reference"`
	}
	create := op("POST", "/api/staff/articles", "create-article", "Begin an article")
	create.MaxBodyBytes = articleBody
	staffCall(api, create, func(ctx context.Context, who app.Staff, in *body[app.NewArticle]) (*body[begunArticle], error) {
		ref, err := s.app.CreateArticle(ctx, who, in.Body)
		return wrap(begunArticle{ref}, err)
	})
	staffCall(api, op("GET", "/api/staff/articles/{reference}", "read-article", "An article with its working copy"), func(ctx context.Context, who app.Staff, in *ArticleRef) (*body[app.Article], error) {
		return wrap(s.app.ReadArticle(ctx, who, in.Reference))
	})
	type saving struct {
		ArticleRef
		Body struct {
			Copy    app.WorkingCopy `json:"copy"`
			Version int             `json:"version" doc:"The version the writer started from"`
		}
	}
	save := op("PUT", "/api/staff/articles/{reference}", "save-article", "Save the working copy")
	save.MaxBodyBytes = articleBody
	staffCall(api, save, func(ctx context.Context, who app.Staff, in *saving) (*body[app.Saved], error) {
		return wrap(s.app.SaveArticle(ctx, who, in.Reference, in.Body.Copy, in.Body.Version))
	})
	type setting struct {
		ArticleRef
		Body app.Properties
	}
	staffCall(api, op("PUT", "/api/staff/articles/{reference}/properties", "do-set-properties", "Change category, owner, kind or audience"), func(ctx context.Context, who app.Staff, in *setting) (*none, error) {
		return nil, s.app.SetProperties(ctx, who, in.Reference, in.Body)
	})
}

func (s *server) reviewAPI(api huma.API) {
	type acting struct {
		ArticleRef
		Body struct {
			Action  article.Action `json:"action" enum:"submit,recall,approve,send_back,publish,withdraw"`
			Version int            `json:"version" doc:"The version that was looked at"`
			Note    string         `json:"note,omitempty"`
		}
	}
	staffCall(api, op("POST", "/api/staff/articles/{reference}/actions", "do-act", "Move an article along its way"), func(ctx context.Context, who app.Staff, in *acting) (*none, error) {
		return nil, s.app.Act(ctx, who, in.Reference, in.Body.Action, in.Body.Version, in.Body.Note)
	})
	staffCall(api, op("GET", "/api/staff/articles/{reference}/changes", "read-changes", "What differs from the live revision"), func(ctx context.Context, _ app.Staff, in *ArticleRef) (*body[app.Changed], error) {
		return wrap(s.app.Changes(ctx, in.Reference))
	})
	staffCall(api, op("GET", "/api/staff/articles/{reference}/revisions", "list-revisions", "An article's revisions"), func(ctx context.Context, _ app.Staff, in *ArticleRef) (*body[[]app.RevisionLine], error) {
		return wrap(s.app.Revisions(ctx, in.Reference))
	})
	type revision struct {
		ArticleRef
		Number int `path:"number"`
	}
	staffCall(api, op("GET", "/api/staff/articles/{reference}/revisions/{number}", "read-revision", "The text of one revision"), func(ctx context.Context, _ app.Staff, in *revision) (*body[app.WorkingCopy], error) {
		return wrap(s.app.ReadRevision(ctx, in.Reference, in.Number))
	})
}
