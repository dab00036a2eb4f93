package search_test

import (
	"fmt"

	"hermeneus/core/audience"
	"hermeneus/core/search"
)

// Three articles are indexed and asked: a reader finds what is for them, by words that mean the same.
func ExampleIndex_Find() {
	x := search.New()
	err := x.Put(
		search.Document{Reference: "A-0001", Revision: 1, Title: "Give a meter reading",
			Body: "Type the five black digits.\nSend them once a month.", Audience: audience.Everyone},
		search.Document{
			Reference: "A-0002",
			Revision:  3,
			Title:     "Why a bill is estimated",
			Body:      "When no reading reached us, we estimate.\nSend one, and we correct the bill.",
			Audience:  audience.Everyone,
		},
		search.Document{Reference: "A-0003", Revision: 1, Title: "Goodwill on an estimated bill",
			Body: "Up to ten crowns without asking.", Audience: audience.Staff},
	)
	if err != nil {
		fmt.Println(err)
		return
	}
	synonyms, err := search.ParseSynonyms("invoice, bill")
	if err != nil {
		fmt.Println(err)
		return
	}
	rules := search.NewRules(search.StandardWeights, []search.Synonyms{synonyms}, nil)
	for _, viewer := range []audience.Viewer{{}, {Staff: true}} {
		found, err := x.Find(search.Request{Words: "estimated invoice", Viewer: viewer, Limit: 3, Rules: rules})
		if err != nil {
			fmt.Println(err)
			return
		}
		for _, hit := range found.Hits {
			fmt.Println(viewer.Staff, hit.Reference, hit.Title)
		}
	}
	// Output:
	// false A-0002 Why a bill is estimated
	// true A-0002 Why a bill is estimated
	// true A-0003 Goodwill on an estimated bill
}
