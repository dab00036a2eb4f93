package notify_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"errors"
	"fmt"
	"io"
	"math/big"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"

	"hermeneus/app"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/core/role"
)

// strict is a mail server that takes mail from one user alone, over an encrypted line, and
// refuses some addresses for good.
type strict struct {
	mu    sync.Mutex
	taken []string
	most  int // mails at a time, so far
	now   int
	slow  time.Duration
}

type strictVisit struct {
	*strict
	signed bool
	to     string
}

func (v *strictVisit) AuthMechanisms() []string { return []string{sasl.Plain} }
func (v *strictVisit) Auth(string) (sasl.Server, error) {
	return sasl.NewPlainServer(func(_, user, password string) error {
		if v.signed = user == "hermeneus" && password == "secret"; !v.signed {
			return errors.New("no")
		}
		return nil
	}), nil
}
func (v *strictVisit) Mail(string, *smtp.MailOptions) error {
	if !v.signed {
		return &smtp.SMTPError{Code: 530, Message: "Sign in first."}
	}
	return nil
}
func (v *strictVisit) Rcpt(to string, _ *smtp.RcptOptions) error {
	if strings.HasPrefix(to, "gone") {
		return &smtp.SMTPError{Code: 550, Message: "Nobody of this name."}
	}
	v.to = to
	return nil
}
func (v *strictVisit) Data(r io.Reader) error {
	v.mu.Lock()
	v.now++
	v.most = max(v.most, v.now)
	v.mu.Unlock()
	time.Sleep(v.slow)
	_, err := io.Copy(io.Discard, r)
	v.mu.Lock()
	defer v.mu.Unlock()
	v.now--
	v.taken = append(v.taken, v.to)
	return err
}
func (v *strictVisit) Reset()        {}
func (v *strictVisit) Logout() error { return nil }

// openStrict serves it, with a certificate of its own making.
func openStrict(t *testing.T, security string) (*strict, notify.MailServer) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	sheet := &x509.Certificate{
		SerialNumber: big.NewInt(1),
		Subject:      pkix.Name{CommonName: "mail"},
		NotAfter:     time.Now().Add(time.Hour),
		IPAddresses: []net.IP{
			net.IPv4(127, 0, 0, 1),
		},
		IsCA:                  true,
		BasicConstraintsValid: true,
		KeyUsage:              x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign,
	}
	der, err := x509.CreateCertificate(rand.Reader, sheet, sheet, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	certificate, err := x509.ParseCertificate(der)
	if err != nil {
		t.Fatal(err)
	}
	roots := x509.NewCertPool()
	roots.AddCert(certificate)
	config := &tls.Config{
		Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}},
		MinVersion:   tls.VersionTLS12,
	}
	is := &strict{}
	server := smtp.NewServer(
		smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &strictVisit{strict: is}, nil }),
	)
	server.Domain, server.TLSConfig = "strict", config
	server.ErrorLog = quiet{}
	line, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	address := line.Addr().String()
	if security == notify.MailTLS {
		line = tls.NewListener(line, config)
	}
	go func() { _ = server.Serve(line) }()
	t.Cleanup(func() { _ = server.Close() })
	return is, notify.MailServer{
		Address:  address,
		Security: security,
		User:     "hermeneus",
		Password: "secret",
		Roots:    roots,
	}
}

type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

func TestMailGoesEncryptedAndSignedIn(t *testing.T) {
	for _, security := range []string{notify.MailStartTLS, notify.MailTLS} {
		t.Run(security, func(t *testing.T) {
			server, settings := openStrict(t, security)
			w := apptest.OpenIdle(t)
			w.Hire("ada", role.Author)
			sender := w.AnotherOf(func(c *app.Config) { c.Mail = settings })
			w.Must(sender.Accounts.AskPasswordLink(w.Context, true, "ada@wrenmoor.example"))
			w.Must(sender.Notify.PostMail(w.Context))
			if len(server.taken) != 1 || server.taken[0] != "ada@wrenmoor.example" {
				t.Errorf("it took %v", server.taken)
			}
			// Without signing in, or over a line that is not what it should be, nothing goes out.
			for what, worse := range map[string]func(s *notify.MailServer){
				"another password":           func(s *notify.MailServer) { s.Password = "guess" },
				"an unknown certificate":     func(s *notify.MailServer) { s.Roots = nil },
				"not signed in":              func(s *notify.MailServer) { s.User = "" },
				"a name that is not its own": func(s *notify.MailServer) { s.Address = strings.Replace(s.Address, "127.0.0.1", "localhost", 1) },
			} {
				other := settings
				worse(&other)
				second := w.AnotherOf(func(c *app.Config) { c.Mail = other })
				w.Wait(2 * time.Hour)
				w.Must(second.Accounts.AskPasswordLink(w.Context, true, "ada@wrenmoor.example"))
				w.Must(second.Notify.PostMail(w.Context))
				if len(server.taken) != 1 {
					t.Errorf("with %s it took %v", what, server.taken)
				}
			}
		})
	}
}

func TestMailThatNobodyGetsIsSeen(t *testing.T) {
	server, settings := openStrict(t, notify.MailTLS)
	server.slow = 50 * time.Millisecond
	w := apptest.OpenIdle(t)
	c := w.Crew()
	sender := w.AnotherOf(func(c *app.Config) { c.Mail = settings })
	for i := range 6 {
		_, err := w.Accounts.People.AddCustomer(
			w.Context,
			"Wim",
			fmt.Sprintf("wim%d@post.example", i),
			"a long password",
		)
		w.Must(err)
		w.Must(sender.Accounts.AskPasswordLink(w.Context, false, fmt.Sprintf("wim%d@post.example", i)))
	}
	for i := range 3 {
		_, err := w.Accounts.People.AddCustomer(
			w.Context,
			"Mae",
			fmt.Sprintf("gone%d@post.example", i),
			"a long password",
		)
		w.Must(err)
		w.Must(sender.Accounts.AskPasswordLink(w.Context, false, fmt.Sprintf("gone%d@post.example", i)))
	}
	w.Must(sender.Notify.PostMail(w.Context))
	if len(server.taken) != 6 || server.most < 2 {
		t.Errorf("it took %d, at most %d at a time", len(server.taken), server.most)
	}
	news, err := w.Notify.News(w.Context, c.Administrator, notify.NewsMailFailed, 1)
	w.Must(err)
	if news.Total != 1 || !strings.Contains(news.Items[0].Text, "3 mails were given up") ||
		!strings.Contains(news.Items[0].Text, "Nobody of this name") {
		t.Errorf("the administrator is told %+v", news.Items)
	}
	if other, err := w.Notify.News(w.Context, c.Author, notify.NewsMailFailed, 1); err != nil || other.Total != 0 {
		t.Errorf("an author is told %+v, %v", other, err)
	}
	// What failed for good is not tried again; what may go through later is, and ends in the end.
	w.Wait(24 * time.Hour)
	w.Must(sender.Notify.PostMail(w.Context))
	var tries int
	w.Must(w.DB().Raw(`SELECT max(tries) FROM mails WHERE address LIKE 'gone%'`).Scan(&tries).Error)
	if tries != 1 {
		t.Errorf("a refusal for good was tried %d times", tries)
	}
	nobody := w.AnotherOf(func(c *app.Config) { c.Mail = notify.MailServer{Address: "127.0.0.1:1"} })
	w.Must(nobody.Accounts.AskPasswordLink(w.Context, true, c.Author.Email))
	for range 14 {
		w.Must(nobody.Notify.PostMail(w.Context))
		w.Wait(9 * time.Hour)
	}
	var row struct {
		Tries    int
		FailedAt *time.Time
	}
	w.Must(w.DB().Raw(`SELECT tries, failed_at FROM mails WHERE address = ?`, c.Author.Email).Scan(&row).Error)
	if row.Tries != 12 || row.FailedAt == nil {
		t.Errorf("a server that is not there was tried %d times, given up %v", row.Tries, row.FailedAt)
	}
}

// Several go at a time, but what goes to one address arrives in its order.
func TestMailsToOneAddressKeepTheirOrder(t *testing.T) {
	w := apptest.OpenIdle(t)
	w.Must(w.DB().Exec(`INSERT INTO mails (made_at, address, subject, body, tries, next_at, fault)
		SELECT ?, CASE n % 2 WHEN 0 THEN 'wim@post.example' ELSE 'Mae@post.example' END, n::text, '', 0, ?, ''
		FROM generate_series(10, 49) n`, w.Instance.Now(), w.Instance.Now()).Error)
	w.Must(w.Notify.PostMail(w.Context))
	for _, address := range []string{"wim@post.example", "mae@post.example"} {
		letters := w.Room.Letters(address) // the latest first
		if len(letters) != 20 {
			t.Fatalf("%d arrived at %s", len(letters), address)
		}
		for i := 1; i < len(letters); i++ {
			if letters[i-1].Subject <= letters[i].Subject {
				t.Errorf("%s came after %s", letters[i].Subject, letters[i-1].Subject)
			}
		}
	}
}

// From forms that anybody can send one address hears only a few times in an hour; each
// request is kept all the same.
func TestOneAddressGetsFewConfirmations(t *testing.T) {
	w := apptest.OpenIdle(t)
	mails := func(address string) (n int) {
		w.Must(w.DB().Raw(`SELECT count(*) FROM mails WHERE lower(address) = ?`, address).Scan(&n).Error)
		return n
	}
	var wait sync.WaitGroup
	for i := range 20 {
		wait.Go(func() {
			address := []string{"victim@post.example", "Victim@post.example"}[i%2]
			_, err := w.Requests.SendRequest(
				w.Context,
				evidence.Visitor{Key: fmt.Sprint(i)},
				requests.NewRequest{Subject: fmt.Sprint("A bill ", i), Text: "Why?", Address: address},
			)
			w.Must(err)
		})
	}
	wait.Wait()
	if n := mails("victim@post.example"); n != 3 {
		t.Errorf("20 requests at once sent %d confirmations", n)
	}
	w.Must(
		apptest.Second(
			w.Requests.SendRequest(
				w.Context,
				evidence.Visitor{Key: "k"},
				requests.NewRequest{Subject: "A bill", Text: "Why?", Address: "mae@post.example"},
			),
		),
	)
	if n := mails("mae@post.example"); n != 1 {
		t.Errorf("another address got %d", n)
	}
	var sent int
	w.Must(w.DB().Raw(`SELECT count(*) FROM conversations`).Scan(&sent).Error)
	if sent != 21 {
		t.Errorf("%d requests were kept", sent)
	}
	w.Wait(time.Hour)
	w.Must(
		apptest.Second(
			w.Requests.SendRequest(
				w.Context,
				evidence.Visitor{Key: "k"},
				requests.NewRequest{Subject: "A bill", Text: "Why?", Address: "victim@post.example"},
			),
		),
	)
	if n := mails("victim@post.example"); n != 4 {
		t.Errorf("an hour later: %d", n)
	}
	for _, address := range []string{"Wim Ott <wim@post.example>", "wim@post.example, mae@post.example", "wim@localhost"} {
		if _, err := w.Requests.SendRequest(
			w.Context,
			evidence.Visitor{Key: "k"},
			requests.NewRequest{Subject: "A bill", Text: "Why?", Address: address},
		); apptest.KindOf(err) != problem.Invalid {
			t.Errorf("%q is taken: %v", address, err)
		}
	}
}

// Of news, what was in no mail is not marked as mailed.
func TestOnlyWhatWasMailedIsMarked(t *testing.T) {
	w := apptest.OpenIdle(t)
	ada := w.Hire("ada", role.Author)
	w.Must(
		w.DB().
			Exec(`INSERT INTO news (staff_id, at, kind, text, path, shown, by_mail)
				VALUES (?, ?, 'decided', 'For mail', '', true, true),
					(?, ?, 'decided', 'Not for mail', '', true, false)`,
				ada.ID, w.Instance.Now(), ada.ID, w.Instance.Now()).
			Error,
	)
	w.Wait(time.Hour)
	w.Must(w.Notify.MailNews(w.Context))
	var marked []string
	w.Must(w.DB().Raw(`SELECT text FROM news WHERE mailed_at IS NOT NULL`).Scan(&marked).Error)
	if len(marked) != 1 || marked[0] != "For mail" {
		t.Errorf("marked as mailed: %v", marked)
	}
}
