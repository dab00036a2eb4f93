package article

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
)

var (
	ownFile  = regexp.MustCompile(`^/files/[0-9a-f]{64}$`)
	anchor   = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,80}$`)
	pixels   = regexp.MustCompile(`^\d{1,4}$`)
	callout  = regexp.MustCompile(`^(note|caution|danger)$`)
	filename = regexp.MustCompile(`^[^<>"'/\\\x00-\x1f]{1,120}$`)
	remote   = regexp.MustCompile(`^https://[a-z0-9][a-zA-Z0-9.:-]*(/[^\s"'<>]*)?$`)
	language = regexp.MustCompile(`^language-[A-Za-z0-9+#-]{1,30}$`)
	nothing  = regexp.MustCompile(`^$`)
	anything = regexp.MustCompile(``)
)

// allowed says which elements a text may hold, and which of their attributes with
// which values. It is what the editor can make, and nothing else: no scripts, no
// event handlers, no styles, no pictures from elsewhere, no data: addresses.
// Addresses of links are looked at once more, by their scheme.
var allowed = map[string]map[string]*regexp.Regexp{
	"p": nil, "ul": nil, "li": nil, "strong": nil, "em": nil, "s": nil, "u": nil, "kbd": nil, "sub": nil, "sup": nil,
	"pre": nil, "blockquote": nil, "br": nil, "hr": nil, "table": nil, "thead": nil, "tbody": nil, "tr": nil,
	"figcaption": nil, "details": nil, "summary": nil,
	"h2": {"id": anchor}, "h3": {"id": anchor}, "h4": {"id": anchor},
	"ol":     {"start": pixels},
	"td":     {"colspan": pixels, "rowspan": pixels},
	"th":     {"colspan": pixels, "rowspan": pixels},
	"code":   {"class": language},
	"a":      {"href": anything, "download": filename},
	"img":    {"src": ownFile, "alt": anything, "width": pixels, "height": pixels},
	"aside":  {"data-callout": callout},
	"figure": {"data-video": remote},
	"video":  {"src": ownFile, "controls": nothing},
}

var schemes = []string{"http", "https", "mailto", "tel"}

var policy = newPolicy()

func newPolicy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	for element, attributes := range allowed {
		p.AllowElements(element)
		for name, values := range attributes {
			if values == anything {
				p.AllowAttrs(name).OnElements(element)
			} else {
				p.AllowAttrs(name).Matching(values).OnElements(element)
			}
		}
	}
	p.AllowURLSchemes(schemes...)
	p.AllowRelativeURLs(true)
	p.RequireParseableURLs(true)
	p.RequireNoFollowOnFullyQualifiedLinks(true)
	p.RequireNoReferrerOnFullyQualifiedLinks(true)
	return p
}

// Removal is something that a text may not hold.
type Removal struct {
	Line int    `json:"line"` // from 1, in the text as given
	What string `json:"what"` // in words for its writer
}

// silent are elements that stand for nothing to keep: their text stays.
var silent = map[string]bool{
	"span":     true,
	"div":      true,
	"section":  true,
	"article":  true,
	"main":     true,
	"body":     true,
	"html":     true,
	"font":     true,
	"tfoot":    true,
	"colgroup": true,
	"col":      true,
}

// silentAttributes are the marks that browsers and the editor leave on elements.
var silentAttributes = []string{
	"class",
	"style",
	"rel",
	"target",
	"role",
	"dir",
	"lang",
	"title",
	"id",
	"colwidth",
	"spellcheck",
	"width",
	"height",
	"align",
	"valign",
	"border",
}

// TakenOut lists what Sanitise takes out of a text, line by line, so that nothing
// goes silently. What carries no meaning here (looks, groupings) is not listed.
func TakenOut(body string) []Removal {
	var list []Removal
	line := 1
	say := func(format string, args ...any) {
		r := Removal{line, fmt.Sprintf(format, args...)}
		if !slices.Contains(list, r) {
			list = append(list, r)
		}
	}
	tokens := html.NewTokenizer(strings.NewReader(body))
	for {
		kind := tokens.Next()
		if kind == html.ErrorToken {
			return list
		}
		raw := string(tokens.Raw())
		if kind == html.StartTagToken || kind == html.SelfClosingTagToken {
			token := tokens.Token()
			attributes, known := allowed[token.Data]
			if !known && !silent[token.Data] {
				say("the element <%s>", token.Data)
			}
			for _, a := range token.Attr {
				if known {
					removedAttribute(say, token.Data, a, attributes)
				} else if strings.HasPrefix(a.Key, "on") {
					say("the script in %s of <%s>", a.Key, token.Data)
				}
			}
		}
		line += strings.Count(raw, "\n")
	}
}

func removedAttribute(
	say func(string, ...any),
	element string,
	a html.Attribute,
	attributes map[string]*regexp.Regexp,
) {
	values, known := attributes[a.Key]
	switch {
	case strings.HasPrefix(a.Key, "on"):
		say("the script in %s of <%s>", a.Key, element)
	case !known && slices.Contains(silentAttributes, a.Key):
	case !known:
		say("%s of <%s>", a.Key, element)
	case element == "img" && a.Key == "src" && !values.MatchString(a.Val):
		say("a picture that is not kept here: %s", Shorten(a.Val, 60))
	case !values.MatchString(a.Val):
		say("%s=%q of <%s>", a.Key, Shorten(a.Val, 60), element)
	case a.Key == "href" && !safeAddress(a.Val):
		say("a link to %s", Shorten(a.Val, 60))
	}
}

func safeAddress(address string) bool {
	scheme, _, found := strings.Cut(address, ":")
	if !found || strings.ContainsAny(scheme, "/?#") {
		return true
	}
	return slices.Contains(schemes, strings.ToLower(strings.TrimSpace(scheme)))
}

// Shorten cuts a text to so many characters, at a word where it can.
func Shorten(s string, most int) string {
	if runes := []rune(s); len(runes) > most {
		return string(runes[:most]) + "…"
	}
	return s
}
