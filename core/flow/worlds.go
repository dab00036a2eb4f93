package flow

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"hermeneus/core/audience"
)

// MaxWorlds is in how many worlds a script is proved at most.
const MaxWorlds = 4096

// mostSubsets is of how many groups or pages every combination is tried.
const mostSubsets = 4

// axis is one thing in which worlds differ.
type axis struct {
	name   string
	values []func(w *World)
}

// axes lists in what the worlds differ that the script's own conditions tell apart: who the customer is, which
// language they read, where they are, what the week's hours are, and whether a team is free, busy or away.
func (c *checker) axes() []axis {
	said := c.mentioned()
	list := []axis{c.openings(said)}
	for _, team := range said.teams {
		if known, ok := c.env.Teams[team]; ok && known.Agents == 0 {
			continue // away, whatever the hours
		}
		a := axis{name: "whether " + team + " is free, busy or away"}
		for _, p := range []Presence{Free, Busy, Away} {
			a.values = append(a.values, func(w *World) {
				t := w.Teams[team]
				t.Presence = p
				w.Teams[team] = t
			})
		}
		list = append(list, a)
	}
	if said.customer {
		list = append(list, customers(said.groups))
	}
	if len(said.languages) > 0 {
		a := axis{name: "the language"}
		for _, l := range append([]string{c.script.Language}, said.languages...) {
			a.values = append(a.values, func(w *World) { w.Language = l })
		}
		list = append(list, a)
	}
	if len(said.channels) > 0 {
		a := axis{name: "the channel"}
		for _, l := range append(said.channels, "another channel") {
			a.values = append(a.values, func(w *World) { w.Channel = l })
		}
		list = append(list, a)
	}
	if len(said.pages) > 0 {
		a := axis{name: "the page"}
		for _, some := range subsets(said.pages) {
			a.values = append(a.values, func(w *World) { w.Page = strings.Join(some, " ") })
		}
		list = append(list, a)
	}
	return list
}

// mentions is what a script speaks of.
type mentions struct {
	hours                                     []string // teams whose opening hours are asked for
	teams, groups, languages, channels, pages []string
	customer, open                            bool
}

func (c *checker) mentioned() mentions {
	m := mentions{}
	note := func(list *[]string, value string) {
		if value != "" && !slices.Contains(*list, value) {
			*list = append(*list, value)
		}
	}
	c.script.Each(func(t *Turn) {
		if t.Kind == HandOver {
			note(&m.teams, t.Team)
		}
		if t.Kind == Ask && slices.Contains(customersFacts, t.Fact) {
			m.customer = true
		}
		for _, ref := range t.Articles {
			if shows, ok := c.env.Articles[ref]; ok && shows.Audience != audience.Everyone {
				m.customer = true
				if key, ok := shows.Audience.Group(); ok {
					note(&m.groups, key)
				}
			}
		}
		for _, l := range t.Leads {
			for _, g := range l.Groups {
				note(&m.groups, g)
			}
			for _, w := range l.When {
				switch w.What {
				case IfGroup:
					note(&m.groups, w.Is)
				case IfLanguage:
					note(&m.languages, w.Is)
				case IfChannel:
					note(&m.channels, w.Is)
				case IfPage:
					note(&m.pages, w.Is)
				case IfSignedIn:
					m.customer = true
				case IfOpen:
					m.open = true
				case IfTeam:
					note(&m.teams, w.Of)
					if w.Is == "open" || w.Is == "closed" {
						note(&m.hours, w.Of)
					}
				}
			}
		}
	})
	m.customer = m.customer || len(m.groups) > 0
	return m
}

// customersFacts are known of a customer who is signed in.
var customersFacts = []string{"name", "first name", "mail"}

// customers are who may come: a visitor, and a customer who is signed in, in every combination of groups.
func customers(groups []string) axis {
	a := axis{name: "who the customer is"}
	a.values = append(a.values, func(w *World) { w.SignedIn, w.Groups, w.Facts = false, nil, nil })
	known := map[string]string{"name": "Ada Wren", "mail": "ada@post.example"}
	for _, some := range subsets(groups) {
		a.values = append(a.values, func(w *World) { w.SignedIn, w.Groups, w.Facts = true, some, known })
	}
	return a
}

// subsets lists all combinations of some things, or only each alone and none where there are too many.
func subsets(all []string) [][]string {
	out := [][]string{nil}
	if len(all) > mostSubsets {
		for _, one := range all {
			out = append(out, []string{one})
		}
		return out
	}
	for _, one := range all {
		for _, some := range slices.Clone(out) {
			out = append(out, append(slices.Clone(some), one))
		}
	}
	return out
}

// openings are who is open together in the week; where the hours are not known, anybody may be.
func (c *checker) openings(said mentions) axis {
	a := axis{name: "the opening hours"}
	add := func(site bool, open func(team string) bool) {
		a.values = append(a.values, func(w *World) {
			w.Open = site
			for _, team := range said.teams {
				t := w.Teams[team]
				t.Open = open(team)
				w.Teams[team] = t
			}
		})
	}
	if c.env.Openings != nil {
		seen := map[string]bool{}
		for _, o := range c.env.Openings {
			key := fmt.Sprint(o.Site && said.open)
			for _, team := range said.teams {
				key += fmt.Sprint(o.Teams[team])
			}
			if !seen[key] {
				seen[key] = true
				add(o.Site, func(team string) bool { return o.Teams[team] })
			}
		}
		return a
	}
	bits := len(said.teams)
	if said.open {
		bits++
	}
	for mask := range 1 << min(bits, 8) {
		add(said.open && mask>>len(said.teams)&1 == 1 || !said.open, func(team string) bool {
			return mask>>slices.Index(said.teams, team)&1 == 0
		})
	}
	return a
}

// told is what a script can tell of a world: two of which it tells the same are one.
func (w *World) told(hours []string) string {
	key := fmt.Sprint(w.SignedIn, w.Groups, w.Language, w.Channel, w.Page, w.Open)
	teams := slices.Sorted(maps.Keys(w.Teams))
	for _, name := range teams {
		t := w.Teams[name]
		key += " " + string(t.now())
		if slices.Contains(hours, name) {
			key += fmt.Sprint(t.Open)
		}
	}
	return key
}

// eachWorld calls a function with every world, and names what was left out of them.
// hours are the teams whose opening hours conditions ask for.
func eachWorld(list []axis, hours []string, do func(w *World)) (leftOut []string) {
	total := 1
	var kept []axis
	for _, a := range list {
		if len(a.values) == 0 {
			continue
		}
		if total*len(a.values) > MaxWorlds {
			leftOut = append(leftOut, a.name)
			a.values = a.values[:1]
		}
		total *= len(a.values)
		kept = append(kept, a)
	}
	at := make([]int, len(kept))
	been := map[string]bool{}
	for range total {
		w := World{Teams: map[string]Team{}, Open: true, Channel: "chat"}
		for i, a := range kept {
			a.values[at[i]](&w)
		}
		if key := w.told(hours); !been[key] {
			been[key] = true
			do(&w)
		}
		for i := range at {
			if at[i]++; at[i] < len(kept[i].values) {
				break
			}
			at[i] = 0
		}
	}
	return leftOut
}
