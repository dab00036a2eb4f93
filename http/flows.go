package http

import (
	"context"
	"encoding/json"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/flows"
	"hermeneus/app/staff"
	"hermeneus/app/texts"
	"hermeneus/core/flow"
)

// FlowSlug names a flow in an address.
type FlowSlug struct {
	Slug string `path:"slug" maxLength:"80"`
}

// flowsAPI is what app/flows offers over HTTP.
func flowsAPI(api huma.API, a *flows.Flows) {
	flowListAPI(api, a)
	flowTextAPI(api, a)
	flowVersionsAPI(api, a)
	flowReviewAPI(api, a)
	flowChecksAPI(api, a)
	rehearsalsAPI(api, a)
}

func flowListAPI(api huma.API, a *flows.Flows) {
	type flowBeginning struct {
		Body struct {
			Name     string `json:"name"`
			Language string `json:"language" maxLength:"5"`
			From     string `json:"from" doc:"the key of a beginning; nothing for an empty script"`
		}
	}
	type flowMade struct {
		Slug string `json:"slug"`
	}
	type flowPropertiesOf struct {
		FlowSlug
		Body flows.FlowProperties
	}
	type flowEntries struct {
		FlowSlug
		Body struct {
			Entries []flow.Entry `json:"entries"`
		}
	}
	type flowEnding struct {
		FlowSlug
		Body struct {
			Ended bool `json:"ended"`
		}
	}
	staffCall(api, op("GET", "/api/staff/flows", "list-flows", "The flows"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]flows.FlowLine], error) {
			return wrap(a.List(ctx))
		})
	staffCall(api, op("GET", "/api/staff/flow-words", "list-flow-words", "What a script can name"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[flows.FlowWords], error) {
			return wrap(a.Words(ctx))
		})
	staffCall(api, op("POST", "/api/staff/flows", "create-flow", "Begin a flow"),
		func(ctx context.Context, who staff.Staff, in *flowBeginning) (*body[flowMade], error) {
			slug, err := a.Create(
				ctx,
				who,
				flows.Beginning{Name: in.Body.Name, Language: in.Body.Language, From: in.Body.From},
			)
			return wrap(flowMade{slug}, err)
		})
	staffCall(api, op("GET", "/api/staff/flows/{slug}", "read-flow", "A flow with its text"),
		func(ctx context.Context, who staff.Staff, in *FlowSlug) (*body[flows.FlowView], error) {
			return wrap(a.Read(ctx, who, in.Slug))
		})
	staffCall(
		api,
		op("PUT", "/api/staff/flows/{slug}/properties", "set-flow-properties", "Change a flow's name and owner"),
		func(ctx context.Context, who staff.Staff, in *flowPropertiesOf) (*none, error) {
			return nil, a.SetProperties(ctx, who, in.Slug, in.Body)
		},
	)
	staffCall(api, op("PUT", "/api/staff/flows/{slug}/entries", "set-flow-entries", "Say where a flow meets customers"),
		func(ctx context.Context, who staff.Staff, in *flowEntries) (*none, error) {
			return nil, a.SetEntries(ctx, who, in.Slug, in.Body.Entries)
		})
	staffCall(
		api,
		op("PUT", "/api/staff/flows/{slug}/ended", "end-flow", "Take a flow out of service, or back into it"),
		func(ctx context.Context, who staff.Staff, in *flowEnding) (*none, error) {
			return nil, a.End(ctx, who, in.Slug, in.Body.Ended)
		},
	)
}

func flowTextAPI(api huma.API, a *flows.Flows) {
	type flowSave struct {
		FlowSlug
		Body struct {
			Source  string `json:"source"`
			Version int    `json:"version" doc:"of the working copy that it was written from"`
			Tab     string `json:"tab" maxLength:"60"`
			Key     string `json:"key" maxLength:"80" doc:"the same again is the same save"`
		}
	}
	type flowSaved struct {
		Version int `json:"version"`
	}
	type flowTab struct {
		FlowSlug
		Body struct {
			Tab string `json:"tab"`
		}
	}
	type flowHeld struct {
		Holder *texts.Holder `json:"holder"`
	}
	type FlowStateOf struct {
		FlowSlug
		ID int64 `path:"id"`
	}
	type flowStateAgain struct {
		FlowStateOf
		Body struct {
			Version int    `json:"version" doc:"of the working copy that was read before"`
			Tab     string `json:"tab" maxLength:"60"`
		}
	}
	type flowAside struct {
		FlowSlug
		Body struct {
			Source string `json:"source"`
		}
	}
	type flowSourceText struct {
		Source string `json:"source"`
	}
	save := op("PUT", "/api/staff/flows/{slug}/text", "save-flow", "Save a flow's text as it is being written")
	save.MaxBodyBytes = apiLimit
	staffCall(api, save, func(ctx context.Context, who staff.Staff, in *flowSave) (*body[flowSaved], error) {
		n, err := a.Drafts.Save(ctx, who, in.Slug, flows.Save{
			Source: in.Body.Source, Version: in.Body.Version, Tab: in.Body.Tab, Key: in.Body.Key,
		})
		return wrap(flowSaved{n}, err)
	})
	staffCall(api, op("POST", "/api/staff/flows/{slug}/hold", "hold-flow", "Say that one is writing a flow"),
		func(ctx context.Context, who staff.Staff, in *flowTab) (*body[flowHeld], error) {
			held, err := a.Drafts.Hold(ctx, who, in.Slug, in.Body.Tab)
			return wrap(flowHeld{held}, err)
		})
	staffCall(api, op("POST", "/api/staff/flows/{slug}/let-go", "let-go-flow", "Say that one has stopped writing it"),
		func(ctx context.Context, who staff.Staff, in *flowTab) (*none, error) {
			return nil, a.Drafts.LetGo(ctx, who, in.Slug, in.Body.Tab)
		})
	staffCall(
		api,
		op("POST", "/api/staff/flows/{slug}/take-over", "take-over-flow", "Go on in the place of who is writing"),
		func(ctx context.Context, who staff.Staff, in *flowTab) (*none, error) {
			return nil, a.Drafts.TakeOver(ctx, who, in.Slug, in.Body.Tab)
		},
	)
	staffCall(api, op("GET", "/api/staff/flows/{slug}/states", "list-flow-states", "Earlier states of a flow's text"),
		func(ctx context.Context, _ staff.Staff, in *FlowSlug) (*body[[]flows.FlowState], error) {
			return wrap(a.Drafts.States(ctx, in.Slug))
		})
	staffCall(api, op("GET", "/api/staff/flows/{slug}/states/{id}", "read-flow-state", "One of them"),
		func(ctx context.Context, _ staff.Staff, in *FlowStateOf) (*body[flowSourceText], error) {
			source, err := a.Drafts.ReadState(ctx, in.Slug, in.ID)
			return wrap(flowSourceText{source}, err)
		})
	staffCall(
		api,
		op("POST", "/api/staff/flows/{slug}/states/{id}/again", "put-back-flow-state", "Make it the text again"),
		func(ctx context.Context, who staff.Staff, in *flowStateAgain) (*body[flowSaved], error) {
			n, err := a.Drafts.PutBack(ctx, who, in.Slug, in.ID, flows.Save{Version: in.Body.Version, Tab: in.Body.Tab})
			return wrap(flowSaved{n}, err)
		},
	)
	aside := op(
		"POST",
		"/api/staff/flows/{slug}/states",
		"keep-flow-aside",
		"Keep an unsaved text among earlier states",
	)
	aside.MaxBodyBytes = apiLimit
	staffCall(api, aside, func(ctx context.Context, who staff.Staff, in *flowAside) (*none, error) {
		return nil, a.Drafts.KeepAside(ctx, who, in.Slug, in.Body.Source)
	})
}

func flowVersionsAPI(api huma.API, a *flows.Flows) {
	type flowPublishing struct {
		FlowSlug
		Body struct {
			Copy int    `json:"copy" doc:"the version of the working copy that was read before"`
			Note string `json:"note" doc:"what is new; needed while the checks warn"`
		}
	}
	type flowBringing struct {
		FlowSlug
		Body struct {
			Source string `json:"source" doc:"the script, as it is typed or as JSON"`
			Base   int    `json:"base" doc:"The version it was made from; 0 for a new flow"`
		}
	}
	type flowNumber struct {
		Version int `json:"version"`
	}
	type FlowVersionPath struct {
		FlowSlug
		Number int `path:"number"`
	}
	type flowAgain struct {
		FlowVersionPath
		Body struct {
			Note string `json:"note"`
		}
	}
	type flowPair struct {
		FlowSlug
		Before int `query:"before" minimum:"0"`
		After  int `query:"after" minimum:"0" doc:"0 for the working copy"`

		State int64 `query:"state" minimum:"0" doc:"an earlier state in the place of before"`
	}
	type flowScriptBody struct {
		Source string          `json:"source" doc:"as it is typed"`
		Script json.RawMessage `json:"script" doc:"in the published format, format 2"`
	}
	bring := op(
		"PUT",
		"/api/staff/flows/{slug}",
		"publish-flow",
		"Take a whole script, and publish it as the live version",
	)
	bring.MaxBodyBytes = apiLimit
	staffCall(api, bring, func(ctx context.Context, who staff.Staff, in *flowBringing) (*body[flowNumber], error) {
		n, err := a.PublishFlow(ctx, who, in.Slug, in.Body.Source, in.Body.Base)
		return wrap(flowNumber{n}, err)
	})
	staffCall(api, op("POST", "/api/staff/flows/{slug}/versions", "publish-flow-copy", "Publish what is being written"),
		func(ctx context.Context, who staff.Staff, in *flowPublishing) (*body[flowNumber], error) {
			n, err := a.Publish(ctx, who, in.Slug, in.Body.Copy, in.Body.Note)
			return wrap(flowNumber{n}, err)
		})
	staffCall(api, op("GET", "/api/staff/flows/{slug}/versions", "list-flow-versions", "The versions of a flow"),
		func(ctx context.Context, _ staff.Staff, in *FlowSlug) (*body[[]flows.VersionLine], error) {
			return wrap(a.ListVersions(ctx, in.Slug))
		})
	staffCall(
		api,
		op("GET", "/api/staff/flows/{slug}/versions/{number}", "read-flow-version", "A version; 0 is the working copy"),
		func(ctx context.Context, _ staff.Staff, in *FlowVersionPath) (*body[flowScriptBody], error) {
			source, script, err := a.ReadVersion(ctx, in.Slug, in.Number)
			if err != nil {
				return nil, err
			}
			raw, err := json.Marshal(script)
			return wrap(flowScriptBody{source, raw}, err)
		},
	)
	staffCall(
		api,
		op(
			"POST",
			"/api/staff/flows/{slug}/versions/{number}/again",
			"roll-back-flow",
			"Make an earlier version live again",
		),
		func(ctx context.Context, who staff.Staff, in *flowAgain) (*body[flowNumber], error) {
			n, err := a.RollBack(ctx, who, in.Slug, in.Number, in.Body.Note)
			return wrap(flowNumber{n}, err)
		},
	)
	staffCall(api, op("GET", "/api/staff/flows/{slug}/comparison", "compare-flow", "Two versions laid over each other"),
		func(ctx context.Context, _ staff.Staff, in *flowPair) (*body[flows.Compared], error) {
			return wrap(a.Compare(ctx, in.Slug, flows.Pair{Before: in.Before, After: in.After, State: in.State}))
		})
}

func flowReviewAPI(api huma.API, a *flows.Flows) {
	type flowStep struct {
		FlowSlug
		Body flows.FlowStep
	}
	type flowPath struct {
		FlowSlug
		Body struct {
			Path int64 `json:"path" doc:"of review; 0 for none"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/flows/{slug}/steps", "move-flow", "Send a flow to review, or decide about it"),
		func(ctx context.Context, who staff.Staff, in *flowStep) (*none, error) {
			return nil, a.Reviews.Move(ctx, who, in.Slug, in.Body)
		},
	)
	staffCall(api, op("PUT", "/api/staff/flows/{slug}/path", "set-flow-path", "Say through which path a flow goes"),
		func(ctx context.Context, who staff.Staff, in *flowPath) (*none, error) {
			return nil, a.Reviews.SetPath(ctx, who, in.Slug, in.Body.Path)
		})
	staffCall(api, op("GET", "/api/staff/flow-reviews", "list-flow-reviews", "The flows on their way through review"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[[]flows.FlowWaits], error) {
			return wrap(a.Reviews.InReview(ctx, who))
		})
}

func flowChecksAPI(api huma.API, a *flows.Flows) {
	type flowSource struct {
		Source string `json:"source" doc:"The script, as it is typed or as JSON"`
		Slug   string `json:"slug,omitempty" doc:"of the flow that it is for"`
	}
	type flowRenaming struct {
		Source string `json:"source"`
		From   string `json:"from"`
		To     string `json:"to"`
	}
	type flowRenamed struct {
		Source string `json:"source"`
	}
	type flowTextSetting struct {
		Source   string `json:"source"`
		Turn     string `json:"turn"`
		Field    string `json:"field"`
		Language string `json:"language" maxLength:"5"`
		Text     string `json:"text"`
	}
	check := op("POST", "/api/staff/flow-checks", "check-flow", "What is wrong with a script, and what its text is")
	check.MaxBodyBytes = apiLimit
	try := op("POST", "/api/staff/flow-trials", "try-flow", "A conversation with a script that is not live")
	try.MaxBodyBytes = apiLimit
	rename := op(
		"POST",
		"/api/staff/flow-renamings",
		"rename-flow-turn",
		"Another name for a turn; all who go there follow",
	)
	rename.MaxBodyBytes = apiLimit
	say := op("POST", "/api/staff/flow-texts", "set-flow-text", "A text of a script in a language")
	say.MaxBodyBytes = apiLimit
	staffCall(api, check, func(ctx context.Context, _ staff.Staff, in *body[flowSource]) (*body[flows.Checked], error) {
		return wrap(a.Check(ctx, in.Body.Slug, in.Body.Source))
	})
	staffCall(
		api,
		try,
		func(ctx context.Context, who staff.Staff, in *body[flows.FlowTrial]) (*body[flows.TrialState], error) {
			return wrap(a.Rehearsals.Try(ctx, who, in.Body))
		},
	)
	staffCall(api, rename, func(_ context.Context, _ staff.Staff, in *body[flowRenaming]) (*body[flowRenamed], error) {
		source, err := flows.Rename(in.Body.Source, in.Body.From, in.Body.To)
		return wrap(flowRenamed{source}, err)
	})
	staffCall(api, say, func(_ context.Context, _ staff.Staff, in *body[flowTextSetting]) (*body[flowRenamed], error) {
		source, err := flows.SetText(in.Body.Source, in.Body.Turn, in.Body.Field, in.Body.Language, in.Body.Text)
		return wrap(flowRenamed{source}, err)
	})
}
