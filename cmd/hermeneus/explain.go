package main

import (
	"errors"
	"fmt"

	"hermeneus/app/problem"
)

// explain spells out which fields a problem is about.
func explain(err error) error {
	var p *problem.Problem
	if !errors.As(err, &p) {
		return err
	}
	for _, f := range p.Fields {
		err = fmt.Errorf("%w\n  %s: %s", err, f.Name, f.Message)
	}
	return err
}
