package http

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/hours"
	"hermeneus/app/staff"
	corehours "hermeneus/core/hours"
)

// hoursAPI is what app/hours offers over HTTP.
func hoursAPI(api huma.API, a *hours.Hours) {
	type HoursOf struct {
		Of string `path:"of" pattern:"^(team|site)-[0-9]{1,18}$" doc:"such as team-3 or site-1"`
	}
	type openingSettingOf struct {
		HoursOf
		Body hours.OpeningSetting
	}
	type DaysOf struct {
		Kind string `query:"kind" enum:"team,site" doc:"nothing for the days that hold for all"`
		ID   int64  `query:"id"`
	}
	type newDay struct {
		DaysOf
		Body corehours.Exception
	}
	type dayMade struct {
		ID int64 `json:"id"`
	}
	type oneDay struct {
		ID int64 `path:"id"`
	}
	type calendarIn struct {
		DaysOf
		RawBody []byte `contentType:"text/calendar"`
	}
	type calendarOut struct {
		ContentType string `header:"Content-Type"`
		Disposition string `header:"Content-Disposition"`
		Body        []byte
	}
	type presenceSetting struct {
		ID   int64 `path:"id"`
		Body hours.Presence
	}
	staffCall(api, op("GET", "/api/staff/hours", "read-hours", "When teams and help centres are open, and who is here"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[hours.Openings], error) {
			return wrap(a.ReadOpenings(ctx))
		})
	staffCall(api, op("PUT", "/api/staff/hours/{of}", "set-hours", "Set when a team or a help centre is open"),
		func(ctx context.Context, who staff.Staff, in *openingSettingOf) (*none, error) {
			kind, number, _ := strings.Cut(in.Of, "-")
			id, err := strconv.ParseInt(number, 10, 64)
			if err != nil {
				return nil, err
			}
			return nil, a.SetOpening(ctx, who, kind, id, in.Body)
		})
	staffCall(api, op("POST", "/api/staff/opening-days", "add-opening-day", "Add a time on which it is otherwise"),
		func(ctx context.Context, who staff.Staff, in *newDay) (*body[dayMade], error) {
			id, err := a.AddDay(ctx, who, hours.Of{Kind: in.Kind, ID: in.DaysOf.ID}, in.Body)
			return wrap(dayMade{id}, err)
		})
	staffCall(api, op("DELETE", "/api/staff/opening-days/{id}", "drop-opening-day", "Take one out"),
		func(ctx context.Context, who staff.Staff, in *oneDay) (*none, error) {
			return nil, a.DropDay(ctx, who, in.ID)
		})
	bring := op("POST", "/api/staff/opening-calendar", "bring-calendar", "Take the entries of an iCalendar file in")
	bring.MaxBodyBytes = corehours.MaxCalendar + 1024
	staffCall(api, bring, func(ctx context.Context, who staff.Staff, in *calendarIn) (*body[hours.Brought], error) {
		return wrap(a.BringCalendar(ctx, who, hours.Of{Kind: in.Kind, ID: in.ID}, in.RawBody))
	})
	staffCall(api, op("GET", "/api/staff/opening-calendar", "give-calendar", "The days as an iCalendar file"),
		func(ctx context.Context, _ staff.Staff, in *DaysOf) (*calendarOut, error) {
			text, err := a.GiveCalendar(ctx, hours.Of{Kind: in.Kind, ID: in.ID})
			return &calendarOut{
				"text/calendar; charset=utf-8",
				fmt.Sprintf(`attachment; filename="%s"`, "holidays.ics"),
				[]byte(text),
			}, err
		})
	staffCall(api, op("GET", "/api/staff/presence", "read-presence", "Whether one takes conversations"),
		func(ctx context.Context, who staff.Staff, _ *none) (*body[hours.Presence], error) {
			return wrap(a.ReadPresence(ctx, who))
		})
	staffCall(
		api,
		op("PUT", "/api/staff/presence/{id}", "set-presence", "Say whether somebody takes conversations; 0 is oneself"),
		func(ctx context.Context, who staff.Staff, in *presenceSetting) (*none, error) {
			if in.ID == 0 {
				in.ID = who.ID
			}
			return nil, a.SetPresence(ctx, who, in.ID, in.Body)
		},
	)
}
