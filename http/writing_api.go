package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/compare"
)

// tabBody names a browser tab.
type tabBody struct {
	ArticleRef
	Body struct {
		Tab string `json:"tab" maxLength:"60"`
	}
}

// writingAPI is what goes on around a text while it is written.
func (s *server) writingAPI(api huma.API) {
	s.holdAPI(api)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/advice", "read-advice", "What the margin says of the working copy"),
		func(ctx context.Context, who staff.Staff, in *ArticleRef) (*body[writing.Checks], error) {
			return wrap(s.app.Writing.Checks(ctx, who, in.Reference))
		},
	)
	type dismissing struct {
		ArticleRef
		Body struct {
			Key    string `json:"key"`
			Reason string `json:"reason" doc:"Empty takes the dismissal back"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/dismissals", "do-dismiss", "Set a note of the margin aside"),
		func(ctx context.Context, who staff.Staff, in *dismissing) (*none, error) {
			return nil, s.app.Library.Dismiss(ctx, who, in.Reference, in.Body.Key, in.Body.Reason)
		},
	)
	type sourceText struct {
		Body string `json:"body"`
	}
	clean := op("POST", "/api/staff/clean", "clean-source", "What can be kept of a source, and what cannot")
	clean.MaxBodyBytes = articleBody
	staffCall(api, clean, func(_ context.Context, _ staff.Staff, in *body[sourceText]) (*body[library.Cleaned], error) {
		return wrap(s.app.Library.Clean(in.Body.Body))
	})
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
	staffCall(api, beside, func(ctx context.Context, _ staff.Staff, in *sides) (*body[[]compare.Beside], error) {
		return wrap(s.app.Library.SideBySide(ctx, in.Reference, in.Body.Body))
	})
	s.editionAPI(api)
	s.templateAPI(api)
}

func (s *server) holdAPI(api huma.API) {
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/hold", "hold-article", "Say that one is writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*body[*texts.Holder], error) {
			return wrap(s.app.Writing.Hold(ctx, who, in.Reference, in.Body.Tab))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/let-go", "do-let-go", "Stop writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*none, error) {
			return nil, s.app.Writing.LetGo(ctx, who, in.Reference, in.Body.Tab)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/articles/{reference}/take-over", "do-take-over", "Take over from whoever is writing"),
		func(ctx context.Context, who staff.Staff, in *tabBody) (*none, error) {
			return nil, s.app.Writing.TakeOver(ctx, who, in.Reference, in.Body.Tab)
		},
	)
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
	staffCall(api, keep, func(ctx context.Context, who staff.Staff, in *keeping) (*body[keptRevision], error) {
		number, err := s.app.Writing.KeepUnsaved(ctx, who, in.Reference, in.Body)
		return wrap(keptRevision{number}, err)
	})
}

func (s *server) editionAPI(api huma.API) {
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
			ref, err := s.app.Writing.AddEdition(ctx, who, in.Reference, in.Body.Language)
			return wrap(begunEdition{ref}, err)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/articles/{reference}/source", "read-source", "The source of an edition, block by block"),
		func(ctx context.Context, _ staff.Staff, in *ArticleRef) (*body[writing.EditionView], error) {
			return wrap(s.app.Writing.BesideSource(ctx, in.Reference))
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
			return nil, s.app.Writing.Matched(ctx, who, in.Reference)
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

func (s *server) templateAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/templates", "list-templates", "What articles begin from"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]library.Template], error) {
			return wrap(s.app.Library.Templates(ctx))
		},
	)
	type templateInput struct {
		article.Template
		Retired bool `json:"retired,omitempty"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/templates", "add-template", "Make a template"),
		func(ctx context.Context, who staff.Staff, in *body[templateInput]) (*body[library.Template], error) {
			return wrap(s.app.Library.KeepTemplate(ctx, who, 0, in.Body.Template, in.Body.Retired))
		},
	)
	type changing struct {
		ID   int64 `path:"id"`
		Body templateInput
	}
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/templates/{id}",
			"change-template",
			"Change a template; articles begun with it stay as they are",
		),
		func(ctx context.Context, who staff.Staff, in *changing) (*body[library.Template], error) {
			return wrap(s.app.Library.KeepTemplate(ctx, who, in.ID, in.Body.Template, in.Body.Retired))
		},
	)
	type templatePreview struct {
		Body string `json:"body"`
	}
	staffCall(
		api,
		op("POST", "/api/staff/template-previews", "preview-template", "What an article of a template begins with"),
		func(_ context.Context, _ staff.Staff, in *body[templateInput]) (*body[templatePreview], error) {
			return wrap(templatePreview{in.Body.Template.Body()}, nil)
		},
	)
}
