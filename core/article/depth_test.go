package article

import (
	"errors"
	"strings"
	"testing"
)

func TestTextsLieOnlySoDeep(t *testing.T) {
	for name, body := range map[string]string{
		"divisions": strings.Repeat("<div>", MaxDepth+1) + "x",
		"lists":     strings.Repeat("<ul><li>", MaxDepth+1) + "x",
		"emphasis":  "<p>" + strings.Repeat("<b><i>", MaxDepth) + "x",
		"quotes":    strings.Repeat("<blockquote>", 80_000),
		"unended":   strings.Repeat("</p><span>", MaxDepth+1),
	} {
		if _, err := Sanitise(body); !errors.Is(err, ErrTooDeep) {
			t.Errorf("%s: %v", name, err)
		}
	}
	for name, body := range map[string]string{
		"many after each other":      strings.Repeat("<div><b>x</b></div>", 9000),
		"items that nobody ended":    "<ul>" + strings.Repeat("<li>x", 9000) + "</ul>",
		"paragraphs nobody ended":    strings.Repeat("<p>x", 9000),
		"cells that nobody ended":    "<table>" + strings.Repeat("<tr><td>x<td>y", 5000) + "</table>",
		"as deep as people write":    strings.Repeat("<ul><li>", 12) + "x",
		"more ends than beginnings":  strings.Repeat("</div>", 9000) + "x",
		"pictures and breaks":        strings.Repeat("<br><img src='/files/x' alt='x'>", 5000),
		"what is written, not meant": strings.Repeat("&lt;div&gt;", 5000),
	} {
		if _, err := Sanitise(body); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}
