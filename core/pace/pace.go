// Package pace says how long somebody who tries passwords has to wait. It promises that
// guessing gets slow, and that nobody is ever shut out by what others do; it knows neither
// people nor passwords, and reads no clock.
package pace

import "time"

// Tries are the attempts within a window that a new one is held against: how many, and when
// the last was.
type Tries struct {
	Count int
	Last  time.Time
}

// Scopes are the attempts that concern one more attempt, from the narrowest scope to the widest.
type Scopes struct {
	Pair    Tries // on this account from this network
	Network Tries // on any account from this network
	Account Tries // on this account from anywhere
	Browser Tries // on this account by this browser, where it signed in to it before
	Known   bool  // the browser signed in to the account before
}

// The numbers of attempts that are free within a window, and the longest that anybody waits.
const (
	freeOfPair    = 5
	freeOfNetwork = 30
	freeOfBrowser = 10
	pressed       = 50 // attempts on an account from anywhere, from which on strangers wait sooner
	freePressed   = 2

	longest          = 15 * time.Minute
	longestOfBrowser = time.Minute
)

// Window is how long an attempt counts.
const Window = 30 * time.Minute

// Wait is how long one more attempt has to wait, 0 when it can be made. A browser that signed
// in to the account before waits for nobody but itself; and a network from which nobody tried
// this account lately waits only for its own attempts on others, so that a stranger elsewhere
// cannot keep a person out.
func (s Scopes) Wait(now time.Time) time.Duration {
	if s.Known {
		return left(s.Browser, freeOfBrowser, longestOfBrowser, now)
	}
	free := freeOfPair
	if s.Account.Count >= pressed {
		free = freePressed
	}
	return max(left(s.Pair, free, longest, now), left(s.Network, freeOfNetwork, longest, now))
}

// Slow reports whether attempts on the account have to wait by now: whether somebody should know.
func (s Scopes) Slow() bool { return s.Pair.Count >= freeOfPair || s.Account.Count >= pressed }

// left is what is left of a pause that doubles with each attempt after the free ones.
func left(t Tries, free int, most time.Duration, now time.Time) time.Duration {
	if t.Count < free {
		return 0
	}
	pause := most
	if over := t.Count - free; over < 20 {
		pause = min(most, time.Second<<(over+1))
	}
	return max(0, t.Last.Add(pause).Sub(now))
}
