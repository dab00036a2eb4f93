package flows

import (
	"hermeneus/app/search"
	"hermeneus/core/flow"
)

// Found tells the runtime what a look-up gave.
func Found(looked search.Looked) flow.Input {
	in := flow.Input{Kind: flow.Found, Weak: looked.Weak}
	for _, r := range looked.Results {
		in.Cards = append(in.Cards, r.Card)
	}
	if looked.Answer == nil {
		return in
	}
	in.Sure = looked.Answer.Confidence
	for _, p := range looked.Answer.Parts {
		in.Told = append(in.Told, flow.Passage{
			Reference: p.Reference, Revision: p.Revision, Title: p.Title, Heading: p.Heading, Anchor: p.Anchor,
			Blocks: p.Blocks,
		})
	}
	return in
}
