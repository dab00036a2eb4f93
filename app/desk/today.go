package desk

import (
	"cmp"
	"context"
	"slices"

	"hermeneus/app/conversations"
	"hermeneus/app/flows"
	"hermeneus/app/helpcentre"
	"hermeneus/app/lists"
	"hermeneus/app/outcomes"
	"hermeneus/app/review"
	"hermeneus/app/staff"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
)

// Today is what needs a person now, and how the figure stands.
type Today struct {
	ToReview  []review.QueueItem          `json:"to_review"`  // before a gate of the person's
	ToPublish []review.QueueItem          `json:"to_publish"` // past every gate, and theirs to publish
	SentBack  []review.QueueItem          `json:"sent_back"`  // the person's own
	Stuck     []review.QueueItem          `json:"stuck"`      // before a gate that nobody can pass; for administrators
	Feedback  []helpcentre.Feedback       `json:"feedback"`   // readers' comments that wait for the person's answer
	Rechecks  []lists.ArticleLine         `json:"rechecks"`   // overdue, of the person's own
	Neglected []lists.ArticleLine         `json:"neglected"`  // overdue for long, in categories the person is steward of
	Waiting   []conversations.HandoffLine `json:"waiting"`
	Flows     []flows.FlowLine            `json:"flows"`    // live, with errors since something they lean on changed
	Contacts  []ContactAfter              `json:"contacts"` // articles read and still followed by a contact
	Figures   *outcomes.Figures           `json:"figures"`  // of the last seven days, for those who may read them
}

// ContactAfter is an article that questions ended with and still reached a person.
type ContactAfter struct {
	Reference string             `json:"reference"`
	Title     string             `json:"title"`
	Share     outcome.Proportion `json:"share"` // Person or Returned among the questions that ended with it
}

// Today gathers what the person can act on, by their roles.
func (a *Desk) Today(ctx context.Context, by staff.Staff) (Today, error) {
	var t Today
	if err := a.todaysLanes(ctx, by, &t); err != nil {
		return t, err
	}
	if by.Roles.Has(role.Author, role.Publisher, role.Reviewer) {
		var err error
		if t.Feedback, err = a.helpCentre.OpenFeedback(ctx, by); err != nil {
			return t, err
		}
		if t.Rechecks, _, err = a.lists.ListArticles(
			ctx,
			lists.ArticleFilter{OwnerID: by.ID, Overdue: true, Sort: "recheck"},
		); err != nil {
			return t, err
		}
		if t.Neglected, err = a.neglected(ctx, by); err != nil {
			return t, err
		}
	}
	if by.Roles.Has(role.Author, role.Publisher) {
		lines, err := a.flows.List(ctx)
		if err != nil {
			return t, err
		}
		t.Flows = slices.DeleteFunc(lines, func(f flows.FlowLine) bool { return f.Faults == 0 || f.State == "ended" })
	}
	if by.Roles.Has(role.Agent) {
		lines, err := a.conversations.Handoffs(ctx, by)
		if err != nil {
			return t, err
		}
		t.Waiting = slices.DeleteFunc(lines, func(l conversations.HandoffLine) bool { return l.Status != "waiting" })
	}
	if by.May("", outcomes.FigureRoles...) == nil {
		today := a.base.Now().In(a.base.Zone)
		figures, err := a.outcomes.Outcomes(ctx, by, today.AddDate(0, 0, -6), today, outcomes.Split{})
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

// todaysLanes takes what is the person's out of the lanes.
func (a *Desk) todaysLanes(ctx context.Context, by staff.Staff, t *Today) error {
	lanes, err := a.review.Queue(ctx, by)
	if err != nil {
		return err
	}
	for _, l := range lanes {
		for _, item := range l.Items {
			switch {
			case item.Stuck && by.Roles.Has(role.Administrator):
				t.Stuck = append(t.Stuck, item)
			case !item.Mine:
			case l.Kind == "gate":
				t.ToReview = append(t.ToReview, item)
			case l.Kind == "ready":
				t.ToPublish = append(t.ToPublish, item)
			case l.Kind == "sent_back":
				t.SentBack = append(t.SentBack, item)
			}
		}
	}
	return nil
}

// neglected lists what others let lie in the categories that somebody is steward of.
func (a *Desk) neglected(ctx context.Context, by staff.Staff) ([]lists.ArticleLine, error) {
	var ids []int64
	err := a.base.DB.WithContext(ctx).Raw(`SELECT id FROM categories WHERE steward_id = ?`, by.ID).Scan(&ids).Error
	if err != nil {
		return nil, err
	}
	before := a.base.Today().AddDate(0, 0, -review.OverdueGrace)
	var list []lists.ArticleLine
	seen := map[string]bool{}
	for _, id := range ids {
		lines, _, err := a.lists.ListArticles(ctx, lists.ArticleFilter{CategoryID: id, Overdue: true, Sort: "recheck"})
		if err != nil {
			return nil, err
		}
		for _, l := range lines {
			if !l.RecheckOn.After(before) && l.Owner != by.Name && !seen[l.Reference] {
				seen[l.Reference] = true
				list = append(list, l)
			}
		}
	}
	return list, nil
}

// contactsAfter ranks articles by the lower bound of their contact after reading,
// over the last 30 days. Fewer than ten questions say too little.
func (a *Desk) contactsAfter(ctx context.Context) ([]ContactAfter, error) {
	recent, err := a.outcomes.LatelyByArticle(ctx, 30)
	if err != nil {
		return nil, err
	}
	var list []ContactAfter
	var refs []outcome.Evidence
	for ref, c := range recent {
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
	titles, err := a.outcomes.Titles(ctx, refs)
	for i := range list {
		list[i].Title = titles[list[i].Reference]
	}
	return list, err
}
