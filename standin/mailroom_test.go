package standin

import (
	"io"
	"net/http/httptest"
	"net/smtp"
	"strings"
	"testing"
	"time"
)

func TestTheMailRoomTakesMailAndShowsIt(t *testing.T) {
	room, err := OpenMailRoom(time.Now)
	if err != nil {
		t.Fatal(err)
	}
	defer room.Close()
	letter := "From: help@wrenmoor.example\r\nTo: wim@post.example\r\nSubject: =?utf-8?q?About_=E2=80=9Cbills=E2=80=9D?=\r\nContent-Type: text/plain; charset=utf-8\r\n\r\nMended <b>now</b>.\r\n"
	if err := smtp.SendMail(
		room.Address(),
		nil,
		"help@wrenmoor.example",
		[]string{"wim@post.example"},
		[]byte(letter),
	); err != nil {
		t.Fatal(err)
	}
	got := room.Letters("WIM@post.example")
	if len(got) != 1 || got[0].Subject != "About “bills”" || got[0].Text != "Mended <b>now</b>.\n" {
		t.Fatalf("%+v", got)
	}
	if len(room.Letters("ada@post.example")) != 0 {
		t.Error("a letter lies in another's box")
	}
	if err := smtp.SendMail(room.Address(), nil, "a@b.example", []string{"nobody"}, []byte(letter)); err == nil {
		t.Error("mail for no address was taken")
	}
	answer, err := Outside(room).Test(httptest.NewRequest("GET", "/?to=wim@post.example", nil))
	if err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(answer.Body)
	if err != nil || !strings.Contains(string(text), "Mended &lt;b&gt;now&lt;/b&gt;.") {
		t.Errorf("%v %s", err, text)
	}
}

func TestAddressesAnswerAsTheySay(t *testing.T) {
	for address, want := range map[string]Answer{
		"https://www.grid.example/map": {200, ""}, "https://gone.grid.example/": {0, "There is no such host any more."},
		"https://grid.example/a/missing/b": {404, "The page is not found there (404)."}, "https://grid.example/missing-parts": {200, ""},
		"http://slow.grid.example": {0, "It did not answer in time."}, "ftp://grid.example": {0, "This is no address of a page."}, "": {0, "This is no address of a page."},
	} {
		if got := CheckAddress(address); got != want {
			t.Errorf("%s: %+v", address, got)
		}
	}
}
