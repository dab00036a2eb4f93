package outcome

import "strings"

// LastArticle is the article (A-0042, without its revision) that the asker read
// last in the question, or opened last when none was read; "" when there is none.
func (q Question) LastArticle() string {
	var opened, read string
	for _, e := range q.Evidence {
		ref, _, ok := strings.Cut(e.Ref, "@")
		if !ok {
			continue
		}
		switch e.Kind {
		case Opened:
			opened = ref
		case Read:
			read = ref
		}
	}
	if read != "" {
		return read
	}
	return opened
}

// ByArticle counts questions by the article they ended with. Settling questions
// are counted by their provisional outcome, since it is a picture of one
// article's use and not a rate.
func ByArticle(questions []Question) map[string]Counts {
	out := map[string]Counts{}
	for _, q := range questions {
		ref := q.LastArticle()
		if ref == "" || q.Outcome == Browsing || q.Outcome == Open {
			continue
		}
		c := out[ref]
		c.addOutcome(q.Outcome)
		out[ref] = c
	}
	return out
}
