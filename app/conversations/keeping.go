package conversations

import (
	"encoding/json"
	"fmt"
	"reflect"

	"gorm.io/gorm"

	"hermeneus/core/flow"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// keepStep keeps a conversation as it is after a step, and what was said in it. Nearly always it is the state alone that
// changes: that and the messages are kept by one statement.
func keepStep(tx *gorm.DB, before store.Conversation, c *store.Conversation, said []store.Message) error {
	list, err := json.Marshal(append([]store.Message{}, said...))
	if err != nil {
		return err
	}
	err = tx.Exec(`WITH said AS (INSERT INTO messages (conversation_id, at, speaker, text, cards, choices, link, told)
			SELECT @id, "At", "Speaker", "Text", "Cards", "Choices", "Link", "Told"
			FROM ROWS FROM (jsonb_to_recordset(CAST(@said AS jsonb)) AS ("At" timestamptz, "Speaker" text, "Text" text,
				"Cards" jsonb, "Choices" text[], "Link" jsonb, "Told" jsonb)) WITH ORDINALITY ORDER BY ordinality)
		UPDATE conversations SET state = @state WHERE id = @id`,
		map[string]any{"id": c.ID, "said": string(list), "state": string(c.State)}).Error
	if err != nil {
		return fmt.Errorf("keeping a step of conversation %d: %w", c.ID, err)
	}
	before.State = c.State
	if reflect.DeepEqual(before, *c) {
		return nil
	}
	return tx.Save(c).Error
}

// record takes evidence of what happened at a turn. An article opened after another of the same offer means that
// the other was not all they wanted: that they came back for it is kept just before.
func (s *shell) record(e outcome.Evidence, state flow.State) error {
	s.visitor.Where.Turn = "turn:" + state.Turn
	if e.Kind == outcome.Opened {
		if err := s.keepEvidence(); err != nil { // what they came back from may be among it
			return err
		}
		where, err := s.area.helpCentre.Where(s.tx, e.Ref)
		if err != nil {
			return err
		}
		e.Stood = where
		back, err := s.area.recorder.CameBack(s.tx, s.visitor, s.visitor.Where.Turn, e.Ref)
		if err != nil {
			return err
		}
		s.happened(back...)
	}
	s.happened(e)
	return nil
}

// happened takes evidence, as it stands now, to be kept at the end of the step.
func (s *shell) happened(items ...outcome.Evidence) {
	for _, e := range items {
		e.Stood = s.visitor.Stands(e.Stood)
		s.evidence = append(s.evidence, e)
	}
}

// keepEvidence keeps what was taken: at once where the asker or the contact that it belongs to changes, or where it is
// read again.
func (s *shell) keepEvidence() error {
	items, v := s.evidence, s.visitor
	s.evidence = nil
	v.Where = outcome.Stood{} // each stands already
	return s.area.recorder.Record(s.tx, v, outcome.Chat, items...)
}
