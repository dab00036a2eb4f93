package outcomes

import (
	"encoding/json"
	"fmt"
	"time"

	"hermeneus/app/keeping"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// Where many questions are counted, how askers repeat is estimated from one asker in so many: the spread over askers is a
// ratio of sums over them (Rao & Scott 1992), which a sample of askers estimates. Of ten thousand questions, intervals
// come out wider or narrower by at most a tenth, of a hundred thousand by a twentieth; of more the sample grows no more.
const (
	sampledFrom = 10_000
	oneInMany   = 16    // the partial index questions_sample holds these askers
	sampled     = 4_000 // questions that are looked at of very many
)

// repeats says how the askers of a period's settled questions repeat, of those who have several at all: of all
// questions under "", and of each channel. settled is how many questions there are.
func (r *reading) repeats(p outcome.Period, settled int) (map[outcome.Channel]outcome.Repeats, error) {
	where, args := r.split.where(false)
	sample := 1
	if settled > sampledFrom {
		sample = oneInMany * max(1, settled/(oneInMany*sampled))
		where += fmt.Sprintf(" AND asker_id %% %d = 0 AND asker_id %% %d = 0", oneInMany, sample)
	}
	const sums = `count(*) AS askers, sum(n) AS n, sum(n * n) AS nn, sum(c) AS c, sum(c * c) AS cc, sum(c * n) AS cn,
		sum(d) AS d, sum(d * d) AS dd, sum(d * n) AS dn, sum(e) AS e, sum(e * e) AS ee, sum(e * n) AS en`
	const added = `sum(n) AS n, sum(c) AS c, sum(d) AS d, sum(e) AS e`
	sql := `WITH g AS MATERIALIZED (SELECT asker_id, channels, count(*)::float8 AS n,
			count(*) FILTER (WHERE outcome = 'confirmed')::float8 AS c,
			count(*) FILTER (WHERE outcome IN ('confirmed', 'presumed'))::float8 AS d,
			count(*) FILTER (WHERE outcome IN ('confirmed', 'presumed', 'unanswered'))::float8 AS e
			FROM questions q WHERE generation = ? AND repeats AND closed_at >= ? AND closed_at < ? AND closed_at <= ?
				AND outcome IN ('confirmed', 'presumed', 'unanswered', 'returned', 'person') AND ` + where + `
			GROUP BY asker_id, channels)
		SELECT '' AS channel, ` + sums + ` FROM (SELECT asker_id, ` + added + ` FROM g GROUP BY asker_id) a HAVING count(*) > 0`
	sql += `
		UNION ALL SELECT channel, ` + sums + ` FROM (SELECT channel, asker_id, ` + added + `
			FROM (SELECT g.*, unnest(channels) AS channel FROM g) g GROUP BY channel, asker_id) a GROUP BY channel`
	args = append([]any{r.g.number, p.From, p.To, r.asOf.Add(-r.g.window)}, args...)
	var rows []struct {
		Channel                    outcome.Channel
		Askers                     int
		N, C, D, E                 float64 // whole numbers: sums of these are quicker than of exact ones
		Nn, Cc, Cn, Dd, Dn, Ee, En float64
	}
	if err := r.db.Raw(sql, args...).Scan(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading how askers repeat: %w", err)
	}
	out := map[outcome.Channel]outcome.Repeats{}
	for _, s := range rows {
		out[s.Channel] = outcome.Repeats{
			Askers: s.Askers, Squares: s.Nn, Questions: int(s.N),
			Proven:     outcome.Spread{Squares: s.Cc, Products: s.Cn, Questions: int(s.C)},
			Deflection: outcome.Spread{Squares: s.Dd, Products: s.Dn, Questions: int(s.D)},
			Claimed:    outcome.Spread{Squares: s.Ee, Products: s.En, Questions: int(s.E)},
		}.Times(sample)
	}
	return out, nil
}

// beside computes what stands beside the headline. traced is how many of the settled contacts had a trace of
// self-service before them, notFollowed counts those of people who declined to be followed, setAside those in no rate.
func (r *reading) beside(out *Figures, traced int, notFollowed, setAside outcome.Counts) error {
	c := out.Counts
	q, answered := c.Settled(), c.Confirmed+c.Presumed
	double, err := r.countedTwice(out.Period)
	if err != nil {
		return err
	}
	untraced := c.Person - traced
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

// wordsLost counts the questions of the period whose words ended, or were forgotten on request.
func (r *reading) wordsLost(p outcome.Period) (int, error) {
	kept, err := keeping.Read(r.db)
	if err != nil {
		return 0, err
	}
	where, args := r.split.where(false)
	const lost = `SELECT count(*) FROM questions q WHERE generation = ? AND closed_at >= ? AND closed_at < ?
		AND label_item <> 0 AND outcome <> 'browsing'
		AND NOT EXISTS (SELECT FROM evidence_words w WHERE w.evidence_id = q.label_item) AND `
	ended := earlier(p.To, r.asOf.AddDate(0, 0, -kept.Words).Add(2*outcome.Silence))
	var old, forgotten int
	if p.From.Before(ended) {
		args := append([]any{r.g.number, p.From, ended}, args...)
		if err := r.db.Raw(lost+where, args...).Scan(&old).Error; err != nil {
			return 0, err
		}
	}
	args = append([]any{r.g.number, later(p.From, ended), p.To}, args...)
	err = r.db.Raw(lost+where+` AND asker_id = ANY(ARRAY(SELECT asker_id FROM asker_keys WHERE key LIKE 'forgotten:%'))`,
		args...).
		Scan(&forgotten).
		Error
	return old + forgotten, err
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
