package standin

import (
	"io"
	"net/http/httptest"
	"strings"
	"testing"
)

func TestTheMemberSiteEmbedsTheChatWithOneLine(t *testing.T) {
	answer, err := MemberSite("Wrenmoor & Co", "http://help.example").Test(httptest.NewRequest("GET", "/", nil))
	if err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`<script src="http://help.example/embed.js" data-hermeneus="http://help.example" async></script>`, "Wrenmoor &amp; Co"} {
		if !strings.Contains(string(text), want) {
			t.Errorf("the page does not hold %s", want)
		}
	}
}
