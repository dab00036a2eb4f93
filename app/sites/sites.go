package sites

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/library"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/look"
	"hermeneus/core/role"
	"hermeneus/store"
)

// Site is a help centre over the library or parts of it.
type Site struct {
	ID           int64             `json:"id"`
	Name         string            `json:"name"`
	Main         bool              `json:"main"`
	Hosts        []string          `json:"hosts"` // under which it is asked for; the main one answers all others
	BrandColour  string            `json:"brand_colour"`
	AccentColour string            `json:"accent_colour"`
	Logo         string            `json:"logo"` // path of a picture, "" for none
	Languages    []string          `json:"languages"`
	AvoidedWords []string          `json:"avoided_words"`            // "word = instead", or a word alone
	Categories   []int64           `json:"categories"`               // shown with all below them; none means all
	Articles     int               `json:"articles"`                 // live ones it shows
	ReopenDays   int               `json:"reopen_days"`              // for how long after closing a request can be reopened
	LinkDays     int               `json:"link_days,omitempty"`      // 0 for the usual 30: for how long after the last word a link opens a conversation
	AsksToFollow bool              `json:"asks_to_follow,omitempty"` // it asks before it keeps a key in a browser
	FollowWords  map[string]string `json:"follow_words,omitempty"`   // with which it asks, by language; the usual ones where none are given
	Whole        bool              `json:"-"`                        // it shows the whole library; set by SiteAt
	Zone         string            `json:"zone,omitempty"`           // in which times are set, such as Europe/London; "" for the instance's
}

// Mark is different whenever the site's colours are.
func (s Site) Mark() string { return strings.ReplaceAll(s.BrandColour+s.AccentColour, "#", "") }

func siteOf(row store.Site) Site {
	s := Site{
		ID:           row.ID,
		Name:         row.Name,
		Main:         row.Main,
		Hosts:        row.Hosts,
		BrandColour:  row.BrandColour,
		AccentColour: row.AccentColour,
		Languages:    row.Languages,
		AvoidedWords: row.AvoidedWords,
		Zone:         row.Zone,
		ReopenDays:   row.ReopenDays,
		LinkDays:     row.LinkDays,
		AsksToFollow: row.AsksToFollow,
	}
	if len(row.FollowWords) > 0 {
		_ = json.Unmarshal(row.FollowWords, &s.FollowWords) // kept by KeepSite
	}
	if row.Logo != nil {
		s.Logo = article.FilePath + *row.Logo
	}
	return s
}

// Ship gives a new library its main help centre, under the company's name.
func Ship(db *gorm.DB, name string) error {
	if name == "" {
		name = "Help"
	}
	return db.Exec(
		`INSERT INTO sites (name, main) SELECT ?, true WHERE NOT EXISTS (SELECT 1 FROM sites) ON CONFLICT DO NOTHING`,
		name,
	).Error
}

// Logos is SQL that gives the files which are logos: everybody may see them.
const Logos = `SELECT logo FROM sites`

// Sites lists the help centres, the main one first.
func (a *Sites) Sites(ctx context.Context) ([]Site, error) {
	db := a.base.DB.WithContext(ctx)
	var rows []store.Site
	if err := db.Order("NOT main, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	list := make([]Site, len(rows))
	for i, row := range rows {
		list[i] = siteOf(row)
		if err := db.Raw(`SELECT category_id FROM site_categories WHERE site_id = ? ORDER BY 1`, row.ID).
			Scan(&list[i].Categories).
			Error; err != nil {
			return nil, err
		}
		err := db.Raw(`SELECT count(*)
			FROM articles a JOIN editions e ON e.article_id = a.id AND e.language = ?
			WHERE e.live_revision_id IS NOT NULL AND `+library.SiteFilter(row.ID), article.SourceLanguage).
			Scan(&list[i].Articles).
			Error
		if err != nil {
			return nil, err
		}
	}
	return list, nil
}

// SitesOf lists the help centres that show a category.
func (a *Sites) SitesOf(db *gorm.DB, category int64) ([]instance.Name, error) {
	var list []instance.Name
	err := db.Raw(`WITH RECURSIVE up AS (SELECT id, parent_id FROM categories WHERE id = ?
			UNION ALL SELECT c.id, c.parent_id FROM categories c JOIN up ON c.id = up.parent_id)
		SELECT id, name FROM sites s WHERE NOT EXISTS (SELECT 1 FROM site_categories sc WHERE sc.site_id = s.id)
			OR EXISTS (SELECT 1 FROM site_categories sc JOIN up ON up.id = sc.category_id WHERE sc.site_id = s.id)
		ORDER BY NOT main, id`, category).Scan(&list).Error
	return list, err
}

var hostName = regexp.MustCompile(`^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)*$`)

func (s Site) check() error {
	var f problem.Fields
	f.Text("name", s.Name, 60)
	f.Require(s.Main || len(s.Hosts) > 0, "hosts", "Say under which host it is asked for.")
	for _, h := range s.Hosts {
		f.Require(
			hostName.MatchString(h) && len(h) <= 253,
			"hosts",
			fmt.Sprintf("%q is not a host such as help.wrenmoor.example.", h),
		)
	}
	for name, c := range map[string]string{"brand_colour": s.BrandColour, "accent_colour": s.AccentColour} {
		ratio, err := look.Contrast(c, look.Paper)
		f.Require(err == nil, name, "A colour is written as #1C6B5A.")
		f.Require(
			err != nil || ratio >= look.MinContrast,
			name,
			fmt.Sprintf(
				"It stands out from white by %.1f to 1; words need %.1f to 1 to be read. Take a darker one.",
				ratio,
				look.MinContrast,
			),
		)
	}
	f.Require(s.ReopenDays >= 0 && s.ReopenDays <= 365, "reopen_days", "Between 0 and 365 days.")
	f.Require(s.LinkDays >= 0 && s.LinkDays <= 365, "link_days", "Between 1 and 365 days.")
	for l, text := range s.FollowWords {
		f.Require(article.Languages[l] != "", "follow_words", fmt.Sprintf("%q is not one of the languages offered.", l))
		f.AtMost("follow_words", text, 600)
	}
	if s.Zone != "" {
		_, err := time.LoadLocation(s.Zone)
		f.Require(err == nil && s.Zone != "Local", "zone", "A time zone is written as Europe/London.")
	}
	f.Require(
		len(s.Languages) > 0 && s.Languages[0] == article.SourceLanguage,
		"languages",
		"The first language is that of the source, "+article.Languages[article.SourceLanguage]+".",
	)
	for _, l := range s.Languages {
		f.Require(article.Languages[l] != "", "languages", fmt.Sprintf("%q is not one of the languages offered.", l))
	}
	f.Require(len(s.AvoidedWords) <= 200, "avoided_words", "At most 200 words.")
	for _, w := range s.AvoidedWords {
		f.AtMost("avoided_words", w, 80)
	}
	f.Require(s.Logo == "" || strings.HasPrefix(s.Logo, article.FilePath), "logo", "Upload a picture.")
	return f.Err()
}

// KeepSite makes a help centre, or changes one (ID not 0).
func (a *Sites) KeepSite(ctx context.Context, by staff.Staff, s Site) (int64, error) {
	if err := by.May("Changing a help centre", role.Administrator); err != nil {
		return 0, err
	}
	s.Hosts = problem.TidyList(s.Hosts)
	s.AvoidedWords = problem.TidyList(s.AvoidedWords)
	s.Languages = problem.TidyList(s.Languages)
	for i, h := range s.Hosts {
		s.Hosts[i] = strings.ToLower(h)
	}
	var row store.Site
	err := a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		if s.ID != 0 {
			if err := tx.First(&row, s.ID).Error; err != nil {
				return problem.From(err, "help centre")
			}
		}
		s.Main = row.Main
		if err := s.check(); err != nil {
			return err
		}
		if err := unique(tx, s); err != nil {
			return err
		}
		row.Name = strings.TrimSpace(s.Name)
		row.Hosts = s.Hosts
		row.BrandColour = s.BrandColour
		row.AccentColour = s.AccentColour
		row.Languages, row.AvoidedWords, row.Logo, row.Zone, row.ReopenDays = s.Languages, s.AvoidedWords, nil, s.Zone, s.ReopenDays
		if row.LinkDays = s.LinkDays; row.LinkDays == 0 {
			row.LinkDays = StandardLinkDays
		}
		if row.AsksToFollow = s.AsksToFollow; s.FollowWords == nil {
			s.FollowWords = map[string]string{}
		}
		var err error
		if row.FollowWords, err = json.Marshal(s.FollowWords); err != nil {
			return err
		}
		if row.Weights == nil {
			row.Weights = store.Floats{}
		}
		if s.Logo != "" {
			hash := strings.TrimPrefix(s.Logo, article.FilePath)
			var there bool
			if err := tx.Raw(`SELECT EXISTS (SELECT 1 FROM files WHERE hash = ?)`, hash).
				Scan(&there).
				Error; err != nil {
				return err
			}
			if !there {
				return problem.OfField("logo", "Upload a picture.")
			}
			row.Logo = &hash
		}
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		if err := tx.Exec(`DELETE FROM site_categories WHERE site_id = ?`, row.ID).Error; err != nil {
			return err
		}
		for _, c := range s.Categories {
			if err := tx.Create(&store.SiteCategory{SiteID: row.ID, CategoryID: c}).Error; err != nil {
				return problem.New(problem.Invalid, "One of the categories is not there any more. Choose again.")
			}
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "changed help centre"})
	})
	return row.ID, err
}

func unique(tx *gorm.DB, s Site) error {
	var taken struct{ Names, Hosts int }
	err := tx.Raw(`SELECT count(*) FILTER (WHERE name = ?) AS names, count(*) FILTER (WHERE hosts && ?) AS hosts
		FROM sites
		WHERE id <> ?`,
		strings.TrimSpace(s.Name), store.Strings(s.Hosts), s.ID).
		Scan(&taken).
		Error
	if err != nil {
		return err
	}
	var f problem.Fields
	f.Require(taken.Names == 0, "name", "Another help centre has this name.")
	f.Require(taken.Hosts == 0, "hosts", "Another help centre answers one of these hosts.")
	return f.Err()
}

// RemoveSite removes a help centre; the library stays as it is.
func (a *Sites) RemoveSite(ctx context.Context, by staff.Staff, id int64) error {
	if err := by.May("Removing a help centre", role.Administrator); err != nil {
		return err
	}
	return a.base.Change(ctx, store.SiteChanged, func(tx *gorm.DB) error {
		var row store.Site
		if err := tx.First(&row, id).Error; err != nil {
			return problem.From(err, "help centre")
		}
		if row.Main {
			return problem.New(problem.NotNow, "The main help centre answers every host; it cannot be removed.")
		}
		if err := tx.Delete(&row).Error; err != nil {
			return err
		}
		return a.trail.Note(tx, by, store.Trail{Subject: row.Name, Action: "removed help centre"})
	})
}
