package review_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"hermeneus/app/apptest"
	"hermeneus/app/desk"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	corereview "hermeneus/core/review"
	"hermeneus/core/role"
)

// history is an article whose text many people write, and who wrote of it by our own count.
type history struct {
	*apptest.World
	t       *testing.T
	people  []staff.Staff
	ref     string
	authors map[int64]bool
	states  map[string]map[int64]bool // of revisions and autosaves: who had written by then
	n       int
}

func (h *history) article(by staff.Staff) desk.Article {
	a, err := h.Desk.ReadArticle(h.Context, by, h.ref)
	h.Must(err)
	return a
}

func (h *history) count() map[int64]bool {
	held := map[int64]bool{}
	for id := range h.authors {
		held[id] = true
	}
	return held
}

func (h *history) writes(by staff.Staff) {
	h.n++
	text := library.WorkingCopy{Title: "A bill", Body: fmt.Sprintf("<p>Text number %d of a bill.</p>", h.n)}
	_, err := h.Writing.SaveArticle(h.Context, by, h.ref, writing.Save{Text: text, Version: h.article(by).Version})
	h.Must(err)
	h.authors[by.ID] = true
}

// suggests lets one suggest words and another take them in: both wrote.
func (h *history) suggests(one, other staff.Staff) {
	a := h.article(one)
	words := strings.TrimSuffix(strings.TrimPrefix(a.Copy.Body, "<p>"), " of a bill.</p>")
	instead := fmt.Sprintf("Text number %d", h.n+1)
	h.n++
	id, err := h.Review.Comments.AddComment(
		h.Context,
		one,
		h.ref,
		review.NewComment{Quote: words, Text: "Better so.", Suggestion: &instead},
	)
	h.Must(err)
	_, err = h.Writing.AcceptSuggestion(h.Context, other, h.ref, id, "", a.Version)
	h.Must(err)
	h.authors[one.ID], h.authors[other.ID] = true, true
}

// restores brings an earlier state back, and with it whoever wrote it.
func (h *history) restores(by staff.Staff, pick int) {
	revisions, err := h.Library.Revisions(h.Context, h.ref)
	h.Must(err)
	if len(revisions) == 0 {
		return
	}
	which := fmt.Sprint(revisions[pick%len(revisions)].Number)
	before := h.article(by)
	h.Must(h.Writing.Restore(h.Context, by, h.ref, "", which, before.Version))
	after := h.article(by)
	if after.Version == before.Version {
		return // it was the same text
	}
	_, err = fmt.Sscanf(after.Copy.Body, "<p>Text number %d", &h.n)
	h.Must(err)
	h.n += 1000 // what is written next is like nothing before
	h.authors[by.ID] = true
	for id := range h.states[which] {
		h.authors[id] = true
	}
}

// judged sends the text to review and compares who may not pass it with our count.
func (h *history) judged(by, publisher staff.Staff, publish bool) {
	a := h.article(by)
	h.Must(h.Review.Act(h.Context, by, h.ref, corereview.Submit, a.Version, ""))
	kept := h.count()
	kept[by.ID] = true // who sends it answers for it
	var others []staff.Staff
	for _, p := range h.people {
		if !kept[p.ID] {
			others = append(others, p)
		} else if err := h.Review.Act(h.Context, p, h.ref, corereview.Approve, 0, ""); apptest.KindOf(err) != problem.Denied {
			h.t.Fatalf("%s wrote of this text and let it pass: %v", p.Name, err)
		}
	}
	passed := publish && len(others) > 0
	if passed {
		h.Must(h.Review.Act(h.Context, others[0], h.ref, corereview.Approve, 0, ""))
	}
	revisions, err := h.Library.Revisions(h.Context, h.ref)
	h.Must(err)
	if number := fmt.Sprint(revisions[0].Number); h.states[number] == nil {
		h.states[number] = kept
	}
	switch {
	case passed:
		h.Must(h.Review.Act(h.Context, publisher, h.ref, corereview.Publish, 0, ""))
		h.authors = map[int64]bool{}
	default:
		h.Must(h.Review.Act(h.Context, by, h.ref, corereview.Recall, 0, ""))
	}
}

func TestWhoeverWroteOfATextSincePublicationIsItsAuthor(t *testing.T) {
	for seed := range uint64(6) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			w := apptest.OpenIdle(t)
			random := rand.New(rand.NewPCG(seed, 12))
			h := &history{World: w, t: t, authors: map[int64]bool{}, states: map[string]map[int64]bool{}}
			for i := range 5 {
				h.people = append(h.people, w.Hire(fmt.Sprintf("writer%d", i), role.Author, role.Reviewer))
			}
			publisher := w.Hire("pia", role.Publisher)
			any := func() staff.Staff { return h.people[random.IntN(len(h.people))] }
			first := any()
			h.ref = w.Draft(
				first,
				w.Category(w.Hire("admin", role.Administrator, role.Author), "Bills"),
				"A bill",
				"<p>Text number 0 of a bill.</p>",
				"",
			)
			h.authors[first.ID] = true
			for range 60 {
				switch random.IntN(7) {
				case 0, 1:
					h.writes(any())
				case 2:
					h.suggests(any(), any())
				case 3:
					w.Wait(time.Duration(random.IntN(72)) * time.Hour)
					w.Must(w.Writing.ThinAutosaves(w.Context))
				case 4:
					h.restores(any(), random.IntN(8))
				default:
					if h.article(first).State == corereview.Published {
						h.writes(any())
					}
					h.judged(any(), publisher, random.IntN(2) == 0)
				}
			}
		})
	}
}

func TestAuthorsAreThoseOfWhatIsBroughtIn(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	both := w.Hire("both", role.Author, role.Reviewer)
	ref := w.Draft(both, w.Category(c.Author, "Bills"), "A bill", "<p>Brought in.</p>", "")
	a, err := w.Desk.ReadArticle(w.Context, c.Author, ref)
	w.Must(err)
	_, err = w.Writing.SaveArticle(
		w.Context,
		c.Author,
		ref,
		writing.Save{
			Text:    library.WorkingCopy{Title: "A bill", Body: "<p>Brought in. </p><p>.</p>"},
			Version: a.Version,
		},
	)
	w.Must(err)
	w.Must(w.Review.Act(w.Context, c.Author, ref, corereview.Submit, 0, ""))
	if err := w.Review.Act(w.Context, both, ref, corereview.Approve, 0, ""); apptest.KindOf(err) != problem.Denied {
		t.Errorf("who brought the text in passed it after a full stop by a colleague: %v", err)
	}
}

// Of two decisions at the same instant one is right, and the other comes too late.
func TestOfTwoDecisionsAtOnceOneIsRight(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	category := w.Category(c.Author, "Bills")
	second := w.Hire("second", role.Reviewer)
	pairs := []struct {
		name     string
		prepare  []corereview.Action
		one, two review.Step
	}{
		{"approve and send back", []corereview.Action{corereview.Submit},
			review.Step{Action: corereview.Approve}, review.Step{Action: corereview.SendBack, Note: "Say more."}},
		{
			"publish and give a time",
			[]corereview.Action{corereview.Submit, corereview.Approve},
			review.Step{
				Action: corereview.Publish,
			},
			review.Step{Action: corereview.Schedule, Wall: "2026-03-05T09:00"},
		},
	}
	for _, pair := range pairs {
		for round := range 15 {
			ref := w.Draft(c.Author, category, "A bill", "<p>Text.</p>", "")
			for _, action := range pair.prepare {
				who := map[corereview.Action]staff.Staff{corereview.Submit: c.Author, corereview.Approve: c.Reviewer}[action]
				w.Must(w.Review.Act(w.Context, who, ref, action, 0, ""))
			}
			one, two := c.Reviewer, second
			if pair.one.Action == corereview.Publish {
				one, two = c.Publisher, c.Publisher
			}
			var wait sync.WaitGroup
			var errs [2]error
			wait.Go(func() { errs[0] = w.Review.Move(w.Context, one, ref, pair.one) })
			wait.Go(func() { errs[1] = w.Review.Move(w.Context, two, ref, pair.two) })
			wait.Wait()
			late := slices.IndexFunc(errs[:], func(err error) bool { return err != nil })
			if late < 0 || errs[1-late] != nil {
				t.Fatalf("%s, round %d: %v", pair.name, round, errs)
			}
			if k := apptest.KindOf(errs[late]); k != problem.StaleSave && k != problem.NotNow {
				t.Fatalf("%s: the later hears %v", pair.name, errs[late])
			}
		}
	}
}

func TestABatchIsDecidedAsItWasSeen(t *testing.T) {
	w := apptest.OpenIdle(t)
	c := w.Crew()
	ref := w.Draft(c.Author, w.Category(c.Author, "Bills"), "A bill", "<p>Text.</p>", "")
	id, err := w.Review.Batches.MakeBatch(w.Context, c.Author, "Prices", "", []string{ref})
	w.Must(err)
	_, err = w.Review.Batches.ActOnBatch(w.Context, c.Author, id, review.Step{Action: corereview.Submit})
	w.Must(err)
	seen, err := w.Review.Batches.ReadBatch(w.Context, c.Reviewer, id)
	w.Must(err)
	_, err = w.Review.Batches.ActOnBatch(
		w.Context,
		c.Reviewer,
		id,
		review.Step{Action: corereview.Approve, Stand: seen.Stand},
	)
	w.Must(err)
	for _, stand := range []string{seen.Stand, ""} { // who saw it in review, and who does not say
		_, err = w.Review.Batches.ActOnBatch(
			w.Context,
			c.Reviewer,
			id,
			review.Step{Action: corereview.SendBack, Note: "More.", Stand: stand},
		)
		if apptest.KindOf(err) != problem.StaleSave {
			t.Errorf("approved meanwhile, it was sent back: %v", err)
		}
	}
	now, err := w.Review.Batches.ReadBatch(w.Context, c.Reviewer, id)
	w.Must(err)
	_, err = w.Review.Batches.ActOnBatch(
		w.Context,
		c.Publisher,
		id,
		review.Step{Action: corereview.SendBack, Note: "More.", Stand: now.Stand},
	)
	w.Must(err)
}
