package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	coresearch "hermeneus/core/search"
)

// searchAPI is what app/search offers over HTTP.
func searchAPI(api huma.API, a *search.Search) {
	findAPI(api, a)
	helpSearchAPI(api, a)
	searchRuleAPI(api, a)
	judgedAPI(api, a)
}

// findAPI is the find box.
func findAPI(api huma.API, a *search.Search) {
	type finding struct {
		Words string `query:"words" maxLength:"200"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/find", "find", "Find articles of any state while typing"),
		func(ctx context.Context, _ staff.Staff, in *finding) (*body[[]search.Found], error) {
			return wrap(a.Find(ctx, in.Words))
		},
	)
}

// helpSearchAPI is the search of the help centre.
func helpSearchAPI(api huma.API, a *search.Search) {
	type typing struct {
		Q string `query:"q" maxLength:"200" doc:"What is typed so far"`
	}
	type told struct {
		Number string `path:"number" maxLength:"100" doc:"Of the submission"`
		Body   seconds
	}
	publicCall(
		api,
		op(
			"POST",
			"/api/help/results/{number}/read",
			"do-mark-told-read",
			"The answer on a page of results was really seen",
		),
		func(ctx context.Context, in *told) (*none, error) {
			return nil, a.MarkToldRead(ctx, visitorOf(ctx), in.Number, in.Body.duration())
		},
	)
	publicCall(
		api,
		op(
			"GET",
			"/api/help/suggestions",
			"suggest",
			"Ways to go on with what is being typed: questions asked often, and titles",
		),
		func(ctx context.Context, in *typing) (*body[[]Suggestion], error) {
			found, err := a.Suggest(ctx, visitorOf(ctx), in.Q)
			return wrap(suggestions(found), err)
		},
	)
}

// searchRuleAPI is what the search goes by.
func searchRuleAPI(api huma.API, a *search.Search) {
	type ruling struct {
		SiteNumber
		Body struct {
			Rule string `json:"rule" doc:"night rate, off-peak works both ways; app => member app one way"`
		}
	}
	type numbered struct {
		ID int64 `path:"id"`
	}
	type pinning struct {
		SiteNumber
		Body struct {
			Words     string `json:"words"`
			Reference string `json:"reference"`
			Bury      bool   `json:"bury,omitempty"`
			Until     string `json:"until,omitempty" doc:"The last day it holds; empty for ever"`
		}
	}
	type weighing struct {
		SiteNumber
		Body struct {
			Weights []float32 `json:"weights" doc:"Of title, keywords, headings and body; none for the standard"`
		}
	}
	type trying struct {
		SiteNumber
		SearchAs
	}
	type explaining struct {
		SiteNumber
		SearchAs
		Reference string `query:"reference" maxLength:"30"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/sites/{site}/search/rules", "read-search-rules", "What a help centre's search goes by"),
		func(ctx context.Context, _ staff.Staff, in *SiteNumber) (*body[search.SearchRules], error) {
			return wrap(a.ReadSearchRules(ctx, in.Site))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/synonyms", "add-synonym", "Add words that mean the same"),
		func(ctx context.Context, who staff.Staff, in *ruling) (*body[MadeRow], error) {
			id, err := a.AddSynonym(ctx, who, in.Site, in.Body.Rule)
			return wrap(MadeRow{id}, err)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/search/synonyms/{id}", "do-drop-synonym", "Take a rule of synonyms away"),
		func(ctx context.Context, who staff.Staff, in *numbered) (*none, error) {
			return nil, a.DropSynonym(ctx, who, in.ID)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/pins", "add-pin", "Pin or bury an article for a question"),
		func(ctx context.Context, who staff.Staff, in *pinning) (*body[MadeRow], error) {
			id, err := a.AddPin(
				ctx,
				who,
				in.Site,
				search.Pin{
					Words:     in.Body.Words,
					Reference: in.Body.Reference,
					Bury:      in.Body.Bury,
					Until:     in.Body.Until,
				},
			)
			return wrap(MadeRow{id}, err)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/search/pins/{id}", "do-drop-pin", "Take a pin away"),
		func(ctx context.Context, who staff.Staff, in *numbered) (*none, error) {
			return nil, a.DropPin(ctx, who, in.ID)
		},
	)
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/sites/{site}/search/weights",
			"do-set-weights",
			"Set how much a word in each field tells",
		),
		func(ctx context.Context, who staff.Staff, in *weighing) (*none, error) {
			return nil, a.SetWeights(ctx, who, in.Site, in.Body.Weights)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/sites/{site}/search", "try-search", "What a question finds, as somebody would find it"),
		func(ctx context.Context, who staff.Staff, in *trying) (*body[search.Tried], error) {
			return wrap(a.TrySearch(ctx, who, in.Site, in.Language, in.As, in.Words))
		},
	)
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/sites/{site}/search/explain",
			"explain-search",
			"Why an article ranks where it does for a question",
		),
		func(ctx context.Context, who staff.Staff, in *explaining) (*body[coresearch.Explanation], error) {
			return wrap(a.ExplainSearch(ctx, who, in.Site, in.Language, in.As, in.Words, in.Reference))
		},
	)
}

// judgedAPI keeps the questions of which it is known what answers them.
func judgedAPI(api huma.API, a *search.Search) {
	type Measured struct {
		Quality search.SearchQuality    `json:"quality"`
		Judged  []search.JudgedQuestion `json:"judged"`
	}
	type tried struct {
		SiteNumber
		Body struct {
			Synonyms []string  `json:"synonyms,omitempty"`
			Weights  []float32 `json:"weights,omitempty"`
			BatchID  int64     `json:"batch_id,omitempty"`
		}
	}
	type judging struct {
		SiteNumber
		Body struct {
			Question  string `json:"question"`
			Reference string `json:"reference"`
		}
	}
	type dropping struct {
		ID int64 `path:"id"`
	}
	type answering struct {
		Body struct {
			Key       string `json:"key" maxLength:"200" doc:"Of the question"`
			Reference string `json:"reference" doc:"Of the article"`
		}
	}
	type unanswering struct {
		Key       string `query:"key" required:"true" maxLength:"200" doc:"Of the question"`
		Reference string `query:"reference" required:"true" doc:"Of the article"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/sites/{site}/search/quality",
			"measure-search",
			"How well the search does on the judged questions",
		),
		func(ctx context.Context, who staff.Staff, in *SiteNumber) (*body[Measured], error) {
			quality, judged, err := a.Quality.MeasureSearch(ctx, who, in.Site)
			return wrap(Measured{quality, judged}, err)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/sites/{site}/search/trials",
			"trial-search",
			"What synonyms, weights or a batch would do to the judged questions",
		),
		func(ctx context.Context, who staff.Staff, in *tried) (*body[search.SearchQuality], error) {
			return wrap(
				a.Quality.TrialSearch(
					ctx,
					who,
					in.Site,
					search.SearchTrial{Synonyms: in.Body.Synonyms, Weights: in.Body.Weights, BatchID: in.Body.BatchID},
				),
			)
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/judged", "do-judge", "Say that an article answers a question"),
		func(ctx context.Context, who staff.Staff, in *judging) (*none, error) {
			return nil, a.Quality.Judge(ctx, who, in.Site, in.Body.Question, in.Body.Reference, "by_hand")
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/search/judged/{id}", "do-drop-judged", "Leave a question out"),
		func(ctx context.Context, who staff.Staff, in *dropping) (*none, error) {
			return nil, a.Quality.DropJudged(ctx, who, in.ID)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/question/answered-by",
			"do-judge-from-ledger",
			"Say that an article answered a question of the Ledger",
		),
		func(ctx context.Context, who staff.Staff, in *answering) (*none, error) {
			return nil, a.Quality.JudgeFromLedger(ctx, who, in.Body.Key, in.Body.Reference)
		},
	)
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/question/answered-by",
			"undo-judge-from-ledger",
			"Take back that an article answered a question of the Ledger",
		),
		func(ctx context.Context, who staff.Staff, in *unanswering) (*none, error) {
			return nil, a.Quality.UnjudgeFromLedger(ctx, who, in.Key, in.Reference)
		},
	)
}

// SiteNumber names a help centre in a path.
type SiteNumber struct {
	Site int64 `path:"site"`
}

// MadeRow is the number of what was made.
type MadeRow struct {
	ID int64 `json:"id"`
}

// SearchAs says as whom the search is tried.
type SearchAs struct {
	Words    string            `query:"words" maxLength:"4000"`
	As       audience.Audience `query:"as" maxLength:"50" default:"everyone" doc:"everyone, signed_in, staff, or group: and a group's key"`
	Language string            `query:"language" maxLength:"5"`
}
