package main

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"hermeneus/core/search"
)

// corpus is an open FAQ: the answers without their headings, and each heading as
// the question that its answer is right for.
type corpus struct {
	name, source string
	docs         []search.TrialDocument
	queries      []search.TrialQuery
}

func (c *corpus) add(heading, body string) {
	heading, body = strings.Join(strings.Fields(heading), " "), strings.TrimSpace(body)
	if heading == "" || body == "" {
		return
	}
	id := fmt.Sprintf("%s-%d", c.name, len(c.docs)+1)
	c.docs = append(c.docs, search.TrialDocument{ID: id, Body: body})
	c.queries = append(c.queries, search.TrialQuery{Text: heading, Relevant: []string{id}})
}

// readFAQs reads what Debian's packages of documentation carry.
func readFAQs() ([]corpus, error) {
	python := corpus{name: "python", source: "Python FAQ, Debian python3.11-doc"}
	if err := readSections(&python, "/usr/share/doc/python3.11/html/faq/*.html"); err != nil {
		return nil, err
	}
	perl := corpus{name: "perl", source: "perlfaq, Debian perl-doc"}
	if err := readPod(&perl, "/usr/share/perl/5.*.*/pod/perlfaq[1-9].pod"); err != nil {
		return nil, err
	}
	debian := corpus{name: "debian", source: "Debian FAQ, Debian debian-faq"}
	if err := readSections(&debian, "/usr/share/doc/debian/FAQ/*.en.html"); err != nil {
		return nil, err
	}
	var found []corpus
	for _, c := range []corpus{python, perl, debian} {
		if len(c.docs) > 0 {
			found = append(found, c)
		}
	}
	if len(found) == 0 {
		return nil, fmt.Errorf("none of the FAQs is installed: apt-get install python3.11-doc perl-doc debian-faq")
	}
	return found, nil
}

// readSections takes the innermost sections of HTML files.
func readSections(c *corpus, pattern string) error {
	files, err := filepath.Glob(pattern)
	if err != nil {
		return err
	}
	slices.Sort(files)
	for _, name := range files {
		file, err := os.Open(name)
		if err != nil {
			return err
		}
		root, err := html.Parse(file)
		_ = file.Close()
		if err != nil {
			return fmt.Errorf("reading %s: %w", name, err)
		}
		for _, s := range sectionsIn(root) {
			heading, body := sectionText(s)
			c.add(strings.TrimLeft(strings.TrimSuffix(heading, "¶"), "0123456789. \u00a0"), body)
		}
	}
	return nil
}

func isSection(n *html.Node) bool {
	return n.Type == html.ElementNode && (n.Data == "section" || n.Data == "div" && attribute(n, "class") == "section")
}

func attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// sectionsIn gives the sections that hold no others.
func sectionsIn(n *html.Node) []*html.Node {
	var found []*html.Node
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		found = append(found, sectionsIn(c)...)
	}
	if isSection(n) && len(found) == 0 {
		return []*html.Node{n}
	}
	return found
}

var headingElement = regexp.MustCompile(`^h[1-6]$`)

// sectionText gives the heading, and the text of the rest, a line for each block.
func sectionText(section *html.Node) (heading, body string) {
	var head, rest strings.Builder
	var walk func(n *html.Node, into *strings.Builder)
	walk = func(n *html.Node, into *strings.Builder) {
		switch {
		case n.Type == html.TextNode:
			into.WriteString(n.Data)
		case n.Type == html.ElementNode && headingElement.MatchString(n.Data) && head.Len() == 0:
			into = &head
		case n.Type == html.ElementNode && (n.Data == "p" || n.Data == "li" || n.Data == "pre" || n.Data == "dd" || n.Data == "dt" || n.Data == "tr"):
			into.WriteString("\x01")
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, into)
		}
	}
	walk(section, &rest)
	var lines []string
	for line := range strings.SplitSeq(rest.String(), "\x01") {
		if line = strings.Join(strings.Fields(line), " "); line != "" {
			lines = append(lines, line)
		}
	}
	return head.String(), strings.Join(lines, "\n")
}

var podCode = regexp.MustCompile(`[A-Z]<<?\s?([^<>]*)\s?>?>`)

// readPod takes the questions of pod files: what stands under each =head2.
func readPod(c *corpus, pattern string) error {
	files, err := filepath.Glob(pattern)
	if err != nil {
		return err
	}
	slices.Sort(files)
	for _, name := range files {
		raw, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		heading, body := "", []string{}
		for block := range strings.SplitSeq(string(raw), "\n\n") {
			block = strings.Join(strings.Fields(block), " ")
			switch {
			case strings.HasPrefix(block, "=head"):
				c.add(plainPod(heading), strings.Join(body, "\n"))
				heading, body = "", nil
				if rest, ok := strings.CutPrefix(block, "=head2 "); ok {
					heading = rest
				}
			case strings.HasPrefix(block, "="):
				if rest, ok := strings.CutPrefix(block, "=item "); ok {
					body = append(body, plainPod(rest))
				}
			case heading != "" && block != "":
				body = append(body, plainPod(block))
			}
		}
		c.add(plainPod(heading), strings.Join(body, "\n"))
	}
	return nil
}

func plainPod(s string) string {
	for range 3 {
		s = podCode.ReplaceAllString(s, "$1")
	}
	return s
}
