package outcome

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// ordinaryEvidence makes visits of five items as a help centre has them, two for each asker.
func ordinaryEvidence(questions int) []Evidence {
	r := rand.New(rand.NewPCG(1, 2))
	items := make([]Evidence, 0, 5*questions)
	for q := range questions {
		asker := fmt.Sprintf("visitor:%012x", r.IntN(questions/2+1))
		at := day0.Add(time.Duration(r.IntN(365*24*3600)) * time.Second)
		article := fmt.Sprintf("A-%04d@1", r.IntN(200))
		for i, e := range []Evidence{
			{Kind: Asked, Text: "when is my bill due"},
			{Kind: Offered, Refs: []string{article, "A-0201@1", "A-0202@2"}, Source: FromSearch},
			{Kind: Opened, Ref: article},
			{Kind: Read, Ref: article},
			{Kind: []Kind{Helped, NotHelped, Seen, Requested}[q%4], Ref: article},
		} {
			e.At, e.Asker, e.Channel, e.Line = at.Add(time.Duration(i)*20*time.Second), asker, Help, len(items)+1
			if e.Kind == Requested {
				e.Ref = fmt.Sprint("R-", q)
			}
			items = append(items, e)
		}
	}
	return items
}

func BenchmarkFold(b *testing.B) {
	items := ordinaryEvidence(200_000)
	b.ReportAllocs()
	b.ResetTimer()
	for b.Loop() {
		Fold(items, day0.AddDate(2, 0, 0), DefaultWindow)
	}
	b.ReportMetric(float64(len(items)*b.N)/b.Elapsed().Seconds(), "items/s")
}
