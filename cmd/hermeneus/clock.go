package main

import (
	"os"
	"strings"
	"time"
)

// clock reads the time, ahead by what the clock file says, if there is one.
func clock(file string) func() time.Time {
	if file == "" {
		return time.Now
	}
	return func() time.Time {
		raw, err := os.ReadFile(file)
		if err != nil {
			return time.Now()
		}
		ahead, err := time.ParseDuration(strings.TrimSpace(string(raw)))
		if err != nil {
			return time.Now()
		}
		return time.Now().Add(ahead)
	}
}
