package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/lists"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	"hermeneus/core/review"
)

// listsAPI is what app/lists offers over HTTP.
func listsAPI(api huma.API, a *lists.Lists) {
	articleListAPI(api, a)
}

// articleListAPI lists articles.
func articleListAPI(api huma.API, a *lists.Lists) {
	staffCall(
		api,
		op("GET", "/api/staff/articles", "list-articles", "Articles, filtered"),
		func(ctx context.Context, _ staff.Staff, in *ArticleQuery) (*body[list[lists.ArticleLine]], error) {
			return wrapList(a.ListArticles(ctx, in.filter()))
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
