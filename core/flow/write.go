package flow

import (
	"fmt"
	"slices"
	"strings"
)

// Write gives the script as its writer types it. Read of that gives the script again.
func Write(s Script) string {
	w := &writer{source: s.Language}
	w.line(0, fmt.Sprintf("flow %s (%s)", s.Name, s.Language))
	w.turns(s.Turns, 0)
	for _, h := range s.Whenever {
		words := freeWords
		if h.On == WheneverPerson {
			words = personWords
			if len(h.Words) > 0 {
				words += ": " + strings.Join(h.Words, ", ")
			}
		}
		w.line(0, wheneverWord+" "+words)
		w.turns(h.Turns, 1)
	}
	return w.out.String()
}

type writer struct {
	source string
	out    strings.Builder
}

func (w *writer) line(depth int, text string) {
	w.out.WriteString(strings.TrimRight(strings.Repeat("  ", depth)+text, " "))
	w.out.WriteByte('\n')
}

func (w *writer) turns(turns []Turn, depth int) {
	for i := range turns {
		w.turn(&turns[i], depth)
	}
}

func (w *writer) turn(t *Turn, depth int) {
	first, more := linesOf(t.Text[w.source])
	head := t.Kind.Word()
	about := t.about()
	switch {
	case about != "" && first != "":
		head += " " + about + ": " + first
	case about != "":
		head += " " + about
	case first != "":
		head += " " + first
	}
	if t.Named {
		head = sayAs(t.ID) + ": " + head
	}
	w.line(depth, head)
	w.rest(more, depth+1)
	w.others(t.Text, depth+1)
	if len(t.Wrong) > 0 {
		first, more := linesOf(t.Wrong[w.source])
		w.line(depth+1, "wrong: "+first)
		w.rest(more, depth+2)
		w.others(t.Wrong, depth+2)
	}
	if t.Limit > 0 {
		w.line(depth+1, fmt.Sprintf("at most %d", t.Limit))
	}
	if t.Kind == Request && t.Form != "" {
		w.line(depth+1, "form: "+t.Form)
	}
	if len(t.Details) > 0 {
		w.line(depth+1, "details: "+strings.Join(t.Details, ", "))
	}
	if t.Brief != "" {
		w.line(depth+1, "brief: "+t.Brief)
	}
	if t.Stays {
		w.line(depth+1, "stays")
	}
	for i := range t.Leads {
		w.lead(&t.Leads[i], depth+1)
	}
}

// about is what stands between the kind of a turn and its text.
func (t *Turn) about() string {
	switch t.Kind {
	case Ask:
		words := string(t.Wants)
		if t.Pattern != "" {
			words += " " + t.Pattern
		}
		options := []string{words}
		if t.Personal {
			options = append(options, "personal")
		}
		if t.Skip {
			options = append(options, "may be skipped")
		}
		return fmt.Sprintf("%s (%s)", t.Fact, strings.Join(options, ", "))
	case Suggest:
		return strings.Join(t.Articles, ", ")
	case HandOver, Request:
		return t.Team
	case Link:
		if t.Form != "" {
			return "form " + t.Form
		}
		return t.URL
	case GoTo:
		switch {
		case t.Flow == "" && t.To != "":
			return sayAs(t.To)
		case t.Flow != "" && t.Back:
			return "flow " + t.Flow + " and back"
		case t.Flow != "":
			return "flow " + t.Flow
		}
	}
	return ""
}

func (w *writer) lead(l *Lead, depth int) {
	head := l.On
	first, more := linesOf(l.Text[w.source])
	switch l.On {
	case OnOption:
		head = "- " + escaped(first)
	case OnWhen:
		head += " " + writeConditions(l.When)
	default:
		if first != "" {
			head += ": " + escaped(first)
		}
	}
	jump := len(l.Then) == 1 && l.Then[0].Kind == GoTo && l.Then[0].To != "" && !l.Then[0].Named
	if jump {
		head += " -> " + sayAs(l.Then[0].To)
	}
	w.line(depth, head)
	w.rest(more, depth+1)
	w.others(l.Text, depth+1)
	if len(l.Groups) > 0 {
		w.line(depth+1, "for: "+strings.Join(l.Groups, ", "))
	}
	if !jump {
		w.turns(l.Then, depth+1)
	}
}

// escaped keeps an arrow within words from being read as a jump.
func escaped(text string) string { return strings.ReplaceAll(text, "->", `\->`) }

// others writes a text in the other languages.
func (w *writer) others(t Texts, depth int) {
	for _, language := range t.Languages() {
		if language != w.source {
			first, more := linesOf(t[language])
			w.line(depth, language+": "+first)
			w.rest(more, depth+1)
		}
	}
}

func (w *writer) rest(more []string, depth int) {
	for _, l := range more {
		w.line(depth, "/ "+l)
	}
}

func linesOf(text string) (first string, more []string) {
	all := strings.Split(text, "\n")
	return all[0], slices.Clone(all[1:])
}
