package article_test

import (
	"fmt"

	"hermeneus/core/article"
)

// What is sent in is made safe; what was taken out is said, line by line.
func ExampleSanitise() {
	sent := "<h2>Steps</h2>\n<script>alert(1)</script>\n<p onclick=\"x()\">Open <a href=\"/help/articles/A-0001\">this</a>.</p>"
	clean, err := article.Sanitise(sent)
	fmt.Println(clean, err)
	for _, r := range article.TakenOut(sent) {
		fmt.Println(r.Line, r.What)
	}
	read := article.Read(clean)
	fmt.Println(read.Words(), "words, links to", read.Links)
	// Output:
	// <h2>Steps</h2>
	//
	// <p>Open <a href="/help/articles/A-0001">this</a>.</p> <nil>
	// 2 the element <script>
	// 3 the script in onclick of <p>
	// 3 words, links to [1]
}

// References are written one way, and read back.
func ExampleParseReference() {
	number, revision, ok := article.ParseReference(article.RevisionReference(42, 3))
	fmt.Println(number, revision, ok)
	number, language, ok := article.ParseEdition("A-0042.de")
	fmt.Println(number, language, ok)
	// Output:
	// 42 3 true
	// 42 de true
}
