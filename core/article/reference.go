// Package article is the text of an answer: its references, what may stand in it, its contents and templates.
// It promises one canonical form: what is read from it, shown and taken out is the same text.
// It may not know how a text is reviewed, compared or judged.
package article

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// MaxNumber is the highest number that an article can be brought in with. Higher ones, up
// to nine digits, are still read.
const MaxNumber = 999_999

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

// EditionReference names an edition in another language than the source, as in
// A-0042.de; the source goes by the article's reference alone.
func EditionReference(number int, language string) string {
	if language == "" || language == SourceLanguage {
		return Reference(number)
	}
	return Reference(number) + "." + language
}

// SourceLanguage is the language of every article's first edition.
const SourceLanguage = "en"

var languageCode = regexp.MustCompile(`^[a-z]{2,3}$`)

// ParseEdition reads A-0042 or A-0042.de.
func ParseEdition(ref string) (number int, language string, ok bool) {
	ref, language, other := strings.Cut(ref, ".")
	if !other {
		language = SourceLanguage
	}
	number, revision, ok := ParseReference(ref)
	return number, language, ok && revision == 0 && languageCode.MatchString(language)
}

// Languages are those that an edition can be in, by their codes (ISO 639-1), with
// their own names.
var Languages = map[string]string{
	"en": "English",
	"de": "Deutsch",
	"fr": "Français",
	"es": "Español",
	"it": "Italiano",
	"nl": "Nederlands",
	"pl": "Polski",
	"pt": "Português",
	"cy": "Cymraeg",
	"da": "Dansk",
	"sv": "Svenska",
	"nb": "Norsk",
	"fi": "Suomi",
}
