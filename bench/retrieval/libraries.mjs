// Ranks the documents of a FAQ for its questions with two search libraries, as they
// come: reads {docs, queries} from standard input, writes {library: [[id, …], …]}.
import lunr from 'lunr'
import MiniSearch from 'minisearch'

let input = ''
for await (const part of process.stdin) input += part
const { docs, queries } = JSON.parse(input)

function timed(rank) {
  const began = performance.now()
  const rankings = queries.map((q) => rank(q.text))
  return { rankings, ms: (performance.now() - began) / queries.length }
}

function byLunr() {
  const index = lunr(function () {
    this.ref('id')
    this.field('title')
    this.field('body')
    for (const d of docs) this.add(d)
  })
  // Its query language has signs of its own; the words are given one by one instead.
  const words = (text) => lunr.tokenizer(text)
  return timed((text) =>
    index
      .query((q) => q.term(words(text)))
      .slice(0, 10)
      .map((hit) => hit.ref),
  )
}

function byMiniSearch() {
  const index = new MiniSearch({ fields: ['title', 'body'], idField: 'id' })
  index.addAll(docs)
  return timed((text) =>
    index
      .search(text)
      .slice(0, 10)
      .map((hit) => hit.id),
  )
}

process.stdout.write(JSON.stringify({ lunr: byLunr(), minisearch: byMiniSearch() }))
