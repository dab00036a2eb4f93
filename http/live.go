package http

import (
	"bufio"
	"time"

	"github.com/gofiber/fiber/v2"
)

// beat is how often a quiet line is tried, so that a lost one is noticed.
const beat = 20 * time.Second

// live serves the streams of server-sent events (WHATWG HTML, section 9.2).
// An event carries nothing but that there is something new; the page then asks
// for it, so that a missed event costs nothing.
func (s *server) live(f *fiber.App) {
	f.Get("/api/chat/:token/events", func(c *fiber.Ctx) error {
		bell, stop, err := s.app.WatchChat(c.UserContext(), c.Params("token"))
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
	f.Get("/api/staff/articles/:reference/events", func(c *fiber.Ctx) error {
		if _, err := staffOf(c.UserContext()); err != nil {
			return err
		}
		bell, stop, err := s.app.WatchCopy(c.UserContext(), c.Params("reference"))
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
		bell, stop, err := s.app.WatchHandoffs(who)
		if err != nil {
			return err
		}
		return s.stream(c, bell, stop)
	})
}

// stream sends an event for each ring, until the reader or the server goes.
func (s *server) stream(c *fiber.Ctx, bell <-chan struct{}, stop func()) error {
	c.Set("Content-Type", "text/event-stream")
	c.Set("Cache-Control", "no-store")
	c.Set("X-Accel-Buffering", "no")
	c.Context().SetBodyStreamWriter(func(w *bufio.Writer) {
		defer stop()
		tick := time.NewTicker(beat)
		defer tick.Stop()
		send := func(line string) bool {
			_, _ = w.WriteString(line)
			return w.Flush() == nil
		}
		if !send("retry: 1000\ndata: ready\n\n") {
			return
		}
		for {
			line := ": still here\n\n"
			select {
			case <-s.closing.Done():
				return
			case <-bell:
				line = "data: changed\n\n"
			case <-tick.C:
			}
			if !send(line) {
				return
			}
		}
	})
	return nil
}
