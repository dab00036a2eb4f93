// Command turns lets many people talk to the bot of the built binary at once, over HTTP, in the demo world, each turn
// with the evidence that it leaves, and says how long the turns take. Turns come at a fixed rate, whether or not those
// before are answered. Those of the first seconds are not counted: then connections are opened, and the database makes
// its plans.
//
// Usage: HERMENEUS_TEST_DATABASE=… go run ./bench/turns [-rate 300] [-for 30s] [-warm 5s]
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"slices"
	"sync"
	"time"

	"hermeneus/bench/world"
)

var (
	rate = flag.Int("rate", 300, "turns a second, the bot's first in each conversation among them")
	last = flag.Duration("for", 30*time.Second, "for how long")
	warm = flag.Duration("warm", 5*time.Second, "how long before that turns are not counted")
)

// said is what somebody does in a conversation, one after the other.
var said = []map[string]string{
	{"kind": "choice", "text": "A bill or payment"},
	{"kind": "choice", "text": "No, not yet"},
	{"kind": "words", "text": "when does the money leave my account"},
	{"kind": "choice", "text": "Yes, that helped"},
}

func main() {
	flag.Parse()
	database, drop := world.Database("turns")
	defer drop()
	line, err := net.Listen("tcp", "127.0.0.1:0")
	world.Check(err)
	address := line.Addr().String()
	world.Check(line.Close())
	env := append(os.Environ(), "HERMENEUS_DATABASE="+database, "HERMENEUS_ADDRESS="+address,
		"HERMENEUS_PER_MINUTE=0", "HERMENEUS_SAMPLE_SITE=127.0.0.1:0", "HERMENEUS_STAND_INS=127.0.0.1:0")
	run := exec.Command("bin/hermeneus", "demo")
	run.Env = env
	world.Check(run.Start())
	defer func() { _ = run.Process.Kill() }()
	base := "http://" + address
	for began := time.Now(); ; time.Sleep(200 * time.Millisecond) {
		if answer, err := http.Get(base + "/healthz"); err == nil && answer.StatusCode == http.StatusOK {
			_ = answer.Body.Close()
			break
		}
		if time.Since(began) > 5*time.Minute {
			panic("the demo does not answer")
		}
	}
	fmt.Fprintln(os.Stderr, "The load begins.")
	m := &meter{counts: time.Now().Add(*warm), until: time.Now().Add(*warm + *last)}
	each := time.Duration(float64(time.Second) * float64(1+len(said)) / float64(*rate))
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 2000}}
	var talking sync.WaitGroup
	began := time.Now()
	for n := 0; time.Since(began) < *warm+*last; n++ {
		time.Sleep(time.Until(began.Add(time.Duration(n) * each)))
		talking.Go(func() { m.talk(client, base) })
	}
	talking.Wait()
	m.tell()
}

// meter takes the times of turns.
type meter struct {
	counts  time.Time // from when to when they do
	until   time.Time
	mu      sync.Mutex
	begins  []time.Duration
	turns   []time.Duration
	refused int
}

// talk has one conversation, with about a second between its turns.
func (m *meter) talk(client *http.Client, base string) {
	var begun struct{ Token string }
	took, ok := post(client, base+"/api/chat", nil, &begun)
	m.took(&m.begins, took, ok)
	for _, one := range said {
		if !ok {
			return
		}
		time.Sleep(time.Second/2 + time.Duration(rand.Int64N(int64(time.Second))))
		took, ok = post(client, base+"/api/chat/"+begun.Token+"/messages", one, nil)
		m.took(&m.turns, took, ok)
	}
}

func (m *meter) took(list *[]time.Duration, took time.Duration, ok bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if !ok {
		m.refused++
		return
	}
	asked := time.Now().Add(-took)
	if asked.Before(m.counts) || asked.After(m.until) {
		return
	}
	*list = append(*list, took)
}

func (m *meter) tell() {
	for _, one := range []struct {
		name string
		list []time.Duration
	}{{"begin a conversation", m.begins}, {"another turn", m.turns}} {
		slices.Sort(one.list)
		at := func(share float64) float64 {
			return one.list[int(share*float64(len(one.list)-1))].Seconds() * 1000
		}
		fmt.Printf("%-22s %6d, %4.0f a second: p50 %.1f ms, p99 %.1f ms, most %.1f ms\n", one.name, len(one.list),
			float64(len(one.list))/last.Seconds(), at(0.5), at(0.99), at(1))
	}
	fmt.Printf("%d refused or failed\n", m.refused)
}

func post(client *http.Client, address string, body, into any) (time.Duration, bool) {
	raw, err := json.Marshal(body)
	world.Check(err)
	request, err := http.NewRequest("POST", address, bytes.NewReader(raw))
	world.Check(err)
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("User-Agent", "Trial")
	began := time.Now()
	answer, err := client.Do(request)
	if err != nil {
		return 0, false
	}
	defer func() { _ = answer.Body.Close() }()
	text, err := io.ReadAll(answer.Body)
	took := time.Since(began)
	if err == nil && into != nil {
		err = json.Unmarshal(text, into)
	}
	return took, err == nil && answer.StatusCode < 300
}
