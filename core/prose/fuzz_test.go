package prose_test

import (
	"testing"

	"hermeneus/core/article"
	"hermeneus/core/compare"
	"hermeneus/core/markup"
	"hermeneus/core/prose"
)

// Whatever is sent in, nothing that works on a text fails on it.
func FuzzCanonical(f *testing.F) {
	f.Add("<ul><li>a<p>b</ul><table><tr><td>x<details><summary>")
	f.Fuzz(func(t *testing.T, body string) {
		clean, err := article.Sanitise(body)
		if err != nil {
			return
		}
		once := markup.Canonical(clean)
		prose.Examine(prose.Draft{Body: once})
		compare.Compare(once, clean)
		compare.SideBySide(once, clean)
		article.Present(once, nil)
	})
}
