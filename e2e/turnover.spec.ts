// Turnover as an artist uses it: a recipe of one's own, several shapes, cancel and
// resume, versions, what is out of date, notes, lists.
import { expect, test } from './base.ts'
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { choice, recipe, saved, timecode } from './page.ts'
import { root, Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
})
test.afterAll(async () => {
  await server.end()
})

interface Output {
  id: string
  file: string
  frames: number
  number: string
  version: number
  sha256: string
  state: string
  item: { format: string; width: number; height: number }
}
interface Delivery {
  number: number
  recipe: Record<string, unknown>
  outputs: Output[]
}

/** The pixels of a frame of a video. */
function frame(file: string, n: number, size: [number, number]): Buffer {
  const raw = execFileSync(
    'ffmpeg',
    [
      ...['-v', 'error', '-i', file, '-vf', `select=eq(n\\,${n})`, '-frames:v', '1'],
      ...['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'],
    ],
    { maxBuffer: 1 << 26 },
  )
  expect(raw.length).toBe(size[0] * size[1] * 3)
  return raw
}
/** The names of the files in a zip, from its central directory. */
function names(zip: Buffer): string[] {
  const end = zip.lastIndexOf(Buffer.from('PK\x05\x06'))
  const out: string[] = []
  for (let i = zip.readUInt32LE(end + 16); i < end;) {
    const length = zip.readUInt16LE(i + 28)
    out.push(zip.toString('utf8', i + 46, i + 46 + length))
    i += 46 + length + zip.readUInt16LE(i + 30) + zip.readUInt16LE(i + 32)
  }
  return out
}
/** How much two pictures differ in a part of them, from 0 to 255. */
function apart(a: Buffer, b: Buffer, width: number, part: { x: number; y: number; w: number; h: number }) {
  let sum = 0
  for (let y = part.y; y < part.y + part.h; y++)
    for (let x = part.x; x < part.x + part.w; x++)
      for (let c = 0; c < 3; c++) sum += Math.abs(a[3 * (y * width + x) + c]! - b[3 * (y * width + x) + c]!)
  return sum / (part.w * part.h * 3)
}

test('three shots in two shapes with handles and burn-ins, stopped and resumed, and then only what has changed', async ({
  page,
}) => {
  const id = await server.demo()
  await page.goto(`${server.url}/scenes/${id}/turnover`)
  await saved(page)
  // A recipe of the production's own.
  await recipe(page, 'To look at')
  await page.getByRole('button', { name: 'Edit…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Recipe' })
  await dialog.getByRole('textbox', { name: 'Name of the recipe' }).fill('Small, with names')
  const figure = async (label: string, value: string) => {
    const field = dialog.getByRole('textbox', { name: label, exact: true })
    await field.fill(value)
    await field.press('Enter')
  }
  await figure('size', '20')
  await figure('before', '6')
  await figure('after', '4')
  await dialog.getByText('a shot is clean of its neighbours').click()
  const label = dialog.getByRole('button', { name: /^Burn-in shot;/ })
  await choice(dialog.getByRole('button', { name: 'Burn-in' }).first(), 'shot', label)
  await expect(label).toHaveText('010')
  const at = (await label.boundingBox())!
  await page.mouse.move(at.x + 4, at.y + 4)
  await page.mouse.down()
  await page.mouse.move(at.x + 900, at.y + 900, { steps: 5 }) // as far as it goes: into the corner
  await page.mouse.up()
  await figure('letters', '15')
  await expect(dialog.getByRole('status', { name: 'Example of a name' })).toHaveText(/_v001\.mp4$/)
  await dialog.getByRole('button', { name: 'Keep as a new one' }).click()
  await expect(dialog).toBeHidden()
  await expect(page.getByText('6 before, 4 after', { exact: false })).toBeVisible()
  await page.reload() // it is the production's, and the one that was chosen last
  await saved(page)
  await expect(page.getByText('6 before, 4 after', { exact: false })).toBeVisible()

  await page.getByRole('region', { name: 'What is delivered' }).getByText('square 1:1').click()
  for (const n of ['020', '070', '100']) await page.getByRole('checkbox', { name: `Choose shot ${n}` }).check()
  await page.getByRole('button', { name: 'Deliver 3 chosen (6 files)' }).click()
  const job = page.getByRole('article', { name: 'Delivery 1' })
  await expect(job).toContainText('Small, with names')
  await expect(job.getByRole('img', { name: /^Current picture/ })).toBeVisible({ timeout: 60_000 })
  await job.getByRole('button', { name: 'Pause' }).click()
  await expect(job).toContainText('paused')
  await job.getByRole('button', { name: 'Resume' }).click()
  await expect(job).not.toContainText('paused')
  await job.getByRole('button', { name: 'Cancel' }).click()
  await job.getByRole('button', { name: 'Resume' }).click()
  await expect(job).toContainText('6 of 6 finished', { timeout: 180_000 })

  const [d] = await server.get<Delivery[]>(`/scenes/${id}/deliveries`)
  expect(d!.outputs.map((o) => `${o.number} ${o.item.width}×${o.item.height}`)).toEqual([
    '020 256×144',
    '070 256×144',
    '100 256×144',
    '020 144×144',
    '070 144×144',
    '100 144×144',
  ])
  const shots = (await server.document(id)).document.shots as unknown as Record<
    string,
    { number: string; screenIn: number; screenOut: number; lane: string }
  >
  const of = (n: string) => Object.values(shots).find((s) => s.number === n)!
  for (const o of d!.outputs) {
    expect(o.version).toBe(1)
    const file = join(server.blobs, o.file)
    const counted = execFileSync('ffprobe', [
      ...['-v', 'error', '-select_streams', 'v:0', '-count_frames'],
      ...['-show_entries', 'stream=nb_read_frames,width,height', '-of', 'csv=p=0', file],
    ])
    const frames = of(o.number).screenOut - of(o.number).screenIn + 10
    expect(counted.toString().trim()).toBe(`${o.item.width},${o.item.height},${frames}`)
  }

  // The same frames made from the scene's file, with and without what is written on them.
  const dir = mkdtempSync(join(tmpdir(), 'proscen-turnover-'))
  const scene = join(dir, 'scene.json')
  writeFileSync(scene, JSON.stringify((await server.document(id)).document))
  const render = (name: string, change: object) => {
    const file = join(dir, `${name}.json`)
    writeFileSync(file, JSON.stringify({ ...d!.recipe, sound: false, ...change }))
    const out = join(dir, name)
    const said = execFileSync(
      join(root, 'bin', 'proscen'),
      ['render', scene, '--out', out, '--shots', '070', '--recipe', file, '--json'],
      { maxBuffer: 1 << 24 },
    )
    const manifest = JSON.parse(said.toString()) as { outputs: { file: string; head: number; tail: number }[] }
    expect(manifest.outputs[0]).toMatchObject({ head: 6, tail: 4 })
    return join(out, manifest.outputs[0]!.file)
  }
  const delivered = d!.outputs.find((o) => o.number === '070' && o.item.format !== 'square')!
  const mine = join(server.blobs, delivered.file)
  const same = render('same', {})
  const bare = render('bare', { burns: [] })
  const whole = { x: 0, y: 0, w: 256, h: 144 }
  const corner = { x: 190, y: 110, w: 60, h: 28 }
  const rest = { x: 0, y: 0, w: 256, h: 90 }
  for (const n of [0, delivered.frames - 1]) {
    const got = frame(mine, n, [256, 144])
    // Encoded in other parts, so not to the bit.
    expect(apart(got, frame(same, n, [256, 144]), 256, whole), `frame ${n}`).toBeLessThan(2)
    const plain = frame(bare, n, [256, 144])
    expect(apart(got, plain, 256, corner), 'the number of the shot is in the corner').toBeGreaterThan(15)
    expect(apart(got, plain, 256, rest), 'and nowhere else').toBeLessThan(2)
  }

  // One shot is changed elsewhere: it alone is out of date.
  await expect(page.getByText('out of date', { exact: true })).toHaveCount(0)
  const key = Object.entries(shots).find(([, s]) => s.number === '070')![0]
  await server.edit(id, 'shots', key, (s) => ({ ...s, storyIn: (s.storyIn as number) + 7 }))
  await expect(page.getByRole('row', { name: /070/ })).toContainText('out of date', { timeout: 60_000 })
  await expect(page.getByText('out of date', { exact: true })).toHaveCount(1)
  const before = createHash('sha256').update(readFileSync(mine)).digest('hex')
  await page.getByRole('button', { name: 'Deliver what is out of date (1)' }).click()
  await expect(page.getByRole('row', { name: /070/ })).toContainText('v2 finished', { timeout: 120_000 })
  await expect(page.getByText('out of date', { exact: true })).toHaveCount(0, { timeout: 60_000 })
  const again = await server.get<Delivery[]>(`/scenes/${id}/deliveries`)
  const second = again.flatMap((x) => x.outputs).filter((o) => o.version === 2)
  expect(second.map((o) => o.number)).toEqual(['070', '070'])
  expect(createHash('sha256').update(readFileSync(mine)).digest('hex'), 'version 1 is as it was').toBe(before)
  expect(delivered.sha256).toBe(before)
})

test.describe('beside the live program', () => {
  test.use({ views: 'delivered' })
  test('what has been delivered is played, compared, noted on and saved', async ({ page }) => {
    const id = await server.demo()
    await page.goto(`${server.url}/scenes/${id}/turnover`)
    await saved(page)
    await page.getByRole('button', { name: 'Play shot 070' }).click()
    const player = page.getByRole('region', { name: 'Playback' })
    const video = player.locator('video').last()
    await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.2)
    await player.getByRole('button', { name: 'Stop' }).click()
    const where = player.getByRole('status', { name: 'Frame of the file' })
    await page.keyboard.press('Home')
    await expect(where).toHaveText('1 / 70')
    await page.keyboard.press('ArrowRight')
    await page.keyboard.press('ArrowRight')
    await expect(where).toHaveText('3 / 70')
    await expect.poll(() => video.evaluate((v: HTMLVideoElement) => Math.floor(v.currentTime * 24))).toBe(2)
    // Against the version before.
    await player.getByText('beside', { exact: true }).click()
    await expect(player.locator('video')).toHaveCount(2)
    await expect(player.getByLabel('Version 1')).toBeVisible()
    await player.getByText('wiped', { exact: true }).click()
    await expect(player.getByRole('slider', { name: 'Wipe' })).toBeVisible()
    // Against the live program: the same frame, but for how both are drawn.
    await player.getByRole('combobox', { name: 'Against version' }).click({ force: true })
    await page.getByRole('option', { name: 'live' }).click()
    const alike = () =>
      player.evaluate((box) => {
        const live = box.querySelector('canvas')!
        const pixels = (from: CanvasImageSource) => {
          const c = document.createElement('canvas')
          c.width = live.width
          c.height = live.height
          const g = c.getContext('2d')!
          g.drawImage(from, 0, 0, c.width, c.height)
          return g.getImageData(0, 0, c.width, Math.floor(c.height * 0.8)).data // a burn-in stands below
        }
        const [a, b] = [pixels(live), pixels(box.querySelector('video')!)]
        return a.reduce((sum, v, i) => sum + Math.abs(v - b[i]!), 0) / a.length
      })
    await expect(player.getByRole('img', { name: 'The live program' })).toBeVisible()
    await expect.poll(alike).toBeLessThan(5)
    const [seventy] = Object.entries((await server.document(id)).document.shots!).find(([, s]) => s.number === '070')!
    await server.edit(id, 'shots', seventy, (s) => ({ ...s, storyIn: (s.storyIn as number) + 300 }))
    await expect.poll(alike, 'it follows an edit').toBeGreaterThan(7)
    await server.edit(id, 'shots', seventy, (s) => ({ ...s, storyIn: (s.storyIn as number) - 300 }))
    await expect.poll(alike).toBeLessThan(5)
    await player.getByText('alone', { exact: true }).click()
    // It fills the desk, and the next shot follows.
    await player.getByRole('button', { name: 'Fill the desk' }).click()
    await expect.poll(async () => (await player.boundingBox())!.width).toBe(1280)
    await player.getByRole('button', { name: 'Next shot' }).click()
    await expect(player.locator('.name')).toContainText('_100_')
    await page.keyboard.press('Escape')
    await expect.poll(async () => (await player.boundingBox())!.width).toBeLessThan(500)
    // A note stays with the shot.
    await player.getByRole('textbox', { name: 'Note on the frame' }).fill('too dark')
    await player.getByRole('button', { name: 'Note', exact: true }).click()
    await saved(page)
    const shots = (await server.document(id)).document.shots as unknown as Record<
      string,
      { number: string; notes?: string }
    >
    expect(Object.values(shots).find((s) => s.number === '100')!.notes).toMatch(/^v1, frame \d+: too dark$/)
    // All of a delivery is saved as a zip.
    const [zip] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('article', { name: 'Delivery 1' }).getByRole('link', { name: 'Save as zip' }).click(),
    ])
    expect(zip.suggestedFilename()).toMatch(/delivery-001\.zip$/)
    const inside = names(readFileSync((await zip.path())!))
    expect(inside).toContain('manifest.json')
    expect(inside.filter((f) => f.endsWith('.mp4'))).toHaveLength(6)

    // What is needed of each camera, and what would disappoint.
    await page.getByText('pull list', { exact: true }).click()
    await expect(page.getByRole('row', { name: /Overhead insert/ })).toBeVisible()
    const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'CSV' }).click()])
    expect(readFileSync((await csv.path())!, 'utf8').split('\r\n')[0]).toBe(
      'camera,name,story in,story out,frames,from,to',
    )
    const [pages] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'PDF' }).click()])
    expect(
      readFileSync((await pages.path())!)
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-')
    // Passes beside a picture, which others can read.
    await page.getByText('shots', { exact: true }).first().click()
    await page.getByRole('button', { name: 'Edit…' }).click()
    const dialog = page.getByRole('dialog', { name: 'Recipe' })
    await dialog.getByRole('textbox', { name: 'Name of the recipe' }).fill('With passes')
    // Lists open where they are when the dialog has come to rest.
    const open = async (list: string) => {
      const box = dialog.getByRole('combobox', { name: list })
      await box.focus()
      await box.press('Enter')
    }
    await open('Passes beside the picture')
    for (const pass of ['position', 'matte of each group']) await page.getByRole('option', { name: pass }).click()
    await page.keyboard.press('Escape')
    await open('Rate of the files')
    await page.getByRole('option', { name: '30 f/s', exact: true }).click()
    await open('Mask outside of another shape')
    await page.getByRole('option', { name: 'scope 2.39:1' }).click()
    await expect(dialog.getByRole('textbox', { name: 'shape', exact: true })).toHaveValue('2.39')
    const size = dialog.getByRole('textbox', { name: 'size', exact: true })
    await size.fill('15')
    await size.press('Enter')
    await dialog.getByRole('button', { name: 'Keep as a new one' }).click()
    await expect(dialog).toBeHidden()
    await page.getByRole('checkbox', { name: 'Choose shot 020' }).check()
    await page.getByRole('button', { name: /^Deliver 1 chosen \(\d+ files\)/ }).click()
    const job = page.getByRole('article').filter({ hasText: 'With passes' })
    await expect(job.getByText(/020, position v1/).first()).toBeVisible({ timeout: 120_000 })
    const [passed] = await server.get<Delivery[]>(`/scenes/${id}/deliveries`)
    const place = passed!.outputs.find((o) => o.file.endsWith('_position'))!
    const read = execFileSync('ffprobe', [
      ...['-v', 'error', '-show_entries', 'stream=codec_name,width,height', '-of', 'csv=p=0'],
      join(server.blobs, place.file, `${place.file.split('/').at(-1)}.0001.exr`),
    ])
    expect(read.toString().trim()).toBe(`exr,${place.item.width},${place.item.height}`)
    // At another rate than the scene's it lasts as long.
    const thirty = passed!.outputs.find((o) => o.number === '020' && o.file.endsWith('.mp4'))!
    const counted = execFileSync('ffprobe', [
      ...['-v', 'error', '-select_streams', 'v:0', '-count_frames'],
      ...['-show_entries', 'stream=r_frame_rate,nb_read_frames', '-of', 'csv=p=0', join(server.blobs, thirty.file)],
    ])
    expect(counted.toString().trim()).toBe('30/1,75') // 60 of 24 a second
    // The mask leaves the rows of another shape, and black above and below.
    const { width, height } = thirty.item
    const grey = execFileSync('ffmpeg', [
      ...['-v', 'error', '-i', join(server.blobs, thirty.file), '-frames:v', '1'],
      ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-'],
    ])
    const row = (y: number) => Math.max(...grey.subarray(y * width, (y + 1) * width))
    const bar = (height - Math.round(width / (2048 / 858))) / 2
    for (const y of [0, Math.floor(bar) - 3, height - 1]) expect(row(y)).toBeLessThan(12)
    for (const y of [Math.ceil(bar) + 3, height / 2]) expect(row(y)).toBeGreaterThan(40)
    await page.getByText('doubts', { exact: true }).click()
    await expect(page.getByText('Nothing is doubtful.')).toBeVisible()
    const [key] = Object.entries(shots).find(([, s]) => s.number === '110')!
    await server.edit(id, 'shots', key, (s) => ({ ...s, screenIn: (s.screenIn as number) + 9 }))
    const doubt = page.getByRole('listitem').filter({ hasText: 'For 9 frames before shot 110 nothing plays' })
    await expect(doubt).toBeVisible()
    await doubt.getByRole('button', { name: 'Go there' }).click()
    await expect(page).toHaveURL(/splice$/)
    // The frame that is looked at, as it is delivered; in a gap there is none.
    await page.keyboard.press('s')
    await expect(page.getByText('no shot plays there', { exact: false })).toBeVisible()
    await timecode(page, 300)
    await page.keyboard.press('s')
    await expect(page.getByText('The frame is in the queue of Turnover', { exact: false })).toBeVisible()
    const still = async () => (await server.get<Delivery[]>(`/scenes/${id}/deliveries`))[0]!.outputs[0]!
    await expect.poll(async () => (await still()).state, { timeout: 60_000 }).toBe('done')
    const picture = readFileSync(join(server.blobs, (await still()).file))
    expect(picture.subarray(1, 4).toString()).toBe('PNG')
    expect([picture.readUInt32BE(16), picture.readUInt32BE(20)]).toEqual([1280, 720])
  })
})
