package outcomes

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"hermeneus/app/keeping"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// repeats says how the askers of a period's settled questions repeat, of those who have several at all: of all
// questions under "", and of each channel.
func (r *reading) repeats(p outcome.Period) (map[outcome.Channel]outcome.Repeats, error) {
	where, args := r.split.where(false)
	const sums = `count(*) AS askers, sum(n) AS n, sum(n * n) AS nn, sum(c) AS c, sum(c * c) AS cc, sum(c * n) AS cn,
		sum(d) AS d, sum(d * d) AS dd, sum(d * n) AS dn, sum(e) AS e, sum(e * e) AS ee, sum(e * n) AS en`
	const counts = `count(*) AS n, count(*) FILTER (WHERE outcome = 'confirmed') AS c,
		count(*) FILTER (WHERE outcome IN ('confirmed', 'presumed')) AS d,
		count(*) FILTER (WHERE outcome IN ('confirmed', 'presumed', 'unanswered')) AS e`
	those := ` FROM questions q WHERE generation = ? AND repeats AND closed_at >= ? AND closed_at < ? AND closed_at <= ?
		AND outcome IN ('confirmed', 'presumed', 'unanswered', 'returned', 'person') AND ` + where
	args = append([]any{r.g.number, p.From, p.To, r.asOf.Add(-r.g.window)}, args...)
	var rows []struct {
		Channel                    outcome.Channel
		Askers, N, C, D, E         int
		Nn, Cc, Cn, Dd, Dn, Ee, En float64
	}
	err := r.db.Raw(`SELECT '' AS channel, `+sums+` FROM (SELECT asker_id, `+counts+those+` GROUP BY asker_id) a
		HAVING count(*) > 0
		UNION ALL SELECT channel, `+sums+` FROM (SELECT channel, asker_id, `+counts+`
			FROM (SELECT q.*, unnest(channels) AS channel`+those+`) q GROUP BY channel, asker_id) a GROUP BY channel`,
		slices.Concat(args, args)...).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading how askers repeat: %w", err)
	}
	out := map[outcome.Channel]outcome.Repeats{}
	for _, s := range rows {
		out[s.Channel] = outcome.Repeats{
			Askers: s.Askers, Squares: s.Nn, Questions: s.N,
			Proven:     outcome.Spread{Squares: s.Cc, Products: s.Cn, Questions: s.C},
			Deflection: outcome.Spread{Squares: s.Dd, Products: s.Dn, Questions: s.D},
			Claimed:    outcome.Spread{Squares: s.Ee, Products: s.En, Questions: s.E},
		}
	}
	return out, nil
}

// beside computes what stands beside the headline. traced is how many of the settled contacts had a trace of
// self-service before them, notFollowed counts those of people who declined to be followed.
func (r *reading) beside(out *Figures, traced int, notFollowed outcome.Counts) error {
	c := out.Counts
	q, answered := c.Settled(), c.Confirmed+c.Presumed
	double, err := r.countedTwice(out.Period)
	if err != nil {
		return err
	}
	untraced := c.Person - traced
	setAside, err := r.setAside(out.Period)
	if err != nil {
		return err
	}
	all := setAside.Unseen + setAside.Unlikely + q
	out.Beside = BesideHeadline{
		AskedAgain:  outcome.Wilson(answered-c.AskedAgain, q),
		Needs:       outcome.Wilson(answered, q-double),
		NeedPerson:  outcome.Wilson(c.Person, q-double),
		Lowest:      outcome.Wilson(answered-min(answered, untraced), q),
		Linkable:    outcome.Wilson(traced, c.Person),
		Unseen:      outcome.Wilson(setAside.Unseen, all),
		Unlikely:    outcome.Wilson(setAside.Unlikely, all),
		NotFollowed: outcome.Wilson(notFollowed.Settled(), q),
		Followed: outcome.Wilson(
			answered-notFollowed.Confirmed-notFollowed.Presumed, q-notFollowed.Settled()),
	}
	if out.Beside.WordsLost, err = r.wordsLost(out.Period); err != nil {
		return err
	}
	out.OlderRules, err = r.olderRules(out.Period)
	return err
}

// countedTwice counts the contacts that made at least one question Returned, where both are of the period: each is
// one need, counted as two questions.
func (r *reading) countedTwice(p outcome.Period) (int, error) {
	where, args := r.split.where(false)
	var n int
	settled := r.asOf.Add(-r.g.window)
	err := r.db.Raw(`SELECT count(DISTINCT returned_in) FROM questions q
		WHERE generation = ? AND outcome = 'returned' AND closed_at >= ? AND closed_at < ? AND closed_at <= ?
			AND returned_at >= ? AND returned_at < ? AND returned_at <= ? AND `+where,
		append([]any{r.g.number, p.From, p.To, settled, p.From, p.To, settled}, args...)...).Scan(&n).Error
	return n, err
}

// setAside counts the settled questions that are in no rate.
func (r *reading) setAside(p outcome.Period) (outcome.Counts, error) {
	p.To = earlier(p.To, r.asOf.Add(-r.g.window).Add(time.Microsecond)) // what closed exactly a window ago has settled
	if !p.From.Before(p.To) {
		return outcome.Counts{}, nil
	}
	cells, err := r.cells(p, []time.Time{p.From})
	var counts outcome.Counts
	for _, c := range cells {
		c.addTo(&counts)
	}
	return counts, err
}

// wordsLost counts the questions of the period whose words ended, or were forgotten on request.
func (r *reading) wordsLost(p outcome.Period) (int, error) {
	kept, err := keeping.Read(r.db)
	if err != nil {
		return 0, err
	}
	ended := r.asOf.AddDate(0, 0, -kept.Words).Add(2 * outcome.Silence)
	where, args := r.split.where(false)
	var n int
	err = r.db.Raw(`SELECT count(*) FROM questions q
		WHERE generation = ? AND closed_at >= ? AND closed_at < ? AND label_item <> 0 AND outcome <> 'browsing'
			AND (closed_at < ?
				OR asker_id = ANY(ARRAY(SELECT asker_id FROM asker_keys WHERE key LIKE 'forgotten:%')))
			AND NOT EXISTS (SELECT FROM evidence_words w WHERE w.evidence_id = q.label_item) AND `+where,
		append([]any{r.g.number, p.From, p.To, ended}, args...)...).Scan(&n).Error
	return n, err
}

// olderRules is until when figures of the period were counted by older rules; nil where they were not.
func (r *reading) olderRules(p outcome.Period) (*time.Time, error) {
	var row store.Setting
	if err := r.db.Where("name = 'older_rules_until'").Limit(1).Find(&row).Error; err != nil || row.Name == "" {
		return nil, err
	}
	var until time.Time
	if err := json.Unmarshal(row.Value, &until); err != nil || !p.From.Before(until) {
		return nil, err
	}
	return &until, nil
}
