package outcome

import "slices"

// Trace is what an asker did last within the running question, by which a reload or a
// double click is told from doing something again.
type Trace struct {
	Last  *Evidence // nil for nothing
	Asked string    // the last words, "" for none
}

// Dedupe gives those of the items that tell something new, and goes on from them. An
// item just like the one before it is a double click. A search for the words that were
// asked last, with all that it found, is a reload or coming back to the results.
func (t *Trace) Dedupe(items ...Evidence) []Evidence {
	if len(items) > 0 && items[0].Kind == Asked && items[0].Channel == Help && items[0].Text == t.Asked {
		return nil
	}
	var fresh []Evidence
	for _, e := range items {
		if t.Last != nil && sameFact(t.Last, &e) {
			continue
		}
		fresh = append(fresh, e)
		t.Last = &e
		if e.Kind == Asked {
			t.Asked = e.Text
		}
	}
	return fresh
}

func sameFact(a, b *Evidence) bool {
	return a.Kind == b.Kind && a.Channel == b.Channel && a.Text == b.Text && a.Ref == b.Ref &&
		slices.Equal(a.Refs, b.Refs)
}
