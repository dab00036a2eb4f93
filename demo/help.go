package demo

import (
	"context"
	"time"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/forms"
	"hermeneus/app/requests"
	"hermeneus/app/review"
	"hermeneus/app/search"
	"hermeneus/core/audience"
	"hermeneus/core/form"
)

// helping sets what the help centre asks and finds: kinds of requests, words that mean
// the same, a pin, a notice of a known problem, and a customer's requests.
func (w *world) helping(ctx context.Context) error {
	for _, part := range []func(context.Context) error{w.kinds, w.grouping, w.search, w.notice, w.customerRequests, w.quietMail} {
		if err := part(ctx); err != nil {
			return err
		}
	}
	w.clock = w.ends
	return nil
}

func (w *world) mainSite(ctx context.Context) (int64, error) {
	list, err := w.app.Sites.Sites(ctx)
	if err != nil {
		return 0, err
	}
	return list[0].ID, nil
}

func (w *world) kinds(ctx context.Context) error {
	w.ago(8 * 24 * time.Hour)
	site, err := w.mainSite(ctx)
	if err != nil {
		return err
	}
	for _, k := range []forms.RequestKind{
		{Name: "I am moving", Description: "Moving in, moving out, or both: we close one account and open the other.", Team: "Accounts", Fields: []form.Field{
			{Key: "which", Label: "Are you moving in or out?", Kind: form.Choice, Required: true, Options: []string{"In", "Out", "Both"}},
			{Key: "day", Label: "On which day?", Kind: form.Date, Required: true},
			{Key: "meter", Label: "Meter number", Kind: form.Reference, Pattern: "A00 00000", Help: "It stands under the display, such as W04 12345."},
			{Key: "forward", Label: "Where shall the last bill go?", Kind: form.LongText, Required: true, When: form.When{Key: "which", Is: "Out"}},
			{Key: "photo", Label: "A picture of the meter", Kind: form.File},
		}},
		{Name: "A bill or a payment", Description: "Say which bill it is about, and what you expected.", Team: "Accounts", Fields: []form.Field{
			{Key: "bill", Label: "Bill number", Kind: form.Reference, Pattern: "B-000000", Help: "At the top right of the bill."},
			{Key: "what", Label: "What is it about?", Kind: form.Choice, Options: []string{"It is higher than I expected", "It is estimated", "Paying it"}},
		}},
		{Name: "Solar, battery or charger", Team: "Solar and storage", Fields: []form.Field{
			{Key: "device", Label: "Which device?", Kind: form.Choice, Required: true, Options: []string{"Panels", "Rented battery", "Street charger"}},
			{Key: "charger", Label: "Number on the charger", Kind: form.Reference, Required: true, When: form.When{Key: "device", Is: "Street charger"}},
			{Key: "light", Label: "What does its light do?", Kind: form.Text, When: form.When{Key: "device", Is: "Rented battery"}},
		}},
	} {
		k.SiteID = site
		if _, err := w.app.Forms.Keep(ctx, w.by("maren"), k); err != nil {
			return err
		}
	}
	return nil
}

func (w *world) search(ctx context.Context) error {
	site, err := w.mainSite(ctx)
	if err != nil {
		return err
	}
	for _, rule := range []string{"night rate, off-peak, economy tariff", "blackout, power cut, outage, power is off", "app => member app", "invoice, bill"} {
		if _, err := w.app.Search.AddSynonym(ctx, w.by("pell"), site, rule); err != nil {
			return err
		}
	}
	pin := search.Pin{
		Words:     "no power",
		Reference: w.references["power-is-off"],
		Until:     w.ends.AddDate(0, 2, 0).Format(time.DateOnly),
	}
	if _, err := w.app.Search.AddPin(ctx, w.by("pell"), site, pin); err != nil {
		return err
	}
	return w.app.Search.Quality.Judge(
		ctx,
		w.by("maren"),
		site,
		"how do I tell you what my meter says?",
		w.references["give-a-meter-reading"],
		"by_hand",
	)
}

func (w *world) notice(ctx context.Context) error {
	w.ago(5 * time.Hour)
	problem, err := w.app.Review.Rechecks.AddKnownProblem(ctx, w.by("pell"), "Line down between Oxmoor and Tarn Edge")
	if err != nil {
		return err
	}
	return w.app.Review.Rechecks.SetNotice(
		ctx,
		w.by("pell"),
		problem.ID,
		review.NewNotice{
			Audience:  audience.Everyone,
			Reference: w.references["power-is-off"],
			Notice:    "A line is down between Oxmoor and Tarn Edge. Our field team is there; power should be back this evening.",
		},
	)
}

// customerRequests sends what a customer finds under their requests: one answered and
// closed, one waiting with its fields filled in.
func (w *world) customerRequests(ctx context.Context) error {
	site, err := w.mainSite(ctx)
	if err != nil {
		return err
	}
	wim := evidence.Visitor{Key: "a1b2c3d4e5f60718293a4b5c6d7e8f90", Customer: &w.customers[0], Site: site}
	w.ago(3 * 24 * time.Hour)
	sent, err := w.app.Requests.SendRequest(
		ctx,
		wim,
		requests.NewRequest{
			Kind:    "A bill or a payment",
			Subject: "Bill B-204417 is higher than the last",
			Text:    "The last one was half of it, and I was away for two weeks.",
			Answers: map[string]string{"bill": "B-204417", "what": "It is higher than I expected"},
			Files:   []form.Upload{{Name: "readings.txt", Content: []byte("1 October 48213\n1 November 48397\n")}},
		},
	)
	if err != nil {
		return err
	}
	w.ago(3*24*time.Hour - 2*time.Hour)
	dara := w.by("dara")
	if err := w.app.Conversations.Accept(ctx, dara, sent.Reference); err != nil {
		return err
	}
	if err := w.app.Conversations.Reply(
		ctx,
		dara,
		sent.Reference,
		conversations.AgentReply{
			Text: "Thank you for the readings. The bill was estimated; with yours it comes down by a third, and a new one is on its way.",
		},
	); err != nil {
		return err
	}
	if err := w.app.Conversations.CloseHandoff(ctx, dara, sent.Reference); err != nil {
		return err
	}
	w.ago(40 * time.Minute)
	_, err = w.app.Requests.SendRequest(
		ctx,
		wim,
		requests.NewRequest{
			Kind:    "I am moving",
			Subject: "Moving out at the end of the month",
			Text:    "We hand the keys over at noon.",
			Answers: map[string]string{
				"which":   "Out",
				"day":     w.ends.AddDate(0, 0, 8).Format(time.DateOnly),
				"forward": "12 Long Lane, Tarn Edge",
			},
		},
	)
	return err
}

// quietMail takes the mails of days past as sent: nobody wants them all at once.
func (w *world) quietMail(ctx context.Context) error {
	return w.app.DB().
		WithContext(ctx).
		Exec(`UPDATE mails SET sent_at = made_at WHERE sent_at IS NULL AND made_at < ?`, w.ends.Add(-3*time.Hour)).
		Error
}
