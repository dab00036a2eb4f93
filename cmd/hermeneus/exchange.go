package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"hermeneus/app"
	"hermeneus/app/exchange"
	"hermeneus/app/lists"
	coreexchange "hermeneus/core/exchange"
	"hermeneus/core/outcome"
)

const importHelp = `Usage: hermeneus import library PATH [--dry-run] [--as ADDRESS] [--split pages|parts] [--json]

Brings articles in from a folder, a .zip, or a single file: CommonMark (.md) with or
without YAML front matter, and HTML pages. Folders become categories; links between
the files and pictures are kept. It prints line by line what was created, changed or
skipped, and what could not be kept. Importing the same again changes nothing.
`

func importLibrary(ctx context.Context, args []string, out io.Writer) error {
	set := flags("import", settingsHelp(importHelp))
	dry := set.Bool("dry-run", false, "only say what would be done")
	as := set.String("as", "", "mail address of whoever brings them in (default the first author)")
	split := set.String(
		"split",
		"pages",
		"pages: an article for each HTML page; parts: one for each heading without others below it",
	)
	asJSON := set.Bool("json", false, "print the report as JSON")
	if err := parseAround(set, args, 2); err != nil {
		return err
	}
	if set.Arg(0) != "library" || *split != string(coreexchange.Whole) && *split != string(coreexchange.Parts) {
		set.Usage()
		return errUsage
	}
	bundle, err := readBundle(set.Arg(1))
	if err != nil {
		return err
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	by, err := a.Staff.StaffByEmail(ctx, *as)
	if err != nil {
		return explain(fmt.Errorf("finding who brings them in: %w", err))
	}
	progress := func(done, total int) { fmt.Fprintf(os.Stderr, "\r%d of %d", done, total) }
	report, err := a.Exchange.ImportLibrary(
		ctx,
		by,
		bundle,
		exchange.ImportOptions{Split: coreexchange.Split(*split)},
		*dry,
		progress,
	)
	fmt.Fprintln(os.Stderr)
	if err != nil {
		return explain(err)
	}
	if *asJSON {
		encoder := json.NewEncoder(out)
		encoder.SetIndent("", " ")
		return encoder.Encode(report)
	}
	return printReport(out, report, *dry)
}

func readBundle(path string) (coreexchange.Bundle, error) {
	info, err := os.Stat(path)
	if err != nil {
		return coreexchange.Bundle{}, err
	}
	name := filepath.Base(filepath.Clean(path))
	if info.IsDir() {
		return coreexchange.ReadFolder(name, os.DirFS(path))
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		return coreexchange.Bundle{}, err
	}
	if strings.EqualFold(filepath.Ext(path), ".zip") {
		return coreexchange.ReadZip(name, raw)
	}
	return coreexchange.Bundle{Name: "uploads", Files: map[string][]byte{name: raw}}, nil
}

func printReport(out io.Writer, r exchange.ImportReport, dry bool) error {
	w := bufio.NewWriter(out)
	for _, l := range r.Lines {
		where := l.File
		if l.Line > 0 {
			where += fmt.Sprintf(":%d", l.Line)
		}
		fmt.Fprintf(w, "%-8s %s", l.Action, where)
		if l.Reference != "" {
			fmt.Fprintf(w, "  %s", l.Reference)
		}
		if l.Title != "" && l.Action != coreexchange.Note {
			fmt.Fprintf(w, "  %s", l.Title)
		}
		if l.Message != "" {
			fmt.Fprintf(w, "  (%s)", l.Message)
		}
		fmt.Fprintln(w)
	}
	did := ""
	if dry {
		did = " would be"
	}
	fmt.Fprintf(
		w,
		"%d%s created, %d changed, %d skipped, %d refused; %d notes\n",
		r.Created,
		did,
		r.Changed,
		r.Skipped,
		r.Failed,
		r.Notes,
	)
	if err := w.Flush(); err != nil {
		return err
	}
	if r.Failed > 0 {
		return fmt.Errorf("%d files could not be brought in", r.Failed)
	}
	return nil
}

const exportHelp = `Usage: hermeneus export library PATH [--as ADDRESS]
       hermeneus export evidence

export library writes every article as a CommonMark file with YAML front matter, in
the folders of its categories, with pictures and attachments, to a new or empty folder or to a
.zip. The same library makes the same bytes.
export evidence writes all evidence to standard output, one JSON object a line.
`

func export(ctx context.Context, args []string, out io.Writer) error {
	set := flags("export", settingsHelp(exportHelp))
	as := set.String("as", "", "mail address of whoever takes them out (default the first author)")
	words := 1
	if len(args) > 0 && args[0] == "library" {
		words = 2
	}
	if err := parseAround(set, args, words); err != nil {
		return err
	}
	if set.Arg(0) != "evidence" && set.Arg(0) != "library" {
		set.Usage()
		return errUsage
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	if set.Arg(0) == "library" {
		return exportLibrary(ctx, a, *as, set.Arg(1), out)
	}
	w := bufio.NewWriter(out)
	err = a.Recorder.Each(ctx, func(items []outcome.Evidence) error { return outcome.WriteJSONL(w, items) })
	if err != nil {
		return err
	}
	return w.Flush()
}

func exportLibrary(ctx context.Context, a *app.App, as, path string, out io.Writer) error {
	by, err := a.Staff.StaffByEmail(ctx, as)
	if err != nil {
		return explain(fmt.Errorf("finding who takes them out: %w", err))
	}
	bundle, err := a.Exchange.ExportLibrary(ctx, by, lists.ArticleFilter{}, nil)
	if err != nil {
		return explain(err)
	}
	if strings.EqualFold(filepath.Ext(path), ".zip") {
		raw, err := bundle.Zip()
		if err != nil {
			return err
		}
		if err := os.WriteFile(path, raw, 0o644); err != nil {
			return err
		}
	} else if err := writeFolder(bundle, path); err != nil {
		return err
	}
	fmt.Fprintf(out, "%d files written to %s.\n", len(bundle.Files), path)
	return nil
}

func writeFolder(b coreexchange.Bundle, folder string) error {
	if entries, err := os.ReadDir(folder); err == nil && len(entries) > 0 {
		return fmt.Errorf("%s is not empty: name a new folder, so that nothing old is left among the new", folder)
	}
	for _, name := range b.Paths() {
		file := filepath.Join(folder, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(file, b.Files[name], 0o644); err != nil {
			return err
		}
	}
	return nil
}
