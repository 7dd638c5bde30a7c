// What an artist does first in an empty scene, where a picture or a cut could be lost.
import { expect, test, type Page } from './base.ts'
import { desk, drag, newScene, saved, timecode } from './page.ts'
import { Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start(false)
})
test.afterAll(async () => server?.end())

type Vec = [number, number, number]
interface Camera {
  number: number
  left?: { frame: number; position: Vec }[]
  formats?: Record<string, { shift?: [number, number]; scale?: number }>
}
interface Shot {
  screenIn: number
  screenOut: number
  storyIn: number
  camera: string
  formats?: Record<string, { camera?: string }>
}
async function documentOf(title: string) {
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  const { document } = await server.document(scenes.find((s) => s.title === title)!.id)
  const nodes = Object.entries(document.nodes!) as [string, { position: Vec; turn: Vec; camera?: Camera }][]
  return {
    camera(number: number) {
      const [id, node] = nodes.find(([, n]) => n.camera?.number === number)!
      const curves = Object.values(document.curves!) as {
        node: string
        channel: string
        keys: { frame: number; value: number }[]
      }[]
      return { id, ...node, curves: curves.filter((c) => c.node === id) }
    },
    shots: (Object.values(document.shots!) as unknown as Shot[]).sort((a, b) => a.screenIn - b.screenIn),
    end: (document.settings as unknown as { story: { out: number } }).story.out,
  }
}
const middle = async (page: Page, view: string) => {
  const b = (await page.getByRole('application', { name: view }).boundingBox())!
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}
/** Leaves a camera where scout is, and unlocks it. */
async function camera(page: Page) {
  await page.keyboard.press('n')
}
async function look(page: Page, number: number) {
  await page.keyboard.press(String(number))
  await page.keyboard.press('u')
  await expect(page.getByText('unlocked: drag to turn', { exact: false })).toBeVisible()
}

test('the first picture of a move is kept, in whatever way it is made', async ({ page }) => {
  await page.goto(server.url)
  await page.getByRole('button', { name: 'New scene', exact: true }).waitFor()
  await newScene(page, 'In hand', 'Moves')
  await desk(page, 'Frame')
  for (let i = 0; i < 3; i++) await camera(page)
  await saved(page)
  const before = (await documentOf('Moves')).camera(1)

  // With auto-key, at another frame.
  await look(page, 1)
  await page.keyboard.press('a')
  await timecode(page, 95)
  await drag(page, await middle(page, 'Lens view'), { x: 90, y: 0 })
  await saved(page)
  const one = (await documentOf('Moves')).camera(1)
  const pan = one.curves.find((c) => c.channel === 'turn.pan')!
  expect(pan.keys.map((k) => k.frame)).toEqual([0, 95])
  expect(pan.keys[0]!.value).toBeCloseTo(before.turn[0], 6)
  expect(Math.abs(pan.keys[1]!.value - pan.keys[0]!.value)).toBeGreaterThan(1)
  await page.keyboard.press('a')

  // With a key set, and then dragged: what would happen is said before, with the other way beside it.
  await timecode(page, 0)
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await look(page, 2)
  await page.keyboard.press('e')
  await timecode(page, 95)
  await expect(page.getByText('moves its key')).toBeVisible()
  await page.getByRole('button', { name: 'set a key instead' }).click()
  await expect(page.getByText('moves its key')).toBeHidden()
  await drag(page, await middle(page, 'Lens view'), { x: 90, y: 0 })
  await saved(page)
  const two = (await documentOf('Moves')).camera(2).curves.find((c) => c.channel === 'turn.pan')!
  expect(two.keys.map((k) => k.frame)).toEqual([0, 95])
  expect(two.keys[0]!.value).toBeCloseTo(before.turn[0], 6)
  await page.keyboard.press('a')

  // Roaming away from where it was put, and leaving a position there.
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.keyboard.press('3')
  await page.keyboard.press('Escape')
  await drag(page, await middle(page, 'Scout view'), { x: 160, y: 0 })
  await page.keyboard.press('y')
  await saved(page)
  const three = (await documentOf('Moves')).camera(3)
  expect(three.camera!.left).toHaveLength(2)
  expect(three.camera!.left![0]!.position).toEqual(before.position)
  expect(three.camera!.left!.map((p) => p.frame)).toEqual([0, 95])
})

test('cuts past the end and from nothing leave no black, and a gap is shown as one', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'In hand', 'Cuts')
  await desk(page, 'Frame')
  for (let i = 0; i < 3; i++) await camera(page)
  await page.keyboard.press('2')
  await desk(page, 'Splice')
  // Nothing is cut: the action is seen through the camera that was looked through.
  await expect(page.getByRole('status', { name: 'On air' })).toContainText('2')
  await timecode(page, 100)
  await page.keyboard.press('1')
  await saved(page)
  const id = async (n: number) => (await documentOf('Cuts')).camera(n).id
  let now = await documentOf('Cuts')
  expect(now.shots.map((s) => [s.camera, s.screenIn, s.screenOut])).toEqual([
    [await id(2), 0, 100],
    [await id(1), 100, now.end],
  ])
  for (const [i, at] of [500, 560, 700, 900, 1000].entries()) {
    await timecode(page, at)
    await page.keyboard.press(String(1 + (i % 3)))
    await saved(page)
  }
  now = await documentOf('Cuts')
  for (const [i, s] of now.shots.entries()) expect(s.screenIn).toBe(i ? now.shots[i - 1]!.screenOut : 0)
  // A gap says how long it is, and what can be done about it.
  await page.keyboard.press('0')
  await page.getByRole('listitem', { name: /^Shot 010,/ }).click()
  await page.keyboard.press('Delete')
  const gap = page.getByRole('group', { name: /^Gap of 100 frames/ })
  await expect(gap).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(gap).toBeHidden()
  await page.getByRole('listitem', { name: /^Shot 020,/ }).click()
  await page.keyboard.press('Delete')
  await page
    .getByRole('group', { name: /^Gap of/ })
    .getByRole('button', { name: 'lengthen' })
    .click()
  await saved(page)
  now = await documentOf('Cuts')
  expect([now.shots[0]!.screenOut, now.shots[1]!.screenIn]).toEqual([now.shots[1]!.screenIn, now.shots[1]!.screenIn])
  // Held down, a key adds one shot.
  const count = now.shots.length
  await page.keyboard.down('a')
  for (let i = 0; i < 5; i++) await page.keyboard.down('a') // repeats
  await page.keyboard.up('a')
  await saved(page)
  expect((await documentOf('Cuts')).shots).toHaveLength(count + 1)
})

test('every shape is framed by itself, for a camera and for one shot', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'In hand', 'Shapes')
  await desk(page, 'Frame')
  for (let i = 0; i < 2; i++) await camera(page)
  await desk(page, 'Splice')
  await page.keyboard.press('1')
  await desk(page, 'Frame')
  await page.getByRole('button', { name: /^Look through camera 1/ }).click()
  await page.getByRole('button', { name: 'All shapes' }).click()
  const shapes = page.getByRole('region', { name: 'All shapes' })
  await expect(shapes.getByRole('figure')).toHaveCount(4)
  const tall = shapes.getByRole('figure', { name: 'tall 9:16' })
  const b = (await tall.locator('.picture').boundingBox())!
  const [x, y] = [b.x + b.width / 2, b.y + b.height / 2]
  const framed = async () => {
    await saved(page)
    const now = await documentOf('Shapes')
    return [now.camera(1).camera!.formats, now.shots[0]!.formats] as const
  }
  // Grabbed and drawn to the left it shows what is to the right, as far as the sensor goes.
  await drag(page, { x, y }, { x: -b.width * 0.3, y: 0 })
  const [[first]] = [await framed()]
  expect(first!.tall!.shift![0]).toBeCloseTo(0.3, 1)
  await drag(page, { x, y }, { x: -b.width * 9, y: 40 })
  const [[edge]] = [await framed()]
  expect(edge!.tall!.shift![1]).toBe(0)
  expect(edge!.tall!.shift![0]).toBeGreaterThan(0.6)
  await page.keyboard.press('Control+z')
  expect((await framed())[0]).toEqual(first)
  // A figure that the sensor does not have is refused with a sentence.
  const figures = shapes.getByRole('form', { name: 'Framing in tall 9:16' })
  const type = async (field: string, text: string) => {
    await figures.getByRole('textbox', { name: field }).fill(text)
    await figures.getByRole('textbox', { name: field }).press('Enter')
  }
  await type('up', '40')
  await expect(page.getByText('beyond the sensor', { exact: false })).toBeVisible()
  expect((await framed())[0]).toEqual(first)
  await type('part', '50')
  await type('up', '40')
  await expect(tall).toContainText('50 % of the sensor')
  expect((await framed())[0]!.tall).toMatchObject({ scale: 0.5, shift: [first!.tall!.shift![0], 0.4] })
  // For one shot alone: through another camera, and back.
  await shapes.getByText('in shot 010 alone').click()
  await expect(tall).toContainText('as its camera is framed')
  await figures.getByRole('combobox', { name: 'Seen through' }).click({ force: true })
  await page.getByRole('option', { name: /^2 / }).click()
  await expect(tall).toContainText('camera 2')
  const [, own] = await framed()
  expect(own).toEqual({ tall: { camera: (await documentOf('Shapes')).camera(2).id } })
  // Worked in the tall format, camera 2 is on air.
  await expect(page.getByText('beyond the sensor', { exact: false })).toBeHidden() // it lies over the top bar
  await page.getByRole('combobox', { name: 'Format' }).click({ force: true })
  await page.getByRole('option', { name: 'tall 9:16' }).click()
  await desk(page, 'Splice')
  await expect(page.getByRole('status', { name: 'On air' })).toContainText('2')
  await desk(page, 'Frame')
  await page.getByRole('button', { name: /^Look through camera 1/ }).click()
  await tall.getByRole('button').click()
  await shapes.getByText('in shot 010 alone').click()
  await figures.getByRole('button', { name: 'As in all shots' }).click()
  expect((await framed())[1]).toBeUndefined()
})

test('a live take is what was seen, however wildly cameras are pressed', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'In hand', 'Wild')
  await desk(page, 'Frame')
  for (let i = 0; i < 3; i++) await camera(page)
  await desk(page, 'Splice')
  await page.keyboard.press('r')
  const preroll = page.getByRole('spinbutton', { name: 'Pre-roll' })
  await preroll.fill('0')
  await preroll.press('Tab')
  await page.evaluate(() => {
    const seen: [number, string][] = []
    ;(window as unknown as { seen: typeof seen }).seen = seen
    const look = () => {
      const at = Number(document.querySelector('[aria-label=Playhead]')!.getAttribute('aria-valuenow'))
      const air = document.querySelector('[aria-label="On air"]')
      if (air?.textContent!.includes('live')) seen.push([at, air.querySelector('text')!.textContent!])
      requestAnimationFrame(look)
    }
    look()
  })
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  let roll = 7
  for (let i = 0; i < 60; i++) {
    roll = (roll * 75 + 74) % 65537
    await page.keyboard.press(String(1 + (roll % 3)))
    if (roll % 4 === 0) await page.waitForTimeout(roll % 90) // mostly several within a frame
  }
  await page.waitForTimeout(300)
  await page.getByRole('button', { name: 'Pause' }).click()
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /^Undo: record a take/)
  await saved(page)
  const now = await documentOf('Wild')
  const seen = await page.evaluate(() => (window as unknown as { seen: [number, string][] }).seen)
  const end = Math.max(...now.shots.map((s) => s.screenOut))
  // The last that was seen of a frame is what the take has of it.
  const frames = new Map(seen.filter(([at]) => at < end))
  expect(frames.size).toBeGreaterThan(5)
  for (const [at, number] of frames) {
    const shot = now.shots.find((s) => s.screenIn <= at && at < s.screenOut)
    expect([at, shot?.camera]).toEqual([at, now.camera(Number(number)).id])
  }
})

test('a key does what pressing the button does that names it', async ({ page }) => {
  const made = await server.post('/scenes', { production: 'In hand', title: 'Keys', start: 'demonstration' })
  const { id } = (await made.json()) as { id: string }
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  const undo = page.getByRole('button', { name: 'Undo' })
  const seen = new Set<string>() // what stands on every desk is pressed on the first
  let [toggles, edits] = [0, 0]
  for (const name of ['Dress', 'Frame', 'Splice']) {
    await desk(page, name)
    const choose = async () => {
      if (name === 'Dress') await page.getByLabel('In scene').getByRole('button', { name: 'Tomas cast' }).click()
      if (name === 'Frame') await page.keyboard.press('5')
      if (name === 'Splice') await page.getByRole('listitem', { name: /^Shot 040,/ }).click()
    }
    await choose()
    await timecode(page, name === 'Splice' ? 340 : 300)
    await page.waitForTimeout(300)
    const titles = await page.evaluate(() =>
      Array.from(document.querySelectorAll<HTMLButtonElement>('button[title]'))
        .filter((b) => b.checkVisibility() && !b.disabled && /\((?:Ctrl |Shift )*\S+\)$/.test(b.title))
        .map((b) => b.title),
    )
    expect(titles.length, name).toBeGreaterThan(5)
    for (const title of new Set(titles)) {
      if (seen.has(title)) continue
      seen.add(title)
      const words = title.match(/\(([^()]+)\)$/)![1]!.split(' ')
      const last = words.pop()!
      const signs: Record<string, string> = { Space: ' ', '←': 'ArrowLeft', '→': 'ArrowRight', Del: 'Delete' }
      const key = [...words.map((w) => (w === 'Ctrl' ? 'Control' : w)), signs[last] ?? last.toLowerCase()].join('+')
      const button = page.getByTitle(title, { exact: true }).first()
      if (/Undo|Redo|Find|Keyboard|Play|Pause|frame (back|on)|start/.test(title)) continue // seen elsewhere
      const pressed = await button.getAttribute('aria-pressed')
      if (pressed !== null) {
        const same = (await button.elementHandle())! // its title changes
        const now = () => same.getAttribute('aria-pressed')
        await page.keyboard.press(key)
        await expect.poll(now, `${name}: ${title}`).toBe(pressed === 'true' ? 'false' : 'true')
        await page.keyboard.press(key)
        await expect.poll(now, `${name}: ${title}`).toBe(pressed)
        toggles++
        continue
      }
      const before = await undo.getAttribute('title')
      await button.click()
      const clicked = await undo.getAttribute('title')
      if (clicked === before) continue // it is no edit
      await page.keyboard.press('Control+z')
      await expect(undo, title).toHaveAttribute('title', before!)
      await choose()
      await page.keyboard.press(key)
      await expect(undo, `${name}: ${title}`).toHaveAttribute('title', clicked!)
      await page.keyboard.press('Control+z')
      await expect(undo, title).toHaveAttribute('title', before!)
      await choose()
      edits++
    }
  }
  expect(toggles).toBeGreaterThan(5)
  expect(edits).toBeGreaterThan(5)
})

test('nothing that is said has an id, undefined or NaN in it, and no desk complains', async ({ page }) => {
  const complaints: string[] = []
  page.on('console', (m) => m.type() === 'error' && complaints.push(m.text()))
  page.on('pageerror', (e) => complaints.push(e.message))
  const made = await server.post('/scenes', { production: 'In hand', title: 'Walked', start: 'demonstration' })
  const { id } = (await made.json()) as { id: string }
  let texts = 0
  const read = async (where: string) => {
    const said = await page.evaluate(() => {
      const out: string[] = []
      const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
      for (let n = walker.nextNode(); n; n = walker.nextNode())
        if (n.parentElement?.checkVisibility()) out.push(n.textContent!.trim())
      for (const e of Array.from(document.querySelectorAll('[title], [aria-label]')))
        out.push(e.getAttribute('title') ?? '', e.getAttribute('aria-label') ?? '')
      return out.filter(Boolean)
    })
    texts += said.length
    expect(
      said.filter((t) => /undefined|NaN|null|\[object|\b[0-9A-HJKMNP-TV-Z]{26}\b|\b[0-9a-f]{16,}\b/.test(t)),
      where,
    ).toEqual([])
  }
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  for (const name of ['Dress', 'Frame', 'Splice', 'Turnover']) {
    await desk(page, name)
    await page.waitForTimeout(400)
    await read(name)
    if (name === 'Frame') await page.keyboard.press('5')
    if (name === 'Splice') await page.getByRole('listitem', { name: /^Shot 040,/ }).click()
    if (name === 'Dress') await page.getByLabel('In scene').getByRole('button', { name: 'Tomas cast' }).click()
    for (const tab of await page.locator('.props [role=tab]').all()) {
      await tab.click()
      await page.waitForTimeout(150)
      await read(`${name}, ${await tab.textContent()}`)
    }
  }
  for (const what of ['facts of the scene', 'preferences', 'this sheet']) {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: /^Find things/ }).fill(what)
    await page.keyboard.press('Enter')
    await page.waitForTimeout(300)
    await read(what)
    await page.keyboard.press('Escape')
  }
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await read('settings')
  await page.keyboard.press('Escape')
  await page.getByRole('link', { name: 'All scenes' }).click()
  await page.getByRole('link', { name: 'What In hand shares' }).click()
  await saved(page)
  await read('the production')
  expect(texts).toBeGreaterThan(2000)
  expect(complaints).toEqual([])
})
