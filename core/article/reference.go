// Package article holds what an article is: its references, its text and the
// rules of its life from working copy to live revision.
package article

import (
	"fmt"
	"regexp"
	"strconv"
)

// Reference names an article, as in A-0042.
func Reference(number int) string { return fmt.Sprintf("A-%04d", number) }

// RevisionReference names one revision of an article, as in A-0042@3.
func RevisionReference(number, revision int) string {
	return fmt.Sprintf("A-%04d@%d", number, revision)
}

var reference = regexp.MustCompile(`^A-(\d{4,9})(?:@(\d{1,9}))?$`)

// ParseReference reads A-0042 or A-0042@3; revision is 0 when it is not named.
func ParseReference(ref string) (number, revision int, ok bool) {
	m := reference.FindStringSubmatch(ref)
	if m == nil {
		return 0, 0, false
	}
	number, _ = strconv.Atoi(m[1])
	revision, _ = strconv.Atoi(m[2])
	return number, revision, number > 0
}
