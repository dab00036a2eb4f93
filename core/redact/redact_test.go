package redact

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

func TestPersonalDataIsRemovedAndTheRestKept(t *testing.T) {
	for _, c := range []struct{ name, in, want string }{
		{"a mail address", "write to ada.fenn+bills@post.example please", "write to [mail address] please"},
		{"a phone number", "ring me on 01632 960 123.", "ring me on [phone number]."},
		{"an international number", "it is +44 1632 960123", "it is [phone number]"},
		// 4111 1111 1111 1111 is the industry's usual test number (common practice).
		{"a card number", "charged to 4111 1111 1111 1111 twice", "charged to [card number] twice"},
		// The first is the worked example of the check that is in general use, the second the registry's (from memory).
		{"an account number", "from GB82 WEST 1234 5698 7654 32, please", "from [account number], please"},
		{"an account number at a stretch", "de89370400440532013000 is mine", "[account number] is mine"},
		{"an account number and words behind it", "GB82 WEST 1234 5698 7654 32 was charged", "[account number] was charged"},
		{"what does not pass the check", "order GB82 WEST 1234 5698 7654 33", "order GB82 WEST 1234 5698 7654 33"},
		{"sixteen digits that are no card", "meter 4111 1111 1111 1112 is broken", "meter 4111 1111 1111 1112 is broken"},
		{"a meter reading", "my reading is 48213 and yours 47 990", "my reading is 48213 and yours 47 990"},
		{"an amount and a date", "84.20 taken on 2026-03-02", "84.20 taken on 2026-03-02"},
		{"nothing", "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := Text(c.in); got != c.want {
				t.Errorf("got %q, want %q", got, c.want)
			}
		})
	}
}

// Every account number with the right check digits is found, however it is grouped.
func TestAccountNumbersAreFound(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"
	for range 2000 {
		var body strings.Builder
		for range 11 + r.IntN(20) {
			body.WriteByte(letters[r.IntN(len(letters))])
		}
		country := string(letters[r.IntN(26)]) + string(letters[r.IntN(26)])
		whole := ""
		for check := 2; check <= 98; check++ {
			if whole = fmt.Sprintf("%s%02d%s", country, check, body.String()); mod97(whole) {
				break
			}
		}
		grouped := whole[:4]
		for i := 4; i < len(whole); i += 4 {
			grouped += " " + whole[i:min(i+4, len(whole))]
		}
		for _, form := range []string{whole, strings.ToLower(whole), grouped} {
			if got := Text("It is " + form + "."); got != "It is "+Account+"." {
				t.Fatalf("%s: %q", form, got)
			}
		}
	}
}

func FuzzText(f *testing.F) {
	f.Add("a@b.example 01632 960123 4111111111111111")
	f.Fuzz(func(t *testing.T, words string) {
		once := Text(words)
		if mail.MatchString(once) {
			t.Errorf("a mail address is left in %q", once)
		}
	})
}
