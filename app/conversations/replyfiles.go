package conversations

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/form"
	"hermeneus/store"
)

// KeepReplyFile keeps a file that an agent chose for a reply. Until the reply is sent only
// the agent knows of it; what is never sent ends after a day.
func (a *Conversations) KeepReplyFile(
	ctx context.Context,
	by staff.Staff,
	reference string,
	file form.Upload,
) (KeptFile, error) {
	if err := by.MayAnswer(); err != nil {
		return KeptFile{}, err
	}
	var f problem.Fields
	CheckFiles(&f, []form.Upload{file})
	f.Require(len(file.Content) > 0, "files", "The file is empty.")
	if err := f.Err(); err != nil {
		return KeptFile{}, err
	}
	var kept KeptFile
	err := a.change(ctx, by, reference, func(tx *gorm.DB, c *store.Conversation) error {
		if err := mine(by, c); err != nil {
			return err
		}
		var waiting int64
		err := tx.Model(&store.RequestFile{}).
			Where("conversation_id = ? AND staff_id = ? AND message_id IS NULL", c.ID, by.ID).
			Count(&waiting).
			Error
		if err != nil {
			return err
		}
		if waiting >= form.MaxFiles {
			return problem.OfField("files", fmt.Sprintf("At most %d files at once.", form.MaxFiles))
		}
		row := FileRow(c.ID, file, a.base.Now())
		row.StaffID = &by.ID
		if err := tx.Create(&row).Error; err != nil {
			return fmt.Errorf("keeping a file: %w", err)
		}
		kept = KeptFile{ID: row.ID, Name: row.Name, Size: row.Size}
		return nil
	})
	return kept, err
}

// DropReplyFile takes back a file that was chosen and not sent.
func (a *Conversations) DropReplyFile(ctx context.Context, by staff.Staff, reference string, id int64) error {
	return a.change(ctx, by, reference, func(tx *gorm.DB, c *store.Conversation) error {
		gone := tx.Exec(
			`DELETE FROM request_files WHERE id = ? AND conversation_id = ? AND staff_id = ? AND message_id IS NULL`,
			id,
			c.ID,
			by.ID,
		)
		if gone.Error == nil && gone.RowsAffected == 0 {
			return problem.New(problem.NotFound, "There is no such file, or it was sent.")
		}
		return gone.Error
	})
}

// sendFiles puts the files that an agent chose with the message.
func sendFiles(tx *gorm.DB, by staff.Staff, m store.Message, files []int64) error {
	if len(files) == 0 {
		return nil
	}
	sent := tx.Exec(
		`UPDATE request_files
			SET message_id = ?
			WHERE id = ANY(?) AND conversation_id = ? AND staff_id = ? AND message_id IS NULL`,
		m.ID,
		store.Numbers(files),
		m.ConversationID,
		by.ID,
	)
	if sent.Error == nil && int(sent.RowsAffected) != len(files) {
		return problem.OfField("files", "A file is not there any more. Choose it again.")
	}
	return sent.Error
}

// DropUnsent ends what agents chose for replies a day ago and never sent.
func (a *Conversations) DropUnsent(ctx context.Context) error {
	return a.base.DB.WithContext(ctx).
		Exec(`DELETE FROM request_files WHERE message_id IS NULL AND at < ?`, a.base.Now().Add(-24*time.Hour)).
		Error
}

// CheckFiles checks what comes with a message.
func CheckFiles(f *problem.Fields, files []form.Upload) {
	f.Require(len(files) <= form.MaxFiles, "files", fmt.Sprintf("At most %d files at once.", form.MaxFiles))
	together := 0
	for _, file := range files {
		together += len(file.Content)
	}
	f.Require(together <= form.MaxTogether, "files", fmt.Sprintf("At most %d MB in all.", form.MaxTogether>>20))
	for _, file := range files {
		if _, fault := form.CheckFile(file); fault != "" {
			f.Require(false, "files", file.Name+": "+fault)
		}
	}
}
