package app

import (
	"cmp"
	"context"
	"slices"
	"time"

	"hermeneus/core/article"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// Today is what needs a person now, and how the figure stands.
type Today struct {
	ToReview  []ArticleLine  `json:"to_review"` // in review, and not the person's own work
	ToPublish []ArticleLine  `json:"to_publish"`
	SentBack  []ArticleLine  `json:"sent_back"` // the person's own
	Waiting   []HandoffLine  `json:"waiting"`
	Contacts  []ContactAfter `json:"contacts"` // articles read and still followed by a contact
	Figures   *Figures       `json:"figures"`  // of the last seven days, for those who may read them
}

// ContactAfter is an article that questions ended with and still reached a person.
type ContactAfter struct {
	Reference string             `json:"reference"`
	Title     string             `json:"title"`
	Share     outcome.Proportion `json:"share"` // Person or Returned among the questions that ended with it
}

// Today gathers what the person can act on, by their roles.
func (a *App) Today(ctx context.Context, by Staff) (Today, error) {
	var t Today
	list := func(into *[]ArticleLine, f ArticleFilter, keep func(ArticleLine) bool) error {
		lines, _, err := a.ListArticles(ctx, f)
		for _, l := range lines {
			if keep(l) {
				*into = append(*into, l)
			}
		}
		return err
	}
	every := func(ArticleLine) bool { return true }
	if by.Roles.Has(role.Reviewer) {
		notOwn := func(l ArticleLine) bool { return l.Writer != by.Name }
		if err := list(&t.ToReview, ArticleFilter{State: article.InReview}, notOwn); err != nil {
			return t, err
		}
	}
	if by.Roles.Has(role.Publisher) {
		if err := list(&t.ToPublish, ArticleFilter{State: article.Approved}, every); err != nil {
			return t, err
		}
	}
	if by.Roles.Has(role.Author) {
		if err := list(&t.SentBack, ArticleFilter{State: article.SentBack, OwnerID: by.ID}, every); err != nil {
			return t, err
		}
	}
	if by.Roles.Has(role.Agent) {
		lines, err := a.Handoffs(ctx, by)
		if err != nil {
			return t, err
		}
		t.Waiting = slices.DeleteFunc(lines, func(l HandoffLine) bool { return l.Status != "waiting" })
	}
	if by.may("", figureRoles...) == nil {
		today := a.now().In(a.zone)
		figures, err := a.Outcomes(ctx, by, today.AddDate(0, 0, -6), today)
		if err != nil {
			return t, err
		}
		t.Figures = &figures
	}
	if by.Roles.Has(role.Author, role.Publisher) {
		contacts, err := a.contactsAfter(ctx)
		if err != nil {
			return t, err
		}
		t.Contacts = contacts
	}
	return t, nil
}

// contactsAfter ranks articles by the lower bound of their contact after reading,
// over the last 30 days. Fewer than ten questions say too little.
func (a *App) contactsAfter(ctx context.Context) ([]ContactAfter, error) {
	questions, err := a.questions(ctx)
	if err != nil {
		return nil, err
	}
	recent := outcome.Within(questions, outcome.Period{From: a.now().Add(-30 * 24 * time.Hour)})
	var list []ContactAfter
	var refs []outcome.Evidence
	for ref, c := range outcome.ByArticle(recent) {
		share := outcome.Wilson(c.Person+c.Returned, c.Settled())
		if share.Of >= 10 && share.Count >= 3 {
			list = append(list, ContactAfter{Reference: ref, Share: share})
			refs = append(refs, outcome.Evidence{Ref: ref + "@1"})
		}
	}
	slices.SortFunc(list, func(x, y ContactAfter) int {
		return cmp.Or(cmp.Compare(y.Share.Low, x.Share.Low), cmp.Compare(x.Reference, y.Reference))
	})
	list = list[:min(5, len(list))]
	titles, err := a.titles(ctx, refs)
	for i := range list {
		list[i].Title = titles[list[i].Reference]
	}
	return list, err
}
