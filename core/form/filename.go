package form

import (
	"path"
	"slices"
	"strings"
	"unicode"

	"github.com/gabriel-vasile/mimetype"
)

// LongestName is how much of a file's name is kept, in characters.
const LongestName = 120

// runs are the endings of files that machines run, or follow, when somebody opens them:
// programs, scripts and short cuts (common practice; from memory).
var runs = []string{
	"ade",
	"adp",
	"apk",
	"app",
	"appx",
	"bas",
	"bat",
	"chm",
	"cmd",
	"com",
	"cpl",
	"desktop",
	"dll",
	"dmg",
	"exe",
	"gadget",
	"hta",
	"htm",
	"html",
	"inf",
	"ins",
	"iso",
	"isp",
	"jar",
	"js",
	"jse",
	"lnk",
	"mde",
	"msc",
	"msi",
	"msp",
	"mst",
	"mht",
	"mhtml",
	"pif",
	"ps1",
	"ps1xml",
	"ps2",
	"psc1",
	"py",
	"pyw",
	"rb",
	"reg",
	"scf",
	"scr",
	"sct",
	"sh",
	"shb",
	"shs",
	"svg",
	"swf",
	"sys",
	"url",
	"vb",
	"vbe",
	"vbs",
	"vxd",
	"website",
	"wsc",
	"wsf",
	"wsh",
	"xhtml",
	"xll",
	"xml",
	"xpi",
}

// endings are those that fit each type that is taken, the usual one first.
var endings = map[string][]string{
	"image/png": {".png"}, "image/jpeg": {".jpg", ".jpeg"}, "image/gif": {".gif"}, "image/webp": {".webp"},
	"application/zip": {".zip", ".docx", ".xlsx", ".pptx", ".odt", ".ods", ".odp", ".epub"},
	"application/pdf": {".pdf"}, "text/plain": {".txt", ".text", ".log", ".csv", ".md"},
}

// runByName reports whether the ending of a name, as machines see it, is of what they run.
func runByName(name string) bool {
	ending := path.Ext(strings.TrimRight(strings.ToLower(visible(name)), ". "))
	return ending != "" && slices.Contains(runs, strings.TrimSpace(ending[1:]))
}

// runByContent reports whether a plain text begins as what machines run does.
func runByContent(content []byte) bool {
	head := strings.ToLower(string(content[:min(len(content), 2048)]))
	trimmed := strings.TrimLeft(head, "\ufeff \t\r\n")
	for _, begins := range []string{"<", "#!", "@echo", "[internetshortcut]", "[desktop entry]", "windows registry", "regedit4", "wscript", "powershell"} {
		if strings.HasPrefix(trimmed, begins) {
			return true
		}
	}
	for _, holds := range []string{"<script", "wscript.", "createobject(", "<hta:", "invoke-expression", "activexobject"} {
		if strings.Contains(head, holds) {
			return true
		}
	}
	return false
}

// visible leaves out of a name what is not seen, and what turns the direction of writing:
// with it "photo‮gnp.exe" looks like a picture.
func visible(name string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Cf, r),
			unicode.Is(unicode.Cc, r),
			unicode.Is(unicode.Co, r),
			r == unicode.ReplacementChar:
			return -1
		case unicode.IsSpace(r):
			return ' '
		case strings.ContainsRune(`/\:*?"<>|`, r):
			return '_'
		}
		return r
	}, name)
}

// FileName gives a file's name as it is kept and offered: without what is not seen, and with
// one ending, that of what the file is.
func FileName(name, mediaType string) string {
	name = strings.Trim(strings.Join(strings.Fields(visible(strings.ToValidUTF8(name, ""))), " "), " .")
	ending := strings.ToLower(path.Ext(name))
	fitting := endings[mediaType]
	if known := mimetype.Lookup(mediaType); fitting == nil && known != nil && known.Extension() != "" {
		fitting = []string{known.Extension()}
	} else if fitting == nil && !runByName(name) {
		fitting = []string{ending} // nobody knows better
	}
	if !slices.Contains(fitting, ending) {
		if ending = ""; len(fitting) > 0 {
			ending = fitting[0]
		}
	} else {
		name = name[:len(name)-len(ending)]
	}
	name = strings.Trim(strings.ReplaceAll(name, ".", "_"), " _")
	if name == "" {
		name = "file"
	}
	if runes := []rune(name); len(runes)+len(ending) > LongestName {
		name = string(runes[:LongestName-len(ending)])
	}
	return name + ending
}
