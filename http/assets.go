package http

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"mime"
	"path"
	"strings"

	"github.com/gofiber/fiber/v2"

	"hermeneus/web"
)

// assets are the files of the built front end.
type assets struct {
	files   fs.FS
	entries map[string]entry // by source, such as src/help/main.ts
	fonts   []string         // addresses of those that every page needs
}

// entry is one program of the front end, as the build's manifest tells it.
type entry struct {
	File    string   `json:"file"`
	CSS     []string `json:"css"`
	Imports []string `json:"imports"`
}

func loadAssets() (*assets, error) {
	files, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return nil, err
	}
	a := &assets{files: files, entries: map[string]entry{}}
	manifest, err := fs.ReadFile(files, ".vite/manifest.json")
	if errors.Is(err, fs.ErrNotExist) {
		return a, nil // not built yet: pages come without styles and programs
	}
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(manifest, &a.entries); err != nil {
		return nil, fmt.Errorf("reading the front end's manifest: %w", err)
	}
	faces, err := fs.Glob(files, "assets/*-latin-wght-normal-*.woff2")
	for _, f := range faces {
		a.fonts = append(a.fonts, "/"+f)
	}
	return a, err
}

// of gives the program and the styles of an entry, as addresses.
func (a *assets) of(source string) (script string, styles []string) {
	e, ok := a.entries[source]
	if !ok {
		return "", nil
	}
	seen := map[string]bool{}
	var gather func(name string)
	gather = func(name string) {
		if seen[name] {
			return
		}
		seen[name] = true
		for _, imported := range a.entries[name].Imports {
			gather(imported)
		}
		for _, css := range a.entries[name].CSS {
			styles = append(styles, "/"+css)
		}
	}
	gather(source)
	return "/" + e.File, styles
}

// serve answers with a built file. Names under assets carry a hash of their
// content, so they may be kept for ever.
func (a *assets) serve(c *fiber.Ctx) error {
	name := strings.TrimPrefix(path.Clean(c.Path()), "/")
	content, err := fs.ReadFile(a.files, name)
	if err != nil {
		return fiber.ErrNotFound
	}
	c.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
	if strings.HasPrefix(name, "assets/") {
		c.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	return c.Send(content)
}
