package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"

	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/audience"
	coresearch "hermeneus/core/search"
)

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

// searchAPI sets, tries and measures the search of help centres.
func (s *server) searchAPI(api huma.API) {
	staffCall(
		api,
		op("GET", "/api/staff/sites/{site}/search/rules", "read-search-rules", "What a help centre's search goes by"),
		func(ctx context.Context, _ staff.Staff, in *SiteNumber) (*body[search.SearchRules], error) {
			return wrap(s.app.Search.ReadSearchRules(ctx, in.Site))
		},
	)
	type ruling struct {
		SiteNumber
		Body struct {
			Rule string `json:"rule" doc:"night rate, off-peak works both ways; app => member app one way"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/synonyms", "add-synonym", "Add words that mean the same"),
		func(ctx context.Context, who staff.Staff, in *ruling) (*body[MadeRow], error) {
			id, err := s.app.Search.AddSynonym(ctx, who, in.Site, in.Body.Rule)
			return wrap(MadeRow{id}, err)
		},
	)
	type numbered struct {
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("DELETE", "/api/staff/search/synonyms/{id}", "do-drop-synonym", "Take a rule of synonyms away"),
		func(ctx context.Context, who staff.Staff, in *numbered) (*none, error) {
			return nil, s.app.Search.DropSynonym(ctx, who, in.ID)
		},
	)
	type pinning struct {
		SiteNumber
		Body struct {
			Words     string `json:"words"`
			Reference string `json:"reference"`
			Bury      bool   `json:"bury,omitempty"`
			Until     string `json:"until,omitempty" doc:"The last day it holds; empty for ever"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/pins", "add-pin", "Pin or bury an article for a question"),
		func(ctx context.Context, who staff.Staff, in *pinning) (*body[MadeRow], error) {
			id, err := s.app.Search.AddPin(
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
			return nil, s.app.Search.DropPin(ctx, who, in.ID)
		},
	)
	type weighing struct {
		SiteNumber
		Body struct {
			Weights []float32 `json:"weights" doc:"Of title, keywords, headings and body; none for the standard"`
		}
	}
	staffCall(
		api,
		op(
			"PUT",
			"/api/staff/sites/{site}/search/weights",
			"do-set-weights",
			"Set how much a word in each field tells",
		),
		func(ctx context.Context, who staff.Staff, in *weighing) (*none, error) {
			return nil, s.app.Search.SetWeights(ctx, who, in.Site, in.Body.Weights)
		},
	)
	type trying struct {
		SiteNumber
		SearchAs
	}
	staffCall(
		api,
		op("GET", "/api/staff/sites/{site}/search", "try-search", "What a question finds, as somebody would find it"),
		func(ctx context.Context, who staff.Staff, in *trying) (*body[search.Tried], error) {
			return wrap(s.app.Search.TrySearch(ctx, who, in.Site, in.Language, in.As, in.Words))
		},
	)
	type explaining struct {
		SiteNumber
		SearchAs
		Reference string `query:"reference" maxLength:"30"`
	}
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/sites/{site}/search/explain",
			"explain-search",
			"Why an article ranks where it does for a question",
		),
		func(ctx context.Context, who staff.Staff, in *explaining) (*body[coresearch.Explanation], error) {
			return wrap(s.app.Search.ExplainSearch(ctx, who, in.Site, in.Language, in.As, in.Words, in.Reference))
		},
	)
	s.judgedAPI(api)
	s.requestKindAPI(api)
}

// judgedAPI keeps the questions of which it is known what answers them.
func (s *server) judgedAPI(api huma.API) {
	type Measured struct {
		Quality search.SearchQuality    `json:"quality"`
		Judged  []search.JudgedQuestion `json:"judged"`
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
			quality, judged, err := s.app.Search.MeasureSearch(ctx, who, in.Site)
			return wrap(Measured{quality, judged}, err)
		},
	)
	type tried struct {
		SiteNumber
		Body struct {
			Synonyms []string  `json:"synonyms,omitempty"`
			Weights  []float32 `json:"weights,omitempty"`
			BatchID  int64     `json:"batch_id,omitempty"`
		}
	}
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
				s.app.Search.TrialSearch(
					ctx,
					who,
					in.Site,
					search.SearchTrial{Synonyms: in.Body.Synonyms, Weights: in.Body.Weights, BatchID: in.Body.BatchID},
				),
			)
		},
	)
	type judging struct {
		SiteNumber
		Body struct {
			Question  string `json:"question"`
			Reference string `json:"reference"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/sites/{site}/search/judged", "do-judge", "Say that an article answers a question"),
		func(ctx context.Context, who staff.Staff, in *judging) (*none, error) {
			return nil, s.app.Search.Judge(ctx, who, in.Site, in.Body.Question, in.Body.Reference, "by_hand")
		},
	)
	type dropping struct {
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("DELETE", "/api/staff/search/judged/{id}", "do-drop-judged", "Leave a question out"),
		func(ctx context.Context, who staff.Staff, in *dropping) (*none, error) {
			return nil, s.app.Search.DropJudged(ctx, who, in.ID)
		},
	)
	type answering struct {
		Body struct {
			Key       string `json:"key" maxLength:"200" doc:"Of the question"`
			Reference string `json:"reference" doc:"Of the article"`
		}
	}
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/question/answered-by",
			"do-judge-from-ledger",
			"Say that an article answered a question of the Ledger",
		),
		func(ctx context.Context, who staff.Staff, in *answering) (*none, error) {
			return nil, s.app.Search.JudgeFromLedger(ctx, who, in.Body.Key, in.Body.Reference)
		},
	)
	type unanswering struct {
		Key       string `query:"key" required:"true" maxLength:"200" doc:"Of the question"`
		Reference string `query:"reference" required:"true" doc:"Of the article"`
	}
	staffCall(
		api,
		op(
			"DELETE",
			"/api/staff/question/answered-by",
			"undo-judge-from-ledger",
			"Take back that an article answered a question of the Ledger",
		),
		func(ctx context.Context, who staff.Staff, in *unanswering) (*none, error) {
			return nil, s.app.Search.UnjudgeFromLedger(ctx, who, in.Key, in.Reference)
		},
	)
}

// requestKindAPI sets what the request form asks for.
func (s *server) requestKindAPI(api huma.API) {
	staffCall(
		api,
		op(
			"GET",
			"/api/staff/sites/{site}/request-kinds",
			"list-request-kinds",
			"The kinds of request that a help centre's form offers",
		),
		func(ctx context.Context, _ staff.Staff, in *SiteNumber) (*body[[]requests.RequestKind], error) {
			return wrap(s.app.Requests.RequestKinds(ctx, in.Site))
		},
	)
	type keeping struct {
		Body requests.RequestKind
	}
	staffCall(
		api,
		op("PUT", "/api/staff/request-kinds", "keep-request-kind", "Make a kind of request, or change one"),
		func(ctx context.Context, who staff.Staff, in *keeping) (*body[MadeRow], error) {
			id, err := s.app.Requests.KeepRequestKind(ctx, who, in.Body)
			return wrap(MadeRow{id}, err)
		},
	)
	type retiring struct {
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("DELETE", "/api/staff/request-kinds/{id}", "do-retire-request-kind", "Take a kind of request from the form"),
		func(ctx context.Context, who staff.Staff, in *retiring) (*none, error) {
			return nil, s.app.Requests.RetireRequestKind(ctx, who, in.ID)
		},
	)
}

// handoffFile gives an agent a file that came with a request.
func (s *server) handoffFile(c *fiber.Ctx) error {
	who, err := staffOf(c.UserContext())
	if err != nil {
		return err
	}
	id, err := c.ParamsInt("id")
	if err != nil {
		return fiber.ErrNotFound
	}
	file, err := s.app.Requests.HandoffFile(c.UserContext(), who, c.Params("reference"), int64(id))
	if err != nil {
		return err
	}
	return sendFile(c, file.Name, file.MediaType, file.Bytes)
}
