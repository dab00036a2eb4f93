package redact

import "testing"

func TestPersonalDataIsRemovedAndTheRestKept(t *testing.T) {
	for _, c := range []struct{ name, in, want string }{
		{"a mail address", "write to ada.fenn+bills@post.example please", "write to [mail address] please"},
		{"a phone number", "ring me on 01632 960 123.", "ring me on [phone number]."},
		{"an international number", "it is +44 1632 960123", "it is [phone number]"},
		// 4111 1111 1111 1111 is the industry's usual test number (common practice).
		{"a card number", "charged to 4111 1111 1111 1111 twice", "charged to [card number] twice"},
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

func FuzzText(f *testing.F) {
	f.Add("a@b.example 01632 960123 4111111111111111")
	f.Fuzz(func(t *testing.T, words string) {
		once := Text(words)
		if mail.MatchString(once) {
			t.Errorf("a mail address is left in %q", once)
		}
	})
}
