// Command attack does to the built binary what strangers might, and prints what each cost it:
// the time until it answered the last, and the most memory that it held meanwhile.
//
// Usage: HERMENEUS_TEST_DATABASE=… go run ./bench/attack
package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"hermeneus/bench/world"
)

func main() {
	database, drop := world.Database("attack")
	defer drop()
	target := begin(database)
	defer target.end()
	fmt.Printf("%-58s %10s %12s  %s\n", "", "time", "most memory", "answers")
	target.measure("eight posts of 60 MB by strangers", 8, func(int) int {
		return post(target.url+"/help/request", "text/plain", bytes.NewReader(make([]byte, 60<<20)))
	})
	target.measure("eight forms with 24 MB of files by strangers", 8, func(int) int { return target.upload(24 << 20) })
	target.measure("forty attempts to sign in at once", 40, func(i int) int {
		return post(
			target.url+"/api/staff/session",
			"application/json",
			strings.NewReader(fmt.Sprintf(`{"email": "somebody%d@wrenmoor.example", "password": "a guess at it"}`, i)),
		)
	})
	target.measure(
		"a picture of 39 million points, 16 bits each",
		1,
		func(int) int { return target.asStaff("POST", "/api/staff/media", picture(6250, 6250, true)) },
	)
	target.measure(
		"four pictures of 39 million points at once",
		4,
		func(int) int { return target.asStaff("POST", "/api/staff/media", picture(6250, 6250, false)) },
	)
	target.measure("an archive of files on top of each other", 1, func(int) int {
		return target.asStaff("POST", "/api/staff/imports?name=a.zip&dry=true", overlapping(5000))
	})
	target.measure("a mail of 20 000 parts within each other", 1, func(int) int {
		return target.asStaff("POST", "/api/staff/articles-from-mail?category=1", deepMail(20_000))
	})
	target.measure("a text of 100 000 divisions within each other", 1, func(int) int {
		return target.asStaff("POST", "/api/staff/clean", []byte(`{"body": "`+strings.Repeat("<div>", 100_000)+`"}`))
	})
	target.measure("300 streams of events by one address", 300, func(int) int { return target.listen() })
	together(database)
}

// server is the binary being attacked.
type server struct {
	url    string
	run    *exec.Cmd
	client *http.Client
}

func begin(database string) *server {
	line, err := net.Listen("tcp", "127.0.0.1:0")
	world.Check(err)
	address := line.Addr().String()
	world.Check(line.Close())
	env := append(
		os.Environ(),
		"HERMENEUS_DATABASE="+database,
		"HERMENEUS_ADDRESS="+address,
		"HERMENEUS_PER_MINUTE=0",
		"HERMENEUS_DOOR_PER_MINUTE=0",
	)
	add := exec.Command(
		"bin/hermeneus",
		"staff",
		"--name",
		"Maren",
		"--email",
		"maren@wrenmoor.example",
		"--roles",
		"administrator,author,agent",
	)
	add.Env, add.Stdin = env, strings.NewReader("a long password\n")
	world.Check(add.Run())
	s := &server{url: "http://" + address, run: exec.Command("bin/hermeneus", "serve")}
	s.run.Env, s.run.Stderr = env, io.Discard
	world.Check(s.run.Start())
	for range 200 {
		if answer, err := http.Get(s.url + "/healthz"); err == nil {
			_ = answer.Body.Close()
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	jar, err := cookiejar.New(nil)
	world.Check(err)
	s.client = &http.Client{Jar: jar}
	answer, err := s.client.Post(
		s.url+"/api/staff/session",
		"application/json",
		strings.NewReader(`{"email": "maren@wrenmoor.example", "password": "a long password"}`),
	)
	world.Check(err)
	world.Check(answer.Body.Close())
	world.Check(
		exec.CommandContext(context.Background(), "psql", "-q", database, "-c", `INSERT INTO categories (name,
				audience, position)
			VALUES ('Bills', 'everyone', 1)`).
			Run(),
	)
	return s
}

func (s *server) end() {
	_ = s.run.Process.Kill()
	_ = s.run.Wait()
}

var highest = regexp.MustCompile(`VmHWM:\s+(\d+) kB`)

// measure does something so many times at once.
func (s *server) measure(what string, times int, do func(int) int) {
	status := fmt.Sprintf("/proc/%d/", s.run.Process.Pid)
	_ = os.WriteFile(status+"clear_refs", []byte("5"), 0) // begins counting the most memory anew
	answers := map[int]int{}
	var mu sync.Mutex
	var wait sync.WaitGroup
	began := time.Now()
	for i := range times {
		wait.Go(func() {
			code := do(i)
			mu.Lock()
			defer mu.Unlock()
			answers[code]++
		})
	}
	wait.Wait()
	took := time.Since(began)
	raw, err := os.ReadFile(status + "status")
	world.Check(err)
	memory := 0
	if found := highest.FindSubmatch(raw); found != nil {
		memory, _ = strconv.Atoi(string(found[1]))
	}
	fmt.Printf("%-58s %10s %9d MB  %v\n", what, took.Round(time.Millisecond), memory>>10, answers)
}

// post gives the status of the answer, 0 where the line was ended without one.
func post(address, kind string, body io.Reader) int {
	answer, err := http.Post(address, kind, body)
	if err != nil {
		return 0
	}
	defer func() { _ = answer.Body.Close() }()
	_, _ = io.Copy(io.Discard, answer.Body)
	return answer.StatusCode
}

func (s *server) asStaff(method, path string, body []byte) int {
	r, err := http.NewRequest(method, s.url+path, bytes.NewReader(body))
	world.Check(err)
	r.Header.Set(
		"Content-Type",
		map[bool]string{true: "application/json", false: "application/octet-stream"}[strings.HasSuffix(path, "clean")],
	)
	if strings.Contains(path, "from-mail") {
		r.Header.Set("Content-Type", "message/rfc822")
	}
	answer, err := s.client.Do(r)
	if err != nil {
		return 0
	}
	defer func() { _ = answer.Body.Close() }()
	_, _ = io.Copy(io.Discard, answer.Body)
	return answer.StatusCode
}

func (s *server) upload(size int) int {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for name, value := range map[string]string{"subject": "A bill", "text": "Why?", "address": "wim@post.example"} {
		world.Check(w.WriteField(name, value))
	}
	for i := range 3 {
		f, err := w.CreateFormFile("files", fmt.Sprintf("meter%d.png", i))
		world.Check(err)
		_, err = f.Write(append([]byte("\x89PNG\r\n\x1a\n"), make([]byte, size/3-8)...))
		world.Check(err)
	}
	world.Check(w.Close())
	return post(s.url+"/help/request", w.FormDataContentType(), &body)
}

// listen opens a stream of events, and leaves it open.
func (s *server) listen() int {
	answer, err := s.client.Get(s.url + "/api/staff/handoffs-events")
	if err != nil {
		return 0
	}
	return answer.StatusCode
}

func picture(width, height int, deep bool) []byte {
	var out bytes.Buffer
	var img image.Image = image.NewPaletted(image.Rect(0, 0, width, height), color.Palette{color.Black, color.White})
	if deep {
		img = image.NewNRGBA64(image.Rect(0, 0, width, height))
	}
	world.Check((&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&out, img))
	return out.Bytes()
}

// overlapping makes an archive of many entries that all point to one content.
func overlapping(entries int) []byte {
	var one bytes.Buffer
	w := zip.NewWriter(&one)
	f, err := w.Create("a.md")
	world.Check(err)
	_, err = f.Write(bytes.Repeat([]byte{'x'}, 900_000))
	world.Check(err)
	world.Check(w.Close())
	raw := one.Bytes()
	end, directory := bytes.LastIndex(raw, []byte("PK\x05\x06")), bytes.Index(raw, []byte("PK\x01\x02"))
	out := bytes.Clone(raw[:directory])
	for range entries {
		out = append(out, raw[directory:end]...)
	}
	tail := bytes.Clone(raw[end:])
	binary.LittleEndian.PutUint16(tail[8:], uint16(entries))
	binary.LittleEndian.PutUint16(tail[10:], uint16(entries))
	binary.LittleEndian.PutUint32(tail[12:], uint32(entries*(end-directory)))
	return append(out, tail...)
}

func deepMail(depth int) []byte {
	var out strings.Builder
	out.WriteString("From: a@post.example\r\nSubject: A\r\nMIME-Version: 1.0\r\n")
	for i := range depth {
		fmt.Fprintf(&out, "Content-Type: multipart/mixed; boundary=b%d\r\n\r\n--b%d\r\n", i, i)
	}
	return []byte(out.String() + "Content-Type: text/plain\r\n\r\nWords.\r\n")
}

// together starts five instances at once over an empty database.
func together(string) {
	for round := range 3 {
		database, drop := world.Database(fmt.Sprintf("together%d", round))
		var wait sync.WaitGroup
		var mu sync.Mutex
		died := 0
		for range 5 {
			wait.Go(func() {
				run := exec.Command("bin/hermeneus", "migrate")
				run.Env = append(os.Environ(), "HERMENEUS_DATABASE="+database)
				if err := run.Run(); err != nil {
					mu.Lock()
					defer mu.Unlock()
					died++
				}
			})
		}
		wait.Wait()
		drop()
		fmt.Printf("five instances that start at once on an empty database: %d died\n", died)
	}
}
