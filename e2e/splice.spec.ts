// The cut: from boards to an animatic, live cutting, exact trims, the two
// clocks, joins with and without handles, and what other programs bring.
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import validator from 'gltf-validator'
import { pdf, png, wav } from './files.ts'
import { desk, drag, newScene, onAir, saved, timecode } from './page.ts'
import { Server } from './server.ts'

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
})
test.beforeEach(async () => {
  id = await server.copy(await server.demo())
})
test.afterAll(async () => server?.end())

async function splice(page: Page, scene = id) {
  await page.goto(`${server.url}/scenes/${scene}/splice`)
  await saved(page)
}
const shot = (page: Page, number: string) => page.getByRole('listitem', { name: new RegExp(`^Shot ${number},`) })
/** What a block says: screen frames, first and last, and the story frames. */
async function frames(page: Page, number: string) {
  const label = (await shot(page, number).getAttribute('aria-label'))!
  const m = /frames (\d+) to (\d+), story (-?\d+)–(-?\d+)/.exec(label)!
  return m.slice(1).map(Number) as [number, number, number, number]
}
const leaf = (page: Page, name: string) => page.getByRole('tab', { name, exact: true }).click()
async function type(page: Page, field: string, value: string) {
  const f = page.getByRole('textbox', { name: field, exact: true })
  await f.fill(value)
  await f.press('Enter')
}

test('from boards to an animatic, before there is any camera', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Hollin Pass', 'Drawn first')
  await saved(page)
  const scenes = await server.get<{ id: string; title: string }[]>('/scenes')
  const made = scenes.find((s) => s.title === 'Drawn first')!.id
  await server.edit(made, 'formats', 'wide', (f) => ({ ...f, width: 256, height: 144 })) // it is delivered in a test's time
  await desk(page, 'Splice')
  await page.getByRole('button', { name: 'Boards…' }).click()
  await type(page, 'Length of each', '1s')
  await page.getByLabel('Panels', { exact: true }).setInputFiles([
    { name: 'b 10.png', mimeType: 'image/png', buffer: png(200, 60, 40) },
    { name: 'b 2.png', mimeType: 'image/png', buffer: png(40, 120, 200) },
    { name: 'pages.pdf', mimeType: 'application/pdf', buffer: pdf(2) },
  ])
  await expect(shot(page, '040')).toBeVisible()
  // In order of their numbers: b 2, b 10, then the two pages, a second each.
  expect(await frames(page, '010')).toEqual([0, 23, 0, 23])
  expect(await frames(page, '040')).toEqual([72, 95, 72, 95])
  await shot(page, '010').click()
  await leaf(page, 'shot')
  await expect(page.getByRole('textbox', { name: 'Shot name' })).toHaveValue('b 2')
  await expect(page.getByRole('combobox', { name: 'Shot plays' })).toHaveValue('board')
  await type(page, 'Length, later shots follow', '36')
  await expect.poll(() => frames(page, '020')).toEqual([36, 59, 24, 47])
  await page.getByLabel('Add sound files').setInputFiles({ name: 'bell.wav', mimeType: 'audio/wav', buffer: wav(2) })
  await expect(page.getByRole('listitem', { name: 'Sound bell, 0 to 47' })).toBeVisible({ timeout: 30_000 })
  await leaf(page, 'rhythm')
  await expect(page.getByText('108 f · 4.5 s')).toBeVisible()
  // It plays, and is delivered: the frames of the first board are of its colour.
  await page.keyboard.press('Home')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(onAir(page)).toContainText('board · shot 020', { timeout: 30_000 })
  await page.getByRole('button', { name: 'Pause' }).click()
  await saved(page)
  await desk(page, 'Turnover')
  await page.getByRole('button', { name: 'Deliver all 4 shots' }).click()
  const job = page.getByRole('article', { name: 'Delivery 1' })
  await expect(job).toContainText('4 of 4 finished', { timeout: 120_000 })
  const [d] = await server.get<{ outputs: { file: string; frames: number; number: string }[] }[]>(
    `/scenes/${made}/deliveries`,
  )
  const first = d!.outputs.find((o) => o.number === '010')!
  expect(first.frames).toBe(36)
  expect(first.file).toContain('_still_')
  const raw = execFileSync('ffmpeg', [
    ...['-v', 'error', '-i', join(server.blobs, first.file), '-frames:v', '1'],
    ...['-vf', 'scale=1:1', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'],
  ])
  expect(raw[2]! - raw[0]!, 'the blue panel comes first').toBeGreaterThan(80)
})

test('cutting live with digits, and nudging a cut of the take', async ({ page }) => {
  await splice(page)
  await timecode(page, 480)
  await page.keyboard.press('r')
  const preroll = page.getByRole('spinbutton', { name: 'Pre-roll' })
  await preroll.fill('0')
  await preroll.press('Tab')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible()
  const program = page.getByRole('application', { name: 'Program' })
  const past = async (frame: number) =>
    expect
      .poll(async () => Number(await page.getByRole('slider', { name: 'Playhead' }).getAttribute('aria-valuenow')), {
        timeout: 60_000,
      })
      .toBeGreaterThan(frame)
  await page.keyboard.press('5')
  await expect(program).toContainText('live Over Ida to Tomas')
  await past(500)
  await page.keyboard.press('6')
  await expect(program).toContainText('live Over Tomas to Ida')
  await past(525)
  await page.getByRole('button', { name: 'Cut to camera 2' }).click()
  await past(550)
  await page.getByRole('button', { name: 'Pause' }).click()
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', 'Undo: record a take of 3 shots')
  await saved(page)
  const taken = Object.values((await server.document(id)).document.shots!)
    .filter((s) => s.lane === 'main' && (s.screenIn as number) >= 480)
    .sort((a, b) => (a.screenIn as number) - (b.screenIn as number))
    .slice(0, 3)
  expect(taken.map((s) => s.camera)).toEqual(['camera-5', 'camera-6', 'camera-2'])
  // The story ran on without a break while cameras changed.
  const story = taken.map((s) => (s.storyIn as number) - (s.screenIn as number))
  expect(story[1]).toBe(story[0])
  expect(story[2]).toBe(story[0])
  // The cut to camera 6 two frames later.
  const number = taken[1]!.number as string
  const before = await frames(page, number)
  await shot(page, number).click({ position: { x: 4, y: 20 } })
  await page.getByRole('radio', { name: 'Roll' }).click()
  await page.keyboard.press(']')
  await page.keyboard.press(']')
  await expect.poll(() => frames(page, number)).toEqual([before[0] + 2, before[1], before[2] + 2, before[3]])
})

test('roll, slip and ripple are exact to the frame, by mouse and by keyboard', async ({ page }) => {
  await splice(page)
  expect(await frames(page, '050')).toEqual([400, 549, 430, 579])
  const edge = async (number: string, side: 'in' | 'out') => {
    const b = (await shot(page, number).boundingBox())!
    return { x: side === 'in' ? b.x + 3 : b.x + b.width - 3, y: b.y + 26 }
  }
  await page.getByRole('radio', { name: 'Roll' }).click()
  await page.keyboard.down('Alt')
  await drag(page, await edge('050', 'in'), { x: 40, y: 0 }, false)
  // While it is dragged, both sides of the seam are shown.
  await expect(page.getByRole('figure', { name: 'last frame of shot 040' })).toBeVisible()
  await expect(page.getByRole('figure', { name: 'first frame of shot 050' })).toContainText('◷')
  await page.mouse.up()
  await page.keyboard.up('Alt')
  const rolled = await frames(page, '050')
  const by = rolled[0] - 400
  expect(by).toBeGreaterThan(10)
  expect(rolled).toEqual([400 + by, 549, 430 + by, 579])
  expect(await frames(page, '040')).toEqual([316, 399 + by, 346, 429 + by])
  expect(await frames(page, '060')).toEqual([550, 673, 580, 703])
  await page.keyboard.press('Control+z')
  await expect.poll(() => frames(page, '050')).toEqual([400, 549, 430, 579])

  await page.getByRole('radio', { name: 'Slip' }).click()
  await shot(page, '060').click({ position: { x: 60, y: 26 } })
  await page.keyboard.press('}')
  await page.keyboard.press('[')
  await expect.poll(() => frames(page, '060')).toEqual([550, 673, 589, 712])
  expect(await frames(page, '070')).toEqual([674, 733, 704, 763])

  await page.getByRole('radio', { name: 'Ripple' }).click()
  await page.keyboard.down('Alt')
  await drag(page, await edge('030', 'out'), { x: -25, y: 0 })
  await page.keyboard.up('Alt')
  const left = (await frames(page, '030'))[1] + 1
  expect(left).toBeLessThan(316)
  expect(await frames(page, '040')).toEqual([left, left + 83, 346, 429])
  expect(await frames(page, '110')).toEqual([938 - 316 + left, 1007 - 316 + left, 1126, 1195])

  // Markers of the sequence go along, until they are told to stay.
  const marker = (frame: number) => page.getByRole('button', { name: `Marker hold the look at ${frame}` })
  const held = 612 - 316 + left
  await expect(marker(held)).toBeVisible()
  await page.getByRole('button', { name: 'Markers, sound and spare lanes follow' }).click()

  // Nearer, to what is chosen, and back to all of it.
  const width = async () => (await shot(page, '050').boundingBox())!.width
  const before = await width()
  await shot(page, '050').click({ position: { x: 60, y: 26 } })
  await page.getByRole('button', { name: 'Show less time' }).click()
  expect(await width()).toBeCloseTo(before * 1.6, -1)
  await page.getByRole('button', { name: 'Show all time' }).click()
  expect(await width()).toBeCloseTo(before, -1)
  await page.getByRole('button', { name: 'Show all time' }).click()
  expect(await width()).toBeGreaterThan(800)
  await page.getByRole('button', { name: 'Show all time' }).click()

  // Typed figures do the same.
  await shot(page, '050').click({ position: { x: 60, y: 26 } })
  await type(page, 'Length, later shots follow', '+10')
  await expect
    .poll(async () => (await frames(page, '050')).map((f, i) => (i < 2 ? f - left : f)))
    .toEqual([84, 243, 430, 589])
  await expect(marker(held)).toBeVisible()
})

test('a drop onto other shots offers what happens before it happens', async ({ page }) => {
  await splice(page)
  const before = JSON.stringify((await server.document(id)).document.shots)
  const over = async () => {
    const b = (await shot(page, '100').boundingBox())!
    const to = (await shot(page, '050').boundingBox())!
    await drag(page, { x: b.x + b.width / 2, y: b.y + 26 }, { x: to.x + to.width / 2 - b.x - b.width / 2, y: 0 })
    await expect(page.getByRole('menu', { name: 'There are shots here' })).toBeVisible()
  }
  await over()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('menu', { name: 'There are shots here' })).toHaveCount(0)
  await saved(page)
  expect(JSON.stringify((await server.document(id)).document.shots)).toBe(before)
  await over()
  await page.getByRole('menuitem', { name: /Keep on a spare lane/ }).click()
  const spare = page.getByRole('list', { name: 'Lane spare 1' })
  await expect(spare.getByRole('listitem', { name: /^Shot 100,/ })).toBeVisible()
  // Tried in its place, and put back.
  const at = await frames(page, '100')
  await spare.getByRole('listitem', { name: /^Shot 100,/ }).click({ position: { x: 30, y: 14 } })
  await page.keyboard.press('t')
  await timecode(page, at[0] + 5)
  await expect(onAir(page)).toContainText('shot 100')
  await page.keyboard.press('t')
  await expect(onAir(page)).toContainText('shot 050')
  expect(await frames(page, '050')).toEqual([400, 549, 430, 579])

  // A box over both lanes holds what lies on them; a locked lane stays as it is.
  const lane = page.getByRole('button', { name: 'Lane spare 1' })
  const onSpare = (await spare.getByRole('listitem').boundingBox())!
  const main = (await shot(page, '050').boundingBox())!
  await drag(
    page,
    { x: onSpare.x + onSpare.width + 30, y: onSpare.y + 8 },
    { x: -60 - onSpare.width, y: main.y - onSpare.y },
  )
  const chosen = page.locator('.shot.selected')
  await expect(chosen).not.toHaveCount(1)
  await expect(spare.locator('.shot.selected')).toHaveCount(1)
  await lane.click()
  await page.getByRole('button', { name: 'Lock', exact: true }).click()
  await expect(lane.getByLabel('locked')).toBeVisible()
  await spare.getByRole('listitem').click({ position: { x: 30, y: 14 } })
  await page.keyboard.press('Delete')
  await expect(page.getByText('Lane spare 1 is locked; unlock it first')).toBeVisible()
  await expect(spare.getByRole('listitem')).toHaveCount(1)
  // Whom the cut shows, as ribbons below it.
  await page.getByRole('button', { name: 'Who is seen' }).click()
  await page.getByRole('checkbox', { name: 'Ida' }).check()
  await expect(page.getByRole('img', { name: 'When Ida is seen in the cut' })).toBeVisible()
})

test('a moment is shown once more, and the story clock jumps back', async ({ page }) => {
  await splice(page)
  await page.getByRole('button', { name: 'Cut to camera 3' }).click()
  await timecode(page, 1007)
  await page.getByRole('button', { name: 'Cut to camera 3' }).scrollIntoViewIfNeeded()
  await page.keyboard.press('End')
  await page.keyboard.press('a')
  await expect(shot(page, '120')).toBeVisible()
  expect((await frames(page, '120')).slice(0, 2)).toEqual([1008, 1055])
  await type(page, 'Begins at', '270')
  await expect.poll(() => frames(page, '120')).toEqual([1008, 1055, 270, 317])
  const status = page.getByRole('contentinfo')
  await timecode(page, 1007)
  await expect(status.getByTitle('Story time')).toContainText('1195')
  await page.keyboard.press('.')
  await expect(status.getByTitle('Story time')).toContainText('270')
  await expect(status.getByTitle('Screen time')).toContainText('1008')
  // Laid out in story time, 270 to 287 is seen by 020, by 030 and once more.
  await page.keyboard.press('v')
  await expect(page.getByRole('listitem', { name: 'Shot 120 shows story 270 to 317' })).toBeVisible()
  await expect(page.getByTitle('270–287: 3 times')).toBeVisible()
  const use = (await page.getByRole('listitem', { name: 'Shot 120 shows story 270 to 317' }).boundingBox())!
  await drag(page, { x: use.x + use.width - 2, y: use.y + 8 }, { x: 30, y: 0 })
  await page.keyboard.press('v')
  const grown = await frames(page, '120')
  expect(grown[0]).toBe(1008)
  expect(grown[1] - 1055).toBeGreaterThan(10)
  expect(grown[3] - grown[2]).toBe(grown[1] - grown[0])
})

test('a dissolve is refused for lack of handles, and accepted when they are given', async ({ page }) => {
  await splice(page)
  await shot(page, '050').click({ position: { x: 60, y: 26 } })
  await page.getByRole('radio', { name: 'dissolve' }).click()
  await expect(page.getByRole('img', { name: 'dissolve of 16 frames' }).nth(1)).toBeVisible()
  const length = page.getByRole('textbox', { name: 'Length', exact: true })
  await length.fill('24')
  await length.press('Enter')
  await expect(page.getByText('shot 040 lacks 4 tail frames, shot 050 lacks 4 head frames')).toBeVisible()
  await expect(page.getByRole('img', { name: 'dissolve of 24 frames' }), 'it is not made').toHaveCount(0)
  await page.getByRole('button', { name: 'Give them' }).click()
  await expect(page.getByRole('img', { name: 'dissolve of 24 frames' })).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'Head', exact: true })).toHaveValue('12')
  await timecode(page, 400)
  await expect(page.getByRole('application', { name: 'Program' })).toContainText('dissolve 52 %')
  // What needs the handles cannot take them away.
  await type(page, 'Head', '2')
  await expect(page.getByText(/The dissolve into shot 050 needs 12 head frames/)).toBeVisible()
  // A trim that leaves no room for it shortens it, and says so.
  await type(page, 'Length, later shots follow', '7')
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute(
    'title',
    /the dissolve into shot 050 now has 19 f/,
  )
})

const edl = `TITLE: BY HAND
FCM: NON-DROP FRAME

001  CAM02    V     C        00:00:10:00 00:00:12:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: 010 WAITING
002  CAM03    V     C        00:00:12:00 00:00:15:12 01:00:02:00 01:00:05:12
003  NOWHERE  V     C        00:00:00:00 00:00:01:00 01:00:06:00 01:00:07:00
`
const otio = {
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Timeline by hand',
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        children: [
          clip('Docking side', 270, 48),
          { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 12) },
          { ...clip('Closing wide', 1126, 36), effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.5 }] },
        ],
      },
    ],
  },
}
function range(start: number, frames: number) {
  return { start_time: { rate: 24, value: start }, duration: { rate: 24, value: frames } }
}
function clip(name: string, start: number, frames: number) {
  return { OTIO_SCHEMA: 'Clip.2', name, source_range: range(start, frames) }
}

test('an edit list and a timeline written by hand are brought in, and the cut is written out', async ({ page }) => {
  const { title } = (await server.document(id)).document.settings as unknown as { title: string }
  await splice(page)
  await leaf(page, 'assemblies')
  const bring = page.getByLabel('Import a cut, lines, cameras or a shot list')
  const offer = page.getByRole('dialog')
  const agree = async () => {
    await offer.getByRole('button', { name: 'Bring in' }).click()
    await expect(page.locator('.el-overlay:visible')).toHaveCount(0)
  }
  await bring.setInputFiles({ name: 'hand.edl', mimeType: 'text/plain', buffer: Buffer.from(edl) })
  // What it will do is said before anything happens, and undo takes it back.
  await expect(offer.getByRole('row', { name: /New assembly “BY HAND”/ })).toContainText('3 shots')
  await expect(offer.getByRole('row', { name: /Shot 2 of 3/ })).toContainText('84 f from')
  await expect(offer.getByRole('list', { name: 'Left out' })).toContainText('no camera for “NOWHERE”')
  const assemblies = async () => Object.keys((await server.document(id)).document.assemblies!).length
  const had = await assemblies()
  await agree()
  await saved(page)
  expect(await assemblies()).toBe(had + 1)
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await assemblies()).toBe(had)
  await bring.setInputFiles({ name: 'hand.edl', mimeType: 'text/plain', buffer: Buffer.from(edl) })
  await agree()
  const notes = page.getByRole('status', { name: 'Notes' })
  await expect(notes).toContainText('hand.edl is now the assembly “BY HAND”')
  await expect(notes).toContainText('The scene has no camera for “NOWHERE”')
  expect(await frames(page, '010')).toEqual([0, 47, 240, 287])
  expect(await frames(page, '020')).toEqual([48, 131, 288, 371])
  expect(await frames(page, '030')).toEqual([144, 167, 0, 23])
  await timecode(page, 60)
  await expect(onAir(page)).toContainText('Docking side · shot 020')

  await bring.setInputFiles({
    name: 'hand.otio',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(otio)),
  })
  await agree()
  await expect(notes).toContainText('hand.otio is now the assembly “Timeline by hand”')
  expect(await frames(page, '010')).toEqual([0, 47, 270, 317])
  expect((await frames(page, '020')).slice(0, 3)).toEqual([60, 95, 1126])
  await bring.setInputFiles({ name: 'no.edl', mimeType: 'text/plain', buffer: Buffer.from('hello') })
  await expect(page.getByText(/no.edl: This cannot be read: it is neither OpenTimelineIO/)).toBeVisible()

  // What is written is read again as the same cut.
  await page.getByRole('button', { name: 'Assembly first cut', exact: true }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export', exact: true }).click(),
  ])
  expect(download.suggestedFilename()).toBe(`${title.replaceAll(' ', '-')}_first-cut.otio`)
  await expect(notes).toContainText('Joins of the kind travel are custom transitions')
  await bring.setInputFiles((await download.path())!)
  await agree()
  await page.getByRole('combobox', { name: 'Against assembly' }).selectOption({ label: 'first cut' })
  await expect(page.getByText('Both show the same.')).toBeVisible()
  // The set and the cameras go out as others read them, and the cameras come back.
  const save = async (format: string) => {
    await page.getByRole('combobox', { name: 'Format to write' }).selectOption(format)
    const [file] = await Promise.all([
      page.waitForEvent('download', { timeout: 90_000 }),
      page.getByRole('button', { name: 'Export', exact: true }).click(),
    ])
    return file
  }
  await page.getByRole('button', { name: 'Assembly first cut', exact: true }).click()
  const stage = readFileSync((await (await save('gltf')).path())!)
  const { issues } = await validator.validateBytes(new Uint8Array(stage))
  expect(issues.messages).toEqual([])
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  const usd = readFileSync((await (await save('usda')).path())!, 'utf8')
  expect(usd.match(/def Camera /g)).toHaveLength(12)
  await bring.setInputFiles((await (await save('moves')).path())!)
  await expect(offer.getByRole('row', { name: /New camera/ })).toHaveCount(12)
  await agree()
  await expect(notes).toContainText('The camera “cut” goes back and forth in the story')
  await saved(page)
  const nodes = Object.values((await server.document(id)).document.nodes!)
  expect(nodes.filter((n) => n.kind === 'camera')).toHaveLength(11 + 12)
  await page.keyboard.press('Control+z') // one step takes them all back
  await saved(page)
  expect(Object.values((await server.document(id)).document.nodes!).filter((n) => n.kind === 'camera')).toHaveLength(11)

  await page.getByRole('combobox', { name: 'Format to write' }).selectOption('xlsx')
  const [sheet] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByRole('button', { name: 'Export', exact: true }).click(),
  ])
  expect(sheet.suggestedFilename()).toBe(`${title.toLowerCase().replaceAll(' ', '-')}_first-cut_xlsx_v001.xlsx`)
  // The sheet comes back: as it is it changes nothing; what somebody has written in it is told first.
  await bring.setInputFiles((await sheet.path())!)
  await expect(page.getByText(/nothing in it differs from the cut/)).toBeVisible()
  const list = 'Shot;Frames;Status;Notes\r\n10;60;agreed;"hold; then go"\r\n'
  await bring.setInputFiles({ name: 'monday.csv', mimeType: 'text/csv', buffer: Buffer.from(list) })
  await expect(offer.getByRole('row', { name: /Shot 010, length/ })).toContainText('→ 60 f')
  await expect(offer.getByRole('row', { name: /The whole/ })).toBeVisible()
  const first = async () =>
    Object.values((await server.document(id)).document.shots!).filter((s) => s.notes === 'hold; then go')
  expect(await first()).toHaveLength(0)
  await agree()
  await saved(page)
  expect(await first()).toMatchObject([{ status: 'agreed', notes: 'hold; then go' }])
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await first()).toHaveLength(0)
  await desk(page, 'Turnover')
  const made = page.getByRole('article', { name: 'Delivery 1' })
  await expect(made).toContainText('spreadsheet')
  await expect(made).toContainText('11 of 11 pictures')
  await expect(made.getByRole('link', { name: 'Save' })).toHaveAttribute('href', /\/api\/outputs\/.+\/file/)
})

test('markers are cues that switching follows, and a rough cut follows the lines', async ({ page }) => {
  await splice(page)
  await leaf(page, 'markers')
  await page.getByRole('button', { name: '◷ cues from shots' }).click()
  await page.getByRole('button', { name: 'Follow the ◷ cues' }).click()
  await expect(page.getByText('The program follows the cues on the story clock.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Follow the shots' })).toBeVisible()
  await timecode(page, 200)
  await expect(onAir(page)).toContainText('Ida waits')
  await page.getByRole('button', { name: 'Follow the shots' }).click()
  await page.getByRole('searchbox', { name: 'Find a marker' }).fill('hold the')
  await expect(page.getByRole('list', { name: 'Markers' }).getByRole('button')).toHaveCount(1)
  await page
    .getByRole('button', { name: /hold the look/ })
    .first()
    .click()
  await expect(page.getByRole('textbox', { name: 'Timecode' })).toHaveValue('00:00:25:12')
  await leaf(page, 'assemblies')
  await page.getByRole('combobox', { name: 'Camera for Ida' }).selectOption({ label: '6 Over Tomas to Ida' })
  await page.getByRole('combobox', { name: 'Camera for Tomas' }).selectOption({ label: '5 Over Ida to Tomas' })
  await page.getByRole('combobox', { name: 'Camera for the wide' }).selectOption({ label: '8 Closing wide' })
  await page.getByRole('button', { name: 'Make a rough cut' }).click()
  await expect(page.getByRole('textbox', { name: 'Name of assembly rough cut' })).toBeVisible()
  // The wide until six frames before the first line at story 446.
  expect((await frames(page, '010')).slice(0, 2)).toEqual([0, 439])
  await timecode(page, 445)
  await expect(onAir(page)).toContainText('Over Tomas to Ida')
  await page.getByRole('button', { name: 'One frame per camera' }).click()
  await expect(page.getByRole('list', { name: 'Main lane' }).getByRole('listitem')).toHaveCount(11)
  await saved(page)
})
