package outcome

import (
	"slices"
	"time"
)

// LedTo gives what an asker did outside the chat in the question in which a contact (by its
// reference, such as R-0012) was made, up to that contact, in order: what was asked, offered,
// opened, read and said of it. An article that was read is not told as opened too, and of
// offers one after the other only the last is told. Items are all of one asker.
func LedTo(items []Evidence, contact string, asOf time.Time) []Evidence {
	for _, q := range Fold(items, asOf, DefaultWindow) {
		at := slices.IndexFunc(q.Evidence, func(e *Evidence) bool { return e.Kind.reachesPerson() && e.Ref == contact })
		if at >= 0 {
			return before(q.Evidence[:at], q.Evidence[at])
		}
	}
	return nil
}

func before(items []*Evidence, contact *Evidence) []Evidence {
	var list []Evidence
	for _, one := range items {
		e := *one // not changed in the question
		last := len(list) - 1
		switch {
		case e.Channel == Chat, e.Kind == Asked && e.Channel == Form && e.At.Equal(contact.At): // the request itself
		case e.Kind == Offered && last >= 0 && list[last].Kind == Offered:
			list[last] = e
		case e.Kind == Read && slices.ContainsFunc(list, func(o Evidence) bool { return o.Kind == Opened && o.Ref == e.Ref }):
			at := slices.IndexFunc(list, func(o Evidence) bool { return o.Kind == Opened && o.Ref == e.Ref })
			list[at].Kind = Read
		case slices.Contains([]Kind{Asked, Offered, Opened, Told, Read, Helped, NotHelped}, e.Kind):
			list = append(list, e)
		}
	}
	return list
}
