package flow

// older is a script of format 1: a list of turns, each of which names where it leads.
type older struct {
	Name        string      `json:"name"`
	Language    string      `json:"language"`
	Start       string      `json:"start"`                  // the turn a conversation begins with
	FreeText    string      `json:"free_text,omitempty"`    // the look-up turn for words that are no choice
	Person      string      `json:"person,omitempty"`       // the turn for who asks for a person
	PersonWords []string    `json:"person_words,omitempty"` // words that ask for one
	Turns       []olderTurn `json:"turns"`
}

type olderTurn struct {
	ID        string        `json:"id"`
	Kind      Kind          `json:"kind"`
	Text      string        `json:"text"`
	Next      string        `json:"next,omitempty"`       // say, request: the turn after
	Options   []olderOption `json:"options,omitempty"`    // choose
	Articles  []string      `json:"articles,omitempty"`   // suggest: references
	Limit     int           `json:"limit,omitempty"`      // look_up: how many articles at most; 3 if not given
	Helped    string        `json:"helped,omitempty"`     // suggest, look_up: where "yes" leads
	NotHelped string        `json:"not_helped,omitempty"` // suggest, look_up: where "no" leads
	Nothing   string        `json:"nothing,omitempty"`    // suggest, look_up: where it leads when nothing can be shown
	Team      string        `json:"team,omitempty"`       // hand_over, request
	Nobody    string        `json:"nobody,omitempty"`     // hand_over: where it leads when nobody is there
}

type olderOption struct {
	Label string `json:"label"`
	Next  string `json:"next"`
}

// script says the same in the present format: the turns keep their ids, so that conversations which wait at
// one go on, and each is followed by going to where it led.
func (o older) script() Script {
	s := Script{Format: Format, Name: o.Name, Language: o.Language}
	if len(o.Turns) > 0 && o.Turns[0].ID != o.Start && o.Start != "" {
		s.Turns = append(s.Turns, Turn{Kind: GoTo, To: o.Start})
	}
	for i, t := range o.Turns {
		s.Turns = append(s.Turns, t.turn(o.Language))
		following := ""
		if i+1 < len(o.Turns) {
			following = o.Turns[i+1].ID
		}
		if (t.Kind == Say || t.Kind == Request) && t.Next != following {
			s.Turns = append(s.Turns, Turn{Kind: GoTo, To: t.Next})
		}
	}
	if o.FreeText != "" {
		s.Whenever = append(s.Whenever, Handler{On: WheneverWords, Turns: []Turn{{Kind: GoTo, To: o.FreeText}}})
	}
	if o.Person != "" {
		s.Whenever = append(s.Whenever,
			Handler{On: WheneverPerson, Words: o.PersonWords, Turns: []Turn{{Kind: GoTo, To: o.Person}}})
	}
	s.identify()
	return s
}

func (t olderTurn) turn(language string) Turn {
	out := Turn{
		ID: t.ID, Named: true, Kind: t.Kind, Text: Texts{language: t.Text},
		Articles: t.Articles, Limit: t.Limit, Team: t.Team,
	}
	lead := func(on, text, to string) {
		l := Lead{On: on, Then: []Turn{{Kind: GoTo, To: to}}}
		if text != "" {
			l.Text = Texts{language: text}
		}
		out.Leads = append(out.Leads, l)
	}
	switch t.Kind {
	case Choose:
		for _, option := range t.Options {
			lead(OnOption, option.Label, option.Next)
		}
	case Suggest, LookUp:
		lead(OnYes, "", t.Helped)
		lead(OnNo, "", t.NotHelped)
		lead(OnNothing, "", t.Nothing)
	case HandOver:
		lead(OnBusy, "", t.Nobody)
		lead(OnClosed, "", t.Nobody)
	}
	return out
}
