// Dressing a set from nothing: a room with a door from the stock, somebody who
// walks through it, and a model from elsewhere.
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import { pdf, videoFrame } from './files.ts'
import { banner } from './glb.ts'
import { desk, drag, saved, timecode } from './page.ts'
import { cameraNode, Server } from './server.ts'

declare global {
  var proscenCore: { ask(name: string, args: string): string } | undefined
}
let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  const r = await server.post('/scenes', { production: 'Tests', title: 'A room' })
  id = ((await r.json()) as { id: string }).id
})
test.afterAll(async () => server?.end())

interface Found {
  id: string
  name: string
  position: number[]
  turn: number[]
  piece?: { stock: string; params?: Record<string, number> }
  [field: string]: unknown
}
async function all(collection: string): Promise<Record<string, Found>> {
  return (await server.document(id)).document[collection] as unknown as Record<string, Found>
}
async function node(name: string): Promise<Found> {
  const [key, n] = Object.entries(await all('nodes')).find(([, n]) => n.name === name) ?? []
  expect(n, `there is a ${name}`).toBeDefined()
  return { ...n!, id: key! }
}
const plan = (page: Page) => page.getByRole('application', { name: 'Plan view' })
/** The plan opens about (−4, 3) at 15 pixels for a metre. */
const scale = 15
/** Where a place on the ground is on the plan. */
async function spot(page: Page, x: number, z: number) {
  const b = (await plan(page).boundingBox())!
  return { x: b.x + b.width / 2 + (x + 4) * scale, y: b.y + b.height / 2 + (z - 3) * scale }
}
/** Arms a piece of the stock and puts it down at places on the plan. */
async function put(page: Page, name: string, ...places: [number, number][]) {
  await page.getByRole('textbox', { name: 'Search the stock' }).fill(name)
  await page.getByRole('button', { name, exact: true }).click()
  for (const [x, z] of places) {
    const p = await spot(page, x, z)
    await page.mouse.move(p.x - 3, p.y)
    await page.mouse.move(p.x, p.y)
    await page.mouse.click(p.x, p.y)
    await saved(page)
  }
  await page.keyboard.press('Escape')
}
/** Where a handle on the plan is, once it has stopped moving. */
async function settled(page: Page, name: string) {
  let at = { x: 0, y: 0, width: 0, height: 0 }
  await expect(async () => {
    const before = at
    at = (await plan(page).getByRole('button', { name }).boundingBox())!
    expect(at).toEqual(before)
  }).toPass({ intervals: [150] })
  return at
}
async function type(page: Page, label: string, text: string) {
  const field = page.getByRole('textbox', { name: label, exact: true })
  await field.fill(text)
  await field.press('Enter')
}

test('a room with a door from the stock, and somebody who walks through the door', async ({ page }) => {
  test.setTimeout(300_000)
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  await test.step('place walls, one after the other', async () => {
    await put(page, 'Wall with door', [-6, 2])
    await type(page, 'X', '-6')
    await type(page, 'Z', '2')
    await put(page, 'Wall with window', [-6, 6])
    await type(page, 'X', '-6')
    await type(page, 'Z', '6')
    await put(page, 'Wall with opening', [-2, 2], [-6, 2.2])
    const walls = Object.values(await all('nodes')).filter((n) => n.piece?.stock === 'wall')
    expect(walls.length, 'the armed piece was put down twice').toBe(2)
  })
  await test.step('turn, build and pull by its handles', async () => {
    await page
      .getByLabel('In scene')
      .getByRole('button', { name: /^Wall with opening 2/ })
      .click()
    await type(page, 'X', '-6')
    await type(page, 'Z', '2')
    await type(page, 'Pan', '-90')
    await type(page, 'Opening width', '0')
    await page
      .getByLabel('In scene')
      .getByRole('button', { name: /^Wall with opening / })
      .first()
      .click()
    await type(page, 'X', '-2')
    await type(page, 'Z', '2')
    await type(page, 'Pan', '-90')
    await type(page, 'Opening width', '0')
    await page
      .getByLabel('In scene')
      .getByRole('button', { name: /^Wall with door/ })
      .click()
    // The door along its wall, by its handle.
    const before = (await node('Wall with door')).piece!.params?.openAt ?? 2
    const h = await settled(page, 'Opening at handle')
    await drag(page, { x: h.x + h.width / 2, y: h.y + h.height / 2 }, { x: 20, y: 0 })
    await saved(page)
    const after = (await node('Wall with door')).piece!.params!.openAt!
    expect(after).toBeGreaterThan(before + 0.3)
    await page.keyboard.press('Control+z')
    await saved(page)
    expect((await node('Wall with door')).piece!.params?.openAt ?? 2).toBe(before)
    const params = (n: Found) => n.piece!.params
    expect(params(await node('Wall with opening 2'))).toEqual({ openWidth: 0 })
  })
  await test.step('somebody walks through the door', async () => {
    await put(page, 'Person', [-4, -1])
    await type(page, 'X', '-4')
    await type(page, 'Z', '-1')
    await timecode(page, 24)
    await page.getByRole('button', { name: 'Draw a straight path' }).click()
    const through = await spot(page, -4, 4.5)
    await page.mouse.move(through.x, through.y)
    await page.mouse.click(through.x, through.y)
    await page.keyboard.press('Enter')
    await saved(page)
    const walks = Object.values(await all('actions')).filter((a) => a.do === 'walk')
    expect(walks).toHaveLength(1)
    const block = page.getByRole('button', { name: /^Person: walk, from 24/ })
    await expect(block).toBeVisible()
    await block.click()
    await expect(page.getByRole('textbox', { name: 'Speed' })).toHaveValue(/^1\.(39|40|41)$/)
    await type(page, 'Speed', '1')
    await saved(page)
    const walk = Object.values(await all('actions')).find((a) => a.do === 'walk')!
    const seconds = ((walk.out as number) - (walk.in as number)) / 24
    const path = (await all('paths'))[walk.path as string] as unknown as { points: number[][] }
    const length = Math.abs(path.points[1]![2]! - path.points[0]![2]!)
    expect(length).toBeCloseTo(5.5, 1)
    expect(seconds).toBeCloseTo(length, 1)
    // Where the wall runs, at z = 2, they are inside the opening: one metre wide
    // about x = −4.
    const person = (await node('Person')).id
    const passes: number[] = []
    for (let f = walk.in as number; f < (walk.out as number); f += 6) {
      await timecode(page, f)
      const [x, z] = await page.evaluate((id) => {
        const b = JSON.parse(globalThis.proscenCore!.ask('extent', JSON.stringify({ nodes: [id] }))) as {
          min: number[]
          max: number[]
        }
        return [(b.min[0]! + b.max[0]!) / 2, (b.min[2]! + b.max[2]!) / 2]
      }, person)
      if (Math.abs(z! - 2) < 0.3) passes.push(x!)
    }
    expect(passes.length).toBeGreaterThan(0)
    for (const x of passes) expect(Math.abs(x + 4)).toBeLessThan(0.3)
    await timecode(page, Math.round(((walk.in as number) + (walk.out as number)) / 2))
    await page
      .getByLabel('In scene')
      .getByRole('button', { name: /^Person/ })
      .click()
    await page.getByRole('button', { name: 'Person is to…' }).click()
    await page.getByRole('menuitem', { name: 'wave' }).click()
    await saved(page)
    expect(
      Object.values(await all('actions'))
        .map((a) => a.do)
        .sort(),
    ).toEqual(['walk', 'wave'])
  })
  await test.step('several at once: box, group, lock, and the filter of what is grabbed', async () => {
    const a = await spot(page, -7, 1)
    const b = await spot(page, 1, 7)
    await page.keyboard.down('Shift')
    await drag(page, a, { x: b.x - a.x, y: b.y - a.y })
    await page.keyboard.up('Shift')
    await expect(page.getByRole('region', { name: 'Selection' })).toContainText('things')
    await page.getByRole('combobox', { name: 'Can be selected' }).selectOption('only set')
    await page.keyboard.down('Shift')
    await drag(page, a, { x: b.x - a.x, y: b.y - a.y })
    await page.keyboard.up('Shift')
    await expect(page.getByRole('region', { name: 'Selection' })).toContainText('4 things')
    await page.keyboard.press('Control+g')
    await saved(page)
    const g = await node('Group')
    expect(Object.values(await all('nodes')).filter((n) => n.parent === g.id)).toHaveLength(4)
    const place = (await node('Wall with door')).position
    await page.getByRole('button', { name: 'Ungroup' }).click()
    await saved(page)
    const back = (await node('Wall with door')).position
    expect(back[0]).toBeCloseTo(-6, 6)
    expect(back[2]).toBeCloseTo(2, 6)
    expect(place[0]).not.toBeCloseTo(-6, 3)
    await page.getByRole('combobox', { name: 'Can be selected' }).selectOption('anything')
  })
})

test('an imported model: placed, playing its clip, and seen in the delivered video', async ({ page }) => {
  test.setTimeout(300_000)
  const failures: string[] = []
  page.on('pageerror', (e) => failures.push(e.message))
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  await test.step('a file with a camera and a lamp: all of it in one step', async () => {
    const cast = () => all('nodes').then((n) => Object.values(n).map((x) => x.name))
    const before = await cast()
    await page.getByRole('button', { name: 'Import a model' }).click()
    const crate = join(import.meta.dirname, '../core/interchange/testdata/foreign/crate.gltf')
    await page.getByLabel('Model file').setInputFiles(crate)
    const found = page.getByRole('list', { name: 'Cameras and lamps of the file' })
    await expect(found).toContainText('Camera Crane camera · 36 mm · moves for 25 frames')
    await expect(page.getByRole('list', { name: 'Left out' })).toContainText('“Noon” comes from one direction')
    await page.getByRole('checkbox', { name: /with what is in its file/ }).check()
    await page.getByRole('button', { name: 'Bring in' }).click()
    await expect(page.locator('.el-overlay:visible')).toHaveCount(0)
    await saved(page)
    expect((await cast()).filter((n) => !before.includes(n)).sort()).toEqual(['Crane camera', 'Key', 'crate'])
    await page.keyboard.press('Control+z')
    await saved(page)
    expect((await cast()).sort()).toEqual(before.sort())
  })
  await test.step('a page of a PDF lies on the ground to scale', async () => {
    await page.getByRole('button', { name: 'Ground plan…' }).click()
    await page
      .getByLabel('Drawing of the plan')
      .setInputFiles({ name: 'yard.pdf', mimeType: 'application/pdf', buffer: pdf(2) })
    await page.getByRole('combobox', { name: 'Page of the drawing' }).selectOption('2')
    const drawing = (await page.getByRole('img', { name: 'The drawing' }).boundingBox())!
    for (const x of [0.1, 0.6]) await page.mouse.click(drawing.x + x * drawing.width, drawing.y + drawing.height / 2)
    await type(page, 'Length between them', '10')
    await expect(page.getByRole('status', { name: 'Size of the plan' })).toContainText('The drawing is 20.0')
    await page.getByRole('button', { name: 'Lay it on the ground' }).click()
    await expect(page.locator('.el-overlay:visible')).toHaveCount(0)
    await saved(page)
    const plan = await node('yard 2')
    expect(plan.locked).toBe(true)
    expect(Math.abs(plan.piece!.params!.width! - 20)).toBeLessThan(0.1)
    await page.keyboard.press('Control+z')
    await saved(page)
  })
  await test.step('wrong files are refused and nothing changes', async () => {
    const untouched = JSON.stringify((await server.document(id)).document)
    await page.getByRole('button', { name: 'Import a model' }).click()
    const file = page.getByLabel('Model file')
    const glb = banner()
    const broken = Buffer.from(glb)
    broken.writeUInt32LE(99, 8)
    const outside = Buffer.from(glb.toString('latin1').replace('"version":"2.0"', '"version":"3.0"'), 'latin1')
    for (const [name, buffer, says] of [
      ['notes.glb', Buffer.from('not a model'), 'neither glTF'],
      ['short.glb', broken, 'says that it has 99 bytes'],
      ['newer.glb', outside, 'version 2 is read'],
      ['bad.obj', Buffer.from('v 0 0 0\nv 1 0 0\nf 1 2 7\n'), 'line 3 names corner “7”'.replace(/[“”]/g, '"')],
    ] as const) {
      await file.setInputFiles({ name, mimeType: 'application/octet-stream', buffer })
      await expect(page.getByRole('alert').filter({ hasText: says })).toBeVisible()
      await expect(page.getByRole('button', { name: 'Put on the shelf' })).toBeDisabled()
    }
    expect(JSON.stringify((await server.document(id)).document)).toBe(untouched)
    await file.setInputFiles({ name: 'banner.glb', mimeType: 'model/gltf-binary', buffer: glb })
    await expect(page.getByRole('img', { name: /beside a person/ })).toBeVisible()
    await expect(page.getByText('2.00 × 3.00 × 0.00 m')).toBeVisible()
    await expect(page.getByText('fold', { exact: true })).toBeVisible()
    await page.getByRole('combobox', { name: 'Unit' }).selectOption('feet')
    await expect(page.getByText('0.61 × 0.91 × 0.00 m')).toBeVisible()
    await page.getByRole('combobox', { name: 'Unit' }).selectOption('metres')
    await expect(page.getByText('2.00 × 3.00 × 0.00 m')).toBeVisible()
    await page.getByRole('button', { name: 'Put on the shelf' }).click()
    // The dialog fades; until it is gone it takes the pointer.
    await expect(page.locator('.el-overlay:visible')).toHaveCount(0)
    await expect(page.getByText(/Click to put banner/)).toBeVisible()
  })
  await test.step('place it and look at it', async () => {
    const p = await spot(page, 3, -8)
    await page.mouse.move(p.x - 4, p.y)
    await page.mouse.move(p.x, p.y)
    await page.mouse.click(p.x, p.y)
    await page.keyboard.press('Escape')
    await type(page, 'X', '3')
    await type(page, 'Z', '-8')
    await saved(page)
    const n = await node('banner')
    expect(n.model).toBeTruthy()
    await timecode(page, 0)
    await page.getByRole('button', { name: 'banner is to…' }).click()
    await page.getByRole('menuitem', { name: 'clip' }).click()
    await saved(page)
    const clip = Object.values(await all('actions')).find((a) => a.do === 'clip')!
    expect([clip.clip, clip.in, clip.out]).toEqual(['fold', 0, 24])
  })
  await test.step('deliver it: the pixels of its picture are in the video', async () => {
    const camera = cameraNode('Front', [3, 1.5, -14], [180, 0, 0])
    const shot = { lane: 'main', number: '010', camera: 'front', screenIn: 0, screenOut: 24, storyIn: 0, speed: 1 }
    const formats = await all('formats')
    const small = { ...formats.wide, width: 256, height: 144 }
    await server.patch(id, [
      { collection: 'nodes', id: 'front', after: camera },
      { collection: 'shots', id: 's1', after: shot },
      { collection: 'formats', id: 'wide', before: formats.wide, after: small },
    ])
    await page.reload()
    await saved(page)
    await desk(page, 'Turnover')
    await page.getByRole('button', { name: /^Deliver (all|the) / }).click()
    await expect(page.getByRole('article', { name: 'Delivery 1' })).toContainText('1 of 1 finished', {
      timeout: 90_000,
    })
    const [d] = await server.get<{ outputs: { file: string }[] }[]>(`/scenes/${id}/deliveries`)
    const frame = (n: number) => videoFrame(join(server.blobs, d!.outputs[0]!.file), n)
    const count = (rgb: Buffer) => {
      let [magenta, green] = [0, 0]
      for (let i = 0; i < rgb.length; i += 3) {
        const [r, g, b] = [rgb[i]!, rgb[i + 1]!, rgb[i + 2]!]
        if (r > 70 && b > 70 && g < Math.min(r, b) * 0.6) magenta++
        if (g > 70 && r < g * 0.6 && b < g * 0.6) green++
      }
      return { magenta, green }
    }
    const first = count(frame(0))
    expect(first.magenta, 'the upper half of its picture').toBeGreaterThan(300)
    expect(first.green, 'the lower half').toBeGreaterThan(300)
    // Its clip folds the upper half down over the lower one.
    const last = count(frame(23))
    expect(last.green + last.magenta).toBeLessThan(0.75 * (first.green + first.magenta))
  })
  expect(failures).toEqual([])
})
