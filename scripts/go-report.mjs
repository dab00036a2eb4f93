// Reads what go test -json wrote: prints the output of what failed, a line for
// each package, and last the numbers of tests that passed and failed.
import { readFileSync } from 'node:fs'

const output = {}
let passed = 0
let failed = 0
for (const line of readFileSync(process.argv[2], 'utf8').split('\n')) {
  if (!line.startsWith('{')) continue
  const e = JSON.parse(line)
  const key = `${e.Package ?? e.ImportPath} ${e.Test ?? ''}`
  if (e.Action === 'output' || e.Action === 'build-output') (output[key] ??= []).push(e.Output)
  if (!['pass', 'fail'].includes(e.Action)) continue
  if (!e.Test) {
    if (e.Action === 'fail' && !Object.keys(output).some((k) => k.startsWith(e.Package + ' ') && k !== key)) failed++
    if (e.Action === 'fail') console.log((output[key] ?? []).join(''))
    console.log(`${e.Action === 'pass' ? 'ok  ' : 'FAIL'} ${e.Package} ${e.Elapsed}s`)
    continue
  }
  if (e.Action === 'pass') passed++
  else {
    failed++
    console.log((output[key] ?? []).join(''))
  }
}
console.log(`${passed} ${failed}`)
