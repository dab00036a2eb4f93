package http

import (
	"bufio"
	"fmt"
	"sync"
	"time"

	"github.com/gofiber/fiber/v2"

	"hermeneus/app/conversations"
	"hermeneus/app/flows"
	"hermeneus/app/problem"
	"hermeneus/app/writing"
)

// beat is how often a quiet line is tried, so that a lost one is noticed.
const beat = 20 * time.Second

// liveUpdates tell a page that is open of what changed.
type liveUpdates struct {
	*server
	conversations *conversations.Conversations
	writing       *writing.Writing
	flows         *flows.Flows
}

// live serves the streams of server-sent events (WHATWG HTML, section 9.2).
// An event carries nothing but that there is something new; the page then asks
// for it, so that a missed event costs nothing.
func (s *liveUpdates) live(f *fiber.App) {
	f.Get("/api/chat/:token/events", func(c *fiber.Ctx) error {
		bell, stop, err := s.conversations.WatchChat(c.UserContext(), c.Params("token"))
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
	f.Get("/api/staff/articles/:reference/events", func(c *fiber.Ctx) error {
		if _, err := staffOf(c.UserContext()); err != nil {
			return err
		}
		bell, stop, err := s.writing.WatchCopy(c.UserContext(), c.Params("reference"))
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
	f.Get("/api/staff/flows/:slug/events", func(c *fiber.Ctx) error {
		if _, err := staffOf(c.UserContext()); err != nil {
			return err
		}
		bell, stop, err := s.flows.Drafts.Watch(c.UserContext(), c.Params("slug"))
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
	f.Get("/api/staff/handoffs-events", func(c *fiber.Ctx) error {
		who, err := staffOf(c.UserContext())
		if err != nil {
			return err
		}
		bell, stop, err := s.conversations.WatchHandoffs(who)
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
}

// How many streams of events one network address, and one person, may hold open here, and
// how long one is kept before its reader has to ask anew.
const (
	linesOfPlace  = 60
	linesOfPerson = 20
	longestLine   = time.Hour
	writeTime     = 30 * time.Second // within which a reader takes what is sent
)

// lines counts who holds how many streams open.
type lines struct {
	sync.Mutex
	open map[string]int
}

// take opens a line for everyone it counts for, or says no.
func (l *lines) take(most map[string]int) bool {
	l.Lock()
	defer l.Unlock()
	for who, n := range most {
		if l.open[who] >= n {
			return false
		}
	}
	if l.open == nil {
		l.open = map[string]int{}
	}
	for who := range most {
		l.open[who]++
	}
	return true
}

func (l *lines) give(most map[string]int) {
	l.Lock()
	defer l.Unlock()
	for who := range most {
		if l.open[who]--; l.open[who] <= 0 {
			delete(l.open, who)
		}
	}
}

// stream sends an event for each ring, until the reader or the server goes, the reader stops
// reading, or its time is over.
func (s *server) stream(c *fiber.Ctx, bell <-chan struct{}, stop func()) error {
	holds := map[string]int{"place " + networkOf(s.placeOf(c)): linesOfPlace}
	if who, err := staffOf(c.UserContext()); err == nil {
		holds[fmt.Sprintf("staff %d", who.ID)] = linesOfPerson
	}
	if !s.lines.take(holds) {
		stop()
		return &problem.Problem{Kind: problem.TooMany, Detail: "Too many pages are open at once. Close some of them."}
	}
	c.Set("Content-Type", "text/event-stream")
	c.Set("Cache-Control", "no-store")
	c.Set("X-Accel-Buffering", "no")
	line := c.Context().Conn()
	c.Context().SetBodyStreamWriter(func(w *bufio.Writer) {
		defer s.lines.give(holds)
		defer stop()
		tick := time.NewTicker(beat)
		defer tick.Stop()
		ends := time.NewTimer(longestLine)
		defer ends.Stop()
		send := func(words string) bool {
			stuck := time.AfterFunc(writeTime, func() { _ = line.Close() })
			defer stuck.Stop()
			_, _ = w.WriteString(words)
			return w.Flush() == nil
		}
		if !send("retry: 1000\ndata: ready\n\n") {
			return
		}
		for {
			words := ": still here\n\n"
			select {
			case <-s.closing.Done():
				return
			case <-ends.C:
				return
			case <-bell:
				words = "data: changed\n\n"
			case <-tick.C:
			}
			if !send(words) {
				return
			}
		}
	})
	return nil
}
