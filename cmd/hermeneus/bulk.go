package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"hermeneus/app"
	"hermeneus/app/accounts"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/http"
)

const outcomesHelp = `Usage: hermeneus outcomes --evidence FILE.jsonl [--as-of TIME] [--window 72h] [--json]

Folds evidence, one JSON object a line, into questions, and prints their outcomes
and the rates with their 95 % intervals. The same code computes the live figures.
A bad line is refused with its number, and nothing is printed.
`

func outcomes(_ context.Context, args []string, out io.Writer) error {
	set := flags("outcomes", outcomesHelp)
	file := set.String("evidence", "", "the file to read; - for standard input")
	at := set.String("as-of", "", "RFC 3339 time at which to look; what lies later does not exist yet (default now)")
	window := set.Duration("window", outcome.DefaultWindow, "return window, 1h to 720h")
	asJSON := set.Bool("json", false, "print everything as JSON instead of a summary")
	if err := parse(set, args, 0); err != nil {
		return err
	}
	asOf := clock(env("HERMENEUS_CLOCK_FILE"))()
	if *at != "" {
		var err error
		if asOf, err = time.Parse(time.RFC3339, *at); err != nil {
			return fmt.Errorf("--as-of: %w", err)
		}
	}
	if asOf.Year() >= latestYear {
		return fmt.Errorf("--as-of: %s lies too far ahead", *at)
	}
	if *window < outcome.MinWindow || *window > outcome.MaxWindow {
		return fmt.Errorf("--window: %s lies outside 1h to 720h", *window)
	}
	items, err := readEvidence(*file)
	if err != nil {
		return err
	}
	report := outcome.NewReport(outcome.Fold(items, asOf, *window))
	if *asJSON {
		encoder := json.NewEncoder(out)
		encoder.SetIndent("", " ")
		return encoder.Encode(report)
	}
	return summarise(out, report)
}

// latestYear is the first in which a question that began could close in a year of five digits.
const latestYear = 9999

func readEvidence(file string) ([]outcome.Evidence, error) {
	var in io.Reader = os.Stdin
	switch file {
	case "":
		return nil, fmt.Errorf("--evidence names the file to read")
	case "-":
	default:
		f, err := os.Open(file)
		if err != nil {
			return nil, err
		}
		defer func() { _ = f.Close() }()
		in = f
	}
	items, err := outcome.ReadForFold(in)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return items, nil
}

func summarise(out io.Writer, r outcome.Report) error {
	w := bufio.NewWriter(out)
	c := r.Counts
	fmt.Fprintf(w, "%d settled questions: %d confirmed, %d presumed, %d unanswered, %d returned, %d person\n",
		c.Settled(), c.Confirmed, c.Presumed, c.Unanswered, c.Returned, c.Person)
	fmt.Fprintf(w, "%d open, %d settling; set aside: %d browsing visits, %d unseen, %d unlikely\n",
		c.Open, c.Settling, c.Browsing, c.Unseen, c.Unlikely)
	fmt.Fprintf(w, "%d of the presumed asked again\n", c.AskedAgain)
	for _, line := range []struct {
		name string
		rate outcome.ReportRate
	}{{"proven", r.Rates.Proven}, {"deflection", r.Rates.Deflection}, {"claimed", r.Rates.Claimed}} {
		if line.rate.Value == nil {
			fmt.Fprintf(w, "%-11s nothing has settled yet\n", line.name)
			continue
		}
		fmt.Fprintf(
			w,
			"%-11s %5.1f %%  (%.1f to %.1f)\n",
			line.name,
			100**line.rate.Value,
			100**line.rate.Low,
			100**line.rate.High,
		)
	}
	return w.Flush()
}

func open(ctx context.Context) (*app.App, error) {
	c, err := config()
	if err != nil {
		return nil, err
	}
	c.Idle = true
	return app.Open(ctx, c)
}

// readPassword reads a line of standard input.
func readPassword() (string, error) {
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && err != io.EOF {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func addCustomer(ctx context.Context, args []string, out io.Writer) error {
	set := flags(
		"customer",
		settingsHelp(
			"Usage: hermeneus customer --name NAME --email ADDRESS < PASSWORD\n\nAdds a customer who can sign in "+
				"to the help centre; the password is read from standard input.",
		),
	)
	name := set.String("name", "", "name")
	email := set.String("email", "", "mail address, used to sign in")
	if err := parse(set, args, 0); err != nil {
		return err
	}
	password, err := readPassword()
	if err != nil {
		return err
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	if _, err := a.Accounts.People.AddCustomer(ctx, *name, *email, password); err != nil {
		return explain(err)
	}
	fmt.Fprintf(out, "%s can sign in to the help centre with %s.\n", *name, *email)
	return nil
}

func addStaff(ctx context.Context, args []string, out io.Writer) error {
	set := flags(
		"staff",
		settingsHelp(
			"Usage: hermeneus staff --name NAME --email ADDRESS [--roles administrator,author] < "+
				"PASSWORD\n\nAdds somebody to the staff; the password is read from standard input.",
		),
	)
	name := set.String("name", "", "name")
	email := set.String("email", "", "mail address, used to sign in")
	roles := set.String("roles", "administrator", "roles, separated by commas")
	team := set.String("team", "", "team that an agent answers for")
	if err := parse(set, args, 0); err != nil {
		return err
	}
	password, err := readPassword()
	if err != nil {
		return err
	}
	n := accounts.NewStaff{Name: *name, Email: *email, Password: password, Team: *team}
	for _, r := range strings.Split(*roles, ",") {
		n.Roles = append(n.Roles, role.Role(strings.TrimSpace(r)))
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	if _, err := a.Accounts.People.AddFirstStaff(ctx, n); err != nil {
		return explain(err)
	}
	fmt.Fprintf(out, "%s can sign in with %s.\n", n.Name, n.Email)
	return nil
}

func setPassword(ctx context.Context, args []string, out io.Writer) error {
	set := flags(
		"password",
		settingsHelp(
			"Usage: hermeneus password --email ADDRESS [--customer] < PASSWORD\n\nSets the password of somebody "+
				"on the staff, or of a customer; it is read from standard input. Whoever was signed in with the old "+
				"one is signed out.",
		),
	)
	email := set.String("email", "", "mail address, used to sign in")
	customer := set.Bool("customer", false, "a customer of the help centre, not somebody on the staff")
	if err := parse(set, args, 0); err != nil {
		return err
	}
	password, err := readPassword()
	if err != nil {
		return err
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	if err := a.Accounts.SetPasswordOf(ctx, !*customer, *email, password); err != nil {
		return explain(err)
	}
	fmt.Fprintf(out, "The password of %s is changed.\n", *email)
	return nil
}

func openapi(_ context.Context, args []string, out io.Writer) error {
	if err := parse(flags("openapi", "Usage: hermeneus openapi"), args, 0); err != nil {
		return err
	}
	document, err := http.OpenAPI()
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "%s\n", document)
	return err
}
