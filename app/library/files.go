package library

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"net/http"
	"strings"

	"github.com/gabriel-vasile/mimetype"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/role"
	"hermeneus/store"
)

// The limits of files, in bytes, and of pictures in points.
const (
	MaxPicture    = 8 << 20
	MaxAttachment = 10 << 20
	MaxFilm       = 32 << 20
	maxPixels     = 40 << 20
)

// Kept says where a kept file is served from.
type Kept struct {
	Path      string `json:"path"`
	MediaType string `json:"media_type"`
	Width     int    `json:"width"` // of a picture
	Height    int    `json:"height"`
}

// FileHash names a file by its content.
func FileHash(content []byte) string {
	sum := sha256.Sum256(content)
	return hex.EncodeToString(sum[:])
}

// KeepMedia keeps a picture or a film for use in articles. What it is is decided by
// its content alone: PNG, JPEG, GIF, WebP, MP4 or WebM. Pictures are kept in
// smaller widths too.
func (a *Library) KeepMedia(ctx context.Context, by staff.Staff, content []byte) (Kept, error) {
	if err := by.May("Adding a picture", role.Author); err != nil {
		return Kept{}, err
	}
	if kind := http.DetectContentType(content); kind == "video/mp4" || kind == "video/webm" {
		if len(content) > MaxFilm {
			return Kept{}, problem.New(
				problem.TooLarge,
				"A film can have at most 32 MB. Make it shorter, or link to it.",
			)
		}
		return a.keepFile(ctx, by, store.File{MediaType: kind, Bytes: content}, nil)
	}
	if len(content) > MaxPicture {
		return Kept{}, problem.New(problem.TooLarge, "A picture can have at most 8 MB.")
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil {
		return Kept{}, problem.New(
			problem.BadFile,
			"This is not a picture that can be shown. Use PNG, JPEG, GIF or WebP; films as MP4 or WebM.",
		)
	}
	if config.Width*config.Height > maxPixels || decodedSize(config) > maxDecoded {
		return Kept{}, problem.New(
			problem.BadFile,
			"The picture has more than 40 million points, or more colours than can be shown. Make it smaller.",
		)
	}
	widths, err := a.narrower(ctx, content, format, config.Width)
	if err != nil {
		return Kept{}, problem.New(problem.BadFile, "The picture is damaged: %s.", err)
	}
	return a.keepFile(
		ctx,
		by,
		store.File{MediaType: "image/" + format, Width: config.Width, Height: config.Height, Bytes: content},
		widths,
	)
}

// KeepAttachment keeps any file, to be fetched and never shown in a page.
func (a *Library) KeepAttachment(ctx context.Context, by staff.Staff, content []byte) (Kept, error) {
	if err := by.May("Adding an attachment", role.Author); err != nil {
		return Kept{}, err
	}
	if len(content) == 0 || len(content) > MaxAttachment {
		return Kept{}, problem.New(problem.TooLarge, "An attachment has something in it, and at most 10 MB.")
	}
	return a.keepFile(
		ctx,
		by,
		store.File{MediaType: strings.SplitN(mimetype.Detect(content).String(), ";", 2)[0], Bytes: content},
		nil,
	)
}

func (a *Library) keepFile(ctx context.Context, by staff.Staff, row store.File, widths map[int][]byte) (Kept, error) {
	row.Hash, row.AddedBy, row.AddedAt = FileHash(row.Bytes), by.ID, a.base.Now()
	err := a.base.Transaction(ctx, func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return err
		}
		for width, content := range widths {
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).
				Create(&store.FileWidth{FileHash: row.Hash, Width: width, Bytes: content}).
				Error; err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Kept{}, fmt.Errorf("keeping a file: %w", err)
	}
	return Kept{article.FilePath + row.Hash, row.MediaType, row.Width, row.Height}, nil
}

// ReadFile gives a file to somebody who may see an article that holds it: staff
// always, others only while a live article for them does, or a category or a help
// centre shows it. width asks for a smaller picture; where there is none of that
// width it is the whole.
func (a *Library) ReadFile(ctx context.Context, viewer audience.Viewer, hash string, width int) (store.File, error) {
	var row store.File
	db := a.base.DB.WithContext(ctx).Where("hash = ?", hash)
	if !viewer.Staff {
		shown := `SELECT picture FROM categories`
		for _, hashes := range a.publicFiles {
			shown += ` UNION ALL ` + hashes
		}
		db = db.Where(`(EXISTS (SELECT 1 FROM (`+shown+`) shown (hash) WHERE shown.hash = files.hash)
			OR EXISTS (SELECT 1 FROM revision_files rf JOIN editions e ON e.live_revision_id = rf.revision_id
				JOIN articles a ON a.id = e.article_id WHERE rf.file_hash = files.hash AND a.audience IN ?))`,
			viewer.Sees())
	}
	err := db.Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return row, problem.New(problem.NotFound, "There is no such file.")
	}
	if err == nil && width > 0 {
		var small store.FileWidth
		if err := a.base.DB.WithContext(ctx).
			Where("file_hash = ? AND width = ?", hash, width).
			Limit(1).
			Find(&small).
			Error; err != nil {
			return row, err
		}
		if small.Width != 0 {
			row.Bytes = small.Bytes
			if row.MediaType == "image/webp" {
				row.MediaType = "image/png"
			}
		}
	}
	return row, err
}

// PicturesOf gives the sizes of a text's pictures, and the widths they are also kept in.
func PicturesOf(db *gorm.DB, hashes []string) (map[string]article.Picture, error) {
	list := map[string]article.Picture{}
	if len(hashes) == 0 {
		return list, nil
	}
	var rows []struct {
		Hash          string
		Width, Height int
		Widths        store.Numbers `gorm:"type:bigint[]"`
	}
	err := db.Raw(`SELECT f.hash, f.width, f.height,
			coalesce(array_agg(w.width) FILTER (WHERE w.width IS NOT NULL), '{}') AS widths
		FROM files f LEFT JOIN file_widths w ON w.file_hash = f.hash
		WHERE f.hash IN ? AND f.media_type LIKE 'image/%' GROUP BY f.hash`, hashes).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		p := article.Picture{Width: r.Width, Height: r.Height}
		for _, w := range r.Widths {
			p.Widths = append(p.Widths, int(w))
		}
		list[r.Hash] = p
	}
	return list, nil
}
