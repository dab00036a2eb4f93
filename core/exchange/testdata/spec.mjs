// Prints the examples of the CommonMark specification as JSON.
import { tests } from 'commonmark-spec'

console.log(JSON.stringify(tests.map((t) => ({ Markdown: t.markdown.replace(/→/g, '\t'), HTML: t.html.replace(/→/g, '\t'), Section: t.section, Number: t.number }))))
