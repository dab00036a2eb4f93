package review

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/store"
)

// How often an address outside is tried, and how many at once.
const (
	outsideEvery   = 24 * time.Hour
	outsideAtOnce  = 100
	outsideTimeout = 10 * time.Second
)

// CheckOutside asks the link checker about addresses that were not looked at for a
// day, the longest unseen first. Without a checker nothing is checked.
func (a *Rechecks) CheckOutside(ctx context.Context) error {
	if a.linkChecker == "" {
		return nil
	}
	var list []string
	db := a.base.DB.WithContext(ctx)
	err := db.Raw(`SELECT address
		FROM outside_links l
		WHERE (checked_at IS NULL OR checked_at < ?)
			AND EXISTS (SELECT 1 FROM outside_uses u WHERE u.address = l.address)
		ORDER BY checked_at NULLS FIRST, address LIMIT ?`,
		a.base.Now().Add(-outsideEvery), outsideAtOnce).Scan(&list).Error
	if err != nil {
		return err
	}
	for _, address := range list {
		status, fault, err := a.askChecker(ctx, address)
		if err != nil {
			return fmt.Errorf("asking the link checker: %w", err) // it is away: the addresses are as they were
		}
		if err := db.Exec(
			`UPDATE outside_links SET checked_at = ?, status = ?, fault = ? WHERE address = ?`,
			a.base.Now(),
			status,
			fault,
			address,
		).Error; err != nil {
			return err
		}
	}
	return nil
}

// askChecker asks the link checker, a service of its own, so that the application
// itself calls no address that somebody typed.
func (a *Rechecks) askChecker(ctx context.Context, address string) (status int, fault string, err error) {
	ctx, cancel := context.WithTimeout(ctx, outsideTimeout)
	defer cancel()
	request, err := http.NewRequestWithContext(
		ctx,
		http.MethodGet,
		a.linkChecker+"?address="+url.QueryEscape(address),
		nil,
	)
	if err != nil {
		return 0, "", err
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return 0, "", err
	}
	defer func() { _ = answer.Body.Close() }()
	var said struct {
		Status int    `json:"status"`
		Fault  string `json:"fault"`
	}
	if answer.StatusCode != http.StatusOK {
		return 0, "", fmt.Errorf("it answered %s", answer.Status)
	}
	if err := json.NewDecoder(io.LimitReader(answer.Body, 1<<16)).Decode(&said); err != nil {
		return 0, "", err
	}
	if said.Fault == "" && said.Status >= 400 {
		said.Fault = fmt.Sprintf("It answers %d.", said.Status)
	}
	return said.Status, strings.TrimSpace(said.Fault), nil
}

// DeadOutside gives the addresses of an edition that do not answer, with why.
func DeadOutside(db *gorm.DB, edition int64) (map[string]string, error) {
	var rows []store.OutsideLink
	err := db.Raw(`SELECT l.*
		FROM outside_links l JOIN outside_uses u ON u.address = l.address
		WHERE u.edition_id = ? AND l.fault <> ''`, edition).
		Scan(&rows).
		Error
	dead := map[string]string{}
	for _, r := range rows {
		dead[r.Address] = r.Fault
	}
	return dead, err
}
