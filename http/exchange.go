package http

import (
	"context"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/exchange"
	"hermeneus/app/staff"
	coreexchange "hermeneus/core/exchange"
)

// exchangeAPI is what app/exchange offers over HTTP.
func exchangeAPI(api huma.API, a *exchange.Exchange) {
	bringAPI(api, a)
}

// bringAPI brings articles in and out.
func bringAPI(api huma.API, a *exchange.Exchange) {
	type importing struct {
		Name     string             `query:"name" required:"true" maxLength:"200" doc:"Of the file: a .zip, .md or .html"`
		Dry      bool               `query:"dry" doc:"Only say what would be done"`
		Category int64              `query:"category" doc:"Everything goes below it"`
		Split    coreexchange.Split `query:"split" enum:"pages,parts" default:"pages"`
		RawBody  []byte             `contentType:"application/octet-stream"`
	}
	type exporting struct {
		ArticleQuery
		References string `query:"references" maxLength:"100000" doc:"Of single articles, with commas; else all that fit the filter"`
	}
	type archive struct {
		ContentType        string `header:"Content-Type"`
		ContentDisposition string `header:"Content-Disposition"`
		Body               []byte
	}
	type mailed struct {
		Category int64  `query:"category" required:"true"`
		RawBody  []byte `contentType:"message/rfc822"`
	}
	in := op("POST", "/api/staff/imports", "begin-import", "Bring articles in, or say what that would do")
	in.MaxBodyBytes = mostLimit
	mail := op("POST", "/api/staff/articles-from-mail", "begin-from-mail", "Begin an article with the answer in a mail")
	mail.MaxBodyBytes = maxMail
	staffCall(api, in, func(ctx context.Context, who staff.Staff, in *importing) (*body[begunJob], error) {
		id, err := a.AskImport(
			ctx,
			who,
			in.Name,
			in.RawBody,
			exchange.ImportOptions{CategoryID: in.Category, Split: in.Split},
			in.Dry,
		)
		return wrap(begunJob{id}, err)
	})
	staffCall(
		api,
		op("GET", "/api/staff/export", "export-articles", "Articles as a zip of CommonMark files"),
		func(ctx context.Context, who staff.Staff, in *exporting) (*archive, error) {
			var references []string
			if in.References != "" {
				references = strings.Split(in.References, ",")
			}
			bundle, err := a.ExportLibrary(ctx, who, in.filter(), references)
			if err != nil {
				return nil, err
			}
			raw, err := bundle.Zip()
			return &archive{"application/zip", `attachment; filename="library.zip"`, raw}, err
		},
	)
	staffCall(api, mail, func(ctx context.Context, who staff.Staff, in *mailed) (*body[exchange.FromMail], error) {
		return wrap(a.ArticleFromMail(ctx, who, in.Category, in.RawBody))
	})
}
