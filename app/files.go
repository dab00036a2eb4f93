package app

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	_ "image/gif"  // formats that a picture may have
	_ "image/jpeg" // likewise
	_ "image/png"  // likewise

	_ "golang.org/x/image/webp" // likewise
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// The limits of a picture.
const (
	MaxPicture = 8 << 20 // bytes
	maxPixels  = 40 << 20
)

// Picture says where a kept picture is served from.
type Picture struct {
	Path   string `json:"path"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// KeepPicture keeps a picture for use in articles. What it is is decided by its
// content alone: PNG, JPEG, GIF or WebP.
func (a *App) KeepPicture(ctx context.Context, by Staff, content []byte) (Picture, error) {
	if err := by.may("Adding a picture", role.Author); err != nil {
		return Picture{}, err
	}
	if len(content) > MaxPicture {
		return Picture{}, problem(TooLarge, "A picture can have at most 8 MB.")
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil {
		return Picture{}, problem(BadFile, "This is not a picture that can be shown. Use PNG, JPEG, GIF or WebP.")
	}
	if config.Width*config.Height > maxPixels {
		return Picture{}, problem(BadFile, "The picture has more than 40 million points. Make it smaller.")
	}
	sum := sha256.Sum256(content)
	row := store.File{Hash: hex.EncodeToString(sum[:]), MediaType: "image/" + format, Width: config.Width, Height: config.Height,
		Bytes: content, AddedBy: by.ID, AddedAt: a.now()}
	if err := a.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
		return Picture{}, fmt.Errorf("keeping a picture: %w", err)
	}
	return Picture{article.FilePath + row.Hash, row.Width, row.Height}, nil
}

// ReadPicture gives a picture to somebody who may see an article that shows it:
// staff always, others only while a live article for them does.
func (a *App) ReadPicture(ctx context.Context, viewer audience.Viewer, hash string) (store.File, error) {
	var row store.File
	db := a.db.WithContext(ctx).Where("hash = ?", hash)
	if !viewer.Staff {
		db = db.Where(`EXISTS (SELECT 1 FROM revision_files rf JOIN editions e ON e.live_revision_id = rf.revision_id
			JOIN articles a ON a.id = e.article_id WHERE rf.file_hash = files.hash AND a.audience IN ?)`, viewer.Sees())
	}
	err := db.Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return row, problem(NotFound, "There is no such picture.")
	}
	return row, err
}
