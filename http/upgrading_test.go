package http_test

import (
	"encoding/json"
	"io"
	"net"
	"net/http"
	"testing"

	door "hermeneus/http"
)

func TestWhileTheDatabaseIsBroughtUpToDateTheDoorSaysSo(t *testing.T) {
	t.Parallel()
	free, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	address := free.Addr().String()
	_ = free.Close()
	stop, err := door.Upgrading(address)
	if err != nil {
		t.Fatal(err)
	}
	answer, err := http.Get("http://" + address + "/help")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = answer.Body.Close() }()
	raw, _ := io.ReadAll(answer.Body)
	var problem struct{ Status int }
	if err := json.Unmarshal(raw, &problem); err != nil || problem.Status != 503 || answer.StatusCode != 503 ||
		answer.Header.Get("Retry-After") == "" {
		t.Errorf("%s %s", answer.Status, raw)
	}
	if _, err := door.Upgrading(address); err == nil {
		t.Error("a port that is taken is taken again")
	}
	stop()
	again, err := net.Listen("tcp", address) // the door can open now
	if err != nil {
		t.Fatal(err)
	}
	_ = again.Close()
}
