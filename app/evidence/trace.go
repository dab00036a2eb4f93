package evidence

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/core/outcome"
	"hermeneus/store"
)

// trace is what an asker did before.
type trace struct {
	outcome.Trace
	known    bool // there is evidence of the asker
	unlikely bool // some of it is unlikely
}

// lookedBack is how many of an asker's latest items are looked at.
const lookedBack = 40

// tracesOf reads what each asker did before; every asker has an entry.
func tracesOf(db *gorm.DB, now time.Time, all []*happening) (map[string]*trace, error) {
	var askers store.Strings
	for _, h := range all {
		askers = append(askers, h.items[0].Asker)
	}
	var rows []struct {
		Whose    string
		At       *time.Time
		Channel  string
		Kind     string
		Ref      string
		Refs     store.Strings `gorm:"type:text[]"`
		LinkedTo string
		Contact  string
		Words    string
		Known    bool
		Doubted  bool
	}
	// Between two times, so that few months are looked into. The database, which does not know how many askers there
	// are, would read all keys for a few, if it were not one key at a time.
	err := db.Raw(`SELECT l.at, l.channel, l.kind, l.ref, l.refs, l.linked_to, l.contact, w.asker AS whose,
			coalesce(lw.text, '') AS words, k.key IS NOT NULL AS known, coalesce(k.unlikely, false) AS doubted
		FROM unnest(?::text[]) AS w(asker)
		LEFT JOIN LATERAL (SELECT k.key, k.unlikely FROM evidence_keys k WHERE k.key = w.asker LIMIT 1) k ON true
		LEFT JOIN LATERAL (SELECT e.id, e.at, e.channel, e.kind, e.ref, e.refs, e.linked_to, e.contact FROM evidence e
			WHERE e.asker = w.asker AND e.at > ? AND e.at < ?
			ORDER BY e.at DESC, e.id DESC LIMIT ?) l ON true
		LEFT JOIN evidence_words lw ON lw.evidence_id = l.id ORDER BY l.at DESC, l.id DESC`,
		askers, now.Add(-outcome.Silence), now.Add(time.Minute), lookedBack).
		Scan(&rows).
		Error
	if err != nil {
		return nil, fmt.Errorf("reading evidence: %w", err)
	}
	before := make(map[string]*trace, len(rows))
	for _, r := range rows {
		t := before[r.Whose]
		if t == nil {
			t = &trace{known: r.Known, unlikely: r.Doubted}
			before[r.Whose] = t
		}
		if r.At != nil {
			t.Before(outcome.Evidence{
				At: r.At.UTC(), Asker: r.Whose, Channel: outcome.Channel(r.Channel), Kind: outcome.Kind(r.Kind),
				Text: r.Words, Ref: r.Ref, Refs: r.Refs, To: r.LinkedTo, Contact: r.Contact,
			})
		}
	}
	return before, submittedBefore(db, now, all, before)
}

// submittedBefore marks those of whose words there is evidence under the same number.
func submittedBefore(db *gorm.DB, now time.Time, all []*happening, before map[string]*trace) error {
	var askers, refs, texts store.Strings
	for _, h := range all {
		if e := h.items[0]; e.Kind == outcome.Asked && e.Channel == outcome.Help && e.Ref != "" &&
			before[e.Asker].known {
			askers, refs, texts = append(askers, e.Asker), append(refs, e.Ref), append(texts, e.Text)
		}
	}
	if len(askers) == 0 {
		return nil
	}
	var submitted []string
	err := db.Raw(`SELECT w.asker FROM unnest(?::text[], ?::text[], ?::text[]) AS w(asker, ref, text)
		WHERE EXISTS (SELECT FROM evidence e JOIN evidence_words ew ON ew.evidence_id = e.id
			WHERE e.asker = w.asker AND e.at > ? AND e.at < ? AND e.kind = 'asked' AND e.ref = w.ref AND ew.text = w.text)`,
		askers, refs, texts, now.Add(-24*time.Hour), now.Add(time.Minute)).Scan(&submitted).Error
	if err != nil {
		return fmt.Errorf("reading what was asked: %w", err)
	}
	for _, asker := range submitted {
		before[asker].Submitted = true
	}
	return nil
}

// defaultNewcomers is how many new askers of one network in an hour are likely: generous, since an office or
// a telephone company is one network for many.
const defaultNewcomers = 200

// newcomersParts is over how many rows the new askers of a network are counted.
const newcomersParts = 32

// doubted reports whether what an asker does is unlikely: it was before, or the asker is new and too many new
// ones came from the network within the hour.
func doubted(db *gorm.DB, now time.Time, t *trace, asker, network string) (bool, error) {
	if t.unlikely || t.known || network == "" || !strings.HasPrefix(asker, outcome.VisitorKey) {
		return t.unlikely, nil
	}
	var many bool
	// One row for all would let those who come at once wait for each other.
	err := db.Raw(`INSERT INTO newcomers AS n (network, hour, part, askers) VALUES (@network, @hour, @part, 1)
		ON CONFLICT (network, hour, part) DO UPDATE SET askers = n.askers + 1
		RETURNING 1 + coalesce((SELECT sum(c.askers) FROM newcomers c WHERE c.network = @network AND c.hour = @hour), 0)
			> coalesce((SELECT (value #>> '{}')::integer FROM settings WHERE name = @setting), @likely)`, map[string]any{
		"network": network, "hour": now.Truncate(time.Hour), "part": rand.IntN(newcomersParts),
		"setting": newcomersSetting, "likely": defaultNewcomers,
	}).Scan(&many).Error
	return many, err
}
