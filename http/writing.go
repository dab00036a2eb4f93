package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
	"hermeneus/core/article"
)

// writingAPI is what app/writing offers over HTTP.
func writingAPI(api huma.API, a *writing.Writing) {
	bulkAPI(api, a)
	saveAPI(api, a)
	restoreAPI(api, a)
	suggestionAPI(api, a)
	checksAPI(api, a)
	holdAPI(api, a)
	editionAPI(api, a)
}

func bulkAPI(api huma.API, a *writing.Writing) {
	summarise := op("POST", "/api/staff/bulk-summaries", "summarise-bulk", "What a change to many articles would do")
	staffCall(
		api,
		summarise,
		func(ctx context.Context, who staff.Staff, in *body[writing.Bulk]) (*body[writing.BulkSummary], error) {
			return wrap(a.SummariseBulk(ctx, who, in.Body))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/bulk-changes", "begin-bulk", "Change many articles"),
		func(ctx context.Context, who staff.Staff, in *body[writing.Bulk]) (*body[begunJob], error) {
			id, err := a.AskBulk(ctx, who, in.Body)
			return wrap(begunJob{id}, err)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/jobs/{id}/undo", "undo-bulk", "Take a change to many articles back"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*body[begunJob], error) {
			id, err := a.AskUndo(ctx, who, in.ID)
			return wrap(begunJob{id}, err)
		},
	)
}

// saveAPI saves a working copy.
func saveAPI(api huma.API, a *writing.Writing) {
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
			a.SaveArticle(
				ctx,
				who,
				in.Reference,
				writing.Save{Text: in.Body.Copy, Version: in.Body.Version, Tab: in.Body.Tab, Key: in.Body.Key},
			),
		)
	})
}

// restoreAPI makes an earlier state the working copy.
func restoreAPI(api huma.API, a *writing.Writing) {
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
			return nil, a.Restore(ctx, who, in.Reference, in.Body.Tab, in.Body.Which, in.Body.Version)
		},
	)
}

// suggestionAPI puts suggested words into a text.
func suggestionAPI(api huma.API, a *writing.Writing) {
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
			return wrap(a.AcceptSuggestion(ctx, who, in.Reference, in.ID, in.Body.Tab, in.Body.Version))
		},
	)
}

// checksAPI is what the margin says.
func checksAPI(api huma.API, a *writing.Writing) {
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/advice", "read-advice", "What the margin says of the working copy"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[writing.Checks], error) {
			return wrap(a.Checks(ctx, who, in.Reference))
		},
	)
}

func holdAPI(api huma.API, a *writing.Writing) {
	type keptRevision struct {
		Revision int `json:"revision" doc:"0 when the text had arrived after all"`
	}
	type keeping struct {
		ArticleRef
		Body library.WorkingCopy
	}
	keep := op(
		"POST",
		"/api/staff/articles/{reference}/unsaved",
		"keep-unsaved",
		"Keep a text that could not be saved as a revision",
	)
	keep.MaxBodyBytes = articleBody
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/hold", "hold-article", "Say that one is writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*body[*texts.Holder], error) {
			return wrap(a.Hold(ctx, who, in.Reference, in.Body.Tab))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/let-go", "do-let-go", "Stop writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*none, error) {
			return nil, a.LetGo(ctx, who, in.Reference, in.Body.Tab)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/take-over", "do-take-over", "Take over from whoever is writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*none, error) {
			return nil, a.TakeOver(ctx, who, in.Reference, in.Body.Tab)
		},
	)
	staffCall(api, keep, func(ctx context.Context, who staff.Staff, in *keeping) (*body[keptRevision], error) {
		number, err := a.KeepUnsaved(ctx, who, in.Reference, in.Body)
		return wrap(keptRevision{number}, err)
	})
}

func editionAPI(api huma.API, a *writing.Writing) {
	type adding struct {
		ArticleRef
		Body struct {
			Language string `json:"language" minLength:"2" maxLength:"3"`
		}
	}
	type begunEdition struct {
		Reference string `json:"reference" example:"A-0042.de"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/editions", "add-edition", "Begin an edition in another language"),
		func(ctx context.Context, who staff.Staff, in *adding) (*body[begunEdition], error) {
			ref, err := a.AddEdition(ctx, who, in.Reference, in.Body.Language)
			return wrap(begunEdition{ref}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/source", "read-source", "The source of an edition, block by block"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[writing.EditionView], error) {
			return wrap(a.BesideSource(ctx, in.Reference))
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/articles/{reference}/matched",
			"do-match",
			"Say that an edition says the same as its source",
		),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*none, error) {
			return nil, a.Matched(ctx, who, in.Reference)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/languages", "list-languages", "The languages that editions can be in"),
		func(context.Context, staff.Staff, *none) (*body[map[string]string], error) {
			return wrap(article.Languages, nil)
		},
	)
}

// tabBody names a browser tab.
type tabBody struct {
	ArticleRef
	Body struct {
		Tab string `json:"tab" maxLength:"60"`
	}
}
