package http_test

import (
	"bufio"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"
)

// listen serves on a free port of this machine, and gives its address.
func (s *site) listen() string {
	s.T.Helper()
	line, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	go func() { _ = s.server.Fiber().Listener(line) }()
	return line.Addr().String()
}

// Whatever comes over the line, the server answers it or hangs up, and goes on.
func TestARequestThatCannotBeReadEndsNothing(t *testing.T) {
	s := open(t)
	address := s.listen()
	for name, c := range map[string]struct {
		sent   string
		status int // 0 for hanging up without an answer
	}{
		"no HTTP at all":             {"\x16\x03\x01\x00\xa5\x01\x00\x00\xa1\r\n\r\n", 400},
		"a header without a name":    {"GET /help HTTP/1.1\r\nHost: a\r\n: x\r\n\r\n", 400},
		"a header line that is none": {"GET /help HTTP/1.1\r\nHost: a\r\nnothing\r\n\r\n", 400},
		"headers without end":        {"GET /help HTTP/1.1\r\nHost: a\r\nX: " + strings.Repeat("x", 80<<10) + "\r\n\r\n", 431},
		"a length that is none":      {"POST /api/help/offers HTTP/1.1\r\nHost: a\r\nContent-Length: many\r\n\r\n{}", 400},
		"a body over the limit":      {"POST /api/help/offers HTTP/1.1\r\nHost: a\r\nContent-Length: 99999999999\r\n\r\n{}", 413},
		"broken off in the headers":  {"GET /help HTT", 0},
	} {
		t.Run(name, func(t *testing.T) {
			line, err := net.Dial("tcp", address)
			s.Must(err)
			defer func() { _ = line.Close() }()
			s.Must(line.SetDeadline(time.Now().Add(20 * time.Second)))
			_, _ = io.WriteString(line, c.sent) // the server may hang up before all of it is sent
			if c.status == 0 {
				s.Must(line.(*net.TCPConn).CloseWrite())
			}
			answer, err := http.ReadResponse(bufio.NewReader(line), nil)
			if c.status == 0 {
				return
			}
			if err != nil || answer.StatusCode != c.status {
				t.Errorf("answered %+v, %v; want %d", answer, err, c.status)
			}
		})
	}
	answer, err := http.Get("http://" + address + "/help")
	s.Must(err)
	_ = answer.Body.Close()
	if answer.StatusCode != 200 {
		t.Errorf("afterwards: %s", answer.Status)
	}
}
