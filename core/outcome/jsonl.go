package outcome

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
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

// MaxItems is how many items one file may hold.
const MaxItems = 20_000_000

// line is the written form of an item.
type line struct {
	At          *time.Time `json:"at"`
	Asker       string     `json:"asker"`
	To          string     `json:"to,omitempty"`
	Channel     Channel    `json:"channel"`
	Kind        Kind       `json:"kind"`
	Text        string     `json:"text,omitempty"`
	Ref         string     `json:"ref,omitempty"`
	Refs        []string   `json:"refs,omitempty"`
	Contact     string     `json:"contact,omitempty"`
	Source      Source     `json:"source,omitempty"`
	Unlikely    bool       `json:"unlikely,omitempty"`
	NotFollowed bool       `json:"not_followed,omitempty"`
	Stood
}

// ReadJSONL reads evidence, one JSON object a line; blank lines are passed over
// but counted. The first bad line ends the reading with a *LineError.
func ReadJSONL(r io.Reader) ([]Evidence, error) {
	return readJSONL(r, func(e *Evidence) {})
}

// ReadForFold reads evidence as ReadJSONL does, but keeps only what decides outcomes: not the words, nor
// where it stood. Repeated keys and references are held once, so that large files fit.
func ReadForFold(r io.Reader) ([]Evidence, error) {
	held := map[string]string{}
	once := func(text string) string {
		if text == "" {
			return ""
		}
		if one, there := held[text]; there {
			return one
		}
		held[text] = text
		return text
	}
	return readJSONL(r, func(e *Evidence) {
		e.Text, e.Stood = "", nil
		e.Asker, e.To, e.Ref, e.Contact = once(e.Asker), once(e.To), once(e.Ref), once(e.Contact)
		e.Kind, e.Channel, e.Source = Kind(
			once(string(e.Kind)),
		), Channel(
			once(string(e.Channel)),
		), Source(
			once(string(e.Source)),
		)
		for i, ref := range e.Refs {
			e.Refs[i] = once(ref)
		}
	})
}

func readJSONL(r io.Reader, keep func(e *Evidence)) ([]Evidence, error) {
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
		if len(items) == MaxItems {
			return nil, &LineError{n, fmt.Sprintf("more than %d items in one file", MaxItems)}
		}
		e.Line = n
		keep(&e)
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
	if err := l.check(); err != nil {
		return Evidence{}, err
	}
	e := Evidence{
		At:          *l.At,
		Asker:       l.Asker,
		To:          l.To,
		Channel:     l.Channel,
		Kind:        l.Kind,
		Text:        l.Text,
		Ref:         l.Ref,
		Refs:        l.Refs,
		Contact:     l.Contact,
		Source:      l.Source,
		Unlikely:    l.Unlikely,
		NotFollowed: l.NotFollowed,
	}
	if !l.Stood.Empty() {
		e.Stood = &l.Stood
	}
	return e, nil
}

// check says what is wrong with a line.
func (l line) check() error {
	switch {
	case l.At == nil:
		return errors.New(`"at" is missing`)
	case l.Asker == "":
		return errors.New(`"asker" is missing`)
	case l.Channel == "":
		return errors.New(`"channel" is missing`)
	case !l.Channel.Valid():
		return fmt.Errorf("channel %q is none of %s", l.Channel, listed(Channels))
	case l.Kind == "":
		return errors.New(`"kind" is missing`)
	case !l.Kind.Valid():
		return fmt.Errorf("kind %q is not known", l.Kind)
	case !l.Source.Valid():
		return fmt.Errorf("source %q is none of search, bot, form, autoreply", l.Source)
	case l.Kind == Linked && l.To == "":
		return errors.New(`"to" is missing: whom the key is linked to`)
	case l.Kind != Linked && l.To != "":
		return fmt.Errorf(`"to" belongs to linked, not to %s`, l.Kind)
	}
	return nil
}

func listed(channels []Channel) string {
	names := make([]string, len(channels))
	for i, c := range channels {
		names[i] = string(c)
	}
	return strings.Join(names, ", ")
}

// Empty reports that nothing is known of where an item stood.
func (s Stood) Empty() bool {
	return s.Site == "" && s.Language == "" && len(s.Groups) == 0 && s.Page == "" && s.Conversation == "" &&
		s.Flow == "" && s.Turn == "" && s.Intent == "" && s.Score == nil && s.Category == "" && s.Team == "" &&
		s.Reason == "" && s.Arm == "" && !s.Chosen
}

// WriteJSONL writes evidence in the form that ReadJSONL reads, times in UTC.
func WriteJSONL(w io.Writer, items []Evidence) error {
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	for _, e := range items {
		at := e.At.UTC()
		l := line{
			At:          &at,
			Asker:       e.Asker,
			To:          e.To,
			Channel:     e.Channel,
			Kind:        e.Kind,
			Text:        e.Text,
			Ref:         e.Ref,
			Refs:        e.Refs,
			Contact:     e.Contact,
			Source:      e.Source,
			Unlikely:    e.Unlikely,
			NotFollowed: e.NotFollowed,
		}
		if e.Stood != nil {
			l.Stood = *e.Stood
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
	Asker       string     `json:"asker"` // the name of the linked set of keys
	Began       time.Time  `json:"began"`
	Closed      *time.Time `json:"closed"`
	Outcome     Outcome    `json:"outcome"`
	Settled     bool       `json:"settled"`
	AskedAgain  bool       `json:"asked_again"`
	NotFollowed bool       `json:"not_followed,omitempty"` // of somebody who declined to be followed
	Evidence    []int      `json:"evidence"`               // lines, in the order of the fold
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
	rates := RatesOf(questions)
	r := Report{Questions: []ReportQuestion{}, Counts: counts, Rates: ReportRates{
		reportRate(rates.Proven), reportRate(rates.Deflection), reportRate(rates.Claimed),
	}}
	for _, q := range questions {
		out := ReportQuestion{
			Asker:       q.Asker,
			Began:       q.Began.UTC(),
			Outcome:     q.Outcome,
			Settled:     q.Settled,
			AskedAgain:  q.AskedAgain,
			NotFollowed: q.NotFollowed(),
		}
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
