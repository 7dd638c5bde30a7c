// Prints how long each file of journeys took, and once more at the end what failed and by
// which sentence: of a long output the end is what is read.
import type { Reporter, TestCase, TestResult } from '@playwright/test/reporter'
import { basename } from 'node:path'

export default class Timing implements Reporter {
  private took = new Map<string, number>()
  private failed: string[] = []

  onTestEnd(test: TestCase, result: TestResult) {
    const file = basename(test.location.file)
    this.took.set(file, (this.took.get(file) ?? 0) + result.duration)
    if (result.status === 'passed' || result.status === 'skipped') return
    const why = (result.error?.message ?? '')
      .replace(/\u001b\[[0-9;]*m/g, '')
      .split('\n')
      .slice(0, 6)
      .join('\n      ')
    const place = result.error?.location
    const at = place ? ` at ${basename(place.file)}:${place.line}` : ''
    const tries = result.retry ? ', tried again' : ''
    this.failed.push(`${file}: ${test.title} (${result.status}${at}${tries})\n      ${why}`)
  }
  onEnd() {
    for (const [file, ms] of this.took) console.log(`${(ms / 1000).toFixed(0).padStart(6)} s  ${file}`)
    for (const one of this.failed) console.log(`failed ${one}`)
  }
}
