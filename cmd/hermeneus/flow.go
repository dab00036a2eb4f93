package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"

	"hermeneus/core/flow"
)

const flowHelp = `Usage: hermeneus flow check FILE [--database] [--json]
       hermeneus flow json FILE
       hermeneus flow text FILE
       hermeneus flow rehearse FILE --script SCRIPT [--json]

check says what is wrong with a script, each fault with its line: in itself, or with
--database also in what it names there. Without a database, names such as @power-is-off
may stand for articles. FILE is a script as it is typed, or as JSON; - is the input.
json and text write the one as the other.

rehearse has kept conversations again with a script, and prints those that go otherwise:
a line that is gone begins with -, one that is new with +. FILE is a rehearsal as it is
taken from a flow, several of them one after the other, or a list. It needs no database:
the world stands in the rehearsal.

It ends with status 0 if nothing is wrong, 0 with warnings alone, 1 with errors or with a
rehearsal that goes otherwise, 2 if the file cannot be read or the command is not understood.
`

// flowFaults is what ends the command with status 1.
type flowFaults int

func (n flowFaults) Error() string {
	if n == 1 {
		return "1 error"
	}
	return fmt.Sprintf("%d errors", int(n))
}

func flowCommand(ctx context.Context, args []string, out io.Writer) error {
	set := flags("flow", flowHelp)
	database := set.Bool("database", false, "check what it names in the database, too (see serve for its settings)")
	asJSON := set.Bool("json", false, "print the faults, or the rehearsals, as JSON Lines")
	script := set.String("script", "", "the script that is rehearsed")
	if err := parseAround(set, args, 2); err != nil {
		return err
	}
	if set.Arg(0) == "rehearse" {
		return rehearse(set.Arg(1), *script, *asJSON, out)
	}
	raw, err := readScript(set.Arg(1))
	if err != nil {
		fmt.Fprintln(os.Stderr, "hermeneus:", err)
		return errUsage
	}
	reading, err := flow.ReadAny(raw)
	if err != nil {
		fmt.Fprintln(os.Stderr, "hermeneus:", err)
		return errUsage
	}
	switch set.Arg(0) {
	case "check":
	case "json":
		enc := json.NewEncoder(out)
		enc.SetIndent("", "  ")
		enc.SetEscapeHTML(false)
		return enc.Encode(reading.Script)
	case "text":
		_, err := io.WriteString(out, flow.Write(reading.Script))
		return err
	default:
		set.Usage()
		return errUsage
	}
	faults := reading.Check(flow.Env{Names: true})
	if *database {
		a, err := open(ctx)
		if err != nil {
			return err
		}
		defer a.Close()
		checked, err := a.Flows.Check(ctx, "", raw)
		if err != nil {
			return err
		}
		faults = checked.Faults
	}
	w := bufio.NewWriter(out)
	for _, f := range faults {
		if *asJSON {
			if err := json.NewEncoder(w).Encode(f); err != nil {
				return err
			}
			continue
		}
		fmt.Fprintf(w, "%s:%d: %s: %s\n", set.Arg(1), f.Line, f.Level, f.Message)
	}
	if err := w.Flush(); err != nil {
		return err
	}
	if n := flow.Errors(faults); n > 0 {
		return flowFaults(n)
	}
	return nil
}

func readScript(name string) (string, error) {
	from := os.Stdin
	if name != "-" {
		file, err := os.Open(name)
		if err != nil {
			return "", err
		}
		defer func() { _ = file.Close() }()
		from = file
	}
	raw, err := io.ReadAll(io.LimitReader(from, flow.MaxScript+1))
	if err != nil {
		return "", err
	}
	if len(raw) > flow.MaxScript {
		return "", fmt.Errorf("%s is larger than %d bytes", name, flow.MaxScript)
	}
	return string(raw), nil
}
