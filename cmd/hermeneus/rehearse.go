package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"hermeneus/core/compare"
	"hermeneus/core/flow"
)

// otherwise is what ends the command with status 1: how many rehearsals go otherwise than they are kept.
type otherwise int

func (n otherwise) Error() string {
	if n == 1 {
		return "1 rehearsal goes otherwise than it is kept"
	}
	return fmt.Sprintf("%d rehearsals go otherwise than they are kept", int(n))
}

// rehearse has kept conversations again with a script, and says which go otherwise.
func rehearse(file, script string, asJSON bool, out io.Writer) error {
	unread := func(err error) error {
		fmt.Fprintln(os.Stderr, "hermeneus:", err)
		return errUsage
	}
	if script == "" {
		return unread(errors.New("say which script is rehearsed: --script SCRIPT"))
	}
	source, err := readScript(script)
	if err != nil {
		return unread(err)
	}
	reading, err := flow.ReadAny(source)
	if err != nil {
		return unread(err)
	}
	raw, err := readScript(file)
	if err != nil {
		return unread(err)
	}
	kept, err := rehearsals(raw)
	if err != nil {
		return unread(fmt.Errorf("%s: %w", file, err))
	}
	program := flow.Compile(reading.Script)
	w := bufio.NewWriter(out)
	var n otherwise
	for _, r := range kept {
		went := flow.Rehearse(program, r, nil)
		if !went.Same {
			n++
		}
		switch {
		case asJSON:
			if err := json.NewEncoder(w).Encode(went); err != nil {
				return err
			}
		case !went.Same:
			transcript(w, went)
		}
	}
	if err := w.Flush(); err != nil {
		return err
	}
	if n > 0 {
		return n
	}
	return nil
}

// rehearsals reads one, a list, or several one after the other.
func rehearsals(raw string) ([]flow.Rehearsal, error) {
	var all []flow.Rehearsal
	if strings.HasPrefix(strings.TrimSpace(raw), "[") {
		return all, json.Unmarshal([]byte(raw), &all)
	}
	for from := json.NewDecoder(bytes.NewBufferString(raw)); ; {
		var one flow.Rehearsal
		switch err := from.Decode(&one); {
		case errors.Is(err, io.EOF) && len(all) > 0:
			return all, nil
		case errors.Is(err, io.EOF):
			return nil, errors.New("there is no rehearsal in it")
		case err != nil:
			return nil, err
		}
		all = append(all, one)
	}
}

// transcript prints a rehearsal with the lines that changed.
func transcript(w io.Writer, went flow.Rehearsed) {
	fmt.Fprintf(w, "%s:\n", went.Name)
	for _, l := range went.Lines {
		mark := map[compare.Mark]string{compare.Same: " ", compare.Added: "+", compare.Removed: "-"}[l.Mark]
		parts := append([]string{l.Text}, l.Cards...)
		parts = append(parts, l.Told...)
		if l.Link != "" {
			parts = append(parts, l.Link)
		}
		if len(l.Choices) > 0 {
			parts = append(parts, "["+strings.Join(l.Choices, " | ")+"]")
		}
		text := strings.ReplaceAll(strings.Join(parts, " "), "\n", "\n"+mark+"           ")
		fmt.Fprintf(w, "%s %9s: %s\n", mark, l.Speaker, text)
	}
}
