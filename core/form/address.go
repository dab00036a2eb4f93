package form

import (
	"net/mail"
	"strings"
)

// MaxAddress is how long a mail address can be, in characters (RFC 5321, section 4.5.3.1.3,
// without the brackets).
const MaxAddress = 254

// Address gives a mail address as mail can be sent to it, or what is wrong with it, "" for
// nothing. It is the address alone: no display name, no brackets, no comment, and in letters
// that every mail server takes.
func Address(text string) (address, fault string) {
	text = strings.TrimSpace(text)
	parsed, err := mail.ParseAddress(text)
	local, domain, _ := strings.Cut(text, "@")
	switch {
	case err != nil || parsed.Address != text || parsed.Name != "":
		return text, "This does not read like a mail address, such as name@post.example."
	case len(text) > MaxAddress || len(local) > 64:
		return text, "This is longer than a mail address can be."
	case strings.ContainsFunc(text, func(r rune) bool { return r > '~' || r <= ' ' || r == '"' }):
		return text, "Write the address in plain letters, without spaces or quotes."
	case strings.Contains(domain, "[") || !strings.Contains(domain, "."):
		return text, "Behind the @ stands a name such as post.example."
	}
	return text, ""
}
