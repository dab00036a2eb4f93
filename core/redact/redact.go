// Package redact removes personal data from the words people type, before those words are kept for analysis.
// It promises that addresses, telephone numbers, card and account numbers never reach the evidence.
// It may not change what a person reads.
package redact

import (
	"regexp"
	"strings"
	"unicode"
)

// What stands in the place of what was removed.
const (
	Mail  = "[mail address]"
	Phone = "[phone number]"
	Card  = "[card number]"
)

var (
	mail   = regexp.MustCompile(`[\p{L}\p{N}._%+'-]+@[\p{L}\p{N}-]+(?:\.[\p{L}\p{N}-]+)+`)
	digits = regexp.MustCompile(`\+?\(?\d[\d\s()./-]{5,}\d`)
)

// Text gives the words with mail addresses, account numbers, card numbers (13 to 19 digits that
// pass the Luhn check, ISO/IEC 7812-1) and phone numbers (10 to 15 digits that
// begin with 0 or +, after ITU-T E.164) replaced. Other numbers, such as meter
// readings and amounts, stay.
func Text(words string) string {
	words = accounts(mail.ReplaceAllString(words, Mail))
	return digits.ReplaceAllStringFunc(words, func(found string) string {
		bare := strings.Map(func(r rune) rune {
			if unicode.IsDigit(r) {
				return r
			}
			return -1
		}, found)
		switch {
		case len(bare) >= 13 && len(bare) <= 19 && luhn(bare):
			return Card
		case len(bare) >= 10 && len(bare) <= 15 && strings.ContainsAny(found[:2], "+0"):
			return Phone
		}
		return found
	})
}

// luhn reports whether a run of digits passes the check of ISO/IEC 7812-1.
func luhn(bare string) bool {
	sum := 0
	for i := range len(bare) {
		d := int(bare[len(bare)-1-i] - '0')
		if i%2 == 1 {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum += d
	}
	return sum%10 == 0
}
