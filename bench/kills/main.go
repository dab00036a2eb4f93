// Command kills ends the built binary again and again in the middle of its work, as a power cut
// would, while customers chat and send requests over it and send again what was not answered. In
// the end everything that was acknowledged must be there, and everything that was sent, once.
//
// Usage: HERMENEUS_TEST_DATABASE=… go run ./bench/kills [-rounds 12]
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"hermeneus/bench/world"
)

var rounds = flag.Int("rounds", 12, "how often it is ended")

func main() {
	flag.Parse()
	database, drop := world.Database("kills")
	defer drop()
	line, err := net.Listen("tcp", "127.0.0.1:0")
	world.Check(err)
	address := line.Addr().String()
	world.Check(line.Close())
	env := append(os.Environ(), "HERMENEUS_DATABASE="+database, "HERMENEUS_ADDRESS="+address, "HERMENEUS_PER_MINUTE=0")
	start := func() *exec.Cmd {
		run := exec.Command("bin/hermeneus", "serve")
		run.Env = env
		world.Check(run.Start())
		return run
	}
	run := start()
	base := "http://" + address
	until(base + "/healthz")
	db, err := pgx.Connect(context.Background(), database)
	world.Check(err)
	defer func() { _ = db.Close(context.Background()) }()
	_, err = db.Exec(context.Background(), `WITH f AS (INSERT INTO flows (slug) VALUES ('front-door')
			RETURNING id),
			s AS (INSERT INTO staff (email, name, password_hash, roles, created_at)
			VALUES ('a@wrenmoor.example', 'A', '', '{publisher}', now()) RETURNING id),
			v AS (INSERT INTO flow_versions (flow_id, number, script, published_by, published_at) SELECT f.id,
			1, $1, s.id, now() FROM f, s RETURNING id, flow_id)
		SELECT id, flow_id
		FROM v`, `{"name": "Door", "start": "find", "turns": [{"id": "find", "kind": "look_up", "text": "Yes?", "helped": "find", "not_helped": "find", "nothing": "find"}]}`)
	world.Check(err)
	_, err = db.Exec(context.Background(), `INSERT INTO flow_entries (flow_id) SELECT id FROM flows`)
	world.Check(err)
	_, err = db.Exec(context.Background(), `UPDATE flows SET live_version_id = (SELECT max(id) FROM flow_versions)`)
	world.Check(err)

	var stop atomic.Bool
	var said, sent atomic.Int64
	var working sync.WaitGroup
	for n := range 6 {
		working.Go(func() {
			token := ""
			for i := 0; !stop.Load(); i++ {
				if token == "" {
					token = begin(base, fmt.Sprintf("chat %d %d", n, i))
					continue
				}
				text := fmt.Sprintf("customer %d says %d", n, i)
				body, err := json.Marshal(map[string]string{"kind": "words", "text": text})
				world.Check(err)
				again(func() int {
					r, err := http.NewRequest("POST", base+"/api/chat/"+token+"/messages", bytes.NewReader(body))
					world.Check(err)
					r.Header.Set("Content-Type", "application/json")
					r.Header.Set("Idempotency-Key", text)
					return status(http.DefaultClient.Do(r))
				})
				said.Add(1)
			}
		})
		working.Go(func() {
			client := &http.Client{
				CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
			}
			for i := 0; !stop.Load(); i++ {
				subject := fmt.Sprintf("request %d of %d", i, n)
				form := url.Values{
					"again":   {subject + " under its key"},
					"subject": {subject},
					"text":    {"Why?"},
					"address": {fmt.Sprintf("wim%d@post.example", n)},
				}
				again(func() int { return status(client.PostForm(base+"/help/request", form)) })
				sent.Add(1)
			}
		})
	}
	for round := range *rounds {
		time.Sleep(time.Duration(900+round*137) * time.Millisecond)
		world.Check(run.Process.Kill())
		_ = run.Wait()
		run = start()
		until(base + "/healthz")
	}
	stop.Store(true)
	working.Wait()
	// The one who led the queue was killed each time: another leads once its lease is over.
	world.Check(run.Process.Kill())
	_ = run.Wait()
	run = start()
	until(base + "/healthz")
	began := time.Now()
	for waits := 1; waits > 0; time.Sleep(50 * time.Millisecond) {
		world.Check(db.QueryRow(context.Background(), `SELECT count(*) FROM evidence_marks`).Scan(&waits))
	}
	fmt.Printf("what waited is folded %.1f s after the last start\n", time.Since(began).Seconds())
	world.Check(run.Process.Kill())
	_ = run.Wait()
	verify := exec.Command("bin/hermeneus", "verify")
	verify.Env, verify.Stdout, verify.Stderr = env, os.Stdout, os.Stderr
	world.Check(verify.Run())
	var messages, distinct, requests, subjects int64
	world.Check(
		db.QueryRow(context.Background(), `SELECT count(*), count(DISTINCT text)
			FROM messages
			WHERE text LIKE 'customer % says %'`).
			Scan(&messages, &distinct),
	)
	world.Check(
		db.QueryRow(context.Background(), `SELECT count(*), count(DISTINCT subject)
			FROM conversations
			WHERE subject LIKE 'request % of %'`).
			Scan(&requests, &subjects),
	)
	fmt.Printf(
		"%d kills\n%d messages acknowledged: %d kept, %d of them twice, %d lost\n%d requests acknowledged: %d "+
			"kept, %d of them twice, %d lost\n",
		*rounds,
		said.Load(),
		messages,
		messages-distinct,
		said.Load()-distinct,
		sent.Load(),
		requests,
		requests-subjects,
		sent.Load()-subjects,
	)
}

func begin(base, key string) (token string) {
	again(func() int {
		r, err := http.NewRequest("POST", base+"/api/chat", nil)
		world.Check(err)
		r.Header.Set("Idempotency-Key", key)
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			return 0
		}
		defer func() { _ = answer.Body.Close() }()
		var begun struct{ Token string }
		_ = json.NewDecoder(answer.Body).Decode(&begun)
		token = begun.Token
		return answer.StatusCode
	})
	return token
}

// again does something until it is answered.
func again(do func() int) {
	for {
		switch code := do(); {
		case code >= 200 && code < 400:
			return
		case code == 409: // done, but nobody lived to say what came of it
			return
		case code >= 400 && code < 500:
			panic(fmt.Sprintf("refused with %d", code))
		}
		time.Sleep(30 * time.Millisecond)
	}
}

func status(answer *http.Response, err error) int {
	if err != nil {
		return 0
	}
	defer func() { _ = answer.Body.Close() }()
	if _, err := io.Copy(io.Discard, answer.Body); err != nil {
		return 0
	}
	return answer.StatusCode
}

func until(address string) {
	for {
		if answer, err := http.Get(address); err == nil {
			_ = answer.Body.Close()
			if strings.HasPrefix(answer.Status, "200") {
				return
			}
		}
		time.Sleep(20 * time.Millisecond)
	}
}
