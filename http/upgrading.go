package http

import (
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"
)

// Upgrading answers at an address, until stop, that nothing is served while the database is being brought up to date:
// with 503, and when to ask again (RFC 9110).
func Upgrading(address string) (stop func(), err error) {
	listening, err := net.Listen("tcp", address)
	if err != nil {
		return nil, err
	}
	server := &http.Server{ReadHeaderTimeout: 5 * time.Second, Handler: http.HandlerFunc(upgrading)}
	go func() {
		if err := server.Serve(listening); err != nil && err != http.ErrServerClosed {
			slog.Warn("saying that the database is being brought up to date", "error", err)
		}
	}()
	return func() { _ = server.Close() }, nil
}

func upgrading(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Retry-After", "10")
	w.Header().Set("Cache-Control", "no-store")
	if strings.Contains(r.Header.Get("Accept"), "text/html") {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = w.Write(
			[]byte(`<!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="10">` +
				`<title>Back shortly</title><h1>Back shortly</h1><p>The help centre is being brought up to date. Nothing is ` +
				`lost; this page looks again by itself.</p></html>`),
		)
		return
	}
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(http.StatusServiceUnavailable)
	_, _ = w.Write([]byte(`{"type":"/problems/upgrading","title":"Being brought up to date","status":503,` +
		`"detail":"The help centre is being brought up to date, and will be back shortly. Nothing is lost; try again in a ` +
		`minute."}`))
}
