// One scene, several versions of it: the demonstration by night, one of one's own, and what
// two people do in two of them.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, somebody, test, type Page } from './base.ts'
import { videoFrame } from './files.ts'
import { choose, desk, newScene, saved, timecode, whole } from './page.ts'
import { root, Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
})
test.afterAll(async () => server?.end())

const worked = (page: Page) => page.getByRole('status', { name: 'Worked in' })
const leaf = (page: Page) => page.getByRole('dialog', { name: 'Alternates' })
const differences = (page: Page) => page.getByRole('list', { name: 'Differences' })
const scene = (page: Page) => page.getByLabel('In scene')
async function more(page: Page, of: string, what: string) {
  await leaf(page)
    .getByRole('button', { name: `More for ${of}` })
    .click()
  await page.getByRole('menuitem', { name: what }).click()
}
const shotLength = async (id: string, shot: string) => {
  const s = (await server.document(id)).document.shots![shot] as { screenIn: number; screenOut: number }
  return s.screenOut - s.screenIn
}

test('by night: flipped, changed, listed, taken back and put down', async ({ page }) => {
  const id = await server.copy(await server.demo())
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  await expect(worked(page)).toHaveCount(0)
  await choose(page, 'Alternate', 'night')
  await expect(worked(page)).toContainText('night')
  await expect(scene(page).getByRole('button', { name: /^Light from the window/ })).toBeVisible()
  await expect(
    scene(page)
      .getByLabel(/^differs in night/)
      .first(),
  ).toBeVisible()
  // One key leads to the scene and back.
  await timecode(page, 300)
  await page.keyboard.press('/')
  await expect(worked(page)).toHaveCount(0)
  await expect(scene(page).getByRole('button', { name: /^Light from the window/ })).toHaveCount(0)
  await expect(page.getByRole('textbox', { name: 'Timecode' })).toHaveValue('00:00:12:12')
  await page.keyboard.press('/')
  await expect(worked(page)).toContainText('night')

  // What is changed here is kept here alone.
  const before = JSON.stringify((await server.document(id)).document.nodes)
  await scene(page)
    .getByRole('button', { name: /^Bench / })
    .click()
  await page.getByRole('textbox', { name: 'X', exact: true }).fill('-5')
  await page.keyboard.press('Enter')
  await saved(page)
  await desk(page, 'Splice')
  await page.getByRole('listitem', { name: /^Shot 050,/ }).click()
  await page.keyboard.press('}')
  await saved(page)
  expect(JSON.stringify((await server.document(id)).document.nodes)).toBe(before)
  expect(await shotLength(id, 'shot-050')).toBe(150)
  // What differs of the shot stands in its panel, too, field by field.
  await page.getByRole('button', { name: 'beginning differs' }).click()
  await page.getByRole('menuitem', { name: 'As in the scene' }).click()
  await expect(page.getByRole('button', { name: 'beginning differs' })).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'beginning differs' })).toBeVisible()
  await saved(page)
  await page.getByRole('button', { name: 'Alternates', exact: true }).click()
  const bench = differences(page).getByRole('listitem').filter({ hasText: 'Bench' })
  await expect(bench).toContainText('place')
  await expect(bench).toContainText('-5.9, 1.2, -3.2 → -5, 1.2, -3.2')
  await expect(differences(page).getByRole('listitem').filter({ hasText: 'shot 050' })).toContainText(
    'beginning400 → 410',
  )
  // The same frame without it and with it; another alternate is compared likewise.
  await leaf(page).getByRole('button', { name: 'settings of the scene in pictures' }).click()
  const source = (what: string) =>
    leaf(page)
      .getByRole('img', { name: `${what}: settings of the scene` })
      .getAttribute('src')
  expect(await source('Without')).toMatch(/^data:image/)
  expect(await source('Without')).not.toBe(await source('With'))
  await leaf(page).getByLabel('Compared with').selectOption('tall')
  await expect(bench).toContainText('-4.6, 1.2, -3.2 → -5, 1.2, -3.2')
  await expect(differences(page).getByRole('listitem').filter({ hasText: 'shot 070' })).toBeVisible()
  await leaf(page).getByLabel('Compared with').selectOption('the scene')
  await leaf(page).getByRole('radiogroup', { name: 'Of the desk' }).getByText('Splice').click()
  await expect(bench).toHaveCount(0)
  await leaf(page).getByRole('radiogroup', { name: 'Of the desk' }).getByText('Dress').click()
  await leaf(page).getByRole('searchbox').fill('bench')
  await expect(differences(page).getByRole('listitem')).toHaveCount(1)

  // The scene moves on: the alternate stays, and says so.
  await server.edit(id, 'nodes', 'bench', (n) => ({ ...n, position: [-3, 1.2, -3.2], name: 'Long bench' }))
  const long = differences(page).getByRole('listitem').filter({ hasText: 'Long bench' })
  await leaf(page).getByRole('searchbox').fill('')
  await expect(long).toContainText('has moved on')
  await more(page, 'Long bench', 'As in the scene')
  await expect(long).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(long).toContainText('→ -5, 1.2, -3.2')
  await more(page, 'Long bench', 'Put into the scene')
  await expect(long).toHaveCount(0)
  await saved(page)
  expect((await server.document(id)).document.nodes!.bench!.position).toEqual([-5, 1.2, -3.2])
  await leaf(page).getByRole('radiogroup', { name: 'Of the desk' }).getByText('all').click()
  await leaf(page).getByRole('checkbox', { name: 'Choose Lamp light' }).check()
  await leaf(page).getByRole('checkbox', { name: 'Choose Stair light' }).check()
  await leaf(page)
    .getByRole('toolbar', { name: 'Chosen differences' })
    .getByRole('button', { name: /^As in/ })
    .click()
  await expect(differences(page).getByRole('listitem').filter({ hasText: 'Stair light' })).toHaveCount(0)
  await saved(page)
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z') // two taken back, put down, the shot and the bench
  await saved(page)
  const now = (await server.document(id)).document
  expect(Object.values(now.differences!).filter((d) => d.alternate === 'night')).toHaveLength(5)

  // The same pictures from the command line: they differ where they should.
  const dir = mkdtempSync(join(tmpdir(), 'proscen-night-'))
  const file = join(dir, 'scene.json')
  writeFileSync(file, JSON.stringify(now))
  const still = (of: string[]) => {
    const out = join(dir, `${of.join('') || 'scene'}.png`)
    const args = ['still', file, '--camera', '3', '--story-frame', '334', '--size', '160x90', '--out', out, ...of]
    execFileSync(join(root, 'bin', 'proscen'), args)
    const raw = ['-v', 'error', '-i', out, '-f', 'rawvideo', '-pix_fmt', 'gray', '-']
    const grey = execFileSync('ffmpeg', raw)
    return { light: grey.reduce((a, v) => a + v, 0) / grey.length, bytes: readFileSync(out) }
  }
  const [day, night, itself] = [still([]), still(['--alternate', 'night']), still(['--alternate', 'scene'])]
  expect(night.light).toBeLessThan(0.7 * day.light)
  expect(itself.bytes.equals(day.bytes)).toBe(true)
  expect(() => still(['--alternate', 'noon'])).toThrow(/there is no alternate called "noon"; there are night, tall/)
})

test('only in one shot: pressed, changed, marked, listed, copied, undone', async ({ page }) => {
  const id = await server.copy(await server.demo())
  const { document } = await server.document(id)
  const at = (shot: string) => (document.shots![shot] as { screenIn: number }).screenIn + 10
  const frames = async () => {
    const out: Record<string, string> = {}
    for (const shot of ['shot-030', 'shot-040', 'shot-050'])
      for (const alternate of ['', 'night']) {
        const query = `assembly=first-cut&frame=${at(shot)}&width=160&height=90&alternate=${alternate}`
        const answer = await fetch(`${server.url}/api/scenes/${id}/frame?${query}`)
        expect(answer.status).toBe(200)
        out[`${shot} ${alternate}`] = Buffer.from(await answer.arrayBuffer()).toString('base64')
      }
    return out
  }
  const before = await frames()
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  const main = page.getByRole('application', { name: 'Program' })
  const block = (shot: string) => page.getByRole('listitem', { name: new RegExp(`^Shot ${shot},`) })
  // The demonstration has one.
  await expect(block('060').getByRole('button', { name: '2 only in shot 060' })).toBeVisible()
  await timecode(page, at('shot-040'))
  const picture = async () => (await whole(page), await main.screenshot())
  const seen = [await picture()]

  await page.keyboard.press(';')
  await expect(worked(page)).toContainText('only in shot 040')
  // The cut stays as it is; that is said.
  await block('040').click({ position: { x: 30, y: 40 } })
  await page.keyboard.press('}')
  await expect(page.getByText('and not the cut; work in the scene').first()).toBeVisible()
  await desk(page, 'Dress')
  await scene(page).getByRole('button', { name: 'Hide Cabin' }).click()
  await saved(page)
  await desk(page, 'Splice')
  await expect(block('040').getByRole('button', { name: '1 only in shot 040' })).toBeVisible()
  await page.getByRole('button', { name: 'all shots again' }).click()
  await expect(worked(page)).toHaveCount(0)
  seen.push(await picture())
  expect(seen[1]!.equals(seen[0]!), 'the shot shows it, also while all shots are worked in').toBe(false)
  const after = await frames()
  for (const k of Object.keys(before)) expect(after[k] === before[k], k).toBe(!k.startsWith('shot-040'))

  // The mark leads to the list; what is there is copied to another shot, and taken back.
  await block('040').getByRole('button', { name: '1 only in shot 040' }).click()
  await expect(worked(page)).toContainText('only in shot 040')
  await expect(differences(page).getByRole('listitem')).toHaveCount(1)
  await timecode(page, at('shot-050'))
  const name = (await differences(page).getByRole('listitem').getByRole('button').first().textContent())!
  await more(page, name, 'Copy to shot 050')
  await expect(block('050').getByRole('button', { name: '1 only in shot 050' })).toBeVisible()
  await more(page, name, 'As in all shots')
  await expect(block('040').getByRole('button', { name: /only in shot/ })).toHaveCount(0)
  await saved(page)
  const moved = await frames()
  for (const k of Object.keys(before)) expect(moved[k] === before[k], k).toBe(!k.startsWith('shot-050'))
  // Undone it is where it was; the part of a shot that is split has it, too.
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(block('040').getByRole('button', { name: '1 only in shot 040' })).toBeVisible()
  await expect(block('050').getByRole('button', { name: /only in shot/ })).toHaveCount(0)
  await page.keyboard.press('/')
  await expect(worked(page)).toHaveCount(0)
  await timecode(page, at('shot-040') + 20)
  await page.keyboard.press('x')
  await expect(page.getByRole('button', { name: /^1 only in shot/ })).toHaveCount(2)
})

test('four pictures in step, a wipe, and a sheet of all', async ({ page }) => {
  const id = await server.copy(await server.demo())
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  await timecode(page, 300)
  await page.keyboard.press('|')
  const beside = page.getByRole('region', { name: 'Side by side' })
  const side = (n: number) => beside.getByRole('figure', { name: `Picture ${n}` })
  await beside.getByRole('button', { name: '4', exact: true }).click()
  await expect(beside.getByRole('figure')).toHaveCount(4)
  await page.getByLabel('Alternate of picture 3').selectOption('night')
  await page.getByLabel('Camera of picture 3').selectOption({ label: '8 Closing wide' })
  await page.getByLabel('Alternate of picture 4').selectOption('tall')
  await page.getByLabel('Camera of picture 4').selectOption('as cut')
  await whole(page)
  const light = async (n: number) => {
    const png = await side(n).locator('.picture').screenshot()
    const grey = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'], {
      input: png,
    })
    return grey.reduce((a, v) => a + v, 0) / grey.length
  }
  expect(await light(2)).toBeLessThan(0.8 * (await light(1)))
  // In step: one frame on is one frame on in all of them, and played they stay together.
  const stories = () => beside.locator('figcaption .story').allInnerTexts()
  const first = (await stories()).map((s) => parseInt(s.replace(/\D/g, '')))
  await page.keyboard.press('.')
  await expect
    .poll(async () => (await stories()).map((s) => parseInt(s.replace(/\D/g, ''))))
    .toEqual(first.map((f) => f + 1))
  await page.keyboard.press(' ')
  await expect.poll(async () => parseInt((await stories())[0]!.replace(/\D/g, ''))).toBeGreaterThan(first[0]! + 4)
  await page.keyboard.press(' ')
  await whole(page)
  const stopped = (await stories()).map((s) => parseInt(s.replace(/\D/g, '')))
  expect(new Set(stopped.map((f, i) => f - first[i]!)).size).toBe(1)
  // In the tall one a shot lasts longer: by the cut it is behind, by the story it is not.
  await timecode(page, 600)
  await expect.poll(async () => new Set(await stories()).size).toBeGreaterThan(1)
  await page.getByLabel('In step by').selectOption('the story')
  await expect.poll(async () => new Set(await stories()).size).toBe(1)
  await page.getByLabel('In step by').selectOption('the cut')

  // Another one leads: it is worked in, and what is edited is its.
  await beside.getByRole('button', { name: 'Picture 2 leads' }).click()
  await expect(worked(page)).toContainText('night')
  await expect(page.getByLabel('Alternate of picture 1')).toHaveValue('')
  await page.getByLabel('Alternate of picture 2').selectOption('tall')
  await expect(worked(page)).toContainText('tall')
  await page.keyboard.press('/')
  await expect(page.getByLabel('Alternate of picture 2')).toHaveValue('')
  await page.getByLabel('Alternate of picture 1').selectOption('night')

  // A wipe between two: it shows more of the one as it shows less of the other.
  await beside.getByRole('button', { name: 'wipe' }).click()
  const line = beside.getByRole('slider', { name: 'Wipe' })
  await line.press('End')
  await whole(page)
  const room = () => beside.locator('.room')
  const dark = await room().screenshot()
  await line.press('Home')
  await whole(page)
  const bright = await room().screenshot()
  expect(dark.equals(bright)).toBe(false)
  await expect(line).toHaveAttribute('aria-valuenow', '0')

  // Sheets: of what is seen, and of all alternates.
  const sheet = async (what: string) => {
    const file = page.waitForEvent('download')
    await beside.getByRole('button', { name: 'Sheet' }).click()
    await page.getByRole('menuitem', { name: what }).click()
    return readFileSync(await (await file).path())
  }
  const png = await sheet('Of all alternates, PNG')
  // Three pictures in two columns, one of which is a tall frame.
  expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([2 * 656 + 16, 2 * (640 + 46) + 16])
  expect((await sheet('Of these pictures, PDF')).subarray(0, 5).toString()).toBe('%PDF-')
  await page.keyboard.press('Escape')
  await expect(beside).toHaveCount(0)
  await expect(page.getByRole('application', { name: 'Program' })).toBeVisible()
  // It is remembered for the scene.
  await page.reload()
  await saved(page)
  await page.keyboard.press('|')
  await expect(beside.getByRole('slider', { name: 'Wipe' })).toBeVisible()
})

test('from nothing: one of one’s own, bound to a format, and one that hangs on it', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Valley', 'Otherwise', 'Room')
  await page.getByRole('button', { name: 'Alternates', exact: true }).click()
  await expect(leaf(page)).toContainText('the same scene otherwise')
  const make = async (name: string, more: () => Promise<unknown> = async () => {}) => {
    await leaf(page).getByRole('button', { name: 'New alternate' }).click()
    await leaf(page).getByRole('textbox', { name: 'Name of the alternate' }).fill(name)
    await more()
    await leaf(page).getByRole('button', { name: 'Make it, and work in it' }).click()
    await expect(worked(page)).toContainText(name)
  }
  await make('upright', () =>
    leaf(page).getByRole('combobox', { name: 'Chosen with the format' }).selectOption('tall 9:16'),
  )
  // A second one of that name is refused, and nothing is lost of what was typed.
  await leaf(page).getByRole('button', { name: 'New alternate' }).click()
  await leaf(page).getByRole('textbox', { name: 'Name of the alternate' }).fill('Upright')
  await leaf(page).getByRole('button', { name: 'Make it, and work in it' }).click()
  await expect(page.getByText('There is an alternate called upright already')).toBeVisible()
  await leaf(page).getByRole('textbox', { name: 'Name of the alternate' }).fill('upright and bare')
  await leaf(page).getByRole('button', { name: 'Make it, and work in it' }).click()
  await expect(worked(page)).toContainText('upright and bare')
  await scene(page)
    .getByRole('button', { name: /^Stove / })
    .click()
  await page.keyboard.press('Delete')
  await expect(scene(page).getByRole('button', { name: /^Stove / })).toHaveCount(0)
  await expect(differences(page)).toContainText('removed')
  await saved(page)

  // Choosing what it is bound to chooses it, and leaves it.
  await leaf(page).getByRole('button', { name: 'the scene itself' }).click()
  await expect(scene(page).getByRole('button', { name: /^Stove / })).toBeVisible()
  await choose(page, 'Format', 'tall 9:16')
  await expect(worked(page)).toContainText('upright')
  await choose(page, 'Format', 'wide 16:9')
  await expect(worked(page)).toHaveCount(0)

  // The one in the middle goes: what differs in the other one stays.
  await leaf(page).getByRole('button', { name: 'Remove upright', exact: true }).click()
  await page.getByRole('button', { name: 'Down', exact: true }).click()
  await leaf(page)
    .getByRole('button', { name: /^upright and bare/ })
    .click()
  await expect(scene(page).getByRole('button', { name: /^Stove / })).toHaveCount(0)
  await page.reload()
  await saved(page)
  await choose(page, 'Alternate', 'upright and bare')
  await expect(scene(page).getByRole('button', { name: /^Stove / })).toHaveCount(0)
})

test('two people work in two alternates, and one of them is taken away', async ({ page, browser }) => {
  const id = await server.copy(await server.demo())
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  const context = await somebody(browser)
  const other = await context.newPage()
  await other.goto(`${server.url}/scenes/${id}/dress`)
  await saved(other)
  await choose(page, 'Alternate', 'night')
  await choose(other, 'Alternate', 'tall')
  const name = async (p: Page, from: string, to: string) => {
    await scene(p)
      .getByRole('button', { name: new RegExp(`^${from} `) })
      .dblclick()
    await p.getByRole('textbox', { name: `Name of ${from}` }).fill(to)
    await p.keyboard.press('Enter')
    await saved(p)
  }
  await name(page, 'Stair lamp', 'Moonlit lamp')
  await expect(scene(other).getByRole('button', { name: /^Stair lamp / })).toBeVisible()
  await name(other, 'Bench', 'Tall bench')
  await expect(scene(page).getByRole('button', { name: /^Bench / })).toBeVisible()
  // Somebody works in the scene itself: both see it.
  await server.edit(id, 'nodes', 'pylon', (n) => ({ ...n, name: 'Old pylon' }))
  for (const p of [page, other]) await expect(scene(p).getByRole('button', { name: /^Old pylon / })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(scene(page).getByRole('button', { name: /^Stair lamp / })).toBeVisible()
  await expect(scene(other).getByRole('button', { name: /^Tall bench / })).toBeVisible()
  // It is removed under whoever works in it.
  await page.getByRole('button', { name: 'Alternates', exact: true }).click()
  await leaf(page).getByRole('button', { name: 'Remove tall' }).click()
  await expect(worked(other)).toHaveCount(0)
  await expect(other.getByText('is not there any more; this is the scene itself')).toBeVisible()
  await expect(scene(other).getByRole('button', { name: /^Bench / })).toBeVisible()
  await context.close()
})

test('two shots in two formats and two alternates are delivered beside each other', async ({ page }) => {
  const id = await server.copy(await server.demo())
  await page.goto(`${server.url}/scenes/${id}/turnover`)
  await saved(page)
  const what = page.getByRole('region', { name: 'What is delivered' })
  await what.getByRole('group', { name: 'Alternates' }).getByText('night').click()
  await what.getByText('square 1:1').click()
  for (const n of ['070', '080']) await page.getByRole('checkbox', { name: `Choose shot ${n}` }).check()
  await expect(page.getByRole('button', { name: 'Deliver 2 chosen (8 files)' })).toBeVisible()
  // The same, small.
  const { document } = await server.document(id)
  const assembly = Object.keys(document.assemblies!)[0]!
  const order = { each: true, shots: ['070', '080'], formats: ['wide', 'square'], alternates: ['', 'night'] }
  const recipe = { name: 'small', pack: 'h264', quality: 'rough', scale: 0.15, joined: true }
  const made = await server.post(`/scenes/${id}/deliveries`, { assembly, order, recipe })
  expect(made.status, await made.clone().text()).toBe(201)
  interface Out {
    id: string
    state: string
    number: string
    file: string
    item: { format: string; alternate?: string }
  }
  const outputs = async () => (await server.get<{ outputs: Out[] }[]>(`/scenes/${id}/deliveries`))[0]!.outputs
  await expect
    .poll(async () => (await outputs()).map((o) => o.state).join(), { timeout: 200_000 })
    .toMatch(/^(done,?){8}$/)
  const dir = mkdtempSync(join(tmpdir(), 'proscen-otherwise-'))
  const light = new Map<string, number>()
  for (const o of await outputs()) {
    expect(o.file.includes('_night_v001'), o.file).toBe(o.item.alternate === 'night')
    const file = join(dir, `${o.id}.mp4`)
    writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/outputs/${o.id}/file`)).arrayBuffer()))
    const pixels = videoFrame(file, 20)
    light.set(
      `${o.number} ${o.item.format} ${o.item.alternate ?? ''}`,
      pixels.reduce((a, v) => a + v, 0) / pixels.length,
    )
  }
  expect(light.size).toBe(8)
  for (const n of ['070', '080'])
    for (const f of ['wide', 'square'])
      expect(light.get(`${n} ${f} night`)!, `${n} ${f}`).toBeLessThan(0.75 * light.get(`${n} ${f} `)!)

  // What is changed in one makes its own outputs old, and no other.
  await page.getByRole('button', { name: 'Alternates', exact: true }).click()
  await choose(page, 'Alternate', 'night')
  const outdated = async () =>
    (await server.get<{ outdated: string[]; waiting: number }>(`/scenes/${id}/outdated`)).outdated.length
  await expect.poll(outdated).toBe(0)
  await desk(page, 'Dress')
  await scene(page)
    .getByRole('button', { name: /^Light from the window / })
    .click()
  await page.keyboard.press('Delete')
  await saved(page)
  await expect.poll(outdated, { timeout: 90_000 }).toBeGreaterThan(0)
  const old = (await server.get<{ outdated: string[] }>(`/scenes/${id}/outdated`)).outdated
  for (const o of await outputs()) if (old.includes(o.id)) expect(o.item.alternate).toBe('night')
})
