package exchange

import (
	"context"
	"fmt"
	"path"
	"strings"

	"hermeneus/app/library"
	"hermeneus/app/lists"
	"hermeneus/app/staff"
	"hermeneus/app/writing"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	"hermeneus/core/exchange"
	"hermeneus/core/role"
	"hermeneus/store"
)

// ExportLibrary writes the articles that fit, with their categories, pictures and
// attachments, as CommonMark files with front matter: the working copies of every
// edition. The same library makes the same bytes.
func (a *Exchange) ExportLibrary(
	ctx context.Context,
	by staff.Staff,
	f lists.ArticleFilter,
	references []string,
) (exchange.Bundle, error) {
	out := exchange.Bundle{Name: "library", Files: map[string][]byte{}}
	if err := by.May("Taking articles out", role.Author, role.Publisher, role.Administrator); err != nil {
		return out, err
	}
	bulk := writing.Bulk{References: references}
	if len(references) == 0 {
		bulk.Filter = &f
	}
	numbers, err := a.writing.Numbers(ctx, bulk)
	if err != nil || len(numbers) == 0 {
		return out, err
	}
	w := &exporter{area: a, out: out, folders: map[int64]string{}, paths: map[int]string{}}
	if err := w.categories(ctx); err != nil {
		return out, err
	}
	return out, w.articles(ctx, numbers)
}

type exporter struct {
	area    *Exchange
	out     exchange.Bundle
	tree    map[int64]library.Category
	folders map[int64]string // of each category, with slashes
	orders  map[int64]int
	paths   map[int]string // of each article's source file
	rows    []exportRow
}

type exportRow struct {
	store.Edition
	Number     int
	CategoryID int64
	Position   int
	Owner      string
	Kind       string
	Audience   string
	Key        string
	Recheck    int
	Until      string
}

// categories gives each category its folder, named as it is and told apart from
// its neighbours.
func (w *exporter) categories(ctx context.Context) error {
	tree, err := w.area.library.Tree(ctx)
	if err != nil {
		return err
	}
	w.tree, w.orders = map[int64]library.Category{}, map[int64]int{}
	taken, count := map[string]bool{}, map[int64]int{}
	for _, c := range tree {
		w.tree[c.ID] = c
		count[c.ParentID]++
		w.orders[c.ID] = count[c.ParentID]
		base := path.Join(w.folders[c.ParentID], article.Slug(c.Name))
		name := base
		for n := 2; taken[name] || name == exchange.FilesFolder; n++ {
			name = fmt.Sprintf("%s-%d", base, n)
		}
		taken[name], w.folders[c.ID] = true, name
	}
	return nil
}

func (w *exporter) articles(ctx context.Context, numbers []int) error {
	err := w.area.base.DB.WithContext(ctx).
		Raw(`SELECT e.id, e.language, e.title, e.body, e.keywords, e.search_title, e.search_description,
				a.number, a.category_id, a.position, o.email AS owner, a.kind, a.audience, a.key, CASE
				WHEN a.recheck_by_rule THEN 0
				ELSE a.recheck_days END AS recheck,
				coalesce(to_char(a.interim_until, 'YYYY-MM-DD'), '') AS until
			FROM articles a JOIN editions e ON e.article_id = a.id JOIN staff o ON o.id = a.owner_id
			WHERE a.number IN ? ORDER BY a.number, e.language <> ?, e.language`,
			numbers, article.SourceLanguage).
		Scan(&w.rows).
		Error
	if err != nil {
		return fmt.Errorf("reading the articles to take out: %w", err)
	}
	for _, r := range w.rows {
		if r.Language == article.SourceLanguage {
			w.paths[r.Number] = path.Join(
				w.folders[r.CategoryID],
				exchange.FileName(article.Reference(r.Number), r.Title, ""),
			)
		}
	}
	for _, r := range w.rows {
		if err := w.article(ctx, r); err != nil {
			return fmt.Errorf("writing %s: %w", article.Reference(r.Number), err)
		}
	}
	return nil
}

func (w *exporter) article(ctx context.Context, r exportRow) error {
	file := w.paths[r.Number]
	head := exchange.Head{
		Key:               r.Key,
		Title:             r.Title,
		Keywords:          r.Keywords,
		SearchTitle:       r.SearchTitle,
		SearchDescription: r.SearchDescription,
	}
	if r.Language != article.SourceLanguage {
		file = strings.TrimSuffix(file, ".md") + "." + r.Language + ".md"
		head.Language = r.Language
	} else {
		head.Reference, head.Kind, head.Audience, head.Owner = article.Reference(r.Number), r.Kind, r.Audience, r.Owner
		head.RecheckDays, head.InterimUntil, head.Order = r.Recheck, r.Until, r.Position
	}
	if err := w.categoryFiles(r.CategoryID); err != nil {
		return err
	}
	var failed error
	body := article.Adapt(r.Body, func(address string, _ bool) (string, bool) {
		here, err := w.address(ctx, path.Dir(file), address)
		if err != nil {
			failed = err
		}
		return here, true
	})
	if failed != nil {
		return failed
	}
	raw, err := head.Write(body)
	w.out.Files[file] = raw
	return err
}

// categoryFiles writes the files of a category and of those above it.
func (w *exporter) categoryFiles(id int64) error {
	for ; id != 0; id = w.tree[id].ParentID {
		name := path.Join(w.folders[id], exchange.CategoryFileName)
		if w.out.Files[name] != nil {
			return nil
		}
		c := w.tree[id]
		file := exchange.CategoryFile{Name: c.Name, Description: c.Description, Order: w.orders[id]}
		if c.Audience != audience.Everyone {
			file.Audience = string(c.Audience)
		}
		raw, err := file.Write()
		if err != nil {
			return err
		}
		w.out.Files[name] = raw
	}
	return nil
}

// address is what an address here is called in a file of a folder.
func (w *exporter) address(ctx context.Context, folder, address string) (string, error) {
	if number, ok := article.LinkTarget(address); ok {
		_, fragment, found := strings.Cut(address, "#")
		to, there := w.paths[number]
		if !there {
			return address, nil // not taken out: it keeps its address here
		}
		to = relative(folder, to)
		if found {
			to += "#" + fragment
		}
		return to, nil
	}
	hash, own := strings.CutPrefix(address, article.FilePath)
	if !own {
		return address, nil
	}
	var row store.File
	if err := w.area.base.DB.WithContext(ctx).Where("hash = ?", hash).Limit(1).Find(&row).Error; err != nil {
		return address, err
	}
	if row.Hash == "" {
		return address, nil // it is gone; what pointed to it stays as it is
	}
	name := path.Join(exchange.FilesFolder, hash[:16]+extension(row.MediaType))
	w.out.Files[name] = row.Bytes
	return relative(folder, name), nil
}

func extension(mediaType string) string {
	for kind, ext := range map[string]string{"image/png": ".png", "image/jpeg": ".jpg", "image/gif": ".gif", "image/webp": ".webp", "video/mp4": ".mp4",
		"video/webm": ".webm", "application/pdf": ".pdf", "application/zip": ".zip", "text/plain": ".txt"} {
		if strings.HasPrefix(mediaType, kind) {
			return ext
		}
	}
	return ".bin"
}

// relative is the way from a folder to a file.
func relative(folder, file string) string {
	from := strings.Split(folder, "/")
	if folder == "." {
		from = nil
	}
	to := strings.Split(file, "/")
	for len(from) > 0 && len(to) > 1 && from[0] == to[0] {
		from, to = from[1:], to[1:]
	}
	return strings.Repeat("../", len(from)) + strings.Join(to, "/")
}
