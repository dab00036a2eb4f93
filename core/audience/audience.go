// Package audience decides who may see what.
package audience

import "slices"

// Audience is the set of people a published article is for.
type Audience string

// The audiences, from the widest to the narrowest.
const (
	Everyone Audience = "everyone"
	SignedIn Audience = "signed_in"
	Staff    Audience = "staff"
)

// All lists the audiences from the widest to the narrowest.
var All = []Audience{Everyone, SignedIn, Staff}

// Valid reports whether a is one of the audiences.
func (a Audience) Valid() bool { return slices.Contains(All, a) }

// WiderThan reports whether someone in a is not in b.
func (a Audience) WiderThan(b Audience) bool { return slices.Index(All, a) < slices.Index(All, b) }

// Viewer is someone who looks. The zero Viewer is an anonymous visitor.
type Viewer struct {
	SignedIn bool // a customer who has signed in
	Staff    bool // a member of staff, previewing
}

// Sees lists the audiences the viewer belongs to. It is what queries and
// indexes filter by, so that nothing else is ever fetched.
func (v Viewer) Sees() []Audience {
	switch {
	case v.Staff:
		return []Audience{Everyone, SignedIn, Staff}
	case v.SignedIn:
		return []Audience{Everyone, SignedIn}
	}
	return []Audience{Everyone}
}

// MaySee reports whether the viewer belongs to a. What is not a known audience
// is seen by nobody.
func (v Viewer) MaySee(a Audience) bool { return slices.Contains(v.Sees(), a) }

// Words is the audience as it reads within a sentence.
func (a Audience) Words() string {
	switch a {
	case SignedIn:
		return "signed-in customers"
	case Staff:
		return "staff only"
	}
	return string(a)
}
