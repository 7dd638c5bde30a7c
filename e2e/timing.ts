// Prints how long each file of journeys took.
import type { Reporter, TestCase, TestResult } from '@playwright/test/reporter'
import { basename } from 'node:path'

export default class Timing implements Reporter {
  private took = new Map<string, number>()

  onTestEnd(test: TestCase, result: TestResult) {
    const file = basename(test.location.file)
    this.took.set(file, (this.took.get(file) ?? 0) + result.duration)
  }
  onEnd() {
    for (const [file, ms] of this.took) console.log(`${(ms / 1000).toFixed(0).padStart(6)} s  ${file}`)
  }
}
