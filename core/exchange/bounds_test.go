package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"testing"
)

func packed(t *testing.T, files map[string][]byte) []byte {
	t.Helper()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for name, content := range files {
		f, err := w.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := f.Write(content); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// overlapping makes an archive of many entries that all point to the same content.
func overlapping(t *testing.T, entries int) []byte {
	t.Helper()
	one := packed(t, map[string][]byte{"a.md": bytes.Repeat([]byte{'x'}, 900_000)})
	end := bytes.LastIndex(one, []byte("PK\x05\x06"))
	directory := bytes.Index(one, []byte("PK\x01\x02"))
	var out bytes.Buffer
	out.Write(one[:directory])
	for range entries {
		out.Write(one[directory:end])
	}
	tail := bytes.Clone(one[end:])
	binary.LittleEndian.PutUint16(tail[8:], uint16(entries))
	binary.LittleEndian.PutUint16(tail[10:], uint16(entries))
	binary.LittleEndian.PutUint32(tail[12:], uint32(entries*(end-directory)))
	out.Write(tail)
	return out.Bytes()
}

func TestArchivesAreBounded(t *testing.T) {
	for name, content := range map[string][]byte{
		"much of nothing":        packed(t, map[string][]byte{"a.md": make([]byte, 30<<20)}),
		"files on top of others": overlapping(t, 100),
	} {
		if _, err := ReadZip("a.zip", content); !errors.Is(err, ErrBomb) {
			t.Errorf("%s (%d bytes): %v", name, len(content), err)
		}
	}
	deep := packed(t, map[string][]byte{strings.Repeat("a/", MaxFolders+2) + "b.md": []byte("x")})
	if _, err := ReadZip("a.zip", deep); !errors.Is(err, ErrTooMuch) {
		t.Errorf("deep folders: %v", err)
	}
	lying := packed(t, map[string][]byte{"a.md": make([]byte, 30<<20)})
	at := bytes.Index(lying, []byte("PK\x01\x02")) // it says that it is small
	binary.LittleEndian.PutUint32(lying[at+24:], 10)
	if _, err := ReadZip("a.zip", lying); err == nil {
		t.Error("an archive that lies about its size is read")
	}
	many := map[string][]byte{}
	for i := range 400 {
		many[fmt.Sprintf("bills/%d.md", i)] = []byte(
			strings.Repeat("A bill is estimated when no reading reached us in time. ", 60),
		)
	}
	if b, err := ReadZip("a.zip", packed(t, many)); err != nil || len(b.Files) != 400 {
		t.Errorf("an archive of texts much alike: %d files, %v", len(b.Files), err)
	}
}

func TestMailsAreBounded(t *testing.T) {
	var deep strings.Builder
	deep.WriteString("From: a@post.example\r\nSubject: A\r\nMIME-Version: 1.0\r\n")
	for i := range 2000 {
		fmt.Fprintf(&deep, "Content-Type: multipart/mixed; boundary=b%d\r\n\r\n--b%d\r\n", i, i)
	}
	deep.WriteString("Content-Type: text/plain\r\n\r\nWords.\r\n")
	if _, err := FromMail([]byte(deep.String())); !errors.Is(err, ErrNoMail) {
		t.Errorf("a deep mail: %v", err)
	}
	var wide strings.Builder
	wide.WriteString(
		"From: a@post.example\r\nSubject: A\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; " +
			"boundary=b\r\n\r\n",
	)
	for range 5000 {
		wide.WriteString("--b\r\nContent-Type: text/plain\r\n\r\nWords.\r\n")
	}
	wide.WriteString("--b--\r\n")
	if _, err := FromMail([]byte(wide.String())); !errors.Is(err, ErrNoMail) {
		t.Errorf("a mail of many parts: %v", err)
	}
}

// Pages that take long to read because of how deep they lie are refused, or read in bounds.
func TestPagesAreBounded(t *testing.T) {
	for file, contents := range map[string]map[string]string{
		"a.html": {"divisions": strings.Repeat("<div>", 100_000), "lists": strings.Repeat("<ul><li>", 60_000)},
		"a.md":   {"quotes": strings.Repeat("> ", 20_000) + "x", "lists": strings.Repeat("- ", 20_000) + "x", "raw": strings.Repeat("<div>", 100_000)},
	} {
		for name, content := range contents {
			set := Read(Bundle{Name: "x", Files: map[string][]byte{file: []byte(content)}}, Whole)
			refused := len(set.Report) > 0
			for _, p := range set.Pages {
				if _, _, err := p.Text(nil); err != nil {
					refused = true
				}
			}
			if !refused {
				t.Errorf("%s in %s: %d pages, %+v", name, file, len(set.Pages), set.Report)
			}
		}
	}
}
