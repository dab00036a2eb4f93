// Says again, at the end of a run, why browser tests failed.
import { readFileSync } from 'node:fs'

const plain = (s) => s.replace(/\u001b\[[0-9;]*m/g, '')
const walk = (suite, visit) => {
  for (const spec of suite.specs ?? []) visit(spec)
  for (const inner of suite.suites ?? []) walk(inner, visit)
}
try {
  const report = JSON.parse(readFileSync(process.argv[2], 'utf8'))
  for (const suite of report.suites)
    walk(suite, (spec) => {
      for (const test of spec.tests) {
        if (test.status === 'expected') continue
        for (const result of test.results)
          for (const e of result.errors ?? [])
            console.log(`${test.status === 'flaky' ? 'UNSTEADY' : 'FAILED'}: ${spec.file}:${spec.line} ${spec.title}\n${plain(e.message ?? '').split('\n').slice(0, 14).join('\n')}`)
      }
    })
} catch {
  // Without a report there is nothing to say again.
}
