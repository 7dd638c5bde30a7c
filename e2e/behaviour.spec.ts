// Shorter journeys: wrong input, conflicts, and the promise that the viewport
// shows what is delivered.
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import { desk, newScene, onAir, timecode } from './page.ts'
import { root, Server } from './server.ts'

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  id = await server.demo()
})
test.afterAll(async () => server?.end())

test.describe('in every pixel', () => {
  test.use({ deviceScaleFactor: 1 })
  test('the viewport shows the picture that is delivered', async ({ page }) => {
    // Two frames through two cameras, one from far and one near with shadows and
    // lamps; one in a dissolve, and one while the camera travels.
    const scene = join(server.dir, 'scene.json')
    execFileSync(join(root, 'bin', 'proscen'), ['demo', 'export', scene])
    await page.goto(`${server.url}/scenes/${id}/splice`)
    for (const [shot, frame] of [
      ['030', 20],
      ['040', 60],
      ['020', 3],
      ['110', 2],
    ] as const) {
      const out = join(server.dir, `out-${shot}`)
      execFileSync(join(root, 'bin', 'proscen'), ['render', scene, '--out', out, '--shots', shot, '--size', '804x452'])
      const { document } = await server.document(id)
      const s = document.shots![`shot-${shot}`] as {
        screenIn: number
        number: string
      }
      await timecode(page, s.screenIn + frame)
      await expect(onAir(page)).toContainText(`shot ${shot}`)
      await page.addStyleTag({
        content: '.gate > *, .tools { visibility: hidden !important } .gate { outline: none !important }',
      })
      await page.waitForTimeout(700)
      const gate = (await page.locator('.gate').boundingBox())!
      const [w, h] = [Math.floor(gate.width), Math.floor(gate.height)]
      const png = await page.screenshot({
        clip: {
          x: Math.ceil(gate.x),
          y: Math.ceil(gate.y),
          width: w - 1,
          height: h - 1,
        },
      })
      const raw = ['-vf', 'scale=402:226', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-']
      const video = join(out, JSON.parse(execFileSync('cat', [join(out, 'manifest.json')]).toString()).outputs[0].file)
      const a = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', ...raw], {
        input: png,
        maxBuffer: 1e8,
      })
      const b = execFileSync(
        'ffmpeg',
        ['-v', 'error', '-i', video, '-vf', `select=eq(n\\,${frame}),scale=402:226`, '-frames:v', '1', ...raw.slice(2)],
        { maxBuffer: 1e8 },
      )
      expect(a.length).toBe(402 * 226 * 3)
      expect(b.length).toBe(a.length)
      let sum = 0
      let far = 0
      for (let i = 0; i < a.length; i++) {
        const d = Math.abs(a[i]! - b[i]!)
        sum += d
        if (d > 40) far++
      }
      console.log(
        `shot ${shot}: mean difference ${(sum / a.length).toFixed(2)} of 255, ${((100 * far) / a.length).toFixed(2)} % differ by more than 40`,
      )
      expect(sum / a.length, 'mean difference of a byte').toBeLessThan(4)
      expect(far / a.length, 'share of bytes far off').toBeLessThan(0.02)
    }
  })
})

test('nonsense is refused with a sentence and changes nothing', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${id}/frame`)
  await page.getByRole('button', { name: 'Look through camera 3' }).click()
  const before = JSON.stringify((await server.document(id)).document)
  await page.getByRole('tab', { name: 'lens' }).click()
  const focal = page.getByRole('textbox', { name: 'Focal length' })
  await focal.fill('fifty-ish')
  await focal.press('Enter')
  await expect(page.getByTitle(/is not a number/)).toBeVisible()
  await focal.press('Escape')
  await expect(focal).toHaveValue('29.0')
  await focal.fill('99999')
  await focal.press('Enter')
  await expect(page.getByText(/focal is 99999; it must be from 1 to 3000/i)).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Delete')
  await expect(page.getByText(/is used by shot 03.*; archive it instead/)).toBeVisible()
  expect(JSON.stringify((await server.document(id)).document)).toBe(before)
  // Arithmetic and units are understood.
  await focal.fill('25*2')
  await focal.press('Enter')
  await expect(focal).toHaveValue('50.0')
  await page.getByRole('tab', { name: 'support' }).click()
  const height = page.getByRole('textbox', { name: 'Height', exact: true })
  await height.fill('185cm')
  await height.press('Enter')
  await expect(height).toHaveValue('1.85')
})

test('while the server is away the work goes on and is saved afterwards', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await expect(page.getByRole('listitem', { name: /Shot 010/ })).toBeVisible()
  await server.down()
  await page.keyboard.press('End')
  await page.getByRole('button', { name: 'Marker', exact: true }).click()
  const status = page.getByRole('status', { name: 'Saved state' })
  await expect(status).toContainText('not saved · 1 edit waits')
  await server.up()
  await expect(status).toContainText('saved · edit', { timeout: 20_000 })
  const { document } = await server.document(id)
  expect(Object.values(document.markers!).filter((m) => (m.name as string).startsWith('Marker'))).not.toHaveLength(0)
})

test('a core that did not come is asked for again', async ({ page }) => {
  let sent = 0
  await page.route(/core-.*\.wasm$/, (route) => (sent++ ? route.continue() : route.abort()))
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await expect(page.getByText('The core could not be loaded.', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByRole('listitem', { name: /Shot 010/ })).toBeVisible()
  expect(sent).toBe(2)
})

test('without WebGL it is said, and the cut can be worked on', async ({ page }) => {
  await page.addInitScript(() => {
    const real = HTMLCanvasElement.prototype.getContext
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...more: unknown[]) {
      return kind.startsWith('webgl') ? null : real.call(this, kind as '2d', ...(more as []))
    } as typeof real
  })
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await expect(page.getByRole('alert').filter({ hasText: 'This browser draws no 3D pictures' })).toBeVisible()
  const shot = page.getByRole('listitem', { name: /^Shot 020,/ })
  await shot.click({ position: { x: 30, y: 40 } })
  const before = await shot.getAttribute('aria-label')
  await page.keyboard.press(']')
  await expect(shot).not.toHaveAttribute('aria-label', before!)
  await page.keyboard.press('Control+z')
  await expect(shot).toHaveAttribute('aria-label', before!)
  for (const name of ['Dress', 'Frame', 'Turnover']) await desk(page, name)
  await expect(page.getByRole('button', { name: /^Deliver all/ })).toBeEnabled()
})

test('graphics that are taken away come back with the same picture', async ({ page }) => {
  await page.addInitScript(() => {
    const real = HTMLCanvasElement.prototype.getContext
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...more: unknown[]) {
      const made = real.call(this, kind as 'webgl2', ...(more as [])) as WebGL2RenderingContext | null
      if (kind === 'webgl2' && made) Object.assign(globalThis, { graphics: made.getExtension('WEBGL_lose_context') })
      return made
    } as typeof real
  })
  await page.setViewportSize({ width: 1024, height: 640 })
  await page.goto(`${server.url}/scenes/${id}/dress`)
  const scout = page.getByRole('application', { name: 'Scout view' })
  const picture = async () => {
    await page.mouse.move(512, 10)
    const b = (await scout.boundingBox())!
    return page.screenshot({ clip: { x: b.x + 4, y: b.y + 60, width: b.width - 8, height: b.height - 120 } })
  }
  /** The picture, once it stays. */
  const still = async () => {
    let last = await picture()
    await expect
      .poll(
        async () => {
          const before = last
          last = await picture()
          return before.equals(last)
        },
        { intervals: [700] },
      )
      .toBe(true)
    return last
  }
  await expect(page.getByRole('button', { name: 'Platform', exact: true })).toBeVisible()
  const before = await still()
  const graphics = (what: 'loseContext' | 'restoreContext') =>
    page.evaluate((what) => (globalThis as unknown as { graphics: WEBGL_lose_context }).graphics[what](), what)
  await graphics('loseContext')
  const told = page.getByRole('alert').filter({ hasText: 'The system has taken the graphics away' })
  await expect(told).toBeVisible()
  await graphics('restoreContext')
  await expect(told).toHaveCount(0)
  expect((await still()).equals(before), 'the picture from before').toBe(true)
})

test('a new scene starts empty and says what to do', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Hollin Pass', 'Pick-ups')
  await expect(page.getByRole('button', { name: 'Platform' })).toBeVisible()
  await page
    .getByRole('button', { name: 'House', exact: true })
    .dragTo(page.getByRole('application', { name: 'Plan view' }), { targetPosition: { x: 200, y: 200 } })
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('House')
  await desk(page, 'Turnover')
  await expect(page.getByText('There is nothing to deliver yet.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Deliver all 0 shots' })).toBeDisabled()
  await page.goto(`${server.url}/scenes/none/splice`)
  await expect(page.getByText('The scene cannot be found', { exact: false })).toBeVisible()
})
