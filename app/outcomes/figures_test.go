package outcomes_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/outcomes"
	"hermeneus/app/requests"
	"hermeneus/core/outcome"
)

// lives makes a few days of mixed questions.
func lives(w *apptest.World, c apptest.Crew) {
	for i := range 12 {
		v := apptest.Visitor(fmt.Sprint("visitor ", i%9))
		_, err := w.Search.Search(w.Context, v, "why is my bill estimated")
		w.Must(err)
		if i%3 != 0 {
			_, err = w.HelpCentre.OpenPage(w.Context, v, outcome.Help, "A-0001")
			w.Must(err)
			w.Wait(20 * time.Second)
			w.Must(w.HelpCentre.MarkRead(w.Context, v, outcome.Help, "A-0001", 18*time.Second))
		}
		if i%4 == 1 {
			w.Must(w.HelpCentre.Vote(w.Context, v, "A-0001", i%8 == 1, ""))
		}
		if i%5 == 4 {
			w.Wait(3 * time.Hour)
			sent, err := w.Requests.SendRequest(
				w.Context,
				v,
				requests.NewRequest{Subject: "bill", Text: "please", Address: "a@post.example"},
			)
			w.Must(err)
			w.Must(w.Conversations.Accept(w.Context, c.Agent, sent.Reference))
			w.Must(w.Conversations.Reply(w.Context, c.Agent, sent.Reference, conversations.AgentReply{Text: "done"}))
		}
		w.Wait(9 * time.Hour)
	}
}

func TestTheLiveFiguresAreThoseOfTheExport(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	w.Must(w.Outcomes.FoldAll(w.Context))
	live, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins.AddDate(0, 0, -1), w.Time(), outcomes.Split{})
	w.Must(err)

	items, err := evidence.Items(w.DB(), "true ORDER BY e.id")
	w.Must(err)
	var file bytes.Buffer
	w.Must(outcome.WriteJSONL(&file, items))
	back, err := outcome.ReadJSONL(&file)
	w.Must(err)
	report := outcome.NewReport(outcome.Fold(back, w.Time(), outcome.DefaultWindow))
	if live.Counts != report.Counts {
		t.Errorf("live %+v, from the export %+v", live.Counts, report.Counts)
	}
	if live.Counts.Settled() < 5 || live.Counts.Person == 0 || live.Counts.Confirmed == 0 || live.Counts.Returned == 0 {
		t.Errorf("the days were too quiet to show much: %+v", live.Counts)
	}
	if *report.Rates.Deflection.Value != live.Rates.Deflection.Value ||
		*report.Rates.Deflection.Low != live.Rates.Deflection.Low {
		t.Errorf("live %+v, from the export %+v", live.Rates, report.Rates)
	}
	sum := outcome.Counts{}
	for _, d := range live.Days {
		sum.Confirmed += d.Counts.Confirmed
		sum.Person += d.Counts.Person
	}
	if sum.Confirmed != live.Counts.Confirmed || sum.Person != live.Counts.Person {
		t.Errorf("the days add up to %+v, the counts are %+v", sum, live.Counts)
	}
}

func TestEveryCountOpensIntoItsQuestions(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	w.Must(w.Outcomes.FoldAll(w.Context))
	figures, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins.AddDate(0, 0, -1), w.Time(), outcomes.Split{})
	w.Must(err)
	counts, _ := json.Marshal(figures.Counts)
	var by map[outcome.Outcome]int
	w.Must(json.Unmarshal(counts, &by))
	for _, o := range outcome.All {
		f := outcomes.LedgerFilter{
			Period:  figures.Period,
			Outcome: o,
			Settled: o != outcome.Open && !o.SetAside(),
		}
		lines, total, err := w.Outcomes.Ledger(w.Context, c.Analyst, f)
		w.Must(err)
		if total != by[o] {
			t.Errorf("%s: the count is %d, the Ledger has %d", o, by[o], total)
		}
		for _, l := range lines {
			q, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, l.Key)
			w.Must(err)
			if q.Outcome != o || len(q.Evidence) != l.Items {
				t.Errorf("%s opens to %+v", l.Key, q)
			}
			if o == outcome.Returned {
				back, err := w.Outcomes.ReadQuestion(w.Context, c.Analyst, q.ReturnedIn)
				w.Must(err)
				if back.Outcome != outcome.Person || len(back.Earlier) == 0 {
					t.Errorf("the return is not linked: %+v", back)
				}
			}
		}
	}
	if _, total, _ := w.Outcomes.Ledger(
		w.Context,
		c.Analyst,
		outcomes.LedgerFilter{Period: figures.Period, Settling: true},
	); total != figures.Counts.Settling {
		t.Errorf("settling: the count is %d, the Ledger has %d", figures.Counts.Settling, total)
	}
}

// The figures speak of every channel that evidence can come from, and each opens into its questions.
func TestEveryChannelHasItsFigures(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	for i, channel := range outcome.Channels {
		asker := fmt.Sprintf("mail:%d", i)
		w.Must(w.Recorder.RecordOf(w.DB(), asker, channel, outcome.Evidence{Kind: outcome.Asked, Text: "a bill"}))
		w.Must(w.Recorder.RecordOf(w.DB(), asker, channel, outcome.Evidence{
			Kind: outcome.Requested, Ref: fmt.Sprintf("R-%04d", 900+i),
		}))
	}
	w.Wait(10 * 24 * time.Hour)
	w.Must(w.Outcomes.FoldAll(w.Context))
	figures, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins, w.Time(), outcomes.Split{})
	w.Must(err)
	for _, channel := range outcome.Channels {
		at := slices.IndexFunc(figures.Channels, func(f outcomes.ChannelFigures) bool { return f.Channel == channel })
		f := outcomes.LedgerFilter{Period: figures.Period, Settled: true, Split: outcomes.Split{Channel: channel}}
		_, total, err := w.Outcomes.Ledger(w.Context, c.Analyst, f)
		w.Must(err)
		if at < 0 || figures.Channels[at].Counts.Person != 1 || total != 1 {
			t.Errorf("%s: %+v, and %d in the Ledger", channel, figures.Channels, total)
		}
	}
}

func TestTheReturnWindowTakesEffectOnPastFigures(t *testing.T) {
	w, c := apptest.OpenWithCrew(t)
	begins := w.Time()
	lives(w, c)
	w.Must(w.Outcomes.FoldAll(w.Context))
	before, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins, w.Time(), outcomes.Split{})
	w.Must(err)
	w.Must(w.Outcomes.SetReturnWindow(w.Context, c.Administrator, time.Hour))
	w.Must(w.Outcomes.FoldAll(w.Context))
	after, err := w.Outcomes.Outcomes(w.Context, c.Analyst, begins, w.Time(), outcomes.Split{})
	w.Must(err)
	if after.Counts.Returned >= before.Counts.Returned || after.Counts.Settling >= before.Counts.Settling {
		t.Errorf("72 h: %+v, 1 h: %+v", before.Counts, after.Counts)
	}
}
