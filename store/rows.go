package store

// Rows lists every kind of row by the area that keeps it, so that tests can hold them against
// the schema, and the areas against each other.
func Rows() map[string][]any {
	return map[string][]any{
		"instance":  {&Made{}, &Setting{}, &Chore{}, &Secret{}},
		"staff":     {&Team{}, &Staff{}},
		"trail":     {&Trail{}},
		"jobs":      {&Job{}, &JobChange{}},
		"notify":    {&News{}, &NewsWish{}, &Mail{}, &Follower{}},
		"evidence":  {&Evidence{}, &EvidenceWords{}, &EvidenceKey{}, &EvidenceLink{}, &Newcomers{}, &EvidenceMark{}, &ArticleUse{}},
		"outcomes": {
			&Asker{},
			&AskerKey{},
			&Question{},
			&QuestionDay{},
			&ArticleDay{},
			&ArticleOutcome{},
			&QuestionCount{},
		},
		"sites":     {&Site{}},
		"customers": {&Customer{}, &CustomerGroup{}, &CustomerGroupMember{}},
		"accounts":  {&Session{}, &SignInFailure{}, &KnownBrowser{}, &PasswordLink{}},
		"texts":     {&Text{}, &Writer{}, &Autosave{}, &Hold{}},
		"library": {
			&Category{},
			&SiteCategory{},
			&Article{},
			&Edition{},
			&Revision{},
			&File{},
			&FileWidth{},
			&RevisionFile{},
			&Template{},
			&KnownProblem{},
			&Link{},
			&Dismissal{},
			&OutsideLink{},
			&OutsideUse{},
		},
		"search": {&Synonym{}, &Pin{}, &Judged{}, &SearchReport{}},
		"review": {
			&Path{},
			&Review{},
			&Decision{},
			&Batch{},
			&BatchMember{},
			&Schedule{},
			&PublishedChange{},
			&Comment{},
		},
		"helpcentre":    {&Vote{}, &Feedback{}},
		"flows":         {&Flow{}, &FlowVersion{}},
		"conversations": {&Conversation{}, &Message{}, &RequestFile{}},
		"requests":      {&RequestKind{}},
	}
}
