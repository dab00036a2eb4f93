package http

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"strings"
	"sync"

	"github.com/gofiber/fiber/v2"

	"hermeneus/web"
)

// crawlers knows programs by the names that they give of themselves: those of a list that is
// kept by its maintainers (npm's crawler-user-agents) and built into the binary. A word alone,
// such as an ending, tells nothing: telephones have such names too.
type crawlers struct {
	patterns []*regexp.Regexp
	plain    []string // those patterns that are plain words

	mu    sync.Mutex
	known map[string]bool
}

// crawlersKept bounds how many names are remembered: there are few, unless somebody invents them.
const crawlersKept = 4096

func loadCrawlers() (*crawlers, error) {
	raw, err := web.Dist.ReadFile("dist/crawlers.json")
	if errors.Is(err, fs.ErrNotExist) { // before the first build of the front end
		return &crawlers{known: map[string]bool{}}, nil
	}
	var list []string
	if err == nil {
		err = json.Unmarshal(raw, &list)
	}
	if err != nil {
		return nil, fmt.Errorf("reading the list of crawlers: %w", err)
	}
	c := &crawlers{known: map[string]bool{}}
	for _, pattern := range list {
		p, err := regexp.Compile(pattern)
		if err != nil {
			return nil, fmt.Errorf("reading the list of crawlers: %q: %w", pattern, err)
		}
		if text, whole := p.LiteralPrefix(); whole {
			c.plain = append(c.plain, text)
		} else {
			c.patterns = append(c.patterns, p)
		}
	}
	return c, nil
}

// is reports whether a program of this name is a crawler.
func (c *crawlers) is(agent string) bool {
	agent = agent[:min(len(agent), 400)]
	c.mu.Lock()
	is, known := c.known[agent]
	c.mu.Unlock()
	if known {
		return is
	}
	is = c.look(agent)
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.known) >= crawlersKept {
		clear(c.known)
	}
	c.known[agent] = is
	return is
}

func (c *crawlers) look(agent string) bool {
	for _, text := range c.plain {
		if strings.Contains(agent, text) {
			return true
		}
	}
	for _, p := range c.patterns {
		if p.MatchString(agent) {
			return true
		}
	}
	return false
}

// unseen reports whether nobody looks at what is asked for: only its head is, or a browser loads it
// ahead, in case somebody goes there (Sec-Purpose of the Fetch standard, section 3.1.7; the others
// are what browsers sent before, common practice).
func unseen(c *fiber.Ctx) bool {
	if c.Method() == fiber.MethodHead {
		return true
	}
	for _, header := range []string{"Sec-Purpose", "Purpose", "X-Purpose", "X-Moz"} {
		purpose := strings.ToLower(c.Get(header))
		if strings.Contains(purpose, "prefetch") || strings.Contains(purpose, "prerender") || purpose == "preview" {
			return true
		}
	}
	return false
}
