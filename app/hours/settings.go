package hours

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/flow"
	corehours "hermeneus/core/hours"
	"hermeneus/core/role"
	"hermeneus/store"
)

// OpeningLine is when a team or a help centre is open, as it is set and as it stands now.
type OpeningLine struct {
	Kind    string       `json:"kind"` // team or site
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	Set     bool         `json:"set"`  // somebody set it; until then it is always open
	Zone    string       `json:"zone"` // "" for that of the installation
	Always  bool         `json:"always"`
	Week    []string     `json:"week" doc:"the spans of each day as they are typed, Monday first"`
	Away    string       `json:"away_until" doc:"by the clocks of its zone, such as 2026-12-24T12:00; nothing for not"`
	Words   flow.Texts   `json:"away_words"`
	Busy    flow.Texts   `json:"busy_words"`
	Closed  flow.Texts   `json:"closed_words"`
	Reads   []string     `json:"languages"` // of a help centre: in which its words are said
	Days    []OpeningDay `json:"days"`      // its own, besides those that hold for all
	Version int          `json:"version"`

	Open     bool          `json:"open"`
	Next     string        `json:"next"` // when it opens, or closes, next
	In       string        `json:"in"`   // and in how long
	Presence flow.Presence `json:"presence,omitempty"`
	Agents   []Agent       `json:"agents"`
}

// Agent is somebody of a team.
type Agent struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Here  bool   `json:"here"`
	Chats int    `json:"chats"` // how many at once; 0 for as many as come
	Holds int    `json:"holds"` // now
}

// OpeningDay is a time on which it is otherwise.
type OpeningDay struct {
	ID int64 `json:"id"`
	corehours.Exception
	When  string `json:"when"`  // in words
	Again string `json:"again"` // in words: how it recurs; nothing for once
}

func openingDay(d store.OpeningDay) OpeningDay {
	e := exception(d)
	return OpeningDay{d.ID, e, e.When(), e.Again()}
}

// Openings are all opening hours.
type Openings struct {
	Zone string        `json:"zone"` // of the installation
	Days []OpeningDay  `json:"days"` // that hold for all but who never closes
	List []OpeningLine `json:"list"`
}

// ReadOpenings gives all opening hours, as they stand now. Every member of staff may read them.
func (a *Hours) ReadOpenings(ctx context.Context) (Openings, error) {
	db := a.base.DB.WithContext(ctx)
	out := Openings{Zone: a.base.Zone.String(), Days: []OpeningDay{}, List: []OpeningLine{}}
	s, err := a.schedules(db)
	if err != nil {
		return out, err
	}
	var days []store.OpeningDay
	if err := db.Order("begins, id").Find(&days).Error; err != nil {
		return out, err
	}
	of := map[int64][]OpeningDay{}
	for _, d := range days {
		if d.HoursID == nil {
			out.Days = append(out.Days, openingDay(d))
		} else {
			of[*d.HoursID] = append(of[*d.HoursID], openingDay(d))
		}
	}
	var named []struct {
		Kind, Name string
		ID         int64
		Languages  store.Strings `gorm:"type:text[]"`
	}
	err = db.Raw(`SELECT 'site' AS kind, id, name, languages FROM sites UNION ALL SELECT 'team', id, name, '{}' FROM teams
		ORDER BY 1, 3`).
		Scan(&named).
		Error
	if err != nil {
		return out, err
	}
	present, err := presence(db)
	if err != nil {
		return out, err
	}
	agents, err := agentsOf(db)
	if err != nil {
		return out, err
	}
	for _, n := range named {
		row := s.ofSite(n.ID)
		if n.Kind == "team" {
			row = s.ofTeam(n.ID)
		}
		one, err := a.opening(s, row)
		if err != nil {
			return out, err
		}
		one.Kind, one.ID, one.Name, one.Reads = n.Kind, n.ID, n.Name, append([]string{}, n.Languages...)
		one.Days = append([]OpeningDay{}, of[row.ID]...)
		one.Agents = []Agent{}
		if n.Kind == "team" {
			at := slices.IndexFunc(present, func(t teamNow) bool { return t.ID == n.ID })
			one.Presence = present[at].presence()
			one.Agents = append(one.Agents, agents[n.ID]...)
		}
		out.List = append(out.List, one)
	}
	return out, nil
}

func (a *Hours) opening(s *schedules, row store.OpeningHours) (OpeningLine, error) {
	out := OpeningLine{
		Set: row.ID != 0, Zone: row.Zone, Always: row.Always, Version: row.Version,
		Words: flow.Texts{}, Busy: flow.Texts{}, Closed: flow.Texts{},
	}
	schedule, err := s.schedule(row)
	if err != nil {
		return out, err
	}
	for _, spans := range schedule.Week {
		out.Week = append(out.Week, corehours.WriteSpans(spans))
	}
	if row.AwayUntil != nil {
		out.Away = row.AwayUntil.In(schedule.Zone).Format(corehours.Wall)
	}
	for _, one := range []struct {
		raw  json.RawMessage
		into *flow.Texts
	}{{row.AwayWords, &out.Words}, {row.BusyWords, &out.Busy}, {row.ClosedWords, &out.Closed}} {
		if len(one.raw) > 0 {
			if err := json.Unmarshal(one.raw, one.into); err != nil {
				return out, fmt.Errorf("reading opening hours: %w", err)
			}
		}
	}
	now := a.base.Now()
	out.Open = schedule.OpenAt(now)
	at, ok := schedule.Next(now)
	if out.Open {
		at, ok = schedule.Closes(now)
	}
	if ok {
		out.Next, out.In = corehours.Say("en", at, now, schedule.Zone), corehours.SayIn("en", at, now)
	}
	return out, nil
}

func agentsOf(db *gorm.DB) (map[int64][]Agent, error) {
	var rows []struct {
		Agent
		TeamID int64
	}
	err := db.Raw(`SELECT s.id, s.name, s.here, s.chats, s.team_id, (SELECT count(*) FROM conversations c
			WHERE c.agent_id = s.id AND c.status = 'with_agent' AND c.kind = 'chat') AS holds
		FROM staff s WHERE s.team_id IS NOT NULL AND s.disabled_at IS NULL AND 'agent' = ANY(s.roles)
		ORDER BY s.name, s.id`).Scan(&rows).Error
	out := map[int64][]Agent{}
	for _, r := range rows {
		out[r.TeamID] = append(out[r.TeamID], r.Agent)
	}
	return out, err
}

// OpeningSetting is what somebody sets of opening hours.
type OpeningSetting struct {
	Zone    string     `json:"zone"`
	Always  bool       `json:"always"`
	Week    []string   `json:"week" doc:"the spans of each day as they are typed, such as 8-12, 13-18; Monday first"`
	Away    string     `json:"away_until" doc:"by the clocks of its zone, such as 2026-12-24T12:00; nothing for not"`
	Words   flow.Texts `json:"away_words"`
	Busy    flow.Texts `json:"busy_words"`
	Closed  flow.Texts `json:"closed_words"`
	Version int        `json:"version" doc:"the one that it was made from"`
}

// maxWords is how long a text of opening hours is at most.
const maxWords = 500

// SetOpening sets when a team or a help centre is open.
func (a *Hours) SetOpening(ctx context.Context, by staff.Staff, kind string, id int64, in OpeningSetting) error {
	if err := by.May("Setting opening hours", role.Administrator, role.Publisher); err != nil {
		return err
	}
	var f problem.Fields
	week, away := a.read(in, &f)
	for name, texts := range map[string]flow.Texts{"away_words": in.Words, "busy_words": in.Busy, "closed_words": in.Closed} {
		for language, text := range texts {
			f.Require(len([]rune(text)) <= maxWords, name+"."+language, fmt.Sprintf("At most %d characters.", maxWords))
		}
	}
	if err := f.Err(); err != nil {
		return err
	}
	return a.base.Change(ctx, store.HoursChanged, func(tx *gorm.DB) error {
		row, name, err := rowOf(tx, kind, id)
		if err != nil {
			return err
		}
		if row.ID != 0 && row.Version != in.Version {
			return problem.New(problem.StaleSave, "Somebody else changed these hours meanwhile. Load them anew.")
		}
		row.Zone, row.Always, row.AwayUntil, row.Version = in.Zone, in.Always, away, row.Version+1
		for _, one := range []struct {
			from any
			into *json.RawMessage
		}{{week, &row.Week}, {in.Words, &row.AwayWords}, {in.Busy, &row.BusyWords}, {in.Closed, &row.ClosedWords}} {
			if *one.into, err = json.Marshal(one.from); err != nil {
				return err
			}
			if string(*one.into) == "null" {
				*one.into = json.RawMessage(`{}`)
			}
		}
		if err := tx.Select("*").Omit("id").Save(&row).Error; err != nil {
			return err
		}
		return a.changed(tx, by, "hours of "+name, "changed")
	})
}

// read reads a week and a moment as they are typed.
func (a *Hours) read(in OpeningSetting, f *problem.Fields) (week corehours.Week, away *time.Time) {
	zone, err := time.LoadLocation(in.Zone)
	f.Require(err == nil, "zone", "There is no such time zone. It is written as Europe/London.")
	if in.Zone == "" || err != nil {
		zone = a.base.Zone
	}
	if in.Away != "" {
		at, err := time.ParseInLocation(corehours.Wall, in.Away, zone)
		f.Require(err == nil, "away_until", "A time is written as 2026-12-24T12:00.")
		away = &at
	}
	f.Require(len(in.Week) == len(week) || in.Always, "week", "A week has seven days.")
	for i, day := range in.Week[:min(len(in.Week), len(week))] {
		spans, ok := corehours.ReadSpans(day)
		field := fmt.Sprintf("week[%d]", i)
		f.Require(ok, field, "Write the hours as 8–12, 13–18, or nothing.")
		var one corehours.Week
		one[i], week[i] = spans, spans
		why := one.Check()
		f.Require(why == "", field, why)
	}
	return week, away
}

// changed notes a change of hours.
func (a *Hours) changed(tx *gorm.DB, by staff.Staff, subject, action string) error {
	return a.trail.Note(tx, by, store.Trail{Subject: subject, Action: action})
}

// rowOf finds the hours of a team or a site, locked; new ones are always open.
func rowOf(tx *gorm.DB, kind string, id int64) (store.OpeningHours, string, error) {
	row := store.OpeningHours{Always: true}
	table, column := "teams", "team_id"
	switch kind {
	case "team":
		row.TeamID = &id
	case "site":
		table, column = "sites", "site_id"
		row.SiteID = &id
	default:
		return row, "", problem.New(problem.NotFound, "Hours are those of a team or a site.")
	}
	var name string
	if err := tx.Raw(`SELECT name FROM `+table+` WHERE id = ? FOR UPDATE`, id).Scan(&name).Error; err != nil {
		return row, name, err
	}
	if name == "" {
		return row, name, problem.New(problem.NotFound, "There is no such %s.", kind)
	}
	var found store.OpeningHours
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where(column+" = ?", id).Limit(1).Find(&found).Error
	if err == nil && found.ID != 0 {
		row = found
	}
	return row, name, err
}
