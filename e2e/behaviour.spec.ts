// Shorter journeys: wrong input, conflicts, and the promise that the viewport
// shows what is delivered.
import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { expect, test, type Page } from './base.ts'
import { png, sheet } from './glb.ts'
import { desk, newScene, onAir, saved, timecode, whole } from './page.ts'
import { Server } from './server.ts'

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  id = await server.demo()
})
test.afterAll(async () => server?.end())

interface Pixels {
  /** Red, green, blue. */
  of: Buffer
  width: number
  height: number
}

/** The pixels of a PNG. */
function pixels(file: Buffer): Pixels {
  const args = ['-v', 'error', '-i', '-', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-']
  const of = execFileSync('ffmpeg', args, { input: file, maxBuffer: 1e8 })
  return { of, width: file.readUInt32BE(16), height: file.readUInt32BE(20) }
}

/**
 * How alike two pictures are, the second moved by whole pixels: the mean structural
 * similarity of their luminance in windows of 8 by 8 (Wang et al., 2004), the mean
 * difference of a byte, and the share of bytes that differ by more than 40.
 */
function likeness(a: Pixels, b: Pixels, dx: number, dy: number) {
  const [width, height] = [Math.min(a.width, b.width - dx), Math.min(a.height, b.height - dy)]
  const [first, second] = [new Float32Array(width * height), new Float32Array(width * height)]
  let [difference, far] = [0, 0]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [p, q] = [3 * (y * a.width + x), 3 * ((y + dy) * b.width + x + dx)]
      for (const [c, weight] of [0.299, 0.587, 0.114].entries()) {
        const [u, v] = [a.of[p + c]!, b.of[q + c]!]
        first[y * width + x]! += weight * u
        second[y * width + x]! += weight * v
        difference += Math.abs(u - v)
        if (Math.abs(u - v) > 40) far++
      }
    }
  let [sum, n] = [0, 0]
  for (let y = 0; y + 8 <= height; y += 4)
    for (let x = 0; x + 8 <= width; x += 4) {
      let [ma, mb, aa, bb, ab] = [0, 0, 0, 0, 0]
      for (let k = 0; k < 64; k++) {
        const at = (y + (k >> 3)) * width + x + (k & 7)
        const [p, q] = [first[at]!, second[at]!]
        ma += p / 64
        mb += q / 64
        aa += (p * p) / 64
        bb += (q * q) / 64
        ab += (p * q) / 64
      }
      const [va, vb, cov] = [aa - ma * ma, bb - mb * mb, ab - ma * mb]
      const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
      sum += ((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2))
      n++
    }
  const bytes = 3 * width * height
  return { alike: sum / n, difference: difference / bytes, far: far / bytes }
}

/** Holds a view's picture of a frame, in a shot, against the one that is delivered; returns it. */
async function compared(page: Page, frame: number, what: string, of: string): Promise<Pixels> {
  await timecode(page, frame)
  await expect(onAir(page)).toContainText(`shot ${of}`)
  const style = await page.addStyleTag({
    content: '.gate > *, .tools { visibility: hidden !important } .gate { outline: none !important }',
  })
  await page.waitForTimeout(400)
  const gate = (await page.locator('.gate').boundingBox())!
  // Two of the page's pixels are one of the picture's.
  const even = (v: number) => 2 * Math.floor(v / 2)
  const clip = {
    x: 2 * Math.ceil(gate.x / 2),
    y: 2 * Math.ceil(gate.y / 2),
    width: even(gate.width) - 2,
    height: even(gate.height) - 2,
  }
  await whole(page)
  const live = await page.screenshot({ clip })
  const size = [gate.width, gate.height].map((v) => 2 * Math.round(v / 4)) // as large as it is seen
  await style.evaluate((e) => (e as HTMLElement).remove())
  const answer = page.waitForResponse(/\/frame\?/)
  await page.getByRole('button', { name: 'This frame as delivered' }).click()
  const delivered = Buffer.from(
    await (await fetch(`${(await answer).url()}&width=${size[0]}&height=${size[1]}`)).arrayBuffer(),
  )
  await expect(page.getByRole('img', { name: 'The frame as it is delivered' })).toBeVisible()
  // The gate begins between pixels: the picture may lie up to one to the right and down.
  const [a, b] = [pixels(live), pixels(delivered)]
  const moved = [0, 1, 2, 3].map((k) => ({ dx: k & 1, dy: k >> 1, ...likeness(a, b, k & 1, k >> 1) }))
  const { alike, difference, far, dx, dy } = moved.reduce((x, y) => (y.alike > x.alike ? y : x))
  console.log(
    `${what}: similarity ${alike.toFixed(3)}, a byte differs by ${difference.toFixed(2)}, ${(100 * far).toFixed(2)} % by more than 40`,
  )
  if (alike < 0.97) {
    writeFileSync(test.info().outputPath(`${what}-live.png`), live)
    writeFileSync(test.info().outputPath(`${what}-delivered.png`), delivered)
    const apart = png(Math.min(a.width, b.width - dx), Math.min(a.height, b.height - dy), (x, y) => {
      const [p, q] = [3 * (y * a.width + x), 3 * ((y + dy) * b.width + x + dx)]
      return [0, 1, 2].map((c) => Math.min(255, 4 * Math.abs(a.of[p + c]! - b.of[q + c]!)))
    })
    writeFileSync(test.info().outputPath(`${what}-difference.png`), apart)
  }
  expect.soft(alike, `structural similarity, ${what}`).toBeGreaterThan(0.97)
  expect.soft(difference, `mean difference of a byte, ${what}`).toBeLessThan(4)
  expect.soft(far, `share of bytes far off, ${what}`).toBeLessThan(0.02)
  return a
}

test.describe('as it is delivered', () => {
  test.use({ views: 'delivered' })
  test('the viewport shows the picture that is delivered, in every shape and light', async ({ page }) => {
    await page.goto(`${server.url}/scenes/${id}/splice`)
    await saved(page)
    await page.addStyleTag({ content: '.thumb { display: none }' }) // it is the large picture that is looked at
    const compare = (frame: number, what: string, of: string) => compared(page, frame, what, of)
    const shape = async (name: string) => {
      await page.getByRole('combobox', { name: 'Format' }).click({ force: true })
      await page.getByRole('option', { name, exact: true }).click()
    }
    // Dusk: from far and near, under lamps, in a dissolve and a travel.
    await compare(60, 'crane', '010')
    await compare(179, 'dissolve', '020')
    await compare(340, 'step-out', '040')
    await compare(500, 'over Ida', '050')
    await compare(938, 'travel', '110')
    await shape('scope 2.39:1')
    await compare(340, 'scope', '040')
    await shape('square 1:1')
    await compare(620, 'square', '060')
    await shape('tall 9:16')
    await compare(220, 'tall', '020')
    await shape('wide 16:9')
    // A shot with a light of its own: darker, blue, in haze.
    await timecode(page, 340)
    await page.getByRole('listitem', { name: /^Shot 040,/ }).click({ position: { x: 30, y: 40 } })
    for (const [field, value] of [
      ['Exposure', '-1.5'],
      ['Haze, 0 as the scene', '30'],
    ] as const) {
      await page.getByRole('textbox', { name: field, exact: true }).fill(value)
      await page.keyboard.press('Enter')
    }
    await page.getByLabel('Filter of the shot').fill('#80a0ff')
    await saved(page)
    await compare(341, 'own light', '040')
    const { document } = await server.document(id)
    expect(document.shots!['shot-040']).toMatchObject({ exposure: -1.5, haze: 30, tint: '#80a0ff' })
    await page.getByRole('button', { name: 'As the scene' }).click()
    // A floor with a picture on it, fine and seen slantwise, under a lattice with holes and a blue pane.
    const bricks = png(512, 512, (x, y) => (y % 16 === 0 || (x + (y & 16)) % 32 === 0 ? [90, 84, 80] : [190, 90, 60]))
    const lattice = png(64, 64, (x, y) => [200, 190, 90, (x & 16) === (y & 16) ? 255 : 0])
    const pane = png(8, 8, () => [60, 110, 230, 102])
    const patches: Parameters<typeof server.patch>[1] = []
    for (const [name, file, position, turn] of [
      ['Bricks', sheet(60, 60, bricks), [0, 0.4, -20], [0, 20, 0]],
      ['Lattice', sheet(12, 12, lattice, { alphaMode: 'MASK' }), [-9, 5, -8], [70, 20, 0]],
      ['Pane', sheet(9, 9, pane, { alphaMode: 'BLEND' }), [4, 5, -6], [60, -20, 0]],
    ] as const) {
      const kept = await fetch(`${server.url}/api/models`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: new Uint8Array(file),
      })
      const info = (await kept.json()) as { blob: string; size: number[]; triangles: number }
      expect(info.triangles).toBe(4) // both sides of two
      const model = { name, blob: info.blob, size: info.size, triangles: info.triangles }
      const thing = { kind: 'set', name, position, turn, model: name }
      patches.push({ collection: 'models', id: name, after: model }, { collection: 'nodes', id: name, after: thing })
    }
    const placed = await server.patch(id, patches)
    await expect(page.getByText(`edit ${placed}`)).toBeVisible()
    await compare(62, 'bricks', '010')
    const there = (await server.document(id)).document
    const gone = await server.patch(
      id,
      patches.toReversed().map(({ collection, id: of }) => ({
        collection,
        id: of,
        before: (there[collection as 'nodes' | 'models'] as Record<string, unknown>)[of],
      })),
    )
    await expect(page.getByText(`edit ${gone}`)).toBeVisible()
    // By day.
    await desk(page, 'Dress')
    await page.getByText('Sun follows the clock').click()
    await page.getByRole('slider', { name: 'Time of day' }).fill('11')
    await desk(page, 'Splice')
    await saved(page)
    await compare(342, 'by day', '040')

    // It stays until something changes.
    await timecode(page, 350)
    await page.getByRole('button', { name: 'This frame as delivered' }).click()
    await expect(page.getByRole('img', { name: 'The frame as it is delivered' })).toBeVisible()
    await page.keyboard.press('ArrowRight')
    await expect(page.getByRole('img', { name: 'The frame as it is delivered' })).toHaveCount(0)
    for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z')
    await saved(page)
  })
})

test.describe('at night', () => {
  test.use({ views: 'delivered' })
  test('lamps cast the shadows that are delivered', async ({ page }) => {
    const own = await server.copy(id)
    await page.goto(`${server.url}/scenes/${own}/splice`)
    await saved(page)
    await page.addStyleTag({ content: '.thumb { display: none }' })
    /** Lets hardly anything but two lamps and a spot shine, which cast shadows or do not. */
    async function light(shadow: boolean) {
      const { settings, nodes } = (await server.document(own)).document as unknown as {
        settings: Record<string, object>
        nodes: Record<string, { lamp?: object } | undefined>
      }
      const as = (name: string, strength: number) => ({
        ...nodes[name],
        lamp: { ...nodes[name]!.lamp, strength, shadow },
      })
      const spot = { color: '#bcd4ff', strength: 22, reach: 20, spot: 70, soft: 0.3, shadow }
      const lamps = {
        'lamp-light': as('lamp-light', 7),
        'lamp-2-light': as('lamp-2-light', 5),
        spot: { kind: 'lamp', name: 'Spot', position: [-4, 4.6, 2.5], turn: [-35, -55, 0], lamp: spot },
      }
      const night = { ...settings, sun: { ...settings.sun, strength: 0 }, sky: { ...settings.sky, strength: 0.12 } }
      const placed = await server.patch(own, [
        ...Object.entries(lamps).map(([k, after]) => ({ collection: 'nodes', id: k, before: nodes[k], after })),
        { collection: 'settings', id: 'settings', before: settings, after: night },
      ])
      await expect(page.getByText(`edit ${placed}`)).toBeVisible()
    }
    await light(true)
    await compared(page, 620, 'lamps from above', '060')
    const held = await compared(page, 342, 'lamps', '040')
    await light(false)
    const free = await compared(page, 342, 'lamps without shadows', '040')
    expect(likeness(held, free, 0, 0).alike, 'shadows make another picture').toBeLessThan(0.95)
    // By hand: one of the lamps casts them again.
    await desk(page, 'Dress')
    await page.getByLabel('Search the scene').fill('light')
    await page.getByText('Lamp light', { exact: true }).last().click()
    const casts = page.getByRole('checkbox', { name: 'Casts shadows' })
    const casting = async () =>
      Object.entries((await server.document(own)).document.nodes as Record<string, { lamp?: { shadow?: boolean } }>)
        .filter(([, n]) => n.lamp?.shadow)
        .map(([k]) => k)
    await casts.check()
    await saved(page)
    expect(await casting()).toEqual(['lamp-light'])
    await page.keyboard.press('Control+z')
    await expect(casts).not.toBeChecked()
    await saved(page)
    expect(await casting()).toEqual([])
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

test.describe('with shadows', () => {
  test.use({ views: 'delivered' })
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
      await whole(page)
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

    // Whoever has slow graphics takes pictures without shadows.
    const drawn = async (how: string) => {
      await page.keyboard.press('Control+k')
      await page.getByRole('combobox', { name: /^Find things/ }).fill('preferences')
      await page.keyboard.press('Enter')
      await page.getByRole('radiogroup', { name: 'Views are drawn' }).getByText(how).click()
      await page.keyboard.press('Escape')
      await expect(page.getByRole('dialog')).toHaveCount(0)
    }
    await drawn('plainly')
    expect((await still()).equals(before), 'plainly').toBe(false)
    await drawn('as they are delivered')
    expect((await still()).equals(before), 'as before').toBe(true)
  })
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
