package outcome

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"
)

// MaxLine is the longest line of an evidence file that is read, in bytes.
const MaxLine = 1 << 20

// LineError says which line of an evidence file was refused, and why.
type LineError struct {
	Line   int
	Reason string
}

func (e *LineError) Error() string { return fmt.Sprintf("line %d: %s", e.Line, e.Reason) }

// line is the written form of an item. Intent and score are read and left aside.
type line struct {
	At      *time.Time `json:"at"`
	Asker   string     `json:"asker"`
	Channel Channel    `json:"channel"`
	Kind    Kind       `json:"kind"`
	Text    string     `json:"text,omitempty"`
	Ref     string     `json:"ref,omitempty"`
	Refs    []string   `json:"refs,omitempty"`
	Source  Source     `json:"source,omitempty"`
	Intent  string     `json:"intent,omitempty"`
	Score   *float64   `json:"score,omitempty"`
}

// ReadJSONL reads evidence, one JSON object a line; blank lines are passed over
// but counted. The first bad line ends the reading with a *LineError.
func ReadJSONL(r io.Reader) ([]Evidence, error) {
	var items []Evidence
	lines := bufio.NewScanner(r)
	lines.Buffer(make([]byte, 0, 64<<10), MaxLine)
	n := 0
	for lines.Scan() {
		n++
		if len(bytes.TrimSpace(lines.Bytes())) == 0 {
			continue
		}
		e, err := parseLine(lines.Bytes())
		if err != nil {
			return nil, &LineError{n, err.Error()}
		}
		e.Line = n
		items = append(items, e)
	}
	if errors.Is(lines.Err(), bufio.ErrTooLong) {
		return nil, &LineError{n + 1, fmt.Sprintf("longer than %d bytes", MaxLine)}
	}
	return items, lines.Err()
}

func parseLine(raw []byte) (Evidence, error) {
	var l line
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&l); err != nil {
		return Evidence{}, fmt.Errorf("not an item of evidence: %w", err)
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return Evidence{}, errors.New("more than one value on the line")
	}
	switch {
	case l.At == nil:
		return Evidence{}, errors.New(`"at" is missing`)
	case l.Asker == "":
		return Evidence{}, errors.New(`"asker" is missing`)
	case l.Channel == "":
		return Evidence{}, errors.New(`"channel" is missing`)
	case !l.Channel.Valid():
		return Evidence{}, fmt.Errorf("channel %q is none of help, chat, form, mail, message", l.Channel)
	case l.Kind == "":
		return Evidence{}, errors.New(`"kind" is missing`)
	case !l.Kind.Valid():
		return Evidence{}, fmt.Errorf("kind %q is not known", l.Kind)
	case !l.Source.Valid():
		return Evidence{}, fmt.Errorf("source %q is none of search, bot, form, autoreply", l.Source)
	}
	return Evidence{
		At:      *l.At,
		Asker:   l.Asker,
		Channel: l.Channel,
		Kind:    l.Kind,
		Text:    l.Text,
		Ref:     l.Ref,
		Refs:    l.Refs,
		Source:  l.Source,
	}, nil
}

// WriteJSONL writes evidence in the form that ReadJSONL reads, times in UTC.
func WriteJSONL(w io.Writer, items []Evidence) error {
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	for _, e := range items {
		at := e.At.UTC()
		l := line{
			At:      &at,
			Asker:   e.Asker,
			Channel: e.Channel,
			Kind:    e.Kind,
			Text:    e.Text,
			Ref:     e.Ref,
			Refs:    e.Refs,
			Source:  e.Source,
		}
		if err := out.Encode(l); err != nil {
			return err
		}
	}
	return nil
}

// Report is the written result of a fold.
type Report struct {
	Questions []ReportQuestion `json:"questions"`
	Counts    Counts           `json:"counts"`
	Rates     ReportRates      `json:"rates"`
}

// ReportQuestion is one question of a Report; Closed is nil while it is open.
type ReportQuestion struct {
	Asker    string     `json:"asker"`
	Began    time.Time  `json:"began"`
	Closed   *time.Time `json:"closed"`
	Outcome  Outcome    `json:"outcome"`
	Settled  bool       `json:"settled"`
	Evidence []int      `json:"evidence"`
}

// ReportRates are the three rates of a Report.
type ReportRates struct {
	Proven     ReportRate `json:"proven"`
	Deflection ReportRate `json:"deflection"`
	Claimed    ReportRate `json:"claimed"`
}

// ReportRate is a share and its 95 % interval; all nil when nothing has settled.
type ReportRate struct {
	Value *float64 `json:"value"`
	Low   *float64 `json:"low"`
	High  *float64 `json:"high"`
}

func reportRate(p Proportion) ReportRate {
	if !p.Defined() {
		return ReportRate{}
	}
	return ReportRate{&p.Value, &p.Low, &p.High}
}

// NewReport puts folded questions in written form.
func NewReport(questions []Question) Report {
	counts := Count(questions)
	rates := counts.Rates()
	r := Report{Questions: []ReportQuestion{}, Counts: counts, Rates: ReportRates{
		reportRate(rates.Proven), reportRate(rates.Deflection), reportRate(rates.Claimed),
	}}
	for _, q := range questions {
		out := ReportQuestion{Asker: q.Asker, Began: q.Began.UTC(), Outcome: q.Outcome, Settled: q.Settled}
		if q.Outcome != Open {
			closed := q.Closed.UTC()
			out.Closed = &closed
		}
		for _, e := range q.Evidence {
			out.Evidence = append(out.Evidence, e.Line)
		}
		r.Questions = append(r.Questions, out)
	}
	return r
}
