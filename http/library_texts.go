package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/library"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/compare"
)

// articleBody is the most that is read of a save: the text at its limit, twice
// over for its escapes, so that the refusal of a text too large is our own.
const articleBody = 4 << 20

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
