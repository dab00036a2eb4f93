package flow

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Entry is where a flow meets customers. What is empty holds for all.
type Entry struct {
	ID      int64  `json:"id"`
	Flow    string `json:"flow"`
	Site    int64  `json:"site"`
	Channel string `json:"channel"`
	Page    string `json:"page"`  // the beginning of the path of the page on which the chat stands
	Group   string `json:"group"` // of customers, by its key
	Hours   string `json:"hours"` // open or closed: of the site
}

// Arrival is somebody who comes.
type Arrival struct {
	Site    int64
	Channel string
	Page    string // its address, or the path of it
	Groups  []string
	Open    bool
}

// meets reports whether somebody comes by the entry.
func (e Entry) meets(a Arrival) bool {
	return (e.Site == 0 || e.Site == a.Site) && (e.Channel == "" || e.Channel == a.Channel) &&
		(e.Page == "" || strings.HasPrefix(pathOf(a.Page), e.Page)) &&
		(e.Group == "" || slices.Contains(a.Groups, e.Group)) &&
		(e.Hours == "" || (e.Hours == "open") == a.Open)
}

// pathOf gives the path of an address.
func pathOf(address string) string {
	if _, rest, ok := strings.Cut(address, "://"); ok {
		_, path, _ := strings.Cut(rest, "/")
		return "/" + path
	}
	return address
}

// before orders entries by which wins where several meet somebody: the one for a group, then the one for the longer
// path of a page, for certain hours, for a site, for a channel; of two that are as narrow, the older.
func (e Entry) before(o Entry) int {
	narrow := func(e Entry) int {
		n := 0
		for _, one := range []struct {
			given  bool
			weight int
		}{{e.Group != "", 16}, {e.Page != "", 8}, {e.Hours != "", 4}, {e.Site != 0, 2}, {e.Channel != "", 1}} {
			if one.given {
				n += one.weight
			}
		}
		return n
	}
	return cmp.Or(narrow(o)-narrow(e), len(o.Page)-len(e.Page), cmp.Compare(e.ID, o.ID))
}

// Pick gives the entry by which somebody comes, false for none.
func Pick(entries []Entry, a Arrival) (Entry, bool) {
	met := slices.DeleteFunc(slices.Clone(entries), func(e Entry) bool { return !e.meets(a) })
	if len(met) == 0 {
		return Entry{}, false
	}
	return slices.MinFunc(met, Entry.before), true
}

// Overlap is an entry of another flow that meets some of the same people.
type Overlap struct {
	Entry Entry  `json:"entry"`
	Other Entry  `json:"other"`
	Wins  string `json:"wins"` // the flow that meets them
	Same  bool   `json:"same"` // they meet just the same people, so that one of them never meets anybody
}

// Overlaps lists the entries of other flows that meet some of the same people as those of one.
func Overlaps(entries []Entry, slug string) []Overlap {
	var list []Overlap
	for _, e := range entries {
		if e.Flow != slug {
			continue
		}
		for _, o := range entries {
			if o.Flow == slug || !e.overlaps(o) {
				continue
			}
			wins := e
			if o.before(e) < 0 {
				wins = o
			}
			same := e
			same.ID, same.Flow = o.ID, o.Flow
			list = append(list, Overlap{e, o, wins.Flow, same == o})
		}
	}
	return list
}

// overlaps reports whether somebody could come by both entries. A customer can be in several groups.
func (e Entry) overlaps(o Entry) bool {
	page := strings.HasPrefix(e.Page, o.Page) || strings.HasPrefix(o.Page, e.Page)
	return page && (e.Site == 0 || o.Site == 0 || e.Site == o.Site) &&
		(e.Channel == "" || o.Channel == "" || e.Channel == o.Channel) &&
		(e.Hours == "" || o.Hours == "" || e.Hours == o.Hours)
}

// Check says what is wrong with an entry, by field.
func (e Entry) Check(channels []string) (field, fault string) {
	switch {
	case e.Channel != "" && !slices.Contains(channels, e.Channel):
		return "channel", fmt.Sprintf("“%s” is no channel.", e.Channel)
	case e.Page != "" && !strings.HasPrefix(e.Page, "/"):
		return "page", "Give the beginning of the page's path, such as /tariffs."
	case len(e.Page) > 200:
		return "page", "At most 200 characters."
	case e.Hours != "" && e.Hours != "open" && e.Hours != "closed":
		return "hours", "Say open, closed, or nothing for always."
	}
	return "", ""
}
