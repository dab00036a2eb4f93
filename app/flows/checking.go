package flows

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"gorm.io/gorm"

	"hermeneus/app/notify"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// Checked is what the checks say of a script, and what its text is.
type Checked struct {
	Faults   []flow.Fault  `json:"faults"`
	Errors   int           `json:"errors"`
	Warnings int           `json:"warnings"`
	Turns    []flow.Begins `json:"turns"` // where each begins
	Texts    []flow.Said   `json:"texts"` // what is said, in every language
	Language string        `json:"language"`
	Name     string        `json:"name"`
	Facts    []string      `json:"facts"`    // that it asks for
	Articles []ShownTitle  `json:"articles"` // that it names and that are live
	Limits   []TextLimit   `json:"limits"`   // of the length of a text

	Rehearsals []RehearsalLine `json:"rehearsals"` // that are kept of the flow, and how they go
}

// ShownTitle is the title of an article that a script names.
type ShownTitle struct {
	Reference string `json:"reference"`
	Title     string `json:"title"`
}

// TextLimit is how many characters a text can have in a channel.
type TextLimit struct {
	Channel string `json:"channel"`
	Most    int    `json:"most"`
}

// unread is what is said of a script that cannot be read.
func unread(err error) Checked {
	return Checked{
		Faults:   []flow.Fault{{Line: 1, Level: flow.Error, Message: err.Error()}},
		Errors:   1,
		Turns:    []flow.Begins{},
		Texts:    []flow.Said{},
		Facts:    []string{},
		Articles: []ShownTitle{},
		Limits:   []TextLimit{},

		Rehearsals: []RehearsalLine{},
	}
}

// Check lists what is wrong with a script, given as its writer types it or as JSON. slug is the flow that it is for,
// "" for none.
func (a *Flows) Check(ctx context.Context, slug, source string) (Checked, error) {
	r, err := flow.ReadAny(source)
	if err != nil {
		return unread(err), nil
	}
	return a.checkAll(a.base.DB.WithContext(ctx), slug, &r)
}

// checkAll lists what is wrong with a script, the rehearsals that go otherwise included.
func (a *Flows) checkAll(db *gorm.DB, slug string, r *flow.Reading) (Checked, error) {
	checked, err := a.check(db, slug, r)
	if err != nil {
		return checked, err
	}
	if checked.Rehearsals, err = a.Rehearsals.all(db, slug, r); err != nil {
		return checked, err
	}
	otherwise := faultsOf(checked.Rehearsals, r)
	checked.Faults = append(checked.Faults, otherwise...)
	checked.Errors += len(otherwise)
	return checked, nil
}

// check lists what is wrong with a script by itself and in the world that it runs in.
func (a *Flows) check(db *gorm.DB, slug string, r *flow.Reading) (Checked, error) {
	env, err := a.env(db, slug, &r.Script)
	if err != nil {
		return Checked{}, err
	}
	faults := append([]flow.Fault{}, r.Check(env)...)
	n := flow.Errors(faults)
	titles, most := []ShownTitle{}, []TextLimit{}
	for _, ref := range slices.Sorted(maps.Keys(env.Articles)) {
		titles = append(titles, ShownTitle{ref, env.Articles[ref].Title})
	}
	for _, channel := range slices.Sorted(maps.Keys(limits)) {
		most = append(most, TextLimit{channel, limits[channel]})
	}
	return Checked{
		Facts:    append([]string{}, r.Script.Facts()...),
		Articles: titles,
		Limits:   most,
		Faults:   faults,
		Errors:   n,
		Warnings: len(faults) - n,
		Turns:    r.Places(),
		Texts:    r.Texts(),
		Language: r.Script.Language,
		Name:     r.Script.Name,

		Rehearsals: []RehearsalLine{},
	}, nil
}

// env gathers what the checks must know of the world that a script runs in.
func (a *Flows) env(db *gorm.DB, slug string, script *flow.Script) (flow.Env, error) {
	env := flow.Env{Flows: []string{}, Groups: []string{}, Limits: limits}
	var err error
	if env.Teams, env.Openings, err = a.hours.Staffing(db); err != nil {
		return env, err
	}
	if env.Articles, err = shows(db, script.Articles()); err != nil {
		return env, err
	}
	err = errors.Join(
		db.Model(&store.Flow{}).Where("live_version_id IS NOT NULL AND ended_at IS NULL AND slug <> ?", slug).
			Pluck("slug", &env.Flows).Error,
		db.Model(&store.CustomerGroup{}).Pluck("key", &env.Groups).Error,
	)
	if err != nil {
		return env, fmt.Errorf("reading what a script may name: %w", err)
	}
	entries, err := allEntries(db)
	if err != nil {
		return env, err
	}
	settings, err := a.sites.ReadSettings(db)
	if err != nil {
		return env, err
	}
	everywhere := slices.ContainsFunc(of(entries, slug), func(e flow.Entry) bool { return e.Site == 0 })
	for _, site := range settings.ByID {
		if everywhere || slices.ContainsFunc(of(entries, slug), func(e flow.Entry) bool { return e.Site == site.ID }) {
			addSite(&env, site)
			if len(script.Forms()) > 0 {
				if err := addForms(db, &env, site.ID); err != nil {
					return env, err
				}
			}
		}
	}
	slices.Sort(env.Languages)
	return env, nil
}

// addSite adds what a help centre asks of the scripts that are met there: its languages, and words to avoid.
func addSite(env *flow.Env, site *sites.Settings) {
	for _, l := range site.Languages {
		if !slices.Contains(env.Languages, l) {
			env.Languages = append(env.Languages, l)
		}
	}
	for _, w := range site.AvoidedWords {
		word, _, _ := strings.Cut(w, "=")
		if word = strings.TrimSpace(word); !slices.Contains(env.Avoided, word) {
			env.Avoided = append(env.Avoided, word)
		}
	}
}

// addForms leaves of the request forms those that a help centre has, too: a flow can only ask for what there is
// wherever it is met.
func addForms(db *gorm.DB, env *flow.Env, site int64) error {
	there, err := formsAt(db, site)
	if err != nil || env.Forms == nil {
		env.Forms = there
		return err
	}
	maps.DeleteFunc(env.Forms, func(key string, _ flow.Form) bool {
		_, both := there[key]
		return !both
	})
	return nil
}

// limits is how many characters a text can have in each channel.
var limits = map[string]int{string(outcome.Chat): flow.MaxText}

// shows says of articles, by reference, whom they are for; those that are not live are left out.
func shows(db *gorm.DB, references []string) (map[string]flow.Shows, error) {
	out := map[string]flow.Shows{}
	var numbers store.Numbers
	for _, ref := range references {
		if n, revision, ok := article.ParseReference(ref); ok && revision == 0 {
			numbers = append(numbers, int64(n))
		}
	}
	if len(numbers) == 0 {
		return out, nil
	}
	var rows []struct {
		Number   int
		Title    string
		Audience audience.Audience
		Ends     bool
	}
	err := db.Raw(`SELECT a.number, r.title, a.audience, a.interim_until IS NOT NULL AS ends
		FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ? JOIN revisions r ON r.id = e.live_revision_id
		WHERE a.number = ANY(?) AND a.withdrawn_at IS NULL`, article.SourceLanguage, numbers).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("reading the articles of a script: %w", err)
	}
	for _, r := range rows {
		out[article.Reference(r.Number)] = flow.Shows{Title: r.Title, Audience: r.Audience, Ends: r.Ends}
	}
	return out, nil
}

// CheckLive checks every live flow again, since what it leans on may have changed: an article ended or was narrowed, a
// team is empty, hours changed. The owner of one that has errors now is told, once.
func (a *Flows) CheckLive(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	var rows []store.Flow
	if err := db.Where("live_version_id IS NOT NULL AND ended_at IS NULL").Order("id").Find(&rows).Error; err != nil {
		return fmt.Errorf("reading live flows: %w", err)
	}
	for _, row := range rows {
		version, err := a.Version(db, *row.LiveVersionID)
		if err != nil {
			return err
		}
		env, err := a.env(db, row.Slug, version.Program.Script())
		if err != nil {
			return err
		}
		faults := flow.Check(*version.Program.Script(), env)
		n := flow.Errors(faults)
		if n == row.Faults {
			continue
		}
		if err := a.found(ctx, row, n, faults); err != nil {
			return err
		}
	}
	return nil
}

// found keeps how many errors a live flow has now, and tells its owner when it begins to have some.
func (a *Flows) found(ctx context.Context, row store.Flow, n int, faults []flow.Fault) error {
	return a.base.Transaction(ctx, func(tx *gorm.DB) error {
		now := a.base.Now()
		done := tx.Exec(
			`UPDATE flows SET faults = ?, faults_since = CASE WHEN ? = 0 THEN NULL ELSE coalesce(faults_since, ?) END
			WHERE id = ? AND live_version_id = ? AND faults = ?`,
			n,
			n,
			now,
			row.ID,
			row.LiveVersionID,
			row.Faults,
		)
		if done.Error != nil || done.RowsAffected == 0 || row.Faults > 0 || n == 0 || row.OwnerID == nil {
			return done.Error
		}
		first := slices.IndexFunc(faults, func(f flow.Fault) bool { return f.Level == flow.Error })
		text := fmt.Sprintf(
			"The flow “%s” is live, and something that it leans on has changed: %s",
			row.Name,
			faults[first].Message,
		)
		return a.notify.Tell(tx, notify.NewsFlowFault, []int64{*row.OwnerID}, text, "/flows/"+row.Slug)
	})
}

// refused makes a problem of the errors of a script, and says what did not come about.
func refused(faults []flow.Fault, what string) error {
	p := &problem.Problem{Kind: problem.Invalid, Detail: "The script has errors; " + what + "."}
	for _, f := range faults {
		if f.Level == flow.Error {
			p.Fields = append(p.Fields, problem.Field{Name: fmt.Sprintf("line %d", f.Line), Message: f.Message})
		}
	}
	return p
}
