package article

import (
	"errors"
	"regexp"
	"slices"
	"strings"
	"time"

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

// Sanitise gives the text with everything removed that an article may not
// hold. It returns ErrTooLarge for a text over MaxBody, ErrTooDeep for one over MaxDepth,
// and no other error.
func Sanitise(body string) (string, error) {
	if len(body) > MaxBody {
		return "", ErrTooLarge
	}
	if TooDeep(body) {
		return "", ErrTooDeep
	}
	return policy.Sanitize(body), nil
}

// Outline is what the program knows of a text: its words block by block, its
// headings, the files and articles it points to.
type Outline struct {
	Blocks   []string // plain text of each paragraph, item, cell or heading
	Headings []string
	Files    []string // content hashes of pictures, films and attachments
	Links    []int    // numbers of the articles it points to
	Outside  []string // addresses outside that it points to
	Unseen   int      // pictures without words for those who cannot see them
}

var blockElements = map[string]bool{"p": true, "h2": true, "h3": true, "h4": true, "li": true, "pre": true,
	"blockquote": true, "td": true, "th": true, "hr": true, "tr": true, "ul": true, "ol": true, "table": true,
	"figure": true, "figcaption": true, "aside": true, "details": true, "summary": true}

// maxAddress is the longest address outside that is looked after, in bytes.
const maxAddress = 2000

var outside = regexp.MustCompile(`^https?://[^/\s]`)

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
			o.point(token)
			switch {
			case token.Data == "br":
				block.WriteByte(' ')
			case token.Data == "img":
				described := false
				for _, a := range token.Attr {
					if a.Key == "alt" {
						described = strings.TrimSpace(a.Val) != ""
						block.WriteString(" " + a.Val + " ")
					}
				}
				if !described {
					o.Unseen++
				}
			case blockElements[token.Data]:
				flush()
				heading = len(token.Data) == 2 && token.Data[0] == 'h' && token.Data != "hr" &&
					token.Type == html.StartTagToken
			}
		}
	}
}

// point notes what an element points to.
func (o *Outline) point(token html.Token) {
	for _, a := range token.Attr {
		if a.Key != "src" && a.Key != "href" {
			continue
		}
		if ownFile.MatchString(a.Val) {
			o.Files = append(o.Files, strings.TrimPrefix(a.Val, FilePath))
		} else if number, ok := LinkTarget(a.Val); ok && !slices.Contains(o.Links, number) {
			o.Links = append(o.Links, number)
		} else if a.Key == "href" && outside.MatchString(a.Val) && len(a.Val) <= maxAddress && !slices.Contains(o.Outside, a.Val) {
			o.Outside = append(o.Outside, a.Val)
		}
	}
}

// LinkPath begins the address of an article in the help centre.
const LinkPath = "/help/articles/"

// LinkTarget gives the number of the article that an address points to. Links
// hold the reference alone, so they survive a new title.
func LinkTarget(address string) (number int, ok bool) {
	rest, found := strings.CutPrefix(address, LinkPath)
	if !found {
		return 0, false
	}
	reference, _, _ := strings.Cut(rest, "#")
	reference, _, _ = strings.Cut(reference, "/")
	number, revision, ok := ParseReference(reference)
	if !ok || revision != 0 {
		return 0, false
	}
	return number, true
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
	return max(3*time.Second, min(20*time.Second, reading*3/10))
}
