package app

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/smtp"
	"time"

	"github.com/emersion/go-message/mail"
	"gorm.io/gorm"

	"hermeneus/store"
)

// sendMail puts a mail into the queue, with the transaction. It is sent once that
// commits, by whichever instance is free.
func (a *App) sendMail(tx *gorm.DB, address, subject, body string) error {
	now := a.now()
	return tx.Create(&store.Mail{MadeAt: now, Address: address, Subject: subject, Body: body, NextAt: now}).Error
}

// How often a mail is tried, and how long a server is waited for.
const (
	mailTries   = 12
	mailTimeout = 15 * time.Second
)

// postOne sends the mail that has waited longest. It reports whether there was one.
// The row is locked meanwhile, so that no other instance sends it too.
func (a *App) postOne(ctx context.Context) (bool, error) {
	if a.mailServer == "" {
		return false, nil
	}
	found := false
	err := a.transaction(ctx, func(tx *gorm.DB) error {
		var row store.Mail
		err := tx.Raw(`SELECT * FROM mails WHERE sent_at IS NULL AND next_at <= ? AND tries < ? ORDER BY next_at, id LIMIT 1 FOR UPDATE SKIP LOCKED`, a.now(), mailTries).Scan(&row).Error
		if err != nil || row.ID == 0 {
			return err
		}
		found = true
		now := a.now()
		row.Tries++
		if err := a.post(row); err != nil {
			slog.Warn("a mail could not be sent", "mail", row.ID, "tries", row.Tries, "error", err)
			row.Fault, row.NextAt = err.Error(), now.Add(time.Duration(1<<min(row.Tries, 10))*15*time.Second)
		} else {
			row.Fault, row.SentAt = "", &now
		}
		return tx.Save(&row).Error
	})
	return found, err
}

// post hands a mail to the server, as plain text in UTF-8 (RFC 5322).
func (a *App) post(row store.Mail) error {
	text, err := a.compose(row)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), mailTimeout)
	defer cancel()
	var dialer net.Dialer
	conn, err := dialer.DialContext(ctx, "tcp", a.mailServer)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close() }()
	deadline, _ := ctx.Deadline()
	if err := conn.SetDeadline(deadline); err != nil {
		return err
	}
	host, _, err := net.SplitHostPort(a.mailServer)
	if err != nil {
		return err
	}
	client, err := smtp.NewClient(conn, host)
	if err != nil {
		return err
	}
	if err := client.Mail(a.mailFrom); err != nil {
		return err
	}
	if err := client.Rcpt(row.Address); err != nil {
		return err
	}
	w, err := client.Data()
	if err != nil {
		return err
	}
	if _, err := w.Write(text); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	return client.Quit()
}

func (a *App) compose(row store.Mail) ([]byte, error) {
	var h mail.Header
	h.SetDate(row.MadeAt)
	h.SetAddressList("From", []*mail.Address{{Name: a.name, Address: a.mailFrom}})
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
	if _, err := w.Write([]byte(row.Body)); err != nil {
		return nil, err
	}
	return out.Bytes(), w.Close()
}
