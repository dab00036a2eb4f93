package exchange

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// The limits of what is brought in at once.
const (
	MaxFiles     = 20_000
	MaxFileSize  = 32 << 20
	MaxTotalSize = 512 << 20
	MaxFolders   = 20  // that a file lies in
	MaxRatio     = 200 // of what an archive unpacks to, to its own size; beyond a megabyte
)

// ErrBomb is given for an archive that unpacks to far more than texts and pictures do, or
// whose files lie on top of each other.
var ErrBomb = errors.New("the archive unpacks to far more than it holds: pack it again, without what is in it twice")

// ErrTooMuch is given for more than the limits.
var ErrTooMuch = errors.New("at most 20 000 files of 32 MB each, and 512 MB in all, can be brought in at once")

// Bundle is a set of files, by their paths with slashes.
type Bundle struct {
	Name  string // of the folder or the archive
	Files map[string][]byte
}

// Paths lists the files in the order of their paths.
func (b Bundle) Paths() []string {
	list := make([]string, 0, len(b.Files))
	for p := range b.Files {
		list = append(list, p)
	}
	slices.Sort(list)
	return list
}

// ReadFolder reads all files below a folder, hidden ones left out.
func ReadFolder(name string, folder fs.FS) (Bundle, error) {
	b := Bundle{name, map[string][]byte{}}
	total := int64(0)
	err := fs.WalkDir(folder, ".", func(p string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if hidden(entry.Name()) && p != "." {
			if entry.IsDir() {
				return fs.SkipDir
			}
			return nil
		}
		if !entry.Type().IsRegular() {
			return nil
		}
		info, err := entry.Info()
		if err != nil {
			return err
		}
		if total += info.Size(); info.Size() > MaxFileSize || total > MaxTotalSize || len(b.Files) >= MaxFiles {
			return fmt.Errorf("%s: %w", p, ErrTooMuch)
		}
		b.Files[p], err = fs.ReadFile(folder, p)
		return err
	})
	return b, err
}

func hidden(name string) bool { return strings.HasPrefix(name, ".") || name == "__MACOSX" }

// ReadZip reads an archive. Sizes are counted as they are unpacked, so that a small
// archive of much cannot fill the memory.
func ReadZip(name string, content []byte) (Bundle, error) {
	b := Bundle{strings.TrimSuffix(name, path.Ext(name)), map[string][]byte{}}
	archive, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return b, fmt.Errorf("this is not a zip archive: %w", err)
	}
	if err := checkArchive(archive, int64(len(content))); err != nil {
		return b, err
	}
	left := min(int64(MaxTotalSize), 1<<20+MaxRatio*int64(len(content)))
	for _, f := range archive.File {
		p := path.Clean(strings.ReplaceAll(f.Name, `\`, "/"))
		if f.FileInfo().IsDir() || strings.HasPrefix(p, "..") || path.IsAbs(p) ||
			slices.ContainsFunc(strings.Split(p, "/"), hidden) {
			continue
		}
		if len(b.Files) >= MaxFiles {
			return b, ErrTooMuch
		}
		content, err := unpack(f, min(left, MaxFileSize))
		if err != nil {
			return b, fmt.Errorf("%s: %w", p, err)
		}
		left -= int64(len(content))
		b.Files[p] = content
	}
	return b.withoutTop(), nil
}

// checkArchive refuses by what an archive says of itself, before anything is unpacked.
func checkArchive(archive *zip.Reader, size int64) error {
	var packed, unpacked uint64
	for _, f := range archive.File {
		if strings.Count(f.Name, "/")+strings.Count(f.Name, `\`) > MaxFolders || len(f.Name) > 1000 {
			return fmt.Errorf("%.60s…: %w", f.Name, ErrTooMuch)
		}
		if packed += f.CompressedSize64; packed > uint64(size) {
			return ErrBomb
		}
		if unpacked += f.UncompressedSize64; unpacked > 1<<20+MaxRatio*uint64(size) {
			return ErrBomb
		}
	}
	if len(archive.File) > MaxFiles {
		return ErrTooMuch
	}
	return nil
}

func unpack(f *zip.File, most int64) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	content, err := io.ReadAll(io.LimitReader(r, most+1))
	if err == nil && int64(len(content)) > most {
		return nil, ErrBomb
	}
	return content, err
}

// withoutTop takes away the one folder that everything lies in, and names the
// bundle after it.
func (b Bundle) withoutTop() Bundle {
	top := ""
	for p := range b.Files {
		first, _, below := strings.Cut(p, "/")
		if !below || top != "" && first != top || first == FilesFolder {
			return b
		}
		top = first
	}
	if top == "" || b.Files[top+"/"+CategoryFileName] != nil {
		return b
	}
	files := map[string][]byte{}
	for p, content := range b.Files {
		files[strings.TrimPrefix(p, top+"/")] = content
	}
	return Bundle{b.Name, files}
}

// Zip packs the files, in the order of their paths and without times, so that the
// same files make the same archive.
func (b Bundle) Zip() ([]byte, error) {
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, p := range b.Paths() {
		f, err := w.CreateHeader(&zip.FileHeader{Name: p, Method: zip.Deflate})
		if err != nil {
			return nil, err
		}
		if _, err := f.Write(b.Files[p]); err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
