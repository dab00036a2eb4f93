package standin

import (
	_ "embed"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net"
	"net/mail"
	"strings"
	"sync"
	"time"

	gomail "github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"github.com/gofiber/fiber/v2"
)

//go:embed mailroom.html
var mailRoomPage string

// Letter is a mail that came in.
type Letter struct {
	Number  int       `json:"number"`
	At      time.Time `json:"at"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Text    string    `json:"text"`
}

// keptLetters is how many mails the room keeps; older ones are thrown away.
const keptLetters = 1000

// MailRoom takes every mail that is handed to it by SMTP (RFC 5321) and delivers
// none: they are read on its page.
type MailRoom struct {
	mu      sync.Mutex
	letters []Letter
	count   int
	server  *smtp.Server
	address string
	clock   func() time.Time
}

// OpenMailRoom begins to take mail on a free port of the loopback. The clock says when
// it came.
func OpenMailRoom(clock func() time.Time) (*MailRoom, error) {
	line, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("opening the mail room: %w", err)
	}
	room := &MailRoom{address: line.Addr().String(), clock: clock}
	room.server = smtp.NewServer(
		smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &visit{room: room}, nil }),
	)
	room.server.Domain, room.server.MaxMessageBytes, room.server.ReadTimeout = "mail-room", 8<<20, 30*time.Second
	room.server.ErrorLog = silent{}
	go func() { _ = room.server.Serve(line) }()
	return room, nil
}

type silent struct{}

func (silent) Printf(string, ...any) {}
func (silent) Println(...any)        {}

// Address is where mail is handed in, as host and port.
func (r *MailRoom) Address() string { return r.address }

// Close ends it; its letters are gone.
func (r *MailRoom) Close() { _ = r.server.Close() }

// Letters gives what came in for an address, or for all with "", the latest first.
func (r *MailRoom) Letters(to string) []Letter {
	r.mu.Lock()
	defer r.mu.Unlock()
	list := []Letter{}
	for i := len(r.letters) - 1; i >= 0; i-- {
		if l := r.letters[i]; to == "" || strings.EqualFold(l.To, to) {
			list = append(list, l)
		}
	}
	return list
}

func (r *MailRoom) take(from, to string, raw io.Reader) error {
	letter := Letter{At: r.clock(), From: from, To: to}
	reader, err := gomail.CreateReader(raw)
	if err != nil {
		return fmt.Errorf("reading a mail: %w", err)
	}
	letter.Subject, _ = reader.Header.Subject()
	for {
		part, err := reader.NextPart()
		if errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return fmt.Errorf("reading a mail: %w", err)
		}
		if _, inline := part.Header.(*gomail.InlineHeader); inline && letter.Text == "" {
			text, err := io.ReadAll(io.LimitReader(part.Body, 1<<20))
			if err != nil {
				return err
			}
			letter.Text = strings.ReplaceAll(string(text), "\r\n", "\n")
		}
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.count++
	letter.Number = r.count
	r.letters = append(r.letters, letter)
	r.letters = r.letters[max(0, len(r.letters)-keptLetters):]
	return nil
}

// visit is one mail being handed in.
type visit struct {
	room *MailRoom
	from string
	to   []string
}

func (v *visit) Mail(from string, _ *smtp.MailOptions) error {
	v.from = from
	return nil
}

func (v *visit) Rcpt(to string, _ *smtp.RcptOptions) error {
	if _, err := mail.ParseAddress(to); err != nil {
		return &smtp.SMTPError{Code: 553, EnhancedCode: smtp.EnhancedCode{5, 1, 3}, Message: "This is no mail address."}
	}
	v.to = append(v.to, to)
	return nil
}

func (v *visit) Data(raw io.Reader) error {
	text, err := io.ReadAll(raw)
	if err != nil {
		return err
	}
	for _, to := range v.to {
		if err := v.room.take(v.from, to, strings.NewReader(string(text))); err != nil {
			return &smtp.SMTPError{
				Code:         554,
				EnhancedCode: smtp.EnhancedCode{5, 6, 0},
				Message:      "This does not read like a mail.",
			}
		}
	}
	return nil
}

func (v *visit) Reset()        { v.from, v.to = "", nil }
func (v *visit) Logout() error { return nil }

// Outside serves the simulated outside world: the mail room's page at /, what it
// holds as JSON at /mails, and the link checker at /check.
func Outside(room *MailRoom) *fiber.App {
	page := template.Must(
		template.New("room").
			Funcs(template.FuncMap{"clock": func(t time.Time) string { return t.Format("2 January, 15:04:05") }}).
			Parse(mailRoomPage),
	)
	f := fiber.New(fiber.Config{DisableStartupMessage: true})
	f.Get("/", func(c *fiber.Ctx) error {
		var out strings.Builder
		to := c.Query("to")
		if err := page.Execute(&out, map[string]any{"To": to, "Letters": room.Letters(to)}); err != nil {
			return err
		}
		c.Set("Content-Type", "text/html; charset=utf-8")
		return c.SendString(out.String())
	})
	f.Get("/mails", func(c *fiber.Ctx) error { return c.JSON(room.Letters(c.Query("to"))) })
	f.Get("/check", func(c *fiber.Ctx) error { return c.JSON(CheckAddress(c.Query("address"))) })
	return f
}
