package redact

import (
	"regexp"
	"strings"
	"unicode"
)

// Account stands in the place of an account number.
const Account = "[account number]"

// iban is the shape of an international bank account number (ISO 13616-1): a country, two check
// digits and up to 30 letters and digits, in groups or not.
var iban = regexp.MustCompile(`(?i)\b[a-z]{2}\d{2}(?:[ .-]?[a-z0-9]){11,30}\b`)

// accounts replaces account numbers that pass their check.
func accounts(words string) string {
	return iban.ReplaceAllStringFunc(words, func(found string) string {
		// Words may stand behind a number as if they were a group of it: the longest that passes counts.
		bare, ends := bareOf(found)
		for n := min(len(bare), 34); n >= 15; n-- {
			if (n == len(bare) || ends[n-1]+1 < len(found) && !alphanumeric(found[ends[n-1]+1])) && mod97(bare[:n]) {
				return Account + found[ends[n-1]+1:]
			}
		}
		return found
	})
}

func alphanumeric(b byte) bool {
	return b >= '0' && b <= '9' || b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z'
}

// bareOf gives the letters and digits of a text in capitals, and where each stands.
func bareOf(text string) (bare string, ends []int) {
	var out strings.Builder
	for i := range len(text) {
		if alphanumeric(text[i]) {
			out.WriteRune(unicode.ToUpper(rune(text[i])))
			ends = append(ends, i)
		}
	}
	return out.String(), ends
}

// mod97 reports whether an account number passes the check of ISO/IEC 7064, MOD 97-10: its
// first four characters go to the end, letters count from A = 10, and 1 is left over.
func mod97(bare string) bool {
	rest := 0
	for _, r := range bare[4:] + bare[:4] {
		switch {
		case r >= '0' && r <= '9':
			rest = (rest*10 + int(r-'0')) % 97
		default:
			rest = (rest*100 + int(r-'A') + 10) % 97
		}
	}
	return rest == 1
}
