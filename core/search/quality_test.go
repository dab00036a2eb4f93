package search

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"
)

// Järvelin & Kekäläinen, ACM TOIS 20 (2002): the worked example, log base 2.
func TestCumulatedGainIsTheWorkedExample(t *testing.T) {
	got := DCG([]float64{3, 2, 3, 0, 0, 1, 2, 2, 3, 0})
	for i, want := range []float64{3, 5, 6.89, 6.89, 6.89, 7.28, 7.99, 8.66, 9.61, 9.61} {
		if math.Abs(got[i]-want) > 0.006 {
			t.Errorf("at place %d: %.4f, want %.2f", i+1, got[i], want)
		}
	}
}

func TestQualityOfRankings(t *testing.T) {
	q := Measure([]Judged{
		{Ranking: []string{"a", "b"}, Right: []string{"a"}},
		{Ranking: []string{"b", "c", "d", "a"}, Right: []string{"a"}},
		{Ranking: nil, Right: []string{"a"}},
		{Ranking: []string{"b", "a", "a"}, Right: []string{"a", "b", "c", "d"}},
		{Ranking: []string{"a"}},
	})
	want := Quality{Queries: 4, MRR10: (1 + 0.25 + 0 + 1) / 4.0, Recall1: 2 / 4.0, Recall3: (1 + 0 + 0 + 2/3.0) / 4,
		NDCG10: (1 + 1/2.0 + 0 + 2/(1+1+1/math.Log2(3)+1/2.0)) / 4}
	if q.Queries != want.Queries || math.Abs(q.MRR10-want.MRR10) > 1e-12 || math.Abs(q.Recall1-want.Recall1) > 1e-12 ||
		math.Abs(q.Recall3-want.Recall3) > 1e-12 || math.Abs(q.NDCG10-want.NDCG10) > 1e-12 {
		t.Errorf("got %+v, want %+v", q, want)
	}
}

func TestMovesSayWhatFellFurthestFirst(t *testing.T) {
	got := Moves(
		map[string]int{"a": 1, "b": 1, "c": 0, "d": 2, "gone": 1},
		map[string]int{"a": 3, "b": 0, "c": 4, "d": 2, "new": 1},
	)
	want := []Moved{{"b", 1, 0, true}, {"a", 1, 3, true}, {"c", 0, 4, false}}
	if !slices.Equal(got, want) {
		t.Errorf("got %+v, want %+v", got, want)
	}
	var p Places
	for _, place := range []int{1, 1, 2, 3, 4, 10, 0, 11} {
		p.Count(place)
	}
	if p != (Places{2, 2, 2, 2}) {
		t.Errorf("places %+v", p)
	}
	if d := (Quality{2, 0.5, 0.5, 1, 1}).Minus(Quality{2, 0.75, 0.5, 0.5, 1}); d != (Quality{0, -0.25, 0, 0.5, 0}) {
		t.Errorf("change %+v", d)
	}
}

// A long text need hold less of itself in an article than a question of few words.
func TestWhatFitsDependsOnHowMuchWasAsked(t *testing.T) {
	hits := []Hit{{Reference: "a", Coverage: 0.31}, {Reference: "b", Coverage: 0.2}}
	for asked, want := range map[int]int{0: 1, 3: 1, 6: 1, 12: 2} {
		if got := len(Result{Hits: hits, Asked: asked}.Fitting()); got != want {
			t.Errorf("of %d words: %d fit, want %d", asked, got, want)
		}
	}
}

func TestATrialOnFiles(t *testing.T) {
	docs, err := ReadLines[TrialDocument](
		strings.NewReader(
			"\ufeff{\"id\":\"a\",\"title\":\"Meter\",\"body\":\"five " +
				"digits\"}\n\n{\"id\":\"b\",\"title\":\"\",\"body\":\"a fuse\"}\n",
		),
	)
	if err != nil {
		t.Fatal(err)
	}
	ticks := 0
	clock := func() time.Time { ticks++; return time.Unix(0, int64(ticks)*int64(4*time.Millisecond)) }
	trial, err := RunTrial(docs, []TrialQuery{{"which fuse?", []string{"b"}}, {"digits", []string{"b"}}}, clock)
	if err != nil || trial.Queries != 2 || trial.MRR10 != 0.5 || trial.Recall1 != 0.5 || trial.MillisPerQuery != 2 {
		t.Errorf("%+v, %v", trial, err)
	}
	if _, err := ReadLines[TrialQuery](
		strings.NewReader("{}\n{"),
	); err == nil ||
		!strings.Contains(err.Error(), "line 2") {
		t.Errorf("a broken line: %v", err)
	}
	if _, err := RunTrial(append(docs, docs[0]), nil, clock); err == nil {
		t.Error("two documents of one id were taken")
	}
}
