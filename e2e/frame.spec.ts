// The Frame desk as an artist uses it: moves through left positions, focus
// pulls, composed pairs, and the picture held against the renderer's.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import { choose, drag, saved, timecode, whole } from './page.ts'
import { root, Server } from './server.ts'

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  id = await server.demo()
})
test.afterAll(async () => server?.end())

interface Camera {
  number: number
  support: string
  focal: number
  left?: { frame: number; position: number[] }[]
}
interface Node {
  name: string
  path?: string
  position: number[]
  camera?: Camera
}
interface Curve {
  node: string
  channel: string
  keys: { frame: number; value: number; ease: string; on?: string }[]
}
const doc = async () => (await server.document(id)).document
async function camera(number: number): Promise<Node & { id: string; camera: Camera }> {
  const nodes = (await doc()).nodes as unknown as Record<string, Node>
  const [key, n] = Object.entries(nodes).find(([, n]) => n.camera?.number === number)!
  return { id: key, ...n } as Node & { id: string; camera: Camera }
}
const curves = async (node: string) =>
  (Object.values((await doc()).curves!) as unknown as Curve[]).filter((c) => c.node === node)
const curve = async (node: string, channel: string) => (await curves(node)).find((c) => c.channel === channel)

async function open(page: Page, frame: number) {
  await page.goto(`${server.url}/scenes/${id}/frame`)
  await saved(page)
  await timecode(page, frame)
}
/** Chooses from a list; what it shows lies over its field. */
const leaf = (page: Page, name: string) => page.getByRole('tab', { name }).click()
async function lensMiddle(page: Page) {
  const b = (await page.getByRole('application', { name: 'Lens view' }).boundingBox())!
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}

test('three positions left make a smooth move', async ({ page }) => {
  await open(page, 100)
  await page.keyboard.press('3')
  await leaf(page, 'move')
  await page.keyboard.press('u')
  const middle = await lensMiddle(page)
  await page.keyboard.press('y')
  // Slid aside, and then orbited around what is in focus.
  await page.keyboard.down('Shift')
  await drag(page, middle, { x: 120, y: 0 })
  await page.keyboard.up('Shift')
  await page.keyboard.press('y')
  await page.keyboard.down('o')
  await drag(page, middle, { x: -90, y: 0 })
  await page.keyboard.up('o')
  await page.getByRole('button', { name: 'Add a position', exact: true }).first().click()
  const list = page.getByRole('list', { name: 'Positions of the move' }).getByRole('listitem')
  await expect(list).toHaveCount(3)
  await expect(list.nth(2).getByRole('img', { name: 'Position 3' })).toHaveAttribute('src', /^data:image/)
  await saved(page)
  let c = await camera(3)
  expect(c.camera.left).toHaveLength(3)
  expect(c.camera.support).toBe('dolly')
  expect(((await doc()).paths![c.path!] as unknown as { points: number[][] }).points).toHaveLength(3)
  const travel = (await curve(c.id, 'travel'))!.keys
  expect(travel.map((k) => k.ease)).toEqual(['even', 'soft', 'even'])
  // Spaced evenly, the middle one stands where its share of the way is.
  await page.getByRole('button', { name: 'Even speed' }).click()
  await page.getByRole('button', { name: 'soft at both ends' }).click()
  await saved(page)
  const even = (await curve(c.id, 'travel'))!.keys
  expect(even.map((k) => k.ease)).toEqual(['soft', 'soft', 'soft'])
  const [a, b, z] = even.map((k) => k.frame) as [number, number, number]
  expect(Math.abs((b - a) / (z - a) - even[1]!.value)).toBeLessThan(0.01)
  // One is taken out again, and undo brings it back.
  await page.getByRole('button', { name: 'Remove position 2' }).click()
  await expect(list).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect(list).toHaveCount(3)
  // The whole move is halved and mirrored.
  await page.getByRole('button', { name: 'Half the move' }).click()
  await saved(page)
  const before = c.camera.left!
  c = await camera(3)
  const span = (l: { position: number[] }[]) =>
    Math.hypot(...[0, 1, 2].map((i) => l[0]!.position[i]! - l[2]!.position[i]!))
  expect(span(c.camera.left!) / span(before)).toBeCloseTo(0.5, 3)
})

test('a focus pull is set by picking twice in the picture', async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('proscen.guides', '{"boxes":true}'))
  await open(page, 1000)
  await page.getByRole('button', { name: /Look through camera 3 / }).click()
  await timecode(page, 500)
  await leaf(page, 'lens')
  await page.getByRole('button', { name: 'pull', exact: true }).click()
  await expect(page.getByText('press what is to be in focus at this frame')).toBeVisible()
  const b = (await page.getByRole('application', { name: 'Lens view' }).boundingBox())!
  const people = async () => {
    // Where Ida is in the picture, from the boxes over the subjects.
    const box = page.locator('.box', { hasText: 'Ida' }).locator('rect')
    return (await box.boundingBox())!
  }
  const ida = await people()
  await page.mouse.click(b.x + b.width - 30, b.y + b.height / 2 + 100)
  await timecode(page, 540)
  await page.mouse.click(ida.x + ida.width / 2, ida.y + ida.height * 0.3)
  await saved(page)
  const c = await camera(3)
  await expect.poll(async () => (await curve(c.id, 'lens.focus'))?.keys.length).toBe(2)
  const keys = (await curve(c.id, 'lens.focus'))!.keys
  expect(keys.map((k) => k.frame)).toEqual([500, 540])
  expect(keys[0]!.on, 'the first pick is a place').toBeUndefined()
  expect(keys[1]!.on, 'the second follows Ida').toBe('ida')
  await page.keyboard.press('Escape')
  await expect(page.getByText('press what is to be in focus at this frame')).toBeHidden()
  await expect(page.getByRole('application', { name: 'Lens view' }), 'one press ends picking only').toBeVisible()
})

test('an over-the-shoulder pair by compose', async ({ page }) => {
  await open(page, 500)
  await page.keyboard.press('2')
  await leaf(page, 'compose')
  const label = page.getByRole('status', { name: 'Shot size' })
  await page.getByRole('button', { name: 'over the shoulder' }).click()
  await page.getByRole('button', { name: 'medium close-up', exact: true }).click()
  const suggestions = page.getByRole('list', { name: 'Suggestions' })
  await choose(page, 'Subject', 'Ida')
  await expect(suggestions.getByRole('button', { name: 'New camera at suggestion 1' })).toBeVisible()
  await suggestions.getByRole('button', { name: 'New camera at suggestion 1' }).click()
  await expect(label).toHaveText('medium close-up of Ida, over Tomas')
  await expect(page.getByRole('textbox', { name: 'Camera name' })).toHaveValue(/over Tomas/i)
  await choose(page, 'Subject', 'Tomas')
  await expect(suggestions.getByText(/over Ida/).first()).toBeVisible()
  await suggestions.getByRole('button', { name: 'New camera at suggestion 1' }).click()
  await expect(label).toHaveText('medium close-up of Tomas, over Ida')
  await saved(page)
  expect((await camera(12)).camera.support).toBe('sticks')
  expect((await camera(13)).name).toMatch(/of Tomas$/)
  // A single suggestion is taken by the camera itself, which may still be dragged.
  await page.getByRole('button', { name: 'eye', exact: true }).click()
  await page.getByRole('button', { name: 'full', exact: true }).click()
  await expect(suggestions.getByRole('listitem').nth(2)).toBeVisible()
  await suggestions.getByRole('button', { name: /Take suggestion 1, full/ }).click()
  await expect(label).toHaveText(/^full of (Tomas|two, Tomas)/)
})

test('in the camera, and out again to where scout was left', async ({ page }) => {
  await open(page, 0)
  const scout = page.getByRole('application', { name: 'Scout view' })
  const b = (await scout.boundingBox())!
  await drag(page, { x: b.x + 250, y: b.y + 250 }, { x: 120, y: 40 })
  const mark = page.getByRole('button', { name: 'Camera 3 Docking side in scout' })
  await page.waitForTimeout(2500) // it comes to rest softly
  const was = (await mark.boundingBox())!
  await page.getByRole('button', { name: /Look through camera 5/ }).click()
  await page.keyboard.press('u')
  await expect(page.getByText('unlocked: drag to turn')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByText('unlocked: drag to turn')).toBeHidden()
  await page.keyboard.press('Escape')
  await expect(scout).toBeVisible()
  await expect
    .poll(async () => Math.abs((await mark.boundingBox())!.x - was.x), 'scout is where it was left')
    .toBeLessThan(2)
})

test('a move is copied to another camera and softened', async ({ page }) => {
  await open(page, 60)
  await page.getByRole('button', { name: /Look through camera 8/ }).click()
  await page.keyboard.press('Control+a')
  await expect(page.getByText('2 keys')).toBeVisible()
  await page.keyboard.press('Control+c')
  await page.getByRole('button', { name: /Look through camera 4/ }).click()
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('button', { name: 'Key of Pan at frame 60, even' })).toBeVisible()
  await saved(page)
  const c = await camera(4)
  const pasted = (await curve(c.id, 'turn.pan'))!.keys
  expect(pasted.map((k) => [k.frame, k.value])).toEqual([
    [60, -44],
    [244, -58],
  ])
  await page.keyboard.press('Control+a')
  await page.getByRole('button', { name: 'Make the keys soft' }).click()
  await leaf(page, 'move')
  await page.getByRole('button', { name: 'Half the move' }).click()
  await saved(page)
  const soft = (await curve(c.id, 'turn.pan'))!.keys
  expect(soft.map((k) => [k.frame, k.value, k.ease])).toEqual([
    [60, -51, 'soft'],
    [244, -58, 'soft'],
  ])
  // Curves: a handle is pulled, held flat; the overshoot of a freed one is listed.
  await page.keyboard.press('r')
  await page.getByRole('button', { name: 'Make the keys shaped' }).click()
  const handle = page.getByRole('button', { name: 'Handle out of Pan at 60' })
  const h = (await handle.boundingBox())!
  await drag(page, { x: h.x + 4, y: h.y + 4 }, { x: 12, y: 30 })
  await saved(page)
  const flat = (await curve(c.id, 'turn.pan'))!.keys as unknown as { out?: { value: number } }[]
  expect(flat[0]!.out!.value).toBe(0)
  const g = (await handle.boundingBox())!
  await page.keyboard.down('Alt')
  await drag(page, { x: g.x + 4, y: g.y + 4 }, { x: 4, y: -40 })
  await page.keyboard.up('Alt')
  await expect(page.getByRole('list', { name: 'Overshoots' })).toContainText('turn.pan')
})

// Ten balls of ten hues, seen by five cameras of different formats, squeeze,
// shift and roll: where they are in the lens view and in the renderer's picture.
const hues = [0, 36, 60, 100, 140, 175, 205, 240, 280, 320]
const looks = [
  { format: 'wide', width: 1280, height: 720, squeeze: 1, shift: [0, 0], roll: 0, focal: 24, sensor: [24.89, 18.66] },
  { format: 'scope', width: 1280, height: 536, squeeze: 2, shift: [0, 0], roll: 12, focal: 50, sensor: [24.89, 18.66] },
  { format: 'square', width: 720, height: 720, squeeze: 1, shift: [2.5, -1.5], roll: -20, focal: 21, sensor: [36, 24] },
  {
    format: 'four-three',
    width: 960,
    height: 720,
    squeeze: 1.33,
    shift: [-1, 2],
    roll: 5,
    focal: 28,
    sensor: [24.89, 18.66],
  },
  {
    format: 'flat',
    width: 1280,
    height: 692,
    squeeze: 1.8,
    shift: [1.2, 0.8],
    roll: 33,
    focal: 40,
    sensor: [43.8, 32.9],
  },
]

function hex(hue: number): string {
  const f = (n: number) => {
    const k = (n + hue / 60) % 6
    return Math.round(255 * (1 - Math.max(0, Math.min(k, 4 - k, 1)) * 0.98))
      .toString(16)
      .padStart(2, '0')
  }
  return `#${f(5)}${f(3)}${f(1)}`
}

/** Where the ball of each hue is in a PNG, in pixels, decoded by the page. */
async function balls(page: Page, png: Buffer): Promise<Record<number, { x: number; y: number; n: number }>> {
  return page.evaluate(
    async ({ data, hues }) => {
      const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0))
      const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }))
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
      const g = canvas.getContext('2d')!
      g.drawImage(bitmap, 0, 0)
      const { data: px, width, height } = g.getImageData(0, 0, bitmap.width, bitmap.height)
      const found: Record<number, { x: number; y: number }[]> = {}
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const [r, gr, b] = [px[(y * width + x) * 4]!, px[(y * width + x) * 4 + 1]!, px[(y * width + x) * 4 + 2]!]
          const [hi, lo] = [Math.max(r, gr, b), Math.min(r, gr, b)]
          if (hi < 70 || hi - lo < 0.55 * hi) continue
          const d = hi - lo
          const hue =
            hi === r
              ? (60 * ((gr - b) / d) + 360) % 360
              : hi === gr
                ? 60 * ((b - r) / d) + 120
                : 60 * ((r - gr) / d) + 240
          const nearest = hues.reduce((a, c) => {
            const off = (v: number) => Math.abs(((v - hue + 540) % 360) - 180)
            return off(c) < off(a) ? c : a
          })
          ;(found[nearest] ??= []).push({ x: x + 0.5, y: y + 0.5 })
        }
      // Where two hues meet, their mixture may look like a third: what is far
      // from the middle of a hue does not count.
      const middle = (v: number[]) => v.sort((a, b) => a - b)[v.length >> 1]!
      const mean = (v: number[]) => v.reduce((a, b) => a + b, 0) / v.length
      return Object.fromEntries(
        Object.entries(found).map(([hue, all]) => {
          const [mx, my] = [middle(all.map((p) => p.x)), middle(all.map((p) => p.y))]
          const near = all.filter((p) => Math.hypot(p.x - mx, p.y - my) < 60)
          return [hue, { x: mean(near.map((p) => p.x)), y: mean(near.map((p) => p.y)), n: near.length }]
        }),
      )
    },
    { data: png.toString('base64'), hues },
  )
}

test.describe('in every pixel', () => {
  test.use({ deviceScaleFactor: 1 })
  test('the lens view and the renderer agree to the pixel', async ({ page }) => {
    const places = hues.map((_, i) => [
      ((i * 7) % 10) * 0.62 - 2.8,
      0.3 + ((i * 3) % 10) * 0.26,
      -7 - ((i * 5) % 4) * 0.9,
    ])
    const nodes: Record<string, unknown> = Object.fromEntries(
      hues.map((h, i) => [
        `ball-${h}`,
        {
          kind: 'prop',
          name: `Ball ${h}`,
          position: places[i],
          turn: [0, 0, 0],
          piece: { stock: 'box', params: { width: 0.16, height: 0.16, depth: 0.16 }, color: hex(h) },
        },
      ]),
    )
    looks.forEach((l, i) => {
      nodes[`camera-${i}`] = {
        kind: 'camera',
        name: `Look ${i}`,
        position: [0.4 - i * 0.2, 1.5 + i * 0.1, 0],
        turn: [i * 2 - 4, -2, l.roll],
        camera: {
          number: i + 1,
          color: '#999999', // no hue of its own
          support: 'sticks',
          aim: 'free',
          framing: [0, 0],
          sensor: l.sensor,
          focal: l.focal,
          squeeze: l.squeeze,
          shift: l.shift,
          stop: 4,
          focus: 8,
        },
      }
    })
    const rest = 'paths curves actions shots markers lines models kits boards cards footage tracks sounds recipes'
    const scene = {
      ...Object.fromEntries(rest.split(' ').map((collection) => [collection, {}])),
      schema: 'proscen.scene/1',
      settings: {
        production: 'Check',
        title: 'Balls',
        rate: '24',
        story: { in: 0, out: 48 },
        format: 'wide',
        sun: { heading: 0, height: 40, strength: 0, color: '#ffffff' },
        sky: { zenith: '#8c8c8c', horizon: '#8c8c8c', ground: '#8c8c8c', strength: 1 },
        haze: { distance: 0 },
      },
      formats: Object.fromEntries(looks.map((l) => [l.format, { name: l.format, width: l.width, height: l.height }])),
      nodes,
      assemblies: { cut: { name: 'cut' } },
      lanes: { main: { assembly: 'cut', main: true, name: 'main' } },
    }
    const made = await server.post('/scenes', { production: 'Check', title: 'Balls', document: scene })
    expect(made.status, await made.clone().text()).toBe(201)
    const balled = ((await made.json()) as { id: string }).id
    const dir = mkdtempSync(join(tmpdir(), 'proscen-balls-'))
    await page.setViewportSize({ width: 1300, height: 808 })
    await page.goto(`${server.url}/scenes/${balled}/frame`)
    await saved(page)
    await page.keyboard.press('1')
    const pane = page.getByRole('application', { name: 'Lens view' })
    await pane.hover({ position: { x: 60, y: 200 } })
    await page.keyboard.press('f')
    await expect.poll(async () => (await pane.boundingBox())!.width).toBe(1300)
    await page.keyboard.press('g')
    let checked = 0
    for (const [i, l] of looks.entries()) {
      const file = join(dir, `look-${i}.json`)
      writeFileSync(file, JSON.stringify({ ...scene, settings: { ...scene.settings, format: l.format } }))
      execFileSync(join(root, 'bin', 'proscen'), ['still', file, '--camera', String(i + 1), '--out', `${file}.png`])
      if (i) await choose(page, 'Format', l.format)
      await page.keyboard.press(String(i + 1))
      const gate = page.locator('.gate.looked')
      await expect
        .poll(async () => {
          const b = (await gate.boundingBox())!
          return [Math.round(b.width), Math.round(b.height)]
        }, `${l.format} fills the pane`)
        .toEqual([l.width, l.height])
      const rendered = await balls(page, readFileSync(`${file}.png`))
      const inside = hues.filter((h) => (rendered[h]?.n ?? 0) >= 30)
      await expect(async () => {
        // The pane may still be drawn in its old size.
        const b = (await gate.boundingBox())!
        const clip = { x: b.x, y: b.y, width: l.width, height: l.height }
        await whole(page)
        const shown = await balls(page, await page.screenshot({ clip }))
        for (const h of inside) {
          const [v, r] = [shown[h], rendered[h]!]
          expect(v, `${l.format}: ball ${h} is in the view too`).toBeTruthy()
          expect(Math.hypot(v!.x - r.x, v!.y - r.y), `${l.format}: ball ${h}`).toBeLessThan(1)
        }
      }).toPass({ timeout: 90_000 })
      checked += inside.length
    }
    expect(checked, 'points compared').toBeGreaterThanOrEqual(45)
  })
})

/** How far two PNGs of one size are apart: the mean over their pixels, of 255. */
async function apart(page: Page, a: Buffer, b: Buffer): Promise<number> {
  return page.evaluate(
    async (both) => {
      const pixels = async (data: string) => {
        const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0))
        const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }))
        const g = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!
        g.drawImage(bitmap, 0, 0)
        // The middle: names and stamps stand at the edges.
        return g.getImageData(bitmap.width * 0.3, bitmap.height * 0.15, bitmap.width * 0.65, bitmap.height * 0.7).data
      }
      const [p, q] = [await pixels(both[0]!), await pixels(both[1]!)]
      let sum = 0
      for (let i = 0; i < p.length; i++) sum += Math.abs(p[i]! - q[i]!)
      return sum / p.length
    },
    [a.toString('base64'), b.toString('base64')],
  )
}

test.describe('in every pixel', () => {
  test.use({ deviceScaleFactor: 1, views: 'delivered' })
  test('lenses blur in the lens view as in the renderer', async ({ page }) => {
    await page.setViewportSize({ width: 1300, height: 808 })
    await open(page, 985)
    await page.getByRole('button', { name: /Look through camera 10/ }).click()
    await page.getByRole('button', { name: 'Scene settings' }).click()
    await page.getByText('with the blur of lenses', { exact: false }).click()
    await page.keyboard.press('Escape')
    await saved(page)
    const pane = page.getByRole('application', { name: 'Lens view' })
    await pane.hover({ position: { x: 60, y: 200 } })
    await page.keyboard.press('f')
    await page.keyboard.press('g')
    const gate = page.locator('.gate.looked')
    await expect.poll(async () => Math.round((await gate.boundingBox())!.width)).toBe(1280)
    const dir = mkdtempSync(join(tmpdir(), 'proscen-blur-'))
    const scene = (await doc()) as unknown as { settings: { blur?: boolean } }
    expect(scene.settings.blur).toBe(true)
    const still = (name: string, blur: boolean) => {
      const file = join(dir, `${name}.json`)
      writeFileSync(file, JSON.stringify({ ...scene, settings: { ...scene.settings, blur } }))
      const args = ['--camera', '10', '--story-frame', '985', '--size', '1280x720', '--out', `${file}.png`]
      execFileSync(join(root, 'bin', 'proscen'), ['still', file, ...args])
      return readFileSync(`${file}.png`)
    }
    const [blurred, sharp] = [still('blurred', true), still('sharp', false)]
    await expect(async () => {
      const b = (await gate.boundingBox())!
      await whole(page)
      const shown = await page.screenshot({ clip: { x: b.x, y: b.y, width: 1280, height: 720 } })
      const near = await apart(page, shown, blurred)
      console.log(
        `lens blur: ${near.toFixed(2)} of 255 from the renderer's, ${(await apart(page, shown, sharp)).toFixed(2)} from a sharp one`,
      )
      expect(near, 'like the blurred picture').toBeLessThan(1.5)
      expect(await apart(page, shown, sharp), 'and not like the sharp one').toBeGreaterThan(2 * near)
    }).toPass({ timeout: 90_000 })
  })
})
