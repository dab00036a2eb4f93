// Package audience decides who may see what.
// It promises one answer for the query, the index and the page.
// It may not know what is seen.
package audience

import (
	"regexp"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"
)

// Audience is the set of people a published article is for: one of the fixed ones, or a
// named group of customers.
type Audience string

// The fixed audiences, from the widest to the narrowest. A group stands between
// SignedIn and Staff.
const (
	Everyone Audience = "everyone"
	SignedIn Audience = "signed_in"
	Staff    Audience = "staff"
)

// groupMark begins the audience of a group of customers.
const groupMark = "group:"

// GroupKey is the shape of a group's key: small letters, digits and hyphens, 40 at most.
var GroupKey = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,39}$`)

// KeyOf makes a key of a group's name: its letters and digits without marks, "" when it
// has none.
func KeyOf(name string) string {
	var key strings.Builder
	for _, r := range norm.NFKD.String(strings.ToLower(name)) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			key.WriteRune(r)
		case strings.ContainsRune(" -_/", r) && key.Len() > 0 && !strings.HasSuffix(key.String(), "-"):
			key.WriteByte('-')
		}
	}
	return strings.Trim(key.String()[:min(key.Len(), 40)], "-")
}

// Group is the audience of the customers in a group, by its key.
func Group(key string) Audience { return Audience(groupMark + key) }

// Group gives the key of the group that an audience is; ok is false for the others.
func (a Audience) Group() (key string, ok bool) {
	key, ok = strings.CutPrefix(string(a), groupMark)
	return key, ok && GroupKey.MatchString(key)
}

// The ranks of audiences: the wider, the lower.
const (
	rankEveryone = iota
	rankSignedIn
	rankGroup
	rankStaff
	rankNobody
)

func (a Audience) rank() int {
	switch a {
	case Everyone:
		return rankEveryone
	case SignedIn:
		return rankSignedIn
	case Staff:
		return rankStaff
	}
	if _, ok := a.Group(); ok {
		return rankGroup
	}
	return rankNobody
}

// Valid reports whether a is one of the audiences. Whether a group is known, the library
// says.
func (a Audience) Valid() bool { return a.rank() != rankNobody }

// WiderThan reports whether someone in a may not be in b. Of two groups each is wider
// than the other.
func (a Audience) WiderThan(b Audience) bool {
	return a.rank() < b.rank() || a.rank() == rankGroup && b.rank() == rankGroup && a != b
}

// Viewer is someone who looks. The zero Viewer is an anonymous visitor.
type Viewer struct {
	SignedIn bool     // a customer who has signed in
	Staff    bool     // a member of staff, previewing
	Groups   []string // keys of the groups that a customer is in; for staff, of all there are
}

// Sees lists the audiences the viewer belongs to. It is what queries and
// indexes filter by, so that nothing else is ever fetched.
func (v Viewer) Sees() []Audience {
	if !v.SignedIn && !v.Staff {
		return []Audience{Everyone}
	}
	sees := []Audience{Everyone, SignedIn}
	for _, key := range v.Groups {
		if GroupKey.MatchString(key) {
			sees = append(sees, Group(key))
		}
	}
	if v.Staff {
		sees = append(sees, Staff)
	}
	return sees
}

// MaySee reports whether the viewer belongs to a. What is not a known audience
// is seen by nobody.
func (v Viewer) MaySee(a Audience) bool { return slices.Contains(v.Sees(), a) }

// Words is the audience as it reads within a sentence.
func (a Audience) Words() string {
	if key, ok := a.Group(); ok {
		return "the group “" + key + "” of customers"
	}
	switch a {
	case SignedIn:
		return "signed-in customers"
	case Staff:
		return "staff only"
	}
	return string(a)
}
