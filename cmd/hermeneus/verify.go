package main

import (
	"bufio"
	"context"
	"fmt"
	"io"
)

const verifyHelp = `Usage: hermeneus verify

Recomputes every question from the evidence, and every count from the questions,
and prints each difference from what is kept: there should be none. Evidence that
waits is folded first. With differences it ends with status 1.
`

func verify(ctx context.Context, args []string, out io.Writer) error {
	set := flags("verify", settingsHelp(verifyHelp))
	if err := parse(set, args, 0); err != nil {
		return err
	}
	a, err := open(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	w := bufio.NewWriter(out)
	differences := 0
	err = a.Outcomes.Verify(ctx, func(difference string) {
		differences++
		fmt.Fprintln(w, difference)
	})
	if err != nil {
		return err
	}
	if differences == 0 {
		fmt.Fprintln(w, "No difference.")
	}
	if err := w.Flush(); err != nil {
		return err
	}
	if differences > 0 {
		return fmt.Errorf("%d differences between what is kept and what the evidence comes to", differences)
	}
	return nil
}
