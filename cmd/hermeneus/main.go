// Command hermeneus is the whole application in one binary: the server, the demo world, and the commands
// that work on files and databases in bulk.
// It promises that each command says what it did, and ends with a status that a script can go by.
// It may hold no rule.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	_ "time/tzdata" // zones, where the machine has none
)

// command is one thing the binary does.
type command struct {
	name, does string
	run        func(ctx context.Context, args []string, out io.Writer) error
}

var commands = []command{
	{"serve", "serve the application", serve},
	{"demo", "load the demo world if it is not there yet, and serve it with its stand-ins", serveDemo},
	{"migrate", "bring the database's schema up to date", migrate},
	{"password", "set the password of somebody on the staff, or of a customer", setPassword},
	{"staff", "add somebody to the staff: the first administrator of a new installation", addStaff},
	{"customer", "add a customer who can sign in to the help centre", addCustomer},
	{"outcomes", "fold a file of evidence into questions, counts and rates", outcomes},
	{"verify", "recompute every question from the evidence, and tell each difference from what is kept", verify},
	{"flow", "check a script of the bot, or write it as JSON or as text", flowCommand},
	{"import", "bring articles into the library from a folder or an archive", importLibrary},
	{"export", "write the library as files, or the evidence as JSON Lines", export},
	{"search-eval", "measure the search on files of documents and questions", searchEval},
	{"openapi", "print the document that describes the API", openapi},
}

// errUsage has been explained already.
var errUsage = errors.New("usage")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	err := run(ctx, os.Args[1:], os.Stdout)
	stop()
	switch {
	case errors.Is(err, flag.ErrHelp):
	case errors.Is(err, errUsage):
		os.Exit(2)
	case err != nil:
		fmt.Fprintln(os.Stderr, "hermeneus:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, args []string, out io.Writer) error {
	if len(args) > 0 {
		if i := slices.IndexFunc(commands, func(c command) bool { return c.name == args[0] }); i >= 0 {
			return commands[i].run(ctx, args[1:], out)
		}
		if args[0] == "help" || args[0] == "--help" || args[0] == "-h" {
			usage(out)
			return nil
		}
		fmt.Fprintf(os.Stderr, "hermeneus: there is no command %q\n\n", args[0])
	}
	usage(os.Stderr)
	return errUsage
}

func usage(w io.Writer) {
	fmt.Fprintln(w, "Usage: hermeneus COMMAND [FLAGS]")
	fmt.Fprintln(w)
	for _, c := range commands {
		fmt.Fprintf(w, "  %-11s %s\n", c.name, c.does)
	}
	fmt.Fprintln(w, "\nhermeneus COMMAND --help says more.")
}

// flags makes the flags of a command, with its help before them.
func flags(name, help string) *flag.FlagSet {
	set := flag.NewFlagSet(name, flag.ContinueOnError)
	set.Usage = func() {
		fmt.Fprintln(set.Output(), help)
		set.PrintDefaults()
	}
	return set
}

// parse reads flags; what follows them must have as many words as wanted.
func parse(set *flag.FlagSet, args []string, words int) error {
	if err := set.Parse(args); err != nil {
		if errors.Is(err, flag.ErrHelp) {
			return err
		}
		return errUsage
	}
	if set.NArg() != words {
		set.Usage()
		return errUsage
	}
	return nil
}

// parseAround reads flags that stand before, between or after the words.
func parseAround(set *flag.FlagSet, args []string, words int) error {
	var plain, flagged []string
	for i := 0; i < len(args); i++ {
		name, _, valued := strings.Cut(strings.TrimLeft(args[i], "-"), "=")
		if !strings.HasPrefix(args[i], "-") || args[i] == "-" {
			plain = append(plain, args[i])
			continue
		}
		flagged = append(flagged, args[i])
		f := set.Lookup(name)
		if f == nil || valued {
			continue
		}
		if b, ok := f.Value.(interface{ IsBoolFlag() bool }); (!ok || !b.IsBoolFlag()) && i+1 < len(args) {
			i++
			flagged = append(flagged, args[i])
		}
	}
	return parse(set, append(flagged, plain...), words)
}
