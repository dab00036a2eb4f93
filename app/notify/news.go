package notify

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/instance"
	"hermeneus/app/keeping"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/store"
)

// The kinds of news.
const (
	NewsReviewAsked = "review_asked"
	NewsDecided     = "decided"
	NewsFeedback    = "feedback"
	NewsRecheck     = "recheck"
	NewsTakenOver   = "taken_over"
	NewsPublication = "publication" // a set time came: it was published or withdrawn, or that failed
	NewsChanged     = "changed"     // of what one follows
	NewsStuck       = "stuck"
	NewsHandedOver  = "handed_over"
	NewsMailFailed  = "mail_failed"
	NewsFlowFault   = "flow_fault"
)

// NewsKinds lists the kinds in the order in which they are shown, with what each
// is about.
var NewsKinds = []NewsKind{
	{NewsReviewAsked, "A text waits at a gate of mine, or somebody asks me to look"},
	{NewsDecided, "What was decided about a text of mine"},
	{NewsFeedback, "A reader said something of an article of mine, or that I follow"},
	{NewsRecheck, "An article of mine, or in a category I am steward of, must be confirmed"},
	{NewsTakenOver, "Somebody took over a text I was writing"},
	{NewsPublication, "A set time came: it was done, or it failed"},
	{NewsChanged, "An article I follow changed"},
	{NewsHandedOver, "Somebody’s articles became mine"},
	{NewsFlowFault, "A flow of mine is live, and what it leans on has changed"},
	{NewsStuck, "Nobody can pass a gate (administrators)"},
	{NewsMailFailed, "A mail was given up (administrators)"},
}

// NewsKind is one sort of news.
type NewsKind struct {
	Kind  string `json:"kind"`
	About string `json:"about"`
}

// Tell tells people something, as each wishes to be told.
func (a *Notify) Tell(tx *gorm.DB, kind string, ids []int64, text, path string) error {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	if len(ids) == 0 {
		return nil
	}
	var rows []struct {
		ID            int64
		Shown, ByMail bool
	}
	err := tx.Raw(`SELECT s.id, NOT coalesce(? = ANY(w.off), false) AS shown,
			NOT coalesce(? = ANY(w.no_mail), false) AND coalesce(w.rhythm, 'soon') <> 'never' AS by_mail
		FROM staff s LEFT JOIN news_wishes w ON w.staff_id = s.id WHERE s.id = ANY(?) AND s.disabled_at IS NULL
		ORDER BY s.id`,
		kind, kind, store.Numbers(ids)).Scan(&rows).Error
	if err != nil {
		return err
	}
	if cut := []rune(text); len(cut) > 600 {
		text = string(cut[:599]) + "…"
	}
	for _, r := range rows {
		if !r.Shown && !r.ByMail {
			continue
		}
		row := store.News{
			StaffID: r.ID,
			At:      a.base.Now(),
			Kind:    kind,
			Text:    text,
			Path:    path,
			Shown:   r.Shown,
			ByMail:  r.ByMail,
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// TellFollowers tells who follows an article, except who did it.
func (a *Notify) TellFollowers(tx *gorm.DB, articleID, not int64, kind, text, path string) error {
	var ids []int64
	if err := tx.Raw(`SELECT staff_id FROM followers WHERE article_id = ? AND staff_id <> ?`, articleID, not).
		Scan(&ids).
		Error; err != nil {
		return err
	}
	return a.Tell(tx, kind, ids, text, path)
}

// NewsLine is one thing that somebody is told.
type NewsLine struct {
	ID     int64      `json:"id"`
	At     time.Time  `json:"at"`
	Kind   string     `json:"kind"`
	Text   string     `json:"text"`
	Path   string     `json:"path"`
	ReadAt *time.Time `json:"read_at"`
}

// NewsPage is somebody's news, the newest first.
type NewsPage struct {
	Items  []NewsLine `json:"items"`
	Total  int        `json:"total"`
	Unread int        `json:"unread"`
}

// News lists somebody's own news, of one kind or of all.
func (a *Notify) News(ctx context.Context, by staff.Staff, kind string, page int) (NewsPage, error) {
	db := a.base.DB.WithContext(ctx)
	var n struct{ Total, Unread int }
	err := db.Raw(`SELECT count(*) FILTER (WHERE ? IN ('', kind)) AS total,
			count(*) FILTER (WHERE read_at IS NULL) AS unread
		FROM news
		WHERE staff_id = ? AND shown`, kind, by.ID).
		Scan(&n).
		Error
	if err != nil {
		return NewsPage{}, err
	}
	out := NewsPage{Total: n.Total, Unread: n.Unread}
	err = db.Raw(`SELECT id, at, kind, text, path, read_at
		FROM news WHERE staff_id = ? AND shown AND ? IN ('', kind) ORDER BY id DESC LIMIT ? OFFSET ?`,
		by.ID, kind, instance.PageSize, instance.Offset(page)).
		Scan(&out.Items).
		Error
	return out, err
}

// UnreadNews counts what somebody has not read.
func (a *Notify) UnreadNews(ctx context.Context, by staff.Staff) (int, error) {
	var n int
	err := a.base.DB.WithContext(ctx).
		Raw(`SELECT count(*) FROM news WHERE staff_id = ? AND shown AND read_at IS NULL`, by.ID).
		Scan(&n).
		Error
	return n, err
}

// MarkNewsRead notes that somebody read one of their news; 0 for all of them.
func (a *Notify) MarkNewsRead(ctx context.Context, by staff.Staff, id int64) error {
	return a.base.DB.WithContext(ctx).
		Exec(`UPDATE news
			SET read_at = ?
			WHERE staff_id = ? AND read_at IS NULL AND (id = ? OR ?::bigint = 0)`, a.base.Now(), by.ID, id, id).
		Error
}

// NewsWishes is what somebody wants to be told, and how.
type NewsWishes struct {
	Off    []string   `json:"off"`     // kinds not shown
	NoMail []string   `json:"no_mail"` // kinds not mailed
	Rhythm string     `json:"rhythm"`  // of mail: soon, daily or never
	Kinds  []NewsKind `json:"kinds,omitempty"`
}

// ReadNewsWishes gives somebody's own wishes.
func (a *Notify) ReadNewsWishes(ctx context.Context, by staff.Staff) (NewsWishes, error) {
	row := store.NewsWish{Rhythm: "soon"}
	err := a.base.DB.WithContext(ctx).Where("staff_id = ?", by.ID).Limit(1).Find(&row).Error
	return NewsWishes{row.Off, row.NoMail, row.Rhythm, NewsKinds}, err
}

// KeepNewsWishes keeps them.
func (a *Notify) KeepNewsWishes(ctx context.Context, by staff.Staff, w NewsWishes) error {
	var f problem.Fields
	known := func(kind string) bool {
		return slices.ContainsFunc(NewsKinds, func(k NewsKind) bool { return k.Kind == kind })
	}
	for _, k := range slices.Concat(w.Off, w.NoMail) {
		f.Require(known(k), "off", fmt.Sprintf("%q is no kind of news.", k))
	}
	f.Require(slices.Contains([]string{"soon", "daily", "never"}, w.Rhythm), "rhythm", "Choose soon, daily or never.")
	if err := f.Err(); err != nil {
		return err
	}
	row := store.NewsWish{
		StaffID: by.ID,
		Off:     problem.TidyList(w.Off),
		NoMail:  problem.TidyList(w.NoMail),
		Rhythm:  w.Rhythm,
	}
	return a.base.DB.WithContext(ctx).Save(&row).Error
}

// The batching of mail.
const (
	mailAfter = 10 * time.Minute // soon: so long news is gathered into one mail
	mailHour  = 8                // daily: at this hour
)

// mailNews puts unread news into mails, one for each person whose time it is.
func (a *Notify) mailNews(tx *gorm.DB) error {
	now := a.base.Now()
	local := now.In(a.base.Zone)
	morning := time.Date(local.Year(), local.Month(), local.Day(), mailHour, 0, 0, 0, a.base.Zone)
	if local.Before(morning) {
		morning = morning.AddDate(0, 0, -1)
	}
	var people []struct {
		ID          int64
		Name, Email string
	}
	err := tx.Raw(`SELECT s.id, s.name, s.email
		FROM staff s LEFT JOIN news_wishes w ON w.staff_id = s.id
		WHERE s.disabled_at IS NULL
			AND EXISTS
			(SELECT 1 FROM news n
			WHERE n.staff_id = s.id AND n.by_mail AND n.mailed_at IS NULL AND n.read_at IS NULL
			AND n.at <= CASE coalesce(w.rhythm, 'soon') WHEN 'daily' THEN ?::timestamptz
			ELSE ?::timestamptz END)
		ORDER BY s.id FOR NO KEY UPDATE OF s SKIP LOCKED`, morning, now.Add(-mailAfter)).Scan(&people).Error
	if err != nil {
		return err
	}
	for _, p := range people {
		var rows []store.News
		err := tx.Where("staff_id = ? AND by_mail AND mailed_at IS NULL AND read_at IS NULL", p.ID).
			Order("id").
			Find(&rows).
			Error
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			continue
		}
		if err := a.SendMail(tx, p.Email, newsSubject(rows), a.newsBody(p.Name, rows)); err != nil {
			return err
		}
		told := make(store.Numbers, len(rows)) // what comes meanwhile, and what is not for mail, stays as it is
		for i, r := range rows {
			told[i] = r.ID
		}
		if err := tx.Exec(`UPDATE news SET mailed_at = ? WHERE id = ANY(?)`, now, told).Error; err != nil {
			return err
		}
	}
	return nil
}

func newsSubject(rows []store.News) string {
	if len(rows) == 1 {
		text := []rune(strings.Join(strings.Fields(rows[0].Text), " "))
		return string(text[:min(len(text), 90)])
	}
	return fmt.Sprintf("%d things for you in Hermeneus", len(rows))
}

func (a *Notify) newsBody(name string, rows []store.News) string {
	var out strings.Builder
	fmt.Fprintf(&out, "Hello %s,\n\n", name)
	for _, r := range rows {
		fmt.Fprintf(&out, "- %s (%s)\n", r.Text, r.At.In(a.base.Zone).Format("2 January, 15:04"))
		if r.Path != "" && a.base.Address != "" {
			fmt.Fprintf(&out, "  %s/staff%s\n", a.base.Address, r.Path)
		}
	}
	out.WriteString("\nWhat you are mailed, and how often, is set under News in Hermeneus.\n")
	return out.String()
}

// EndOldNews lets go of the news that were told long enough ago.
func (a *Notify) EndOldNews(ctx context.Context) error {
	db := a.base.DB.WithContext(ctx)
	keep, err := keeping.Read(db)
	if err != nil {
		return err
	}
	return db.Exec(`DELETE FROM news WHERE at < ?`, a.base.Now().AddDate(0, 0, -keep.News)).Error
}
