// A finger, or two, on a page: what a tablet sends.
import type { CDPSession, Page } from '@playwright/test'
import type { Point } from './page.ts'

export class Fingers {
  private constructor(private readonly cdp: CDPSession) {}
  static async on(page: Page) {
    return new Fingers(await page.context().newCDPSession(page))
  }
  private send(type: 'touchStart' | 'touchMove' | 'touchEnd', at: Point[]) {
    const touchPoints = at.map((p, id) => ({ x: Math.round(p.x), y: Math.round(p.y), id }))
    return this.cdp.send('Input.dispatchTouchEvent', { type, touchPoints })
  }
  /** Presses, moves and lets go, with one finger or several. */
  async drag(from: Point[], by: Point[], drop = true) {
    await this.send('touchStart', from)
    for (let i = 1; i <= 8; i++)
      await this.send(
        'touchMove',
        from.map((p, k) => ({ x: p.x + (by[k]!.x * i) / 8, y: p.y + (by[k]!.y * i) / 8 })),
      )
    if (drop) await this.send('touchEnd', [])
  }
  async tap(at: Point) {
    await this.send('touchStart', [at])
    await this.send('touchEnd', [])
  }
}
