package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/compare"
	"hermeneus/core/review"
)

// libraryAPI is what app/library offers over HTTP.
func libraryAPI(api huma.API, a *library.Library) {
	arrangeAPI(api, a)
	knownProblemListAPI(api, a)
	uploadAPI(api, a)
	categoryAPI(api, a)
	articleAPI(api, a)
	revisionAPI(api, a)
	sourceAPI(api, a)
	templateAPI(api, a)
}

// arrangeAPI puts things in their places: the tree, lists, known problems, sites.
func arrangeAPI(api huma.API, a *library.Library) {
	type movingCategory struct {
		CategoryID
		Body library.Place
	}
	type merging struct {
		CategoryID
		Body struct {
			Into int64 `json:"into"`
		}
	}
	type picturing struct {
		CategoryID
		Body struct {
			Hash string `json:"hash" doc:"Of a kept picture; empty for none"`
		}
	}
	type movingArticle struct {
		ArticleRef
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
			return nil, a.MoveCategory(ctx, who, in.ID, in.Body)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/categories/{id}/merge",
			"do-merge-category",
			"Put everything of a category into another and remove it",
		),
		func(ctx context.Context, who staff.Staff, in *merging) (*none, error) {
			return nil, a.MergeCategory(ctx, who, in.ID, in.Body.Into)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}/picture", "do-set-category-picture", "Give a category a picture"),
		func(ctx context.Context, who staff.Staff, in *picturing) (*none, error) {
			return nil, a.SetCategoryPicture(ctx, who, in.ID, in.Body.Hash)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/move", "do-move-article", "Put an article elsewhere"),
		func(ctx context.Context, who staff.Staff, in *movingArticle) (*none, error) {
			return nil, a.MoveArticle(ctx, who, in.Reference, in.Body)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/audiences", "list-audiences", "Who exactly each audience is"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.AudienceCount], error) {
			return wrap(a.Audiences(ctx))
		},
	)
}

// knownProblemListAPI lists known problems.
func knownProblemListAPI(api huma.API, a *library.Library) {
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/known-problems",
			"list-known-problems",
			"Causes that interim articles wait for the end of",
		),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.KnownProblem], error) {
			return wrap(a.KnownProblems(ctx))
		},
	)
}

// JobID names a job in a path.
type JobID struct {
	ID int64 `path:"id"`
}

// begunJob is a job that was asked for.
type begunJob struct {
	ID int64 `json:"id"`
}

// SiteID names a help centre in a path.
type SiteID struct {
	ID int64 `path:"id"`
}

// uploadAPI takes pictures, films and attachments.
func uploadAPI(api huma.API, a *library.Library) {
	type upload struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}
	attach := op("POST", "/api/staff/attachments", "keep-attachment", "Keep a file to be fetched from an article")
	attach.MaxBodyBytes = library.MaxAttachment + 1<<20
	keep := op("POST", "/api/staff/media", "keep-media", "Keep a picture or a film for use in articles")
	keep.MaxBodyBytes = library.MaxFilm + 1<<20
	staffCall(api, keep, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(a.KeepMedia(ctx, who, in.RawBody))
	})
	staffCall(api, attach, func(ctx context.Context, who staff.Staff, in *upload) (*body[library.Kept], error) {
		return wrap(a.KeepAttachment(ctx, who, in.RawBody))
	})
}

func categoryAPI(api huma.API, a *library.Library) {
	type addedCategory struct {
		ID int64 `json:"id"`
	}
	type changing struct {
		CategoryID
		Body library.NewCategory
	}
	type removing struct {
		CategoryID
		MoveTo int64 `query:"move_to" doc:"The category that what it holds goes to"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/categories", "list-categories", "The category tree"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.Category], error) {
			return wrap(a.Tree(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/categories", "add-category", "Add a category"),
		func(ctx context.Context, who staff.Staff, in *body[library.NewCategory]) (*body[addedCategory], error) {
			id, err := a.AddCategory(ctx, who, in.Body)
			return wrap(addedCategory{id}, err)
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/categories/{id}", "do-change-category", "Change a category"),
		func(ctx context.Context, who staff.Staff, in *changing) (*none, error) {
			return nil, a.ChangeCategory(ctx, who, in.ID, in.Body)
		},
	)
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/categories/{id}",
			"remove-category",
			"Remove a category that is empty, or whose contents go elsewhere",
		),
		func(ctx context.Context, who staff.Staff, in *removing) (*none, error) {
			return nil, a.RemoveCategory(ctx, who, in.ID, in.MoveTo)
		},
	)
}

func articleAPI(api huma.API, a *library.Library) {
	type begunArticle struct {
		Reference string `json:"reference"`
	}
	type setting struct {
		ArticleRef
		Body library.Properties
	}
	create := op("POST", "/api/staff/articles", "create-article", "Begin an article")
	create.MaxBodyBytes = articleBody
	staffCall(
		api,
		create,
		func(ctx context.Context, who staff.Staff, in *body[library.NewArticle]) (*body[begunArticle], error) {
			ref, err := a.CreateArticle(ctx, who, in.Body)
			return wrap(begunArticle{ref}, err)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/articles/{reference}/properties",
			"do-set-properties",
			"Change category, owner, kind or audience",
		),
		func(ctx context.Context, who staff.Staff, in *setting) (*none, error) {
			return nil, a.SetProperties(ctx, who, in.Reference, in.Body)
		},
	)
}

// revisionAPI is the earlier states of a text.
func revisionAPI(api huma.API, a *library.Library) {
	type comparing struct {
		ArticleRef
		Before string `query:"before" default:"live" doc:"A revision's number, copy, live, or autosave-12"`
		After  string `query:"after" default:"copy" doc:"Likewise"`
	}
	type stateOfText struct {
		ArticleRef
		Which string `path:"which"`
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
			return wrap(a.Changes(ctx, in.Reference, in.Before, in.After))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/revisions", "list-revisions", "An edition's revisions"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]library.RevisionLine], error) {
			return wrap(a.Revisions(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/autosaves", "list-autosaves", "Earlier states of the working copy"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[[]library.AutosaveLine], error) {
			return wrap(a.Autosaves(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/articles/{reference}/texts/{which}",
			"read-text",
			"One state of the text: a revision's number, copy, live, or autosave-12",
		),
		func(ctx context.Context, _ staff.Staff, in *stateOfText) (*body[library.WorkingCopy], error) {
			return wrap(a.ReadText(ctx, in.Reference, in.Which))
		},
	)
}

// ArticleRef names an article in a path.
type ArticleRef struct {
	Reference string `path:"reference" example:"A-0042"`
}

// CategoryID names a category in a path.
type CategoryID struct {
	ID int64 `path:"id"`
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

// sourceAPI cleans a source, and sets checks aside.
func sourceAPI(api huma.API, a *library.Library) {
	type dismissing struct {
		ArticleRef
		Body struct {
			Key    string `json:"key"`
			Reason string `json:"reason" doc:"Empty takes the dismissal back"`
		}
	}
	type sourceText struct {
		Body string `json:"body"`
	}
	type sides struct {
		ArticleRef
		Body sourceText
	}
	beside := op(
		"POST",
		"/api/staff/articles/{reference}/side-by-side",
		"lay-side-by-side",
		"An unsaved text beside the working copy",
	)
	beside.MaxBodyBytes = articleBody
	clean := op("POST", "/api/staff/clean", "clean-source", "What can be kept of a source, and what cannot")
	clean.MaxBodyBytes = articleBody
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/dismissals", "do-dismiss", "Set a note of the margin aside"),
		func(ctx context.Context, who staff.Staff, in *dismissing) (*none, error) {
			return nil, a.Dismiss(ctx, who, in.Reference, in.Body.Key, in.Body.Reason)
		},
	)
	staffCall(api, clean, func(_ context.Context, _ staff.Staff, in *body[sourceText]) (*body[library.Cleaned], error) {
		return wrap(a.Clean(in.Body.Body))
	})
	staffCall(api, beside, func(ctx context.Context, _ staff.Staff, in *sides) (*body[[]compare.Beside], error) {
		return wrap(a.SideBySide(ctx, in.Reference, in.Body.Body))
	})
}

func templateAPI(api huma.API, a *library.Library) {
	type templateInput struct {
		article.Template
		Retired bool `json:"retired,omitempty"`
	}
	type changing struct {
		ID   int64 `path:"id"`
		Body templateInput
	}
	type templatePreview struct {
		Body string `json:"body"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/templates", "list-templates", "What articles begin from"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.Template], error) {
			return wrap(a.Templates(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/templates", "add-template", "Make a template"),
		func(ctx context.Context, who staff.Staff, in *body[templateInput]) (*body[library.Template], error) {
			return wrap(a.KeepTemplate(ctx, who, 0, in.Body.Template, in.Body.Retired))
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/templates/{id}",
			"change-template",
			"Change a template; articles begun with it stay as they are",
		),
		func(ctx context.Context, who staff.Staff, in *changing) (*body[library.Template], error) {
			return wrap(a.KeepTemplate(ctx, who, in.ID, in.Body.Template, in.Body.Retired))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/template-previews", "preview-template", "What an article of a template begins with"),
		func(_ context.Context, _ staff.Staff, in *body[templateInput]) (*body[templatePreview], error) {
			return wrap(templatePreview{in.Body.Template.Body()}, nil)
		},
	)
}
