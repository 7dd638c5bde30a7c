// How long our own scripts take for a frame on a strip of 2,000 shots, read from
// the browser's tracing while the strip is scrolled, zoomed and dragged on. The
// drawing calls of WebGL are left out, since they are carried out in software
// where there is no GPU. It prints figures and asserts nothing of them: machines
// differ.
import { expect, test, type CDPSession, type Page } from '@playwright/test'
import { Server } from './server'
import { saved } from './page'

interface TraceEvent {
  name: string
  ph: string
  ts: number
  dur?: number
  tdur?: number // of the thread's own time: other processes do not count
  tid: number
  pid: number
}

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
})
test.afterAll(() => server.end())

/** The demonstration with its cut repeated up to a number of shots. */
async function large(shots: number): Promise<string> {
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  const demo = await server.get<{ document: Record<string, any> }>(`/scenes/${scenes[0]!.id}`)
  const doc = demo.document
  const own = Object.values(doc.shots as Record<string, any>).sort((a, b) => a.screenIn - b.screenIn)
  doc.shots = {}
  let at = 0
  for (let i = 0; i < shots; i++) {
    const s = own[i % own.length]
    const length = s.screenOut - s.screenIn
    doc.shots[`shot-${String(i).padStart(5, '0')}`] = {
      ...s,
      number: String((i + 1) * 10).padStart(3, '0'),
      screenIn: at,
      screenOut: at + length,
    }
    at += length
  }
  doc.boards = {}
  const r = await fetch(`${server.url}/api/scenes`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ production: 'Hollin Pass', title: `${shots} shots`, document: doc }),
  })
  expect(r.ok, await r.clone().text()).toBe(true)
  return ((await r.json()) as { id: string }).id
}

/** What scripts took between one frame and the next, in milliseconds. */
async function traced(cdp: CDPSession, work: () => Promise<void>): Promise<number[]> {
  const events: TraceEvent[] = []
  cdp.on('Tracing.dataCollected', (e) => events.push(...(e.value as unknown as TraceEvent[])))
  await cdp.send('Tracing.start', {
    traceConfig: {
      includedCategories: [
        'devtools.timeline',
        'disabled-by-default-devtools.timeline',
        'devtools.timeline.frame',
        'disabled-by-default-devtools.timeline.frame',
      ],
    },
    transferMode: 'ReportEvents',
  })
  await work()
  const done = new Promise((r) => cdp.once('Tracing.tracingComplete', r))
  await cdp.send('Tracing.end')
  await done
  if (process.env.NAMES) {
    const names = new Map<string, number>()
    for (const e of events) names.set(`${e.name} ${e.ph}`, (names.get(`${e.name} ${e.ph}`) ?? 0) + 1)
    console.log(
      [...names]
        .sort((a, b) => b[1] - a[1])
        .slice(0, 60)
        .map(([k, v]) => `${k}=${v}`)
        .join(', '),
    )
  }
  if (process.env.NAMES)
    console.log(events.filter((e) => e.tdur).length, 'of', events.length, 'events tell their own time')
  const scripts = new Set([
    'FunctionCall',
    'EvaluateScript',
    'FireAnimationFrame',
    'TimerFire',
    'RunMicrotasks',
    'EventDispatch',
  ])
  const main = events.find((e) => e.name === 'BeginMainThreadFrame')?.tid
  const ours = events
    .filter((e) => e.tid === main && e.ph === 'X' && scripts.has(e.name))
    .sort((a, b) => a.ts - b.ts || (b.dur ?? 0) - (a.dur ?? 0))
  // Nested calls are counted once; laying out the page, which they may cause, is
  // not script.
  const layouts = events.filter((e) => e.tid === main && (e.name === 'Layout' || e.name === 'UpdateLayoutTree'))
  const took = (e: TraceEvent) => (e.tdur ?? e.dur ?? 0) / 1000
  const top: (TraceEvent & { script: number })[] = []
  let end = 0
  for (const e of ours) {
    if (e.ts < end) continue
    end = e.ts + (e.dur ?? 0)
    const laid = layouts.filter((l) => l.ts >= e.ts && l.ts < end)
    top.push({ ...e, script: took(e) - laid.reduce((sum, l) => sum + took(l), 0) })
  }
  const starts = events
    .filter((e) => e.tid === main && e.name === 'BeginMainThreadFrame')
    .map((e) => e.ts)
    .sort((a, b) => a - b)
  return starts.slice(1).map((to, i) => {
    const from = starts[i]!
    return top.filter((e) => e.ts >= from && e.ts < to).reduce((sum, e) => sum + e.script, 0)
  })
}

/** A browser hands over what a mouse does once in a frame; here it is waited for. */
async function frame(page: Page) {
  await page.evaluate(() => new Promise(requestAnimationFrame))
  await page.waitForTimeout(10)
}

/** Frames in which nothing of ours ran are left out. */
function tell(what: string, ms: number[]) {
  const sorted = ms.filter((t) => t > 0.2).sort((a, b) => a - b)
  const at = (q: number) => (sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0).toFixed(1)
  console.log(
    `${what}: ${sorted.length} frames, median ${at(0.5)} ms, 95 % ${at(0.95)} ms, worst ${at(1)} ms of script`,
  )
}

test('2,000 shots on the strip', async ({ page }) => {
  await page.addInitScript(() => {
    const gl = WebGL2RenderingContext.prototype as unknown as Record<string, unknown>
    for (const call of [
      'drawElements',
      'drawArrays',
      'drawElementsInstanced',
      'drawArraysInstanced',
      'readPixels',
      'clear',
      'getBufferSubData',
    ])
      gl[call] = () => {}
    gl.clientWaitSync = () => 0x911a // what is waited for is there
  })
  const id = await large(2000)
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  const opened = await page.evaluate(async (scene) => {
    const start = performance.now()
    await fetch(`/api/scenes/${scene}`).then((r) => r.json())
    return performance.now() - start
  }, id)
  console.log(`the document alone is fetched and parsed in ${opened.toFixed(0)} ms`)
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  for (const s of scenes.sort((a, b) => b.title.localeCompare(a.title))) {
    const begin = Date.now()
    await page.goto(`${server.url}/scenes/${s.id}/splice`)
    await page.locator('[data-lane] :is(canvas, .shot)').first().waitFor()
    console.log(`opening ${s.title}: ${Date.now() - begin} ms until shots are on the strip`)
  }
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await page.waitForTimeout(5000)
  const cdp = await page.context().newCDPSession(page)
  const lane = page.getByRole('list', { name: 'Main lane' })
  const box = (await lane.boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + 30]
  await page.mouse.move(x, y)
  tell(
    'zooming',
    await traced(cdp, async () => {
      for (let i = 0; i < 40; i++) {
        await page.mouse.wheel(0, i < 25 ? -120 : 60)
        await frame(page)
      }
    }),
  )
  await page.keyboard.down('Shift')
  tell(
    'scrolling',
    await traced(cdp, async () => {
      for (let i = 0; i < 60; i++) {
        await page.mouse.wheel(0, 90)
        await frame(page)
      }
    }),
  )
  await page.keyboard.up('Shift')
  for (const grip of ['Trim', 'Roll', 'Ripple']) {
    await page.getByRole('radio', { name: grip }).click()
    const blocks = page.getByRole('listitem', { name: /^Shot \d+, camera/ })
    const b = (await blocks.nth(3).boundingBox())!
    tell(
      `dragging an edge (${grip.toLowerCase()})`,
      await traced(cdp, async () => {
        await page.mouse.move(b.x + b.width - 3, b.y + 30)
        await page.mouse.down()
        for (let i = 1; i <= 40; i++) {
          await page.mouse.move(b.x + b.width - 3 - i, b.y + 30)
          await frame(page)
        }
        await page.keyboard.press('Escape')
        await page.mouse.up()
      }),
    )
  }
})
