package sites

import (
	"context"
	"fmt"
	"net"
	"net/url"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/core/audience"
	"hermeneus/core/search"
	"hermeneus/store"
)

// Settings is a help centre with what every request to it needs: which categories it
// shows, and what its search goes by.
type Settings struct {
	Site
	shown  map[int64]bool // nil for the whole library
	Rules  *search.Rules
	Groups []string // keys of all groups of customers
}

// Within tells the categories that the help centre shows, nil for all.
func (f *Settings) Within() func(int64) bool {
	if f == nil || f.shown == nil {
		return nil
	}
	return func(category int64) bool { return f.shown[category] }
}

// AllSettings are the help centres as they were read.
type AllSettings struct {
	ByID   map[int64]*Settings
	byHost map[string]*Settings
	Main   *Settings
	groups []string // keys of all groups of customers
}

// Settings gives a help centre by its number; 0 gives nil, which shows everything.
func (a *Sites) Settings(db *gorm.DB, id int64) (*Settings, error) {
	if id == 0 {
		return nil, nil
	}
	all, err := a.ReadSettings(db)
	if err != nil {
		return nil, err
	}
	return all.ByID[id], nil
}

// KnownSettings gives a help centre by its number, or a NotFound problem.
func (a *Sites) KnownSettings(db *gorm.DB, id int64) (*Settings, error) {
	f, err := a.Settings(db, id)
	if err == nil && f == nil {
		err = problem.New(problem.NotFound, "There is no such help centre.")
	}
	return f, err
}

// SiteAt gives the help centre that answers a host.
func (a *Sites) SiteAt(ctx context.Context, host string) (Site, error) {
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	host = strings.ToLower(host)
	all, err := a.ReadSettings(a.base.DB.WithContext(ctx))
	if err != nil {
		return Site{}, err
	}
	switch at := all.byHost[host]; {
	case at != nil:
		return at.Site, nil
	case all.Main != nil:
		return all.Main.Site, nil
	}
	return Site{}, nil
}

// ReadSettings gives what is kept of all help centres.
func (a *Sites) ReadSettings(db *gorm.DB) (*AllSettings, error) {
	return a.kept.Get(a.base.Now(), func() (*AllSettings, error) { return a.loadSettings(db, a.base.Today()) })
}

func (a *Sites) loadSettings(db *gorm.DB, today time.Time) (*AllSettings, error) {
	var rows []store.Site
	if err := db.Order("id").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading help centres: %w", err)
	}
	all := &AllSettings{ByID: map[int64]*Settings{}, byHost: map[string]*Settings{}}
	if err := db.Raw(`SELECT key FROM customer_groups ORDER BY key`).Scan(&all.groups).Error; err != nil {
		return nil, fmt.Errorf("reading groups: %w", err)
	}
	for _, row := range rows {
		f := &Settings{Site: siteOf(row), Groups: all.groups}
		var err error
		if f.shown, err = shownOn(db, row.ID); err != nil {
			return nil, err
		}
		f.Whole = f.shown == nil
		if a.loadRules != nil {
			if f.Rules, err = a.loadRules(db, row, today); err != nil {
				return nil, err
			}
		}
		all.ByID[row.ID] = f
		for _, h := range row.Hosts {
			all.byHost[h] = f
		}
		if row.Main {
			all.Main = f
		}
	}
	return all, nil
}

// shownOn lists the categories that a site shows, nil for all.
func shownOn(db *gorm.DB, site int64) (map[int64]bool, error) {
	var ids []int64
	err := db.Raw(`WITH RECURSIVE shown AS
			(SELECT category_id AS id FROM site_categories WHERE site_id = ? UNION SELECT c.id FROM categories c
			JOIN shown ON c.parent_id = shown.id)
		SELECT id
		FROM shown`, site).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	shown := map[int64]bool{}
	for _, id := range ids {
		shown[id] = true
	}
	return shown, nil
}

// Answers reports whether a help centre is served under a host: under those in its settings,
// or under any where there are none.
func (s Site) Answers(host string) bool { return len(s.Hosts) == 0 || slices.Contains(s.Hosts, host) }

// AddressAt is the address at which a help centre is reached from outside: at the host that it
// was asked for under, where that is one of its own, else at the configured address. Scheme
// and port are always those of the configured address.
func (a *Sites) AddressAt(s Site, host string) string {
	base, err := url.Parse(a.base.Address)
	if err != nil || !slices.Contains(s.Hosts, host) {
		return a.base.Address
	}
	if port := base.Port(); port != "" {
		host = net.JoinHostPort(host, port)
	}
	base.Host = host
	return base.String()
}

// StandardLinkDays is for how many days after the last word a link opens a conversation
// where no site says.
const StandardLinkDays = 30

// GroupKeys gives the keys of all groups: staff see what is for any of them.
func (a *Sites) GroupKeys(ctx context.Context) ([]string, error) {
	all, err := a.ReadSettings(a.base.DB.WithContext(ctx))
	if err != nil {
		return nil, err
	}
	return all.groups, nil
}

// StaffEyes see everything that is live.
func (f *AllSettings) StaffEyes() audience.Viewer {
	return audience.Viewer{Staff: true, Groups: f.groups}
}

// OnLoad registers what reads the rules that a help centre's search goes by.
func (a *Sites) OnLoad(load func(db *gorm.DB, site store.Site, today time.Time) (*search.Rules, error)) {
	a.loadRules = load
}
