package article

import (
	"errors"
	"regexp"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
)

// MaxBody is the largest text of an article, in bytes of HTML.
const MaxBody = 1 << 20

// MaxTitle is the longest title, in characters.
const MaxTitle = 200

// ErrTooLarge is given for a text over MaxBody.
var ErrTooLarge = errors.New("the text is larger than 1 MB")

// FilePath is where pictures kept by content hash are served from.
const FilePath = "/files/"

var (
	ownPicture = regexp.MustCompile(`^/files/[0-9a-f]{64}$`)
	anchor     = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,80}$`)
	pixels     = regexp.MustCompile(`^\d{1,4}$`)
	policy     = newPolicy()
)

// newPolicy allows what the editor can make, and nothing else: no scripts, no
// event handlers, no styles, no pictures from elsewhere, no data: addresses.
func newPolicy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "h2", "h3", "h4", "ul", "ol", "li", "strong", "em", "s", "u", "code", "pre", "kbd",
		"blockquote", "br", "hr", "table", "thead", "tbody", "tr")
	p.AllowAttrs("id").Matching(anchor).OnElements("h2", "h3", "h4")
	p.AllowAttrs("start").Matching(pixels).OnElements("ol")
	p.AllowAttrs("colspan", "rowspan").Matching(pixels).OnElements("td", "th")
	p.AllowElements("td", "th")
	p.AllowAttrs("href").OnElements("a")
	p.AllowURLSchemes("http", "https", "mailto", "tel")
	p.AllowRelativeURLs(true)
	p.RequireParseableURLs(true)
	p.RequireNoFollowOnFullyQualifiedLinks(true)
	p.RequireNoReferrerOnFullyQualifiedLinks(true)
	p.AllowAttrs("src").Matching(ownPicture).OnElements("img")
	p.AllowAttrs("alt").OnElements("img")
	p.AllowAttrs("width", "height").Matching(pixels).OnElements("img")
	return p
}

// Sanitise gives the text with everything removed that an article may not
// hold. It returns ErrTooLarge, and nothing else, for a text over MaxBody.
func Sanitise(body string) (string, error) {
	if len(body) > MaxBody {
		return "", ErrTooLarge
	}
	return policy.Sanitize(body), nil
}

// Outline is what the program knows of a text: its words block by block, its
// headings, the pictures in it.
type Outline struct {
	Blocks   []string // plain text of each paragraph, item, cell or heading
	Headings []string
	Pictures []string // content hashes
}

var blockElements = map[string]bool{"p": true, "h2": true, "h3": true, "h4": true, "li": true, "pre": true,
	"blockquote": true, "td": true, "th": true, "hr": true, "tr": true, "ul": true, "ol": true, "table": true}

// Read takes a sanitised text apart.
func Read(body string) Outline {
	var o Outline
	var block strings.Builder
	heading := false
	flush := func() {
		if text := strings.Join(strings.Fields(block.String()), " "); text != "" {
			o.Blocks = append(o.Blocks, text)
			if heading {
				o.Headings = append(o.Headings, text)
			}
		}
		block.Reset()
	}
	tokens := html.NewTokenizer(strings.NewReader(body))
	for {
		switch tokens.Next() {
		case html.ErrorToken:
			flush()
			return o
		case html.TextToken:
			block.Write(tokens.Text())
		case html.StartTagToken, html.SelfClosingTagToken, html.EndTagToken:
			token := tokens.Token()
			switch {
			case token.Data == "br":
				block.WriteByte(' ')
			case token.Data == "img":
				for _, a := range token.Attr {
					if a.Key == "src" && ownPicture.MatchString(a.Val) {
						o.Pictures = append(o.Pictures, strings.TrimPrefix(a.Val, FilePath))
					}
					if a.Key == "alt" {
						block.WriteString(" " + a.Val + " ")
					}
				}
			case blockElements[token.Data]:
				flush()
				heading = len(token.Data) == 2 && token.Data[0] == 'h' && token.Data != "hr" && token.Type == html.StartTagToken
			}
		}
	}
}

// Text is the plain text, a line for each block.
func (o Outline) Text() string { return strings.Join(o.Blocks, "\n") }

// Words counts the words of the text.
func (o Outline) Words() int { return len(strings.Fields(o.Text())) }

// Summary is the beginning of the text, cut at a word, for search results and
// descriptions. Headings are left out.
func (o Outline) Summary(characters int) string {
	skip := map[string]bool{}
	for _, h := range o.Headings {
		skip[h] = true
	}
	var out []string
	length := 0
	for _, b := range o.Blocks {
		if skip[b] {
			continue
		}
		for _, w := range strings.Fields(b) {
			if length += len([]rune(w)) + 1; length > characters {
				return strings.Join(out, " ") + "…"
			}
			out = append(out, w)
		}
	}
	return strings.Join(out, " ")
}

// ReadAfter is how long a text of that many words must be visible to count as
// read: the smaller of 20 s and 30 % of its reading time at 200 words a minute.
func ReadAfter(words int) time.Duration {
	reading := time.Duration(float64(words) / 200 * float64(time.Minute))
	return min(20*time.Second, reading*3/10)
}
