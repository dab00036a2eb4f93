package role

import "slices"

// Deed is something that takes a role, and that an interface offers only to who may do it. The
// use cases ask for the roles themselves; a test holds both against each other.
type Deed string

// The deeds.
const (
	Write            Deed = "write"             // begin articles and editions, bring some in
	MoveArticles     Deed = "move_articles"     // change their order and category
	ConfirmArticles  Deed = "confirm_articles"  // say that a live one is still true
	ChangeCategories Deed = "change_categories" // add them, name them, move them
	RemoveCategories Deed = "remove_categories"
	AnswerReaders    Deed = "answer_readers" // what they said of an article
	OpenProblems     Deed = "open_problems"  // and solve them
	TellCustomers    Deed = "tell_customers" // of a known problem
	TuneSearch       Deed = "tune_search"
	PublishTexts     Deed = "publish"     // flows, changes to many, and taking over
	SeeReviews       Deed = "see_reviews" // who may say something of a text; the others may look too
	AnswerCustomers  Deed = "answer_customers"
	ReadFigures      Deed = "read_figures"
	Administer       Deed = "administer" // people, sites, groups, paths, templates, forms, settings
)

// Takes gives, for each deed, the roles of which one is enough.
var Takes = map[Deed][]Role{
	Write:            {Author},
	MoveArticles:     {Author, Publisher},
	ConfirmArticles:  {Author, Reviewer, Publisher},
	ChangeCategories: {Author, Publisher, Administrator},
	RemoveCategories: {Publisher, Administrator},
	AnswerReaders:    {Author, Reviewer, Publisher},
	OpenProblems:     {Author, Publisher},
	TellCustomers:    {Publisher, Administrator},
	TuneSearch:       {Publisher, Administrator},
	PublishTexts:     {Publisher},
	SeeReviews:       {Author, Reviewer, Publisher},
	AnswerCustomers:  {Agent},
	ReadFigures:      {Analyst, Publisher, Administrator},
	Administer:       {Administrator},
}

// Deeds lists what somebody with these roles may do, by name.
func (s Set) Deeds() []Deed {
	may := []Deed{}
	for deed, roles := range Takes {
		if s.Has(roles...) {
			may = append(may, deed)
		}
	}
	slices.Sort(may)
	return may
}
