package standin

import (
	"net/url"
	"strings"
)

// Answer is what an address outside answers, as far as the simulated world goes.
type Answer struct {
	Status int    `json:"status"`
	Fault  string `json:"fault"`
}

// CheckAddress says how an address answers, without any network. What an address
// says decides it: a host that begins with "gone." is not there any more, one that
// begins with "slow." does not answer in time, and a path with the part "missing"
// is not found. All others answer.
func CheckAddress(address string) Answer {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return Answer{0, "This is no address of a page."}
	}
	host := strings.ToLower(u.Hostname())
	switch {
	case strings.HasPrefix(host, "gone."):
		return Answer{0, "There is no such host any more."}
	case strings.HasPrefix(host, "slow."):
		return Answer{0, "It did not answer in time."}
	}
	for _, part := range strings.Split(u.Path, "/") {
		if part == "missing" {
			return Answer{404, "The page is not found there (404)."}
		}
	}
	return Answer{200, ""}
}
