package hours

import (
	"fmt"
	"time"
)

// spoken are the words for days and times of a language.
type spoken struct {
	today, tomorrow, on string // take the time; on takes the weekday, or the day and the month, and the time
	days                [7]string
	months              [12]string
	date                string // of day and month
	minutes, hours      string // in how long
	clock               string
}

var languages = map[string]spoken{
	"en": {
		today:    "today at %s",
		tomorrow: "tomorrow at %s",
		on:       "%s at %s",
		days:     [7]string{"Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"},
		months: [12]string{
			"January",
			"February",
			"March",
			"April",
			"May",
			"June",
			"July",
			"August",
			"September",
			"October",
			"November",
			"December",
		},
		date:    "on %d %s",
		minutes: "in %d minutes",
		hours:   "in %d hours",
		clock:   "15:04",
	},
	"de": {
		today:    "heute um %s",
		tomorrow: "morgen um %s",
		on:       "%s um %s",
		days:     [7]string{"Sonntag", "Montag", "Dienstag", "Mittwoch", "Donnerstag", "Freitag", "Samstag"},
		months: [12]string{
			"Januar",
			"Februar",
			"März",
			"April",
			"Mai",
			"Juni",
			"Juli",
			"August",
			"September",
			"Oktober",
			"November",
			"Dezember",
		},
		date:    "am %d. %s",
		minutes: "in %d Minuten",
		hours:   "in %d Stunden",
		clock:   "15:04",
	},
	"fr": {
		today:    "aujourd’hui à %s",
		tomorrow: "demain à %s",
		on:       "%s à %s",
		days:     [7]string{"dimanche", "lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi"},
		months: [12]string{
			"janvier",
			"février",
			"mars",
			"avril",
			"mai",
			"juin",
			"juillet",
			"août",
			"septembre",
			"octobre",
			"novembre",
			"décembre",
		},
		date:    "le %d %s",
		minutes: "dans %d minutes",
		hours:   "dans %d heures",
		clock:   "15 h 04",
	},
}

// Say puts an instant to come into words, as somebody says it who stands at now in the same place: "today at 18:00",
// "tomorrow at 08:00", "Monday at 08:00", "on 27 December at 08:00". Languages that are not known get English.
func Say(language string, at, now time.Time, zone *time.Location) string {
	words, ok := languages[language]
	if !ok {
		words = languages["en"]
	}
	at, now = at.In(zone), now.In(zone)
	clock := at.Format(words.clock)
	switch days := apart(now, at); {
	case days <= 0:
		return fmt.Sprintf(words.today, clock)
	case days == 1:
		return fmt.Sprintf(words.tomorrow, clock)
	case days < 7:
		return fmt.Sprintf(words.on, words.days[at.Weekday()], clock)
	}
	return fmt.Sprintf(words.on, fmt.Sprintf(words.date, at.Day(), words.months[at.Month()-1]), clock)
}

// SayIn puts into words in how long an instant comes: "in 25 minutes", "in 3 hours".
func SayIn(language string, at, now time.Time) string {
	words, ok := languages[language]
	if !ok {
		words = languages["en"]
	}
	left := at.Sub(now).Round(time.Minute)
	if left < 90*time.Minute {
		return fmt.Sprintf(words.minutes, max(1, int(left.Minutes())))
	}
	return fmt.Sprintf(words.hours, int(left.Round(time.Hour).Hours()))
}

// apart is how many calendar days lie between two instants that clocks of one place show.
func apart(from, to time.Time) int {
	a := time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, time.UTC)
	b := time.Date(to.Year(), to.Month(), to.Day(), 0, 0, 0, 0, time.UTC)
	return int(b.Sub(a).Hours() / 24)
}
