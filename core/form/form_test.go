package form

import (
	"slices"
	"strings"
	"testing"
)

var moving = []Field{
	{
		Key:      "which",
		Label:    "Are you moving in or out?",
		Kind:     Choice,
		Required: true,
		Options:  []string{"In", "Out", "Both"},
	},
	{Key: "day", Label: "On which day?", Kind: Date, Required: true},
	{Key: "meter", Label: "Meter number", Kind: Reference, Pattern: "A00 00000"},
	{Key: "forward", Label: "New address", Kind: LongText, Required: true, When: When{"which", "Out"}},
	{Key: "photo", Label: "A picture of the meter", Kind: File, When: When{"which", "Out"}},
}

var png = []byte("\x89PNG\r\n\x1a\n and more")

func TestAnswersAreTakenOrRefusedFieldByField(t *testing.T) {
	for _, c := range []struct {
		name    string
		answers map[string]string
		uploads map[string]Upload
		faults  string
		taken   string
	}{
		{"nothing", nil, nil, "which day", ""},
		{"all that is needed", map[string]string{"which": "In", "day": "2026-03-31"}, nil, "", "which day"},
		{"what is not asked for is left out", map[string]string{"which": "In", "day": "2026-03-31", "forward": "12 Long Lane"}, nil, "", "which day"},
		{"what is asked for only then", map[string]string{"which": "Out", "day": "2026-03-31"}, nil, "forward", "which day"},
		{"none of the options", map[string]string{"which": "Up", "day": "2026-03-31"}, nil, "which", ""},
		{"no such day", map[string]string{"which": "In", "day": "2026-02-30"}, nil, "day", ""},
		{"a number of another shape", map[string]string{"which": "In", "day": "2026-03-31", "meter": "1234"}, nil, "meter", ""},
		{"a number with other spaces", map[string]string{"which": "In", "day": "2026-03-31", "meter": "w0412 345"}, nil, "", "which day meter"},
		{"a picture", map[string]string{"which": "Out", "day": "2026-03-31", "forward": "x"}, map[string]Upload{"photo": {"meter.png", png}}, "", "which day forward photo"},
		{"a page that calls itself a picture", map[string]string{"which": "Out", "day": "2026-03-31", "forward": "x"}, map[string]Upload{"photo": {"meter.png", []byte("<html><script>")}}, "photo", ""},
		{"too long", map[string]string{"which": "Out", "day": "2026-03-31", "forward": strings.Repeat("é", MaxLong+1)}, nil, "forward", ""},
	} {
		taken, faults := Take(moving, c.answers, c.uploads)
		var wrong, right []string
		for _, f := range faults {
			wrong = append(wrong, f.Key)
		}
		for _, a := range taken {
			right = append(right, a.Key)
		}
		if strings.Join(wrong, " ") != c.faults || c.faults == "" && strings.Join(right, " ") != c.taken {
			t.Errorf("%s: wrong %v, taken %v", c.name, faults, taken)
		}
	}
}

func TestFieldsThatMakeNoFormAreRefused(t *testing.T) {
	if faults := CheckFields(moving); len(faults) > 0 {
		t.Errorf("a good form: %v", faults)
	}
	for name, c := range map[string]struct {
		field Field
		at    string
	}{
		"a key with a space":             {Field{Key: "a b", Label: "x", Kind: Text}, "key"},
		"a key of every form":            {Field{Key: "address", Label: "x", Kind: Text}, "key"},
		"a key twice":                    {Field{Key: "day", Label: "x", Kind: Text}, "key"},
		"no label":                       {Field{Key: "a", Label: " ", Kind: Text}, "label"},
		"no kind":                        {Field{Key: "a", Label: "x", Kind: "colour"}, "kind"},
		"a choice of one":                {Field{Key: "a", Label: "x", Kind: Choice, Options: []string{"a"}}, "options"},
		"an empty option":                {Field{Key: "a", Label: "x", Kind: Choice, Options: []string{"a", " "}}, "options"},
		"depends on what is no choice":   {Field{Key: "a", Label: "x", Kind: Text, When: When{"day", "x"}}, "when"},
		"depends on an option not there": {Field{Key: "a", Label: "x", Kind: Text, When: When{"which", "Up"}}, "when"},
	} {
		faults := CheckFields(append(slices.Clone(moving), c.field))
		if len(faults) == 0 || !strings.HasSuffix(faults[0].Key, "."+c.at) {
			t.Errorf("%s: %v", name, faults)
		}
	}
	if len(CheckFields(make([]Field, MaxFields+1))) != 1 {
		t.Error("too many fields were taken")
	}
}

// A field that depends on one that is itself not asked for is not asked for.
func TestConditionsHangTogether(t *testing.T) {
	chain := []Field{
		{Key: "a", Label: "a", Kind: Choice, Options: []string{"y", "n"}},
		{Key: "b", Label: "b", Kind: Choice, Options: []string{"y", "n"}, When: When{"a", "y"}},
		{Key: "c", Label: "c", Kind: Text, When: When{"b", "y"}},
	}
	if n := len(Asked(chain, map[string]string{"a": "n", "b": "y"})); n != 1 {
		t.Errorf("%d fields are asked for, want 1", n)
	}
	if n := len(Asked(chain, map[string]string{"a": "y", "b": "y"})); n != 3 {
		t.Errorf("%d fields are asked for, want 3", n)
	}
}

func TestFilesAreKnownByTheirContent(t *testing.T) {
	for content, want := range map[string]bool{
		string(png): true, "\xff\xd8\xff\xe0": true, "%PDF-1.7": true, "plain words": true,
		"": false, "<!doctype html><p>": false, "<svg xmlns='x'>": false, "<?xml version='1'?><svg/>": false, "MZ\x90\x00\x03": false, "PK\x03\x04": false,
		strings.Repeat("a", MaxFile+1): false,
	} {
		if _, fault := CheckFile(Upload{"x.png", []byte(content)}); (fault == "") != want {
			t.Errorf("%.12q: %q", content, fault)
		}
	}
}

func TestAddressesAreThoseThatMailIsSentTo(t *testing.T) {
	for text, want := range map[string]bool{
		"wim@post.example": true, " wim@post.example ": true, "w.im+bills@mail.post.example": true, "wim@post-office.example": true,
		"": false, "wim": false, "Wim Ott <wim@post.example>": false, "<wim@post.example>": false, "wim@post.example, mae@post.example": false,
		"wim@localhost": false, "wim@[192.0.2.1]": false, `"wim ott"@post.example`: false, "wim@pöst.example": false, "wïm@post.example": false,
		"wim@post.example\r\nBcc: mae@post.example": false, "wim(a comment)@post.example": false, strings.Repeat("w", 65) + "@post.example": false,
		"wim@" + strings.Repeat("post.", 60) + "example": false,
	} {
		address, fault := Address(text)
		if (fault == "") != want || want && address != strings.TrimSpace(text) {
			t.Errorf("%.60q: %q, %q", text, address, fault)
		}
	}
}

func TestWhatMachinesRunIsNotTaken(t *testing.T) {
	for name, content := range map[string]string{
		"a.bat": "echo hello", "a.js": "let x = 1", "a.vbs": "x = 1", "a.ps1": "Get-Item .", "a.url": "plain", "a.hta": "words", "a.exe": "words",
		"photo.png.exe": "\x89PNG\r\n\x1a\n", "a.EXE. ": "words", "a.b\u202eat.\u202ebat": "words", "a.lnk": "words", "a.svg": "words",
		"a.txt": "@echo off\r\ndel x", "b.txt": "[InternetShortcut]\r\nURL=file:///x", "c.txt": "#!/bin/sh", "d.txt": "\ufeff<hta:application>",
		"e.txt": "Set x = CreateObject(\"WScript.Shell\")", "f.txt": "REGEDIT4\r\n[x]", "g": "hello <script>alert(1)</script>",
	} {
		if _, fault := CheckFile(Upload{name, []byte(content)}); fault == "" {
			t.Errorf("%q is taken", name)
		}
	}
	for name, content := range map[string]string{"meter.png": "\x89PNG\r\n\x1a\n", "bill.pdf": "%PDF-1.7", "notes": "My meter reads 12345.", "post.example.com.txt": "words"} {
		if _, fault := CheckFile(Upload{name, []byte(content)}); fault != "" {
			t.Errorf("%q: %s", name, fault)
		}
	}
}

func TestFilesAreKeptUnderANameThatFits(t *testing.T) {
	for _, c := range []struct{ name, mediaType, want string }{
		{"meter.png", "image/png", "meter.png"},
		{"METER.PNG", "image/png", "METER.png"},
		{"meter.jpeg", "image/jpeg", "meter.jpeg"},
		{"photo\u202egnp.exe.png", "image/png", "photognp_exe.png"},
		{"bill.pdf.exe.txt", "application/pdf", "bill_pdf_exe_txt.pdf"},
		{"../../etc/passwd", "text/plain", "etc_passwd.txt"},
		{"a\r\nSet-Cookie: x.png", "image/png", "aSet-Cookie_ x.png"},
		{"", "image/png", "file.png"},
		{".png", "image/png", "png.png"},
		{"prices.xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "prices.xlsx"},
		{"prices.exe", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "prices_exe.xlsx"},
		{"data.bin", "application/octet-stream", "data.bin"},
		{"data.exe", "application/octet-stream", "data_exe"},
		{"   . ", "text/plain", "file.txt"},
		{"читання.pdf", "application/pdf", "читання.pdf"},
		{"a\x00b\u200bc.txt", "text/plain", "abc.txt"},
	} {
		if got := FileName(c.name, c.mediaType); got != c.want {
			t.Errorf("%q: %q, want %q", c.name, got, c.want)
		}
	}
	if got := FileName(
		strings.Repeat("ü", 300)+".pdf",
		"application/pdf",
	); len([]rune(got)) != LongestName ||
		!strings.HasSuffix(got, "ü.pdf") {
		t.Errorf("a long name becomes %q", got)
	}
}
