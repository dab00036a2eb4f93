package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"html"
	"io"
	"regexp"
	"strings"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset"
	"github.com/emersion/go-message/mail"

	"hermeneus/core/article"
	"hermeneus/core/markup"
	"hermeneus/core/redact"
)

// Answer is a mail or a reply made into the beginning of an article.
type Answer struct {
	Title    string
	Body     string   // canonical
	Left     []string // what was left out, in words
	Personal []string // lines that hold personal data
}

// The limits of a mail: of its parts, and of how deep they lie within each other.
const (
	maxParts    = 200
	maxBranches = 20 // parts that hold parts
)

// ErrNoMail is given for what is not a mail (RFC 5322).
var ErrNoMail = errors.New("this is not a mail")

// FromMail takes the answer out of a mail: the plain text when it has one, else its
// HTML, without what it quotes, how it greets and how it is signed.
func FromMail(raw []byte) (Answer, error) {
	if bytes.Count(bytes.ToLower(raw), []byte("multipart/")) > maxBranches {
		return Answer{}, fmt.Errorf("%w: it is parted too often", ErrNoMail)
	}
	r, err := mail.CreateReader(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) {
		return Answer{}, fmt.Errorf("%w: %w", ErrNoMail, err)
	}
	if r.Header.Get("From") == "" && r.Header.Get("Subject") == "" {
		return Answer{}, ErrNoMail
	}
	subject, _ := r.Header.Subject()
	var plain, rich string
	attachments := 0
	for parts := 0; ; parts++ {
		if parts > maxParts {
			return Answer{}, fmt.Errorf("%w: it has too many parts", ErrNoMail)
		}
		part, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return Answer{}, fmt.Errorf("%w: %w", ErrNoMail, err)
		}
		header, inline := part.Header.(*mail.InlineHeader)
		if !inline {
			attachments++
			continue
		}
		content, err := io.ReadAll(io.LimitReader(part.Body, article.MaxBody))
		if err != nil {
			return Answer{}, fmt.Errorf("%w: %w", ErrNoMail, err)
		}
		kind, _, _ := header.ContentType()
		switch {
		case kind == "text/plain" && plain == "":
			plain = string(content)
		case kind == "text/html" && rich == "":
			rich = string(content)
		}
	}
	if strings.TrimSpace(plain) == "" {
		plain = markup.Plain(article.Adapt(rich, nil))
	}
	l := FromReply(plain)
	l.Title = subjectPrefix.ReplaceAllString(strings.TrimSpace(subject), "")
	if attachments > 0 {
		l.Left = append(l.Left, fmt.Sprintf("%d attachments", attachments))
	}
	if redact.Text(l.Title) != l.Title {
		l.Personal = append(l.Personal, l.Title)
	}
	return l, nil
}

var (
	subjectPrefix = regexp.MustCompile(`(?i)^((re|aw|fw|fwd|wg|sv|tr)\s*(\[\d+\])?\s*:\s*)+`)
	attribution   = regexp.MustCompile(
		`(?i)^\s*(on .{4,200} wrote:|am .{4,200} schrieb .*:|le .{4,200} a écrit\s*:|-{2,}\s*(original|forwarded) message\s*-{2,}|_{10,})\s*$`,
	)
	mailHeader = regexp.MustCompile(`(?i)^\s*\*?(from|sent|to|subject|date|von|gesendet|an|betreff|cc)\s*:\*?\s`)
	greeting   = regexp.MustCompile(
		`(?i)^\s*(hi|hello|hey|dear|good (morning|afternoon|evening)|greetings|hallo|guten tag|liebe[r]?|sehr geehrte[r]?)\b[^.!?]{0,60}[,!.:]?\s*$`,
	)
	thanksFirst = regexp.MustCompile(
		`(?i)^\s*(thank you|thanks|many thanks)( very much)?( for (your|getting|contacting|writing|the)\b[^.!]{0,100})?[.!,]\s*`,
	)
	closing = regexp.MustCompile(
		`(?i)^\s*((kind|best|warm|many|with (kind|best)) regards|regards|best wishes|all the best|best|yours (sincerely|faithfully|truly)|sincerely|cheers|thanks( again)?|many thanks|thank you|mit freundlichen grüßen|viele grüße)\s*[,.!]?\s*$`,
	)
	hopeThis = regexp.MustCompile(
		`(?i)^\s*(i hope (this|that) (helps|answers)|please (let me|let us|do not hesitate|don.t hesitate|feel free)|if you have any (more|further|other)? ?questions|is there anything else)\b[^\n]*$`,
	)
	bullet   = regexp.MustCompile(`^\s*[-*•]\s+(.*)$`)
	numbered = regexp.MustCompile(`^\s*\d{1,2}[.)]\s+(.*)$`)
)

// FromReply takes the answer out of the words of a reply.
func FromReply(text string) Answer {
	var l Answer
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	lines = l.withoutQuotes(lines)
	lines = l.withoutEnds(lines)
	l.Body = paragraphs(lines)
	for _, line := range strings.Split(markup.Plain(l.Body), "\n") {
		if redact.Text(line) != line {
			l.Personal = append(l.Personal, line)
		}
	}
	return l
}

func (l *Answer) left(what string) {
	for _, known := range l.Left {
		if known == what {
			return
		}
	}
	l.Left = append(l.Left, what)
}

// withoutQuotes ends at the line that introduces an earlier mail, and leaves out
// quoted lines.
func (l *Answer) withoutQuotes(lines []string) []string {
	var kept []string
	for i, line := range lines {
		joined := line
		if i+1 < len(lines) {
			joined += " " + strings.TrimSpace(lines[i+1]) // an introduction broken in two
		}
		headers := 0
		for _, next := range lines[i:min(i+4, len(lines))] {
			if mailHeader.MatchString(next) {
				headers++
			}
		}
		switch {
		case attribution.MatchString(line), attribution.MatchString(joined), headers >= 3:
			l.left("the mail it answers")
			return kept
		case line == "-- " || line == "--":
			l.left("the signature")
			return kept
		case strings.HasPrefix(strings.TrimSpace(line), ">"):
			l.left("quoted lines")
		default:
			kept = append(kept, line)
		}
	}
	return kept
}

// withoutEnds leaves out how a letter greets and how it closes.
func (l *Answer) withoutEnds(lines []string) []string {
	for len(lines) > 0 && (strings.TrimSpace(lines[0]) == "" || greeting.MatchString(lines[0])) {
		if greeting.MatchString(lines[0]) {
			l.left("the greeting")
		}
		lines = lines[1:]
	}
	if len(lines) > 0 && thanksFirst.MatchString(lines[0]) {
		l.left("the thanks")
		lines[0] = thanksFirst.ReplaceAllString(lines[0], "")
	}
	for i := len(lines) - 1; i >= 0 && i >= len(lines)-8; i-- {
		if closing.MatchString(lines[i]) {
			l.left("the closing words and the name")
			lines = lines[:i]
		}
	}
	for len(lines) > 0 {
		last := lines[len(lines)-1]
		if strings.TrimSpace(last) != "" && !hopeThis.MatchString(last) {
			break
		}
		if strings.TrimSpace(last) != "" {
			l.left("the closing words and the name")
		}
		lines = lines[:len(lines)-1]
	}
	return lines
}

// paragraphs makes a text of lines: blank lines part paragraphs, and lines with a
// dash or a number are a list.
func paragraphs(lines []string) string {
	var out strings.Builder
	list := ""
	var words []string
	flush := func() {
		if len(words) > 0 {
			text := html.EscapeString(strings.Join(words, " "))
			if list != "" {
				out.WriteString("<li><p>" + text + "</p></li>")
			} else {
				out.WriteString("<p>" + text + "</p>")
			}
		}
		words = nil
	}
	end := func() {
		flush()
		if list != "" {
			out.WriteString("</" + list + ">")
		}
		list = ""
	}
	begin := func(name, text string) {
		flush()
		if list != name {
			end()
			out.WriteString("<" + name + ">")
			list = name
		}
		words = []string{strings.TrimSpace(text)}
	}
	for _, line := range lines {
		b, n := bullet.FindStringSubmatch(line), numbered.FindStringSubmatch(line)
		switch {
		case strings.TrimSpace(line) == "":
			if list != "" {
				flush()
			} else {
				end()
			}
		case b != nil:
			begin("ul", b[1])
		case n != nil:
			begin("ol", n[1])
		case list != "" && len(words) == 0:
			end()
			words = []string{strings.TrimSpace(line)}
		default:
			words = append(words, strings.TrimSpace(line))
		}
	}
	end()
	return markup.Canonical(out.String())
}
