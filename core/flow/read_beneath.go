package flow

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// beneath reads the lines beneath a turn.
type beneath struct {
	r     *reader
	t     *Turn
	w     written
	depth int
}

// take reads one line beneath the turn; false means that it is a turn of its own.
func (b *beneath) take(l *row) bool {
	if strings.HasPrefix(l.text, "//") {
		return true
	}
	if b.texts(&b.t.Text, "text", l) || b.detail(l) {
		return true
	}
	on, rest, ok := leadOf(l.text)
	if !ok {
		return false
	}
	if !slices.Contains(leadsOf[b.t.Kind], on) {
		b.r.fault(l.line, "%s cannot hang on “%s”.", quoted(on), b.t.Kind.Word())
		return true
	}
	b.lead(l, on, rest)
	return true
}

// texts takes another language of a text, or a further line of it.
func (b *beneath) texts(into *Texts, field string, l *row) bool {
	language, text := b.r.language, ""
	if more, ok := strings.CutPrefix(l.text, "/"); ok {
		if *into == nil {
			*into = Texts{}
		}
		(*into)[language] += "\n" + strings.TrimSpace(more)
		return true
	}
	m := languageShape.FindStringSubmatch(l.text)
	if m == nil || m[1] == OnNo {
		return false
	}
	language, text = m[1], m[2]
	for _, kid := range l.kids {
		if more, ok := strings.CutPrefix(kid.text, "/"); ok {
			text += "\n" + strings.TrimSpace(more)
		} else {
			b.r.fault(kid.line, "Nothing hangs on a text in another language.")
		}
	}
	if *into == nil {
		*into = Texts{}
	}
	if (*into)[language] != "" {
		b.r.fault(l.line, "The text in this language stands here twice.")
	}
	(*into)[language] = text
	b.w.parts[field+"."+language] = l.line
	return true
}

func (b *beneath) detail(l *row) bool {
	t := b.t
	for _, word := range detailWords {
		rest, ok := afterWord(l.text, word)
		if !ok {
			continue
		}
		switch {
		case word == "wrong" && t.Kind == Ask:
			b.w.parts["wrong"] = l.line
			t.Wrong = Texts{b.r.language: rest}
			for _, kid := range l.kids {
				if !b.texts(&t.Wrong, "wrong", kid) {
					b.r.fault(kid.line, "Nothing hangs on “wrong” but its text in other languages.")
				}
			}
			return true
		case word == "pattern" && t.Kind == Ask:
			t.Wants, t.Pattern = WantsReference, rest
		case word == "brief" && (t.Kind == HandOver || t.Kind == Request):
			t.Brief = rest
		case word == "details" && (t.Kind == HandOver || t.Kind == Request):
			t.Details = nil
			for _, name := range list(rest) {
				t.Details = append(t.Details, factName(name))
			}
		case word == "stays" && t.Kind == HandOver && rest == "":
			t.Stays = true
		case word == "form" && t.Kind == Request:
			t.Form = FormKey(rest)
		case word == "at most" && t.Kind == LookUp:
			n, err := strconv.Atoi(rest)
			if err != nil {
				b.r.fault(l.line, "Say how many in digits: “at most 3”.")
			}
			t.Limit = n
		default:
			return false
		}
		b.w.parts[word] = l.line
		if len(l.kids) > 0 {
			b.r.fault(l.kids[0].line, "Nothing hangs on “%s”.", word)
		}
		return true
	}
	return false
}

// lead reads a way on from the turn.
func (b *beneath) lead(l *row, on, rest string) {
	field := fmt.Sprintf("leads[%d]", len(b.t.Leads))
	b.w.parts[field] = l.line
	b.t.Leads = append(b.t.Leads, Lead{On: on})
	lead := &b.t.Leads[len(b.t.Leads)-1]
	rest, to := cutArrow(rest)
	kids := l.kids
	switch on {
	case OnOption, OnBusy, OnClosed:
		if rest != "" {
			lead.Text = Texts{b.r.language: rest}
		}
	case OnWhen:
		var ok bool
		if lead.When, ok = ReadConditions(rest); ok {
			break
		}
		if condition, turn, both := strings.Cut(rest, ": "); both {
			if lead.When, ok = ReadConditions(condition); ok {
				lead.Then = b.r.turn(&row{line: l.line, text: strings.TrimSpace(turn), kids: l.kids}, b.depth+1)
				kids = nil
			}
		}
		if !ok {
			b.r.fault(l.line, "“%s” is nothing that can be asked for. Such as: group is Members · language is de · "+
				"[postcode] is known · we are open · Accounts is free · signed in · page has /tariffs.", rest)
			lead.When = nil
		}
	default:
		if rest != "" { // a turn on the same line, with what stands beneath
			lead.Then = b.r.turn(&row{line: l.line, text: rest, kids: l.kids}, b.depth+1)
			kids = nil
		}
	}
	for len(kids) > 0 && b.ofLead(lead, field, kids[0]) {
		kids = kids[1:]
	}
	then := b.r.sequence(kids, b.depth+1)
	if to != "" {
		b.r.out.turns = append(b.r.out.turns, written{line: l.line})
		then = append(then, Turn{Kind: GoTo, To: to})
	}
	lead.Then = append(lead.Then, then...)
}

// ofLead takes a line that says more of a lead.
func (b *beneath) ofLead(lead *Lead, field string, l *row) bool {
	if strings.HasPrefix(l.text, "//") {
		return true
	}
	if groups, ok := afterWord(l.text, "for"); ok && lead.On == OnOption {
		lead.Groups = list(groups)
		b.w.parts[field+".groups"] = l.line
		return true
	}
	if lead.On == OnOption || lead.On == OnBusy || lead.On == OnClosed {
		return b.texts(&lead.Text, field+".text", l)
	}
	return false
}
