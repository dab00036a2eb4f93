package review

import (
	"slices"
	"strings"
)

// BaseRecheck is after how many days a live article of a kind must be confirmed
// true, where it is read neither much nor never. Our own defaults: what breaks
// changes soonest.
var BaseRecheck = map[string]int{"fix": 120, "how-to": 180, "policy": 365, "reference": 365}

// Use is how much an article is read, next to the others.
type Use string

// The uses.
const (
	ReadMuch  Use = "much"  // one of those that make up half of all reading
	ReadSome  Use = "some"  // in between
	ReadNever Use = "never" // by nobody in the period
)

// Uses sorts articles by how much they are read. The most read ones, until they
// make up half of all reading, are read much; of equals none is preferred.
func Uses(reads map[string]int) map[string]Use {
	type pair struct {
		key   string
		reads int
	}
	var list []pair
	total := 0
	for k, n := range reads {
		list = append(list, pair{k, n})
		total += n
	}
	slices.SortFunc(list, func(x, y pair) int {
		if x.reads != y.reads {
			return y.reads - x.reads
		}
		return strings.Compare(x.key, y.key)
	})
	out := map[string]Use{}
	sum, bound := 0, 0
	for _, p := range list {
		switch {
		case p.reads == 0:
			out[p.key] = ReadNever
		case 2*sum < total || p.reads == bound:
			out[p.key], bound = ReadMuch, p.reads
		default:
			out[p.key] = ReadSome
		}
		sum += p.reads
	}
	return out
}

// RecheckDays is after how many days an article of a kind and use must be confirmed
// again: half the base for what is read much, half as long again for what nobody
// reads. Base overrides BaseRecheck for the kinds it names.
func RecheckDays(kind string, use Use, base map[string]int) int {
	days, ok := base[kind]
	if !ok || days < 1 {
		if days, ok = BaseRecheck[kind]; !ok {
			days = 180
		}
	}
	switch use {
	case ReadMuch:
		return max(1, days/2)
	case ReadNever:
		return days + days/2
	}
	return days
}
