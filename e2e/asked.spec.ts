// What an artist has in mind as one act, from an empty scene: a picture that is held, a
// vehicle from its front, a camera on a path.
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import { videoFrame } from './files.ts'
import { choose, desk, drag, newScene, saved, timecode } from './page.ts'
import { cameraNode, Server } from './server.ts'

declare global {
  var proscenCore: { ask(name: string, args: string): string } | undefined
}
let server: Server
test.beforeAll(async () => {
  server = await Server.start(false)
})
test.afterAll(async () => server?.end())

interface Node {
  name: string
  parent?: string
  path?: string
  position: number[]
  camera?: { number: number; aim: string; aimAt?: string; support: string; left?: { frame: number }[] }
}
async function documentOf(title: string) {
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  return (await server.document(scenes.find((s) => s.title === title)!.id)).document
}
async function called(title: string, name: string) {
  const found = Object.entries((await documentOf(title)).nodes! as unknown as Record<string, Node>).find(
    ([, n]) => n.name === name,
  )
  expect(found, `there is a ${name}`).toBeDefined()
  return { id: found![0], ...found![1] }
}
const plan = (page: Page) => page.getByRole('application', { name: 'Plan view' })
/** Where a place on the ground is on the plan, which opens about (−4, 3) at 15 pixels for a metre. */
async function spot(page: Page, x: number, z: number) {
  const b = (await plan(page).boundingBox())!
  return { x: b.x + b.width / 2 + (x + 4) * 15, y: b.y + b.height / 2 + (z - 3) * 15 }
}
/** Puts something of the stock down, found by some word. */
async function put(page: Page, word: string, name: string, x: number, z: number) {
  await page.getByRole('textbox', { name: 'Search the stock' }).fill(word)
  await page.getByRole('button', { name, exact: true }).click()
  const p = await spot(page, x, z)
  await page.mouse.move(p.x - 3, p.y)
  await page.mouse.click(p.x, p.y)
  await page.keyboard.press('Escape')
  await saved(page)
}
/** Draws a straight path for the selection to a place, or between two. */
async function path(page: Page, ...to: [number, number][]) {
  await page.getByRole('button', { name: 'Draw a straight path' }).click()
  for (const [x, z] of to) {
    const p = await spot(page, x, z)
    await page.mouse.move(p.x, p.y)
    await page.mouse.click(p.x, p.y)
  }
  await page.keyboard.press('Enter')
  await saved(page)
}
interface Lasting {
  size: string
  until: number
  to: number
  then: string
}
const lasting = (page: Page, camera: string, subject: string, frame: number) =>
  page.evaluate((args) => JSON.parse(globalThis.proscenCore!.ask('lasting', JSON.stringify(args))) as Lasting, {
    camera,
    subject,
    frame,
  })
const take = (page: Page) => page.getByRole('button', { name: /^Take suggestion 1,/ }).click()

test('somebody who walks is held in a medium, in four ways', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Asked for', 'Held')
  await put(page, 'person', 'Person', -8, -1)
  await path(page, [2, -1])
  await desk(page, 'Frame')
  await page.keyboard.press('n')
  await saved(page)
  await page.keyboard.press('1')
  await page.getByRole('tab', { name: 'compose' }).click()
  await timecode(page, 30)
  await page.getByRole('button', { name: 'medium', exact: true }).click()
  await choose(page, 'Side of the subject', 'side')
  const walker = (await called('Held', 'Person')).id
  const promise = page.getByRole('status', { name: 'Promise' })
  const camera = () => called('Held', 'Camera 1')

  await test.step('still, and it is said when it ends', async () => {
    await take(page)
    await expect(promise).toHaveText(/^Person: medium\s+until ◷ \d\d:\d\d:\d\d:\d\d, then /)
    await saved(page)
    const c = await camera()
    expect([c.camera!.aim, c.camera!.support]).toEqual(['free', 'sticks'])
  })
  await test.step('turned with them', async () => {
    await choose(page, 'Hold', 'turn with them')
    await take(page)
    await saved(page)
    const c = await camera()
    expect([c.camera!.aim, c.camera!.aimAt, c.parent ?? '']).toEqual(['at', walker, ''])
    const held = await lasting(page, c.id, walker, 30)
    expect(held.size).toBe('medium')
    expect(held.then, 'the face stays in the picture, its size does not').not.toBe('not in the picture')
  })
  await test.step('taken along: to the end', async () => {
    await choose(page, 'Hold', 'go along with them')
    await take(page)
    await expect(promise).toHaveText(/^Person: medium\s+for the rest, to ◷/)
    await saved(page)
    const c = await camera()
    expect([c.parent, c.camera!.support, c.camera!.aim]).toEqual([walker, 'mounted', 'at'])
    expect(await lasting(page, c.id, walker, 30)).toMatchObject({ size: 'medium', then: '' })
  })
  await test.step('from here to there', async () => {
    await choose(page, 'Hold', 'from here to there')
    await take(page)
    await saved(page)
    await timecode(page, 110)
    await page.getByRole('button', { name: 'full', exact: true }).click()
    await expect(page.getByRole('button', { name: /^Take suggestion 1, full, side/ })).toBeVisible()
    await take(page)
    await saved(page)
    const c = await camera()
    expect(c.camera!.left!.map((p) => p.frame)).toEqual([30, 110])
    expect((await lasting(page, c.id, walker, 30)).size).toBe('medium')
    expect((await lasting(page, c.id, walker, 110)).size).toBe('full')
    // One press each; one step back each.
    await page.keyboard.press('Control+z')
    await saved(page)
    expect((await camera()).camera!.left).toHaveLength(1)
  })
})

test('a van from its front, low, and a camera on a path in two presses', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Asked for', 'On the road')
  await put(page, 'truck', 'Van', -4, 4) // by another word for it
  await path(page, [-4, -6])
  await desk(page, 'Frame')
  await page.keyboard.press('n')
  await page.keyboard.press('1')
  await page.getByRole('tab', { name: 'compose' }).click()
  await choose(page, 'Subject', 'Van')
  await page.getByRole('button', { name: 'full', exact: true }).click()
  await page.getByRole('button', { name: 'low', exact: true }).click()
  await choose(page, 'Side of the subject', 'three-quarter')
  const lens = page.getByRole('textbox', { name: 'Lens' })
  await lens.fill('40')
  await lens.press('Enter')
  await choose(page, 'Hold', 'go along with them')
  await expect(page.getByRole('button', { name: /^Take suggestion 1, full, low, three-quarter/ })).toBeVisible()
  await take(page)
  await expect(page.getByRole('status', { name: 'Promise' })).toHaveText(/^Van: full\s+for the rest/)
  await saved(page)
  const van = await called('On the road', 'Van')
  const low = await called('On the road', 'Camera 1')
  expect(low.parent).toBe(van.id)
  const [x, y, z] = low.position as [number, number, number]
  expect(y).toBeLessThan(0.9)
  expect(Math.abs((Math.atan2(x, -z) * 180) / Math.PI), 'before it, to one side').toBeGreaterThan(20)
  expect(Math.abs((Math.atan2(x, -z) * 180) / Math.PI)).toBeLessThan(60)

  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await desk(page, 'Dress')
  await path(page, [-10, 0], [4, 0])
  // The path that was drawn is pressed, and a camera put on it.
  const line = await spot(page, 0, 0)
  await page.mouse.click(line.x, line.y)
  await page.getByRole('button', { name: 'at walking pace' }).click()
  await saved(page)
  const found = Object.values((await documentOf('On the road')).nodes! as unknown as Record<string, Node>)
  const rider = found.find((n) => n.camera?.number === 2)!
  expect([rider.camera!.support, rider.camera!.aim]).toEqual(['dolly', 'along'])
  const drawn = ((await documentOf('On the road')).paths![rider.path!] as unknown as { points: number[][] }).points[0]!
  expect(drawn[1]! + rider.position[1]!, 'at head height').toBeCloseTo(1.6, 6)
  const curves = Object.values((await documentOf('On the road')).curves!) as unknown as {
    channel: string
    node: string
    keys: { frame: number }[]
  }[]
  const { id } = await called('On the road', rider.name)
  const travel = curves.find((c) => c.node === id && c.channel === 'travel')!.keys
  const seconds = (travel[1]!.frame - travel[0]!.frame) / 24
  expect(14 / seconds, 'metres a second').toBeCloseTo(1.4, 1)
  // And its shot in one more.
  await desk(page, 'Frame')
  await page.getByRole('tab', { name: 'move' }).click()
  await page.getByRole('button', { name: 'A shot from the move' }).click()
  await saved(page)
  const shots = Object.values((await documentOf('On the road')).shots!) as unknown as { camera: string }[]
  expect(shots.map((s) => s.camera)).toEqual([id])
})

test('a door opens during the story, and is seen doing so in the delivered video', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Asked for', 'Door')
  await put(page, 'door', 'Wall with door', -4, 0)
  await timecode(page, 0)
  await page.getByRole('button', { name: 'Closed here' }).click()
  await timecode(page, 24)
  await page.getByRole('button', { name: 'Open here' }).click()
  await expect(page.getByRole('textbox', { name: 'Door open' })).toHaveValue('70.00')
  await timecode(page, 12)
  await expect(page.getByRole('textbox', { name: 'Door open' })).toHaveValue('35.00')
  await saved(page)
  const door = await called('Door', 'Wall with door')
  const curves = Object.values((await documentOf('Door')).curves!) as unknown as { node: string; channel: string }[]
  expect(curves.map((c) => [c.node, c.channel])).toEqual([[door.id, 'piece.swing']])

  const [x, , z] = door.position as [number, number, number]
  const shot = { lane: 'main', number: '010', camera: 'front', screenIn: 0, screenOut: 48, storyIn: 0, speed: 1 }
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  const { id } = scenes.find((s) => s.title === 'Door')!
  const { wide } = (await documentOf('Door')).formats!
  const lane = Object.keys((await documentOf('Door')).lanes!)[0]!
  await server.patch(id, [
    { collection: 'nodes', id: 'front', after: cameraNode('Front', [x + 2, 1.4, z + 4], [0, 0, 0]) },
    { collection: 'shots', id: 's1', after: { ...shot, lane } },
    { collection: 'formats', id: 'wide', before: wide, after: { ...wide, width: 256, height: 144 } },
  ])
  await page.reload()
  await saved(page)
  await desk(page, 'Turnover')
  await page.getByRole('button', { name: /^Deliver (all|the) / }).click()
  await expect(page.getByRole('article', { name: 'Delivery 1' })).toContainText('1 of 1 finished', { timeout: 90_000 })
  const [d] = await server.get<{ outputs: { file: string }[] }[]>(`/scenes/${id}/deliveries`)
  const frame = (n: number) => videoFrame(join(server.blobs, d!.outputs[0]!.file), n)
  const differ = (a: Buffer, b: Buffer) => {
    let n = 0
    for (let i = 0; i < a.length; i += 3) if (Math.abs(a[i]! - b[i]!) + Math.abs(a[i + 2]! - b[i + 2]!) > 50) n++
    return n / (a.length / 3)
  }
  expect(differ(frame(0), frame(12)), 'it has begun to open').toBeGreaterThan(0.01)
  expect(differ(frame(0), frame(30)), 'one sees through').toBeGreaterThan(0.05)
  expect(differ(frame(30), frame(46)), 'and it stays open').toBeLessThan(0.005)
})

test('scout flies by keys, at a speed that the wheel sets, and what a box holds is changed at once', async ({
  page,
}) => {
  await page.goto(server.url)
  await newScene(page, 'Asked for', 'Flown')
  await put(page, 'person', 'Person', -4, 0)
  const scout = page.getByRole('application', { name: 'Scout view' })
  const b = (await scout.boundingBox())!
  await page.mouse.move(b.x + b.width / 2, b.y + b.height - 40)
  const mark = page.getByRole('button', { name: 'Person in scout', exact: true })
  const at = async () => (await mark.boundingBox())!
  const frame = page.getByRole('slider', { name: 'Playhead' })
  const before = await frame.getAttribute('aria-valuenow')
  const from = await at()
  await page.keyboard.down('ArrowRight')
  await expect(page.getByText('flies at 3.0 m/s')).toBeVisible()
  const edge = page.getByRole('img', { name: 'The picture of a camera here' })
  await expect(edge).toBeVisible()
  await expect.poll(async () => (await at()).x).toBeLessThan(from.x - 20)
  await page.mouse.wheel(0, -300)
  await expect(page.getByText(/flies at (5.5|10.0) m.s/)).toBeVisible() // by the pixels of the screen
  await page.keyboard.up('ArrowRight')
  await expect(page.getByText('free view, moves no camera')).toBeVisible()
  await expect(edge).toBeHidden()
  const high = await at()
  await page.keyboard.down('PageUp')
  await expect.poll(async () => (await at()).y).toBeGreaterThan(high.y + 10)
  await page.keyboard.up('PageUp')
  expect(await frame.getAttribute('aria-valuenow'), 'the playhead has stayed').toBe(before)
  // Elsewhere the arrows step frames.
  await page.mouse.move(640, 20)
  await page.keyboard.press('ArrowRight')
  await expect.poll(() => frame.getAttribute('aria-valuenow')).not.toBe(before)

  // A second one stands on a spot of its own; with Shift both are drawn around, and stand level.
  await put(page, 'slim', 'Slim person', 4, 0)
  await page.getByRole('textbox', { name: 'Y', exact: true }).fill('2')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Show the whole scene' }).click()
  await expect(page.getByRole('button', { name: 'Slim person in scout' })).toBeVisible()
  await page.keyboard.down('Shift')
  await drag(page, { x: b.x + 12, y: b.y + 60 }, { x: b.width - 24, y: b.height - 130 })
  await page.keyboard.up('Shift')
  await expect(page.getByText('2 things')).toBeVisible()
  const y = page.getByRole('textbox', { name: 'Y', exact: true })
  await expect(y).toHaveAttribute('placeholder', 'differ')
  await y.fill('+0.5')
  await page.keyboard.press('Enter')
  await expect(y, 'each goes up').toHaveValue('')
  await y.fill('1')
  await page.keyboard.press('Enter')
  await expect(y).toHaveValue('1.00')
  await page.getByRole('combobox', { name: 'Build' }).selectOption('elder')
  for (const name of ['Person', 'Slim person']) {
    await page.getByRole('button', { name: `${name} in scout`, exact: true }).click()
    await expect(y).toHaveValue('1.00')
    await expect(page.getByRole('combobox', { name: 'Build' })).toHaveValue('elder')
  }
})
