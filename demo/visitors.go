package demo

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
)

// errLater ends a story that goes on after the demo world's present.
var errLater = errors.New("this happens later")

// visitor is one simulated customer with one thing to get answered.
type visitor struct {
	*world
	evidence.Visitor
	theme theme
	r     *rand.Rand
}

// wait lets time pass.
func (v *visitor) wait(least, most time.Duration) error {
	v.clock = v.clock.Add(least + time.Duration(v.r.Int64N(int64(most-least)+1)))
	if v.clock.After(v.ends) {
		return errLater
	}
	return nil
}

func (v *visitor) chance(p float64) bool { return v.r.Float64() < p }
func (v *visitor) words() string         { return v.theme.words[v.r.IntN(len(v.theme.words))] }

// right finds the first card that answers the theme.
func (v *visitor) right(cards []flow.Card) (flow.Card, bool) {
	for _, slug := range v.theme.answers {
		for _, c := range cards {
			if c.Reference == v.references[slug] {
				return c, true
			}
		}
	}
	return flow.Card{}, false
}

// ask lives through one question: by search, by the bot or by the request form.
func (v *visitor) ask(ctx context.Context) error {
	if v.chance(0.03) { // a program that asks: nobody looks
		_, err := v.app.Search.Search(ctx, v.Visitor, v.words())
		return err
	}
	if err := v.app.Recorder.Look(v.Visitor); err != nil {
		return err
	}
	switch p := v.r.Float64(); {
	case p < 0.07:
		return v.browse(ctx)
	case p < 0.62:
		return v.search(ctx, 0)
	case p < 0.87:
		return v.chat(ctx)
	}
	return v.form(ctx)
}

// browse opens an article from a category, without asking anything.
func (v *visitor) browse(ctx context.Context) error {
	if len(v.theme.answers) == 0 {
		return nil
	}
	_, err := v.read(ctx, v.references[v.theme.answers[0]], "", true)
	return err
}

// read opens an article, from results or from none, and may read it and vote. It says whether it helped.
func (v *visitor) read(ctx context.Context, reference, from string, right bool) (helped bool, err error) {
	page, err := v.app.HelpCentre.OpenFrom(ctx, v.Visitor, outcome.Help, reference, from)
	var gone *problem.Problem
	if errors.As(err, &gone) {
		return false, nil // for signed-in customers only
	}
	if err != nil {
		return false, err
	}
	if !v.chance(map[bool]float64{true: 0.93, false: 0.55}[right]) {
		return false, v.wait(2*time.Second, 8*time.Second)
	}
	if err := v.wait(page.ReadAfter+time.Second, page.ReadAfter+2*time.Minute); err != nil {
		return false, err
	}
	if err := v.app.HelpCentre.MarkRead(ctx, v.Visitor, outcome.Help, reference, page.ReadAfter); err != nil {
		return false, err
	}
	helped = right && !v.chance(v.theme.hard)
	if err := v.wait(time.Second, 20*time.Second); err != nil {
		return helped, err
	}
	switch {
	case helped && v.chance(0.42):
		return helped, v.app.HelpCentre.Vote(ctx, v.Visitor, reference, true, "")
	case !helped && v.chance(0.35):
		return helped, v.app.HelpCentre.Vote(
			ctx,
			v.Visitor,
			reference,
			false,
			[]string{"", "", "It does not say what to do in my case.", "I did this and it is still the same."}[v.r.IntN(4)],
		)
	}
	return helped, nil
}

func (v *visitor) search(ctx context.Context, tries int) error {
	asked := search.Asking{Words: v.words(), Number: fmt.Sprintf("%016x%016x", v.r.Uint64(), v.r.Uint64())}
	found, err := v.app.Search.SearchAll(ctx, v.Visitor, asked)
	if err != nil {
		return err
	}
	if err := v.wait(4*time.Second, 25*time.Second); err != nil {
		return err
	}
	if found.Answer != nil && v.chance(0.6) {
		if err := v.readTold(ctx, asked, found.Answer.ReadAfter); err != nil {
			return err
		}
	}
	results := found.Results
	var cards []flow.Card
	for _, r := range results[:min(5, len(results))] {
		cards = append(cards, r.Card)
	}
	helped := false
	if card, ok := v.right(cards); ok && v.chance(0.95-0.12*float64(slices.Index(cards, card))) {
		helped, err = v.read(ctx, card.Reference, asked.Results(), true)
	} else if len(cards) > 0 && v.chance(0.4) {
		_, err = v.read(ctx, cards[0].Reference, asked.Results(), false)
		if err == nil && len(cards) > 1 && v.chance(0.3) {
			_, err = v.read(ctx, cards[1].Reference, asked.Results(), false)
		}
	}
	if err != nil || helped {
		return err
	}
	switch p := v.r.Float64(); {
	case p < 0.28 && tries < 2:
		return v.search(ctx, tries+1)
	case p < 0.48:
		return v.send(ctx)
	case p < 0.60:
		return v.chat(ctx)
	case p < 0.70:
		// Gives up, and writes to us within the next two days.
		if err := v.wait(time.Hour, 48*time.Hour); err != nil {
			return err
		}
		return v.send(ctx)
	}
	return nil
}

// readTold looks at the answer above the results for as long as it takes to read.
func (v *visitor) readTold(ctx context.Context, asked search.Asking, takes time.Duration) error {
	if err := v.wait(takes+time.Second, takes+40*time.Second); err != nil {
		return err
	}
	return v.app.Search.MarkToldRead(ctx, v.Visitor, asked.Number, takes)
}

// form begins a request, and may find the answer while typing its subject.
func (v *visitor) form(ctx context.Context) error {
	offers, err := v.app.Requests.OfferForForm(ctx, v.Visitor, v.words(), "")
	if err != nil {
		return err
	}
	if err := v.wait(5*time.Second, 40*time.Second); err != nil {
		return err
	}
	var cards []flow.Card
	for _, o := range offers {
		cards = append(cards, o.Card)
	}
	if card, ok := v.right(cards); ok && v.chance(0.5) {
		if helped, err := v.read(ctx, card.Reference, "", true); err != nil || helped {
			return err
		}
	}
	return v.send(ctx)
}

// send sends a request; an agent answers it some hours later.
func (v *visitor) send(ctx context.Context) error {
	subject := v.words()
	address := ""
	if v.Customer == nil {
		address = fmt.Sprintf("visitor%d@post.example", v.r.IntN(9000)+1000)
	}
	sent, err := v.app.Requests.SendRequest(
		ctx,
		v.Visitor,
		requests.NewRequest{
			Subject: subject,
			Text:    "I looked for an answer and did not find it: " + subject + "?",
			Address: address,
		},
	)
	if err != nil {
		return err
	}
	if err := v.wait(40*time.Minute, 9*time.Hour); err != nil {
		return err
	}
	return v.answer(ctx, v.by([]string{"dara", "joss", "nia"}[v.r.IntN(3)]), sent.Reference)
}

// answer lets an agent accept, answer and close a conversation.
func (v *visitor) answer(ctx context.Context, agent staff.Staff, reference string) error {
	if err := v.app.Conversations.Accept(ctx, agent, reference); err != nil {
		return err
	}
	if err := v.wait(time.Minute, 6*time.Minute); err != nil {
		return err
	}
	var articles []string
	for _, slug := range v.theme.answers {
		if slug != "refund" || v.Customer != nil {
			articles = append(articles, v.references[slug])
		}
	}
	if err := v.app.Conversations.Reply(
		ctx,
		agent,
		reference,
		conversations.AgentReply{
			Text:     "Thank you for writing. I looked into it and have put it right; the steps are below in case it comes up again.",
			Articles: articles,
		},
	); err != nil {
		return err
	}
	if err := v.wait(time.Minute, 9*time.Minute); err != nil {
		return err
	}
	return v.app.Conversations.CloseHandoff(ctx, agent, reference)
}

// chat talks to the bot until it is answered, gives up, or is with a person.
func (v *visitor) chat(ctx context.Context) error {
	token, err := v.app.Conversations.StartChat(ctx, v.Visitor)
	if err != nil {
		return err
	}
	choices := v.theme.choices
	if v.chance(0.45) {
		choices = nil // asks in own words
	}
	for range 8 {
		view, err := v.app.Conversations.ReadChat(ctx, v.Visitor, token, 0)
		if err != nil || view.Status == "closed" {
			return err
		}
		if view.Status == "waiting" {
			return v.waitForAgent(ctx, view.Reference)
		}
		if err := v.wait(3*time.Second, 25*time.Second); err != nil {
			return err
		}
		if v.chance(0.06) {
			return nil // leaves
		}
		if choices, err = v.turn(ctx, token, view, choices); err != nil {
			return err
		}
	}
	return nil
}

// turn answers the bot once, and gives the choices that are left to make.
func (v *visitor) turn(
	ctx context.Context,
	token string,
	view conversations.ChatView,
	choices []string,
) ([]string, error) {
	say := func(kind flow.InputKind, text string) error {
		return v.app.Conversations.SayInChat(ctx, v.Visitor, token, flow.Input{Kind: kind, Text: text})
	}
	switch view.Waiting {
	case flow.ForChoice:
		if len(choices) > 0 {
			return choices[1:], say(flow.Choice, choices[0])
		}
		return nil, say(flow.Words, v.words())
	case flow.ForWords, flow.ForDetails:
		return choices, say(flow.Words, v.words())
	case flow.ForAddress:
		return choices, say(flow.Words, "skip")
	case flow.ForVerdict:
		cards := view.Messages[len(view.Messages)-1].Cards
		card, right := v.right(cards)
		if right && v.chance(0.75) {
			page, err := v.app.Conversations.OpenInChat(ctx, v.Visitor, token, card.Reference)
			if err != nil {
				return nil, err
			}
			if err := v.wait(page.ReadAfter+time.Second, page.ReadAfter+time.Minute); err != nil {
				return nil, err
			}
			if err := v.app.Conversations.ReadInChat(
				ctx,
				v.Visitor,
				token,
				card.Reference,
				page.ReadAfter,
			); err != nil {
				return nil, err
			}
		}
		answered := right && !v.chance(v.theme.hard)
		return choices, say(flow.Choice, map[bool]string{true: flow.Yes, false: flow.No}[answered])
	}
	return choices, nil
}

func (v *visitor) waitForAgent(ctx context.Context, reference string) error {
	if err := v.wait(40*time.Second, 11*time.Minute); err != nil {
		return err
	}
	return v.answer(ctx, v.by([]string{"dara", "joss", "nia"}[v.r.IntN(3)]), reference)
}
