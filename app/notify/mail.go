package notify

import (
	"bytes"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"gorm.io/gorm"

	"hermeneus/app/keeping"
	"hermeneus/app/staff"
	"hermeneus/core/role"
	"hermeneus/store"
)

// The ways of talking to a mail server.
const (
	MailPlain    = ""         // as it is: on one's own machine
	MailStartTLS = "starttls" // begins plain and goes on encrypted (RFC 3207)
	MailTLS      = "tls"      // encrypted from the start (RFC 8314)
)

// MailServer is where mail is handed in.
type MailServer struct {
	Address  string // host and port; "" sends none
	Security string // MailPlain, MailStartTLS or MailTLS
	User     string // to sign in with, "" for not at all
	Password string
	Roots    *x509.CertPool // whose certificates are trusted; nil for the machine's
}

// What mails are for, as far as that matters for sending them.
const MailConfirmation = "confirmation" // that a request is here, to whoever it says sent it

// SendMail puts a mail into the queue, with the transaction. It is sent once that
// commits, by whichever instance is free.
func (a *Notify) SendMail(tx *gorm.DB, address, subject, body string) error {
	return a.SendMailOf(tx, "", address, subject, body)
}

// SendMailOf puts a mail of a kind into the queue.
func (a *Notify) SendMailOf(tx *gorm.DB, kind, address, subject, body string) error {
	now := a.base.Now()
	return tx.Create(
		&store.Mail{MadeAt: now, Address: address, Subject: subject, Body: body, NextAt: now, Kind: kind},
	).Error
}

// confirmationsInHour is how many confirmations one address gets in an hour from forms that
// anybody can send: more would be somebody else's doing.
const confirmationsInHour = 3

// Confirmed reports whether an address had as many confirmations lately as it gets.
func (a *Notify) Confirmed(tx *gorm.DB, address string) (bool, error) {
	address = strings.ToLower(address)
	if err := tx.Exec(
		`SELECT pg_advisory_xact_lock(hashtextextended(?, 0))`,
		"confirmation "+address,
	).Error; err != nil {
		return false, err
	}
	var lately int
	err := tx.Raw(`SELECT count(*) FROM mails WHERE lower(address) = ? AND kind = ? AND made_at > ?`,
		address, MailConfirmation, a.base.Now().Add(-time.Hour)).Scan(&lately).Error
	return lately >= confirmationsInHour, err
}

// How mail is sent: so many at a time, each tried so often, a server waited for so long.
const (
	mailsAtATime = 4
	mailTries    = 12
	mailTimeout  = 20 * time.Second
	mailLease    = 5 * time.Minute // after which another instance takes a mail whose sender went away
)

// postSome sends the mails that have waited longest, several at a time. It reports whether
// there were any. Each is taken first, for a while, so that no other instance sends it too;
// what goes to one address goes in its order.
func (a *Notify) postSome(ctx context.Context) (bool, error) {
	if a.server.Address == "" {
		return false, nil
	}
	now := a.base.Now()
	var rows []store.Mail
	err := a.base.DB.WithContext(ctx).Raw(`UPDATE mails
		SET tries = tries + 1, next_at = ?
		WHERE id IN ( SELECT id FROM mails m
			WHERE sent_at IS NULL AND failed_at IS NULL AND next_at <= ?
			AND NOT EXISTS
			(SELECT 1 FROM mails e
			WHERE lower(e.address) = lower(m.address) AND e.id < m.id AND e.sent_at IS NULL
			AND e.failed_at IS NULL AND e.next_at <= ?) ORDER BY next_at, id LIMIT ? FOR UPDATE SKIP LOCKED)
		RETURNING *`, now.Add(mailLease), now, now.Add(mailLease), mailsAtATime).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return false, err
	}
	var posting sync.WaitGroup
	failures := make([]error, len(rows))
	for i, row := range rows {
		posting.Go(func() { failures[i] = a.posted(ctx, row, a.post(ctx, row)) })
	}
	posting.Wait()
	return true, errors.Join(failures...)
}

// posted keeps what came of trying to send a mail.
func (a *Notify) posted(ctx context.Context, row store.Mail, failure error) error {
	now := a.base.Now()
	if failure == nil {
		row.Fault, row.SentAt = "", &now
		return a.base.DB.WithContext(ctx).Save(&row).Error
	}
	slog.Warn("a mail could not be sent", "mail", row.ID, "tries", row.Tries, "error", failure)
	row.Fault, row.NextAt = failure.Error(), now.Add(time.Duration(1<<min(row.Tries, 10))*15*time.Second)
	var said *smtp.SMTPError
	forGood := errors.As(failure, &said) && said.Code >= 500 && said.Code != 530 &&
		said.Code != 535 // no matter of signing in
	if !forGood && row.Tries < mailTries {
		return a.base.DB.WithContext(ctx).Save(&row).Error
	}
	row.FailedAt = &now
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return a.tellMailFailed(tx, row)
	})
}

// tellMailFailed tells administrators of a mail that nobody gets: at most one piece of unread
// news in an hour, which counts them.
func (a *Notify) tellMailFailed(tx *gorm.DB, row store.Mail) error {
	since := a.base.Now().Add(-time.Hour)
	if err := tx.Exec(
		`DELETE FROM news WHERE kind = ? AND at > ? AND read_at IS NULL AND mailed_at IS NULL`,
		NewsMailFailed,
		since,
	).Error; err != nil {
		return err
	}
	var lately int
	if err := tx.Raw(`SELECT count(*) FROM mails WHERE failed_at > ?`, since).Scan(&lately).Error; err != nil {
		return err
	}
	roster, err := staff.ReadRoster(tx)
	if err != nil {
		return err
	}
	text := fmt.Sprintf("A mail to %s was given up: %s", row.Address, row.Fault)
	if lately > 1 {
		text = fmt.Sprintf("%d mails were given up within the hour; the last to %s: %s", lately, row.Address, row.Fault)
	}
	return a.Tell(tx, NewsMailFailed, roster.With(role.Administrator), text, "")
}

// post hands a mail to the server, as plain text in UTF-8 (RFC 5322).
func (a *Notify) post(ctx context.Context, row store.Mail) error {
	text, err := a.compose(row)
	if err != nil {
		return err
	}
	client, err := a.server.open(ctx)
	if err != nil {
		return err
	}
	defer func() { _ = client.Close() }()
	if err := client.SendMail(a.from, []string{row.Address}, bytes.NewReader(text)); err != nil {
		return err
	}
	_ = client.Quit() // it has the mail
	return nil
}

// open connects to the server, encrypted and signed in as the settings say.
func (s MailServer) open(ctx context.Context) (*smtp.Client, error) {
	host, _, err := net.SplitHostPort(s.Address)
	if err != nil {
		return nil, fmt.Errorf("the address of the mail server: %w", err)
	}
	secure := &tls.Config{ServerName: host, RootCAs: s.Roots, MinVersion: tls.VersionTLS12}
	dialer := net.Dialer{Timeout: mailTimeout}
	var line net.Conn
	if s.Security == MailTLS {
		line, err = (&tls.Dialer{NetDialer: &dialer, Config: secure}).DialContext(ctx, "tcp", s.Address)
	} else {
		line, err = dialer.DialContext(ctx, "tcp", s.Address)
	}
	if err != nil {
		return nil, err
	}
	client := smtp.NewClient(line)
	if s.Security == MailStartTLS {
		if client, err = smtp.NewClientStartTLS(line, secure); err != nil {
			_ = line.Close()
			return nil, err
		}
	}
	client.CommandTimeout, client.SubmissionTimeout = mailTimeout, 3*mailTimeout
	if s.User != "" {
		if err := client.Auth(sasl.NewPlainClient("", s.User, s.Password)); err != nil {
			_ = client.Close()
			return nil, fmt.Errorf("signing in to the mail server: %w", err)
		}
	}
	return client, nil
}

func (a *Notify) compose(row store.Mail) ([]byte, error) {
	var h mail.Header
	h.SetDate(row.MadeAt)
	h.SetAddressList("From", []*mail.Address{{Name: a.base.Name, Address: a.from}})
	h.SetAddressList("To", []*mail.Address{{Address: row.Address}})
	h.SetSubject(row.Subject)
	h.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
	// The same mail tried twice has one identity, so that a receiver can drop the second.
	h.SetMessageID(fmt.Sprintf("%d.%d@hermeneus.invalid", row.ID, row.MadeAt.UnixMicro()))
	var out bytes.Buffer
	w, err := mail.CreateSingleInlineWriter(&out, h)
	if err != nil {
		return nil, err
	}
	if _, err := io.WriteString(w, row.Body); err != nil {
		return nil, err
	}
	return out.Bytes(), w.Close()
}

// PostMail sends what waits to be sent, as instances that are not idle do by themselves.
func (a *Notify) PostMail(ctx context.Context) error {
	for {
		if more, err := a.postSome(ctx); err != nil || !more {
			return err
		}
	}
}

// MailNews puts unread news into mails, likewise.
func (a *Notify) MailNews(ctx context.Context) error { return a.base.Transaction(ctx, a.mailNews) }

// EndOldMail lets go of the mails that were sent or given up long enough ago.
func (a *Notify) EndOldMail(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	keep, err := keeping.Read(db)
	if err != nil {
		return err
	}
	before := a.base.Now().AddDate(0, 0, -keep.Mails)
	return db.Exec(`DELETE FROM mails WHERE coalesce(sent_at, failed_at) < ?`, before).Error
}

// Forget takes away the mails to an address, sent or not.
func Forget(tx *gorm.DB, address string) error {
	return tx.Exec(`DELETE FROM mails WHERE lower(address) = lower(?)`, address).Error
}
