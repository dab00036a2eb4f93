package flow

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"hermeneus/core/article"
	"hermeneus/core/audience"
)

func (c *checker) options(t *Turn) {
	var labels []string
	for i, l := range t.Leads {
		if l.On != OnOption {
			continue
		}
		field := fmt.Sprintf("leads[%d].text", i)
		label := l.Text[c.script.Language]
		c.texts(t.ID, field, l.Text, false, "A choice has no words.")
		if utf8.RuneCountInString(label) > MaxLabel {
			c.wrong(
				t.ID,
				field,
				"A choice has at most %d characters; this one has %d.",
				MaxLabel,
				utf8.RuneCountInString(label),
			)
		}
		if at := slices.Index(labels, plain(label)); at >= 0 && label != "" {
			c.wrong(t.ID, field, "Two choices read “%s”.", label)
		}
		labels = append(labels, plain(label))
		for _, g := range l.Groups {
			if c.env.Groups != nil && !slices.Contains(c.env.Groups, g) {
				c.wrong(t.ID, field, "There is no group of customers “%s”.", g)
			}
		}
	}
	if len(labels) < MinOptions || len(labels) > MaxOptions {
		c.wrong(
			t.ID,
			"leads",
			"Offer between %d and %d choices; there are %d. A choice is a line beneath that begins with “- ”.",
			MinOptions,
			MaxOptions,
			len(labels),
		)
	}
}

func (c *checker) asking(t *Turn) {
	if t.Fact == "" || factName(t.Fact) != t.Fact || strings.ContainsAny(t.Fact, "[](),:\"") {
		c.wrong(
			t.ID,
			"fact",
			"Say what the answer is kept as, in small letters: “ask postcode: What is your postcode?”.",
		)
	}
	if !slices.Contains(AllWants, t.Wants) {
		c.wrong(t.ID, "wants", "“%s” is nothing that can be asked for.", t.Wants)
	}
	choices := slices.ContainsFunc(t.Leads, func(l Lead) bool { return l.On == OnOption })
	switch {
	case t.Wants == WantsChoice:
		c.options(t)
	case choices:
		c.wrong(t.ID, "leads", "Choices hang on “ask … (choice)” alone.")
	}
	if len(t.Wrong) > 0 {
		c.texts(t.ID, "wrong", t.Wrong, false, "Say how to put it right.")
	}
}

func (c *checker) articles(t *Turn) {
	if len(t.Articles) == 0 || len(t.Articles) > MaxShown {
		c.wrong(t.ID, "articles", "Name between 1 and %d articles; there are %d.", MaxShown, len(t.Articles))
	}
	for i, ref := range t.Articles {
		field := fmt.Sprintf("articles[%d]", i)
		if slices.Index(t.Articles, ref) < i {
			c.wrong(t.ID, field, "%s stands here twice.", ref)
		}
		if c.env.Names && strings.HasPrefix(ref, "@") {
			continue
		}
		if _, revision, ok := article.ParseReference(ref); !ok || revision != 0 {
			c.wrong(t.ID, field, "“%s” is not a reference such as A-0042.", ref)
			continue
		}
		if c.env.Articles == nil {
			continue
		}
		known, live := c.env.Articles[ref]
		switch {
		case !live:
			c.wrong(t.ID, field, "%s is not live, so nobody would see it. Publish it, or show another.", ref)
		case known.Audience == audience.Staff:
			c.wrong(t.ID, field, "%s is for staff only, so no customer would see it.", ref)
		case known.Ends:
			c.warn(t.ID, field, "%s will end. Have something in its place by then.", ref)
		}
	}
}

func (c *checker) team(t *Turn) {
	if strings.TrimSpace(t.Team) == "" {
		c.wrong(t.ID, "team", "Say which team this goes to.")
		return
	}
	for _, d := range t.Details {
		if factName(d) != d {
			c.wrong(t.ID, "details", "Write “%s” in small letters.", d)
		}
	}
	c.filled(t.ID, "brief", t.Brief, true)
	c.form(t)
	if c.env.Teams == nil {
		return
	}
	staffing, ok := c.env.Teams[t.Team]
	switch {
	case !ok:
		c.wrong(t.ID, "team", "There is no team “%s”.", t.Team)
	case staffing.Agents == 0:
		c.wrong(t.ID, "team", "Nobody is in the team “%s”.", t.Team)
	case staffing.Never && t.Kind == HandOver:
		c.warn(t.ID, "team", "The team “%s” is never open: nobody is ever passed on here.", t.Team)
	}
}

func (c *checker) form(t *Turn) {
	if t.Form == "" || c.env.Forms == nil {
		return
	}
	f, there := c.env.Forms[t.Form]
	switch {
	case !there:
		c.wrong(t.ID, "form", "There is no request form “%s” in every help centre where the flow is met.", t.Form)
	case t.Kind == Request && f.AsksForFile():
		c.wrong(
			t.ID,
			"form",
			"“%s” asks for a file, which nobody can give in a conversation. Link to it: “link form %s”.",
			f.Name,
			t.Form,
		)
	}
}

var webAddress = regexp.MustCompile(`^(https://|http://|/)\S+$`)

func (c *checker) link(t *Turn) {
	switch {
	case t.Form != "":
		c.form(t)
	case !webAddress.MatchString(t.URL):
		c.wrong(t.ID, "url", "A link begins with https:// or /, or is “form” and the key of a request form.")
	}
}
