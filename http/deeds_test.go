package http_test

import (
	"slices"
	"testing"

	"hermeneus/core/role"
)

// What the interface offers to whom is what the operations behind it take.
func TestDeedsTakeWhatTheirOperationsTake(t *testing.T) {
	behind := map[role.Deed]string{
		role.Write:            "create-article",
		role.MoveArticles:     "do-move-article",
		role.ConfirmArticles:  "do-still-true",
		role.ChangeCategories: "add-category",
		role.RemoveCategories: "remove-category",
		role.AnswerReaders:    "do-answer-feedback",
		role.OpenProblems:     "add-known-problem",
		role.TellCustomers:    "do-set-notice",
		role.TuneSearch:       "do-set-weights",
		role.PublishTexts:     "publish-flow",
		role.SeeReviews:       "add-comment",
		role.AnswerCustomers:  "do-accept",
		role.ReadFigures:      "read-outcomes",
		role.Administer:       "add-person",
	}
	for deed, takes := range role.Takes {
		roles, known := mayCall[behind[deed]]
		if !known {
			t.Errorf("%s: no operation stands behind it", deed)
			continue
		}
		for _, r := range role.All {
			if slices.Contains(takes, r) != slices.Contains(roles, r) {
				t.Errorf("%s: %s is offered to %v, and %s takes %v", deed, r, takes, behind[deed], roles)
			}
		}
	}
}
