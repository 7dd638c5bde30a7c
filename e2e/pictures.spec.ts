// Pictures in the set and out of it, from empty scenes: a camera that is matched to a
// photo, a picture plane that plays a video, a travel that rests.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import { choose, desk, newScene, saved, timecode } from './page.ts'
import { cameraNode, Server } from './server.ts'

let server: Server
let folder: string
test.beforeAll(async () => {
  server = await Server.start(false)
  folder = mkdtempSync(join(tmpdir(), 'proscen-pictures-'))
})
test.afterAll(async () => {
  await server?.end()
  rmSync(folder, { recursive: true, force: true })
})

const sceneOf = async (title: string) =>
  (await server.get<{ id: string; title: string }[]>('/scenes')).find((s) => s.title === title)!.id
const plan = (page: Page) => page.getByRole('application', { name: 'Plan view' })
/** Where a place on the ground is on the plan, which opens about (−4, 3) at 15 pixels for a metre. */
async function spot(page: Page, x: number, z: number) {
  const b = (await plan(page).boundingBox())!
  return { x: b.x + b.width / 2 + (x + 4) * 15, y: b.y + b.height / 2 + (z - 3) * 15 }
}

interface Camera {
  position: number[]
  turn: number[]
  camera: { focal: number; match?: { points: unknown[] } }
}

test('a camera is matched to a photo by the corners of a box', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Pictures', 'Photo')
  const scene = await sceneOf('Photo')
  // A box of 4 × 2 × 3 m about (−4, 3), and the camera that takes the photo, which is gone afterwards.
  const [at, turn] = [
    [1.2, 3.4, 10.5],
    [33, -17, 2],
  ]
  await server.patch(scene, [
    {
      collection: 'nodes',
      id: 'block',
      after: {
        kind: 'set',
        name: 'Block',
        position: [-4, 0, 3],
        turn: [0, 0, 0],
        piece: { stock: 'box', params: { width: 4, height: 2, depth: 3 } },
      },
    },
    { collection: 'nodes', id: 'photographer', after: cameraNode('Photographer', at, turn, 28) },
  ])
  const { document } = await server.document(scene)
  const assembly = Object.keys(document.assemblies!)[0]!
  const photo = Buffer.from(
    await (
      await fetch(
        `${server.url}/api/scenes/${scene}/frame?assembly=${assembly}&frame=0&camera=photographer&width=960&height=540`,
      )
    ).arrayBuffer(),
  )
  const before = (await server.document(scene)).document.nodes!.photographer
  await server.patch(scene, [
    { collection: 'nodes', id: 'photographer', before, after: cameraNode('Finder', [0, 1.6, 14], [0, 0, 0], 50) },
  ])
  /** Where the photo shows a place, as shares of its width and height from the top left. */
  const seen = (p: number[]): [number, number] => {
    const [pan, tilt, roll] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number]
    let [x, y, z] = p.map((v, i) => v - at[i]!) as [number, number, number]
    ;[x, z] = [x * Math.cos(pan) - z * Math.sin(pan), x * Math.sin(pan) + z * Math.cos(pan)]
    ;[y, z] = [y * Math.cos(tilt) + z * Math.sin(tilt), -y * Math.sin(tilt) + z * Math.cos(tilt)]
    ;[x, y] = [x * Math.cos(roll) + y * Math.sin(roll), -x * Math.sin(roll) + y * Math.cos(roll)]
    const half = 24.89 / 2 / 28
    return [(x / -z / half + 1) / 2, (1 - (y / -z / half) * (16 / 9)) / 2]
  }

  await desk(page, 'Frame')
  await page.keyboard.press('1')
  await page.getByRole('tab', { name: 'match' }).click()
  await page.getByLabel('Picture to match').setInputFiles({ name: 'photo.png', mimeType: 'image/png', buffer: photo })
  const picture = page.getByRole('application', { name: 'Picture to match' })
  await expect(picture).toBeVisible()
  const status = page.getByRole('status', { name: 'Match', exact: true })
  await expect(status).toHaveText('0 of 4 points or more')
  await choose(page, 'Press points of the set in', 'plan and elevations')

  const press = async (corner: number[]) => {
    const b = (await picture.boundingBox())!
    const [u, v] = seen(corner)
    await page.mouse.click(b.x + u * b.width, b.y + v * b.height)
    const p = await spot(page, corner[0]!, corner[2]!)
    await page.mouse.move(p.x + 2, p.y - 2)
    await page.mouse.click(p.x + 2, p.y - 2)
    await saved(page)
  }
  const corners = [
    [-6, 2, 4.5],
    [-2, 2, 4.5],
    [-2, 2, 1.5],
    [-6, 2, 1.5],
  ]
  for (const [i, c] of corners.entries()) {
    await press(c)
    await expect(page.getByRole('button', { name: `Point ${i + 1} in the picture` })).toBeVisible()
  }
  // The foot of a corner is under its head in the plan: its height is typed.
  await press([-2, 0, 4.5])
  await page.getByRole('textbox', { name: 'Y', exact: true }).fill('0')
  await page.getByRole('textbox', { name: 'Y', exact: true }).press('Enter')
  await saved(page)
  await expect(status).toHaveText(/^Found: within [01]\.\d pixels$/)
  const foot = page.getByRole('button', { name: 'Point 5 in the picture' })
  const from = (await foot.boundingBox())!
  const b = (await picture.boundingBox())!
  const [u, v] = seen([-2, 0, 4.5])
  await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2)
  await page.mouse.down()
  await page.mouse.move(b.x + u * b.width, b.y + v * b.height - 25, { steps: 4 })
  await expect(status).toHaveText(/^Found: within [2-9]\.\d pixels$/) // while it is dragged
  await page.mouse.move(b.x + u * b.width, b.y + v * b.height, { steps: 4 })
  await page.mouse.up()
  await saved(page)
  await expect(status).toHaveText(/^Found: within [01]\.\d pixels$/)
  const found = (await server.document(scene)).document.nodes!.photographer as unknown as Camera
  expect(found.camera.match!.points).toHaveLength(5)
  found.position.forEach((v, i) => expect(Math.abs(v - at[i]!), `place ${found.position}`).toBeLessThan(0.2))
  found.turn.forEach((v, i) => expect(Math.abs(v - turn[i]!), `turn ${found.turn}`).toBeLessThan(1))
  expect(Math.abs(found.camera.focal / 28 - 1), `${found.camera.focal} mm`).toBeLessThan(0.03)

  // With the picture taken away the camera stays.
  await page.getByRole('button', { name: 'Take it away' }).click()
  await expect(picture).toHaveCount(0)
  await saved(page)
  const left = (await server.document(scene)).document.nodes!.photographer as unknown as Camera
  expect(left.camera.match).toBeUndefined()
  expect(left.position).toEqual(found.position)
})

test.describe('as it is delivered', () => {
  test.use({ views: 'delivered' })
  test('a picture plane plays a video in the set, in views and delivered', async ({ page }) => {
    const film = join(folder, 'film.mp4')
    // A second of black, then a second of white, at the scene's rate.
    const half = (c: string) => ['-f', 'lavfi', '-i', `color=${c}:s=320x180:r=24:d=1`]
    execFileSync('ffmpeg', [
      '-v',
      'error',
      ...half('black'),
      ...half('white'),
      '-filter_complex',
      'concat=n=2',
      '-pix_fmt',
      'yuv420p',
      film,
    ])
    await page.goto(server.url)
    await newScene(page, 'Pictures', 'Plane')
    await page.getByRole('textbox', { name: 'Search the stock' }).fill('screen')
    await page.getByRole('button', { name: 'Picture plane', exact: true }).click()
    const p = await spot(page, -4, 3)
    await page.mouse.move(p.x - 3, p.y)
    await page.mouse.click(p.x, p.y)
    await page.keyboard.press('Escape')
    await saved(page)
    await timecode(page, 10)
    await page.getByLabel('Picture for the plane').setInputFiles(film)
    await expect(page.getByRole('button', { name: 'begin at this frame' })).toBeVisible()
    await page.getByRole('checkbox', { name: 'shines by itself' }).check()
    await saved(page)
    const scene = await sceneOf('Plane')
    const { document } = await server.document(scene)
    const [id, plane] = Object.entries(document.nodes!).find(([, n]) => n.name === 'Picture plane')!
    expect(plane.screen).toMatchObject({ from: 10, glow: true, film: { frames: 48, name: 'film' } })
    expect((plane.piece as { params: { height: number } }).params.height).toBeCloseTo(3.2 * (9 / 16), 3)
    // A camera straight before it.
    await server.patch(scene, [
      { collection: 'nodes', id: 'eye', after: cameraNode('Eye', [-4, 0.9, 7], [0, 0, 0], 35) },
    ])
    await desk(page, 'Frame')
    await page.keyboard.press('1')
    await page.keyboard.press('g') // its middle has no mark
    const lens = page.getByRole('application', { name: 'Lens view' })
    await expect(lens).toBeVisible()
    const middle = async () => {
      const b = (await lens.boundingBox())!
      const shot = await page.screenshot({
        clip: { x: b.x + b.width / 2 - 8, y: b.y + b.height / 2 - 8, width: 16, height: 16 },
      })
      const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'], {
        input: shot,
      })
      return raw.reduce((a, v) => a + v, 0) / raw.length
    }
    const delivered = async (frame: number) => {
      const assembly = Object.keys(document.assemblies!)[0]!
      const r = await fetch(
        `${server.url}/api/scenes/${scene}/frame?assembly=${assembly}&frame=${frame}&camera=eye&width=160&height=90`,
      )
      const raw = execFileSync(
        'ffmpeg',
        ['-v', 'error', '-i', '-', '-vf', 'crop=16:16', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'],
        {
          input: Buffer.from(await r.arrayBuffer()),
        },
      )
      return raw.reduce((a, v) => a + v, 0) / raw.length
    }
    for (const [frame, bright] of [
      [0, false],
      [30, false],
      [36, true],
      [70, true],
      [20, false],
    ] as const) {
      await timecode(page, frame)
      const made = await delivered(frame)
      expect(made > 128, `delivered frame ${frame}`).toBe(bright)
      await expect
        .poll(async () => Math.abs((await middle()) - made), { message: `frame ${frame}, ${made}` })
        .toBeLessThan(6)
    }
    // Taken away, and brought back by undo.
    await desk(page, 'Dress')
    await page.getByRole('list', { name: 'In scene' }).getByText('Picture plane').click()
    await page.getByRole('button', { name: 'Take it away' }).click()
    await saved(page)
    expect((await server.document(scene)).document.nodes![id]!.screen).toBeUndefined()
    await page.keyboard.press('Control+z')
    await saved(page)
    expect((await server.document(scene)).document.nodes![id]!.screen).toMatchObject({ from: 10 })
  })
})

test('two cameras’ pictures are joined by a travel that rests in between', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Pictures', 'Rest')
  const scene = await sceneOf('Rest')
  const { document } = await server.document(scene)
  const assembly = Object.keys(document.assemblies!)[0]!
  const lane = Object.entries(document.lanes!).find(([, l]) => l.main)![0]
  const shot = (number: string, camera: string, from: number) => ({
    ...{ lane, number, camera, screenIn: from, screenOut: from + 48, storyIn: from, speed: 1, head: 24, tail: 24 },
  })
  await server.patch(scene, [
    {
      collection: 'nodes',
      id: 'block',
      after: { kind: 'set', name: 'Block', position: [0, 0, 0], turn: [0, 0, 0], piece: { stock: 'box' } },
    },
    { collection: 'nodes', id: 'left', after: cameraNode('Left', [-3, 0.5, 5], [0, 0, 0], 35) },
    {
      collection: 'nodes',
      id: 'right',
      after: {
        ...cameraNode('Right', [3, 0.5, 5], [0, 0, 0], 35),
        camera: { ...cameraNode('', [], []).camera, number: 2, focal: 35 },
      },
    },
    { collection: 'shots', id: 'first', after: shot('010', 'left', 0) },
    { collection: 'shots', id: 'second', after: shot('020', 'right', 48) },
  ])
  await desk(page, 'Splice')
  await page.getByRole('listitem', { name: /^Shot 020,/ }).click({ position: { x: 40, y: 26 } })
  await page.getByRole('radio', { name: 'travel' }).click()
  await page.getByRole('textbox', { name: 'Length', exact: true }).fill('40')
  await page.getByRole('textbox', { name: 'Length', exact: true }).press('Enter')
  await page.getByRole('textbox', { name: 'Rests half way' }).fill('20')
  await page.getByRole('textbox', { name: 'Rests half way' }).press('Enter')
  await saved(page)
  expect((await server.document(scene)).document.shots!.second!.join).toEqual({
    ...{ kind: 'travel', before: 20, after: 20, ease: 'soft', rest: 20 },
  })
  // The travel lasts from 28 to 68, and rests from 38 to 58: straight before the block.
  const frame = async (n: number) => {
    const r = await fetch(`${server.url}/api/scenes/${scene}/frame?assembly=${assembly}&frame=${n}&width=160&height=90`)
    return Buffer.from(await r.arrayBuffer())
  }
  const resting = await frame(48)
  for (const n of [38, 44, 57]) expect((await frame(n)).equals(resting), `frame ${n} rests`).toBe(true)
  for (const n of [20, 34, 61, 80]) expect((await frame(n)).equals(resting), `frame ${n} does not`).toBe(false)
})
