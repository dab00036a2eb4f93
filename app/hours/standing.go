package hours

import (
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/flow"
	corehours "hermeneus/core/hours"
	"hermeneus/store"
)

// Standing is how things stand at a moment, for the bot: which teams can take a conversation, and whether the site is
// open.
type Standing struct {
	Open   bool
	Next   string // when the site opens next, in the reader's words; "" while it is open
	Teams  map[string]flow.Team
	Busy   string // what the site says while everybody is busy; "" for nothing of its own
	Closed string
}

// schedules are all opening hours, read at once.
type schedules struct {
	zone *time.Location // of the installation
	rows []store.OpeningHours
	all  []corehours.Exception // that hold for all
	of   map[int64][]corehours.Exception

	mu     sync.Mutex
	minute time.Time // of which is known how things stand
	known  map[standOf]stand
}

func (a *Hours) schedules(db *gorm.DB) (*schedules, error) {
	return a.kept.Get(a.base.Now(), func() (*schedules, error) { return a.readSchedules(db) })
}

func (a *Hours) readSchedules(db *gorm.DB) (*schedules, error) {
	s := &schedules{zone: a.base.Zone, of: map[int64][]corehours.Exception{}}
	if err := db.Find(&s.rows).Error; err != nil {
		return s, fmt.Errorf("reading opening hours: %w", err)
	}
	var days []store.OpeningDay
	if err := db.Order("begins, id").Find(&days).Error; err != nil {
		return s, fmt.Errorf("reading holidays: %w", err)
	}
	for _, d := range days {
		if d.HoursID == nil {
			s.all = append(s.all, exception(d))
		} else {
			s.of[*d.HoursID] = append(s.of[*d.HoursID], exception(d))
		}
	}
	return s, nil
}

func exception(d store.OpeningDay) corehours.Exception {
	return corehours.Exception{
		UID: d.UID, Name: d.Name, Begins: d.Begins, Ends: d.Ends, Rule: d.Rule, Except: d.ExceptDays, Also: d.AlsoDays,
		Open: d.Opens,
	}
}

// schedule is when a row says that it is open. A team that never closes has no holidays but its own.
func (s *schedules) schedule(row store.OpeningHours) (corehours.Schedule, error) {
	out := corehours.Schedule{Zone: s.zone, Always: row.Always}
	if row.Zone != "" {
		zone, err := time.LoadLocation(row.Zone)
		if err != nil {
			return out, fmt.Errorf("reading opening hours: %w", err)
		}
		out.Zone = zone
	}
	if len(row.Week) > 0 {
		if err := json.Unmarshal(row.Week, &out.Week); err != nil {
			return out, fmt.Errorf("reading opening hours: %w", err)
		}
	}
	if row.AwayUntil != nil {
		out.Away = *row.AwayUntil
	}
	if !row.Always {
		out.Days = slices.Clone(s.all)
	}
	out.Days = append(out.Days, s.of[row.ID]...)
	return out, nil
}

// ofTeam finds the row of a team, ofSite that of a site; without one they are always open.
func (s *schedules) ofTeam(id int64) store.OpeningHours {
	for _, r := range s.rows {
		if r.TeamID != nil && *r.TeamID == id {
			return r
		}
	}
	return store.OpeningHours{Always: true}
}

func (s *schedules) ofSite(id int64) store.OpeningHours {
	for _, r := range s.rows {
		if r.SiteID != nil && *r.SiteID == id {
			return r
		}
	}
	return store.OpeningHours{Always: true}
}

// Stands says how things stand at a moment for the readers of a site in a language; the zero time is now. site is 0
// where the chat stands on no site. At another moment than now, somebody is supposed to be there in every team.
func (a *Hours) Stands(db *gorm.DB, site int64, language string, now time.Time) (Standing, error) {
	supposed := !now.IsZero()
	if !supposed {
		now = a.base.Now()
	}
	out := Standing{Teams: map[string]flow.Team{}}
	s, err := a.schedules(db)
	if err != nil {
		return out, err
	}
	present, err := presence(db)
	if err != nil {
		return out, err
	}
	for _, t := range present {
		row, err := s.stands(s.ofTeam(t.ID), language, now)
		if err != nil {
			return out, err
		}
		team := flow.Team{Open: row.open, Next: row.next, Presence: t.presence()}
		if supposed {
			team.Presence = flow.Free
		}
		out.Teams[t.Name] = team
	}
	row, err := s.stands(s.ofSite(site), language, now)
	out.Open, out.Next, out.Busy, out.Closed = row.open, row.next, row.busy, row.closed
	return out, err
}

// stand is how a team or a site stands within a minute, in the words of a language.
type stand struct {
	open         bool
	next         string // when it opens next; "" while it is open
	busy, closed string
}

type standOf struct {
	row      int64
	language string
}

// stands says how a row stands at a moment. Opening hours have minutes, so that within one it is worked out once.
func (s *schedules) stands(row store.OpeningHours, language string, now time.Time) (stand, error) {
	minute, key := now.Truncate(time.Minute), standOf{row.ID, language}
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.minute.Equal(minute) || s.known == nil {
		s.minute, s.known = minute, map[standOf]stand{}
	}
	if known, ok := s.known[key]; ok {
		return known, nil
	}
	schedule, err := s.schedule(row)
	if err != nil {
		return stand{}, err
	}
	out := stand{
		open: schedule.OpenAt(now), busy: words(row.BusyWords, language), closed: words(row.ClosedWords, language),
	}
	if !out.open {
		out.next = next(schedule, language, now)
	}
	if away := words(row.AwayWords, language); away != "" && now.Before(schedule.Away) {
		out.closed = away
	}
	s.known[key] = out
	return out, nil
}

func next(s corehours.Schedule, language string, now time.Time) string {
	at, ok := s.Next(now)
	if !ok {
		return ""
	}
	return corehours.Say(language, at, now, s.Zone)
}

// words gives what is said in a language, or in whatever other there is, English first.
func words(raw json.RawMessage, language string) string {
	var texts flow.Texts
	if len(raw) == 0 || json.Unmarshal(raw, &texts) != nil {
		return ""
	}
	for _, l := range append([]string{language, "en"}, texts.Languages()...) {
		if texts[l] != "" {
			return texts[l]
		}
	}
	return ""
}

// teamNow is how a team stands: whether an agent is here, and free.
type teamNow struct {
	ID     int64
	Name   string
	Here   bool
	Free   bool
	Agents int // who are no more than away
}

func (t teamNow) presence() flow.Presence {
	switch {
	case t.Free:
		return flow.Free
	case t.Here:
		return flow.Busy
	}
	return flow.Away
}

// presence lists the teams as they stand.
func presence(db *gorm.DB) ([]teamNow, error) {
	var teams []teamNow
	err := db.Raw(`SELECT t.id, t.name, count(s.id) AS agents, coalesce(bool_or(s.here), false) AS here,
			coalesce(bool_or(s.here AND (s.chats = 0 OR (SELECT count(*) FROM conversations c
				WHERE c.agent_id = s.id AND c.status = 'with_agent' AND c.kind = 'chat') < s.chats)), false) AS free
		FROM teams t LEFT JOIN staff s ON s.team_id = t.id AND s.disabled_at IS NULL AND 'agent' = ANY(s.roles)
		GROUP BY t.id, t.name`).Scan(&teams).Error
	if err != nil {
		return nil, fmt.Errorf("reading who is here: %w", err)
	}
	return teams, nil
}

// Staffing says of each team, by name, what the checks of a flow must know.
func (a *Hours) Staffing(db *gorm.DB) (map[string]flow.Staffing, []flow.Opening, error) {
	s, err := a.schedules(db)
	if err != nil {
		return nil, nil, err
	}
	present, err := presence(db)
	if err != nil {
		return nil, nil, err
	}
	teams := map[string]flow.Staffing{}
	weeks := map[string]corehours.Schedule{}
	for _, t := range present {
		row := s.ofTeam(t.ID)
		schedule, err := s.schedule(row)
		if err != nil {
			return nil, nil, err
		}
		teams[t.Name] = flow.Staffing{Agents: t.Agents, Never: !schedule.Always && schedule.Week.Never()}
		weeks[t.Name] = schedule
	}
	var sites []corehours.Schedule
	for _, row := range s.rows {
		if row.SiteID != nil {
			schedule, err := s.schedule(row)
			if err != nil {
				return nil, nil, err
			}
			sites = append(sites, schedule)
		}
	}
	return teams, openings(weeks, sites), nil
}

// openings lists who is open together in a week: any help centre may be the one. Holidays, and a team that is away
// until some day, close everybody whom they can: what is never closed by its week can still be closed then.
func openings(teams map[string]corehours.Schedule, sites []corehours.Schedule) []flow.Opening {
	monday := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC)
	if len(sites) == 0 {
		sites = []corehours.Schedule{{Zone: time.UTC, Always: true}}
	}
	var list []flow.Opening
	for quarter := range 7 * 24 * 4 {
		at := monday.Add(time.Duration(quarter) * 15 * time.Minute)
		for _, site := range sites {
			o := flow.Opening{Site: usual(site, at), Teams: map[string]bool{}}
			for name, schedule := range teams {
				o.Teams[name] = usual(schedule, at)
			}
			list = append(list, o)
		}
	}
	holiday := flow.Opening{Teams: map[string]bool{}}
	for name, schedule := range teams {
		holiday.Teams[name] = schedule.Always && len(schedule.Days) == 0 && schedule.Away.IsZero()
	}
	return append(list, holiday)
}

// usual reports whether the week says that it is open, holidays apart. Clock changes move the teams of a zone
// together, so that a fixed offset tells the same who is open together.
func usual(s corehours.Schedule, at time.Time) bool {
	s.Days, s.Away = nil, time.Time{}
	_, offset := time.Date(2026, 1, 5, 0, 0, 0, 0, s.Zone).Zone()
	s.Zone = time.FixedZone("", offset)
	return s.OpenAt(at)
}
