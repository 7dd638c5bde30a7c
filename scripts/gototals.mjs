// Reads ‘go test -json’, shows failures with their output, each package's
// result, and the totals.
import { createInterface } from 'node:readline'

const output = new Map()
const count = { pass: 0, fail: 0, skip: 0 }
let broken = 0
for await (const line of createInterface({ input: process.stdin })) {
  let e
  try {
    e = JSON.parse(line)
  } catch {
    console.log(line)
    continue
  }
  const key = `${e.Package} ${e.Test ?? ''}`
  if (e.Action === 'output') output.set(key, (output.get(key) ?? '') + e.Output)
  if (e.Action === 'build-output') process.stdout.write(e.Output)
  if (!(e.Action in count)) continue
  if (e.Test) {
    count[e.Action]++
    if (e.Action === 'fail') process.stdout.write(output.get(key) ?? '')
  } else if (e.Action === 'fail') {
    broken++
    process.stdout.write(output.get(key) ?? `FAIL ${e.Package}\n`)
  } else if (e.Action === 'pass') console.log(`ok   ${e.Package} ${e.Elapsed}s`)
  output.delete(key)
}
console.log(`${count.pass} passed, ${count.fail} failed, ${count.skip} skipped`)
process.exit(count.fail || broken ? 1 : 0)
