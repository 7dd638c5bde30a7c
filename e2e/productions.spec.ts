// Many scenes: productions, what is done to scenes as wholes, and the settings of
// each. It begins with nothing.
import { readFileSync } from 'node:fs'
import { expect, somebody, test, type Page } from './base.ts'
import { desk, newScene, saved, timecode } from './page.ts'
import { Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start(false)
})
test.afterAll(async () => server?.end())

const scenes = () =>
  server.get<{ id: string; title: string; production: string; rate: string; revision: number }[]>('/scenes')
const idOf = async (title: string) => (await scenes()).find((s) => s.title === title)!.id
const settingsOf = async (title: string) =>
  (await server.document(await idOf(title))).document.settings as unknown as {
    rate: string
    drop?: boolean
    story: { in: number; out: number }
    lengths?: string
  }
async function more(page: Page, title: string, what: string) {
  await page.getByRole('button', { name: `More for ${title}`, exact: true }).click()
  await page.getByRole('menuitem', { name: what, exact: true }).click()
}
const card = (page: Page, title: string) => page.getByRole('button', { name: `Open ${title}`, exact: true })
const settings = (page: Page) => page.getByRole('dialog', { name: 'Scene settings' })
async function type(page: Page, field: string, value: string) {
  const f = settings(page).getByRole('textbox', { name: field, exact: true })
  await f.fill(value)
  await f.press('Enter')
}
async function close(page: Page) {
  await settings(page).getByRole('button', { name: 'Close this dialog' }).click()
  await expect(settings(page)).toBeHidden()
}
async function rate(page: Page, name: string, keep: 'seconds' | 'frames') {
  const field = settings(page).getByRole('combobox', { name: 'Rate' })
  await field.fill(name)
  await field.press('Enter')
  await settings(page)
    .getByRole('button', { name: new RegExp(`^Keep ${keep}`) })
    .click()
}

test('from nothing: two scenes of a production, each at its rate, 90 seconds long', async ({ page }) => {
  await page.goto(server.url)
  await expect(page.getByRole('button', { name: 'Look at the demonstration' })).toBeVisible()
  await page.getByRole('button', { name: /^Room/ }).click()
  await saved(page)
  await expect(page.getByLabel('In scene').getByRole('button', { name: 'Stove prop' })).toBeVisible()

  await page.getByRole('link', { name: 'All scenes' }).click()
  await expect(card(page, 'A room')).toBeVisible()
  await newScene(page, 'Valley', 'At the bridge', 'Hillside', '25')
  // 90 seconds of story, by typing and by the end of the strip.
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await type(page, 'Length', '90s')
  await expect.poll(async () => (await settingsOf('At the bridge')).story).toEqual({ in: 0, out: 2250 })
  await close(page)
  const end = page.getByRole('button', { name: 'End of the story' })
  const b = (await end.boundingBox())!
  await page.mouse.move(b.x + 4, b.y + 10)
  await page.mouse.down()
  await page.mouse.move(b.x - 96, b.y + 10, { steps: 4 })
  await page.mouse.up()
  await saved(page)
  const shorter = (await settingsOf('At the bridge')).story.out
  expect(shorter).toBeLessThan(2250)
  await page.keyboard.press('Control+z')
  await saved(page)
  expect((await settingsOf('At the bridge')).story.out).toBe(2250)

  await page.getByRole('link', { name: 'All scenes' }).click()
  await newScene(page, 'Valley', 'In the harbour', 'Empty', '29.97')
  expect(await settingsOf('In the harbour')).toMatchObject({ rate: '30000/1001', drop: true })
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await type(page, 'Length', '90s')
  await expect(settings(page).getByText('89.99 s')).toBeVisible() // 2,697 whole frames
  await close(page)
  await timecode(page, 1800)
  await expect(page.getByRole('textbox', { name: 'Timecode' })).toHaveValue('00:01:00;02')

  // The other one is as it was.
  expect(await settingsOf('At the bridge')).toMatchObject({ rate: '25', story: { in: 0, out: 2250 } })
})

test('a scene is given another rate both ways, and back again byte for byte', async ({ page }) => {
  const made = await server.post('/scenes', { production: 'Valley', title: 'Rates', start: 'demonstration' })
  const { id } = (await made.json()) as { id: string }
  const text = async () => JSON.stringify((await server.document(id)).document)
  const shots = async () =>
    Object.values((await server.document(id)).document.shots!) as { screenIn: number; screenOut: number }[]
  const before = await text()
  const was = await shots()
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await rate(page, '25', 'seconds')
  await saved(page)
  for (const [i, s] of (await shots()).entries()) {
    expect(Math.abs(s.screenIn / 25 - was[i]!.screenIn / 24)).toBeLessThanOrEqual(0.5 / 25 + 1e-9)
    expect(Math.abs(s.screenOut / 25 - was[i]!.screenOut / 24)).toBeLessThanOrEqual(0.5 / 25 + 1e-9)
  }
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await text()).toBe(before)
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await rate(page, '25', 'frames')
  await saved(page)
  expect(await shots()).toEqual(was)
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await text()).toBe(before)

  // Nonsense is refused with a sentence.
  await page.getByRole('button', { name: 'Scene settings' }).click()
  const field = settings(page).getByRole('combobox', { name: 'Rate' })
  await field.fill('0.5')
  await field.press('Enter')
  await expect(settings(page).getByRole('alert')).toContainText('is not a frame rate')
  await type(page, 'Screen time begins at', '10:00:00:00')
  await settings(page).getByText('feet').click()
  await settings(page).getByRole('checkbox', { name: 'Deliver tall 9:16' }).check()
  await settings(page).getByText('ends with the action').click()
  await page.keyboard.press('Escape')
  await expect(page.locator('.status .screen')).toContainText('10:00:')
  await desk(page, 'Turnover')
  await expect(page.getByRole('checkbox', { name: 'tall 9:16' })).toBeChecked()
  await desk(page, 'Dress')
  await expect(page.getByText(/grid \d+ ft/)).toBeVisible()
})

test('an empty scene says what to do first, with the button that does it, and says it once', async ({ page }) => {
  await page.goto(server.url)
  await newScene(page, 'Valley', 'First steps')
  const notes = page.getByRole('note')
  await expect(notes).toHaveCount(2)
  await page.getByRole('button', { name: 'Put a person here' }).click()
  await expect(notes).toHaveCount(1)
  await expect(page.getByLabel('In scene').getByRole('button', { name: 'Person cast' })).toBeVisible()
  await desk(page, 'Splice')
  await page.getByRole('button', { name: 'or put a camera first' }).click()
  await page.getByRole('button', { name: 'or begin with camera 1' }).click()
  await expect(page.getByRole('listitem', { name: /^Shot 010,/ })).toBeVisible()
  await saved(page)
  const { document } = await server.document(await idOf('First steps'))
  expect(Object.values(document.nodes!).map((n) => n.kind)).toEqual(expect.arrayContaining(['cast', 'camera']))
  // In the next scene nobody needs to be told again, but empty places still say what to do.
  await page.getByRole('link', { name: 'All scenes' }).click()
  await newScene(page, 'Valley', 'Second steps')
  await expect(page.getByText('Nobody is in the scene yet.', { exact: false })).toBeVisible()
  await expect(notes).toHaveCount(0)
})

const kitOf = async (title: string) =>
  Object.values((await server.document(await idOf(title))).document.kits!).map(
    (k) => k as { name: string; primes: number[]; shared?: boolean },
  )
const dialog = (page: Page) => page.getByRole('dialog', { name: 'Lens kits' })
async function lenses(page: Page, list: string, press: string) {
  await dialog(page).getByLabel('Lenses of the kit').fill(list)
  await dialog(page).getByRole('button', { name: press }).click()
  await expect(dialog(page)).toBeHidden()
}

test('the scenes of a production share a lens kit, and one keeps it as its own', async ({ page }) => {
  await page.goto(server.url)
  await page.getByRole('link', { name: 'What Valley shares' }).click()
  await page.getByRole('button', { name: 'New kit' }).click()
  await dialog(page).getByLabel('Kit name').fill('Valley primes')
  await lenses(page, '18, 35, 75', 'Make the kit')
  await saved(page)
  for (const title of ['First steps', 'At the bridge'])
    await expect.poll(() => kitOf(title)).toEqual([{ name: 'Valley primes', primes: [18, 35, 75], shared: true }])
  // It is changed from within a scene, for all.
  await page.getByRole('region', { name: 'Scenes' }).getByRole('link', { name: 'First steps' }).click()
  await expect(page.getByRole('button', { name: 'Scene settings' })).toContainText('First steps')
  await desk(page, 'Frame')
  await page.getByRole('button', { name: /^Look through camera 1/ }).click()
  await page.getByRole('tab', { name: 'lens' }).click()
  await page.getByRole('button', { name: 'Kits…' }).click()
  await dialog(page).getByText('a new kit').click()
  await page.getByRole('option', { name: 'Valley primes, of the production' }).click()
  await lenses(page, '21, 40', 'Change in all scenes')
  await expect(page.getByRole('button', { name: '21 mm' })).toBeVisible()
  for (const title of ['First steps', 'At the bridge'])
    await expect.poll(async () => (await kitOf(title))[0]!.primes).toEqual([21, 40])
  // And for this one alone.
  await page.getByRole('button', { name: 'Kits…' }).click()
  await lenses(page, '21, 40, 90', 'Change in this scene')
  await saved(page)
  await page.getByRole('link', { name: 'All scenes' }).click()
  await page.getByRole('link', { name: 'What Valley shares' }).click()
  await page.getByRole('button', { name: 'Change Valley primes' }).click()
  await lenses(page, '24', 'Change the kit')
  await expect.poll(async () => (await kitOf('At the bridge'))[0]!.primes).toEqual([24])
  expect(await kitOf('First steps')).toEqual([{ name: 'Valley primes', primes: [21, 40, 90] }])
  // What is done to the library is undone like anything else.
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => (await kitOf('At the bridge'))[0]!.primes).toEqual([21, 40])
  await newScene(await home(page), 'Valley', 'Takes it')
  expect((await kitOf('Takes it'))[0]!.primes).toEqual([21, 40])
})
async function home(page: Page) {
  await page.getByRole('link', { name: 'All scenes' }).click()
  return page
}

test('things and shots are copied in one scene and pasted in another', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${await idOf('A room')}/dress`)
  await saved(page)
  const list = page.getByLabel('In scene')
  await list.getByRole('button', { name: 'Stove prop' }).click()
  await list.getByRole('button', { name: 'Table prop' }).click({ modifiers: ['Control'] })
  await page.keyboard.press('Control+c')
  await expect(page.getByText('Copied 2 things.', { exact: false })).toBeVisible()
  await page.goto(`${server.url}/scenes/${await idOf('Second steps')}/dress`) // another page, another life
  await saved(page)
  await page.keyboard.press('Control+v')
  await expect(list.getByRole('button', { name: 'Stove prop' })).toBeVisible()
  await saved(page)
  const nodes = async (title: string) =>
    Object.values((await server.document(await idOf(title))).document.nodes!) as { name: string; position: number[] }[]
  const place = (all: { name: string; position: number[] }[], name: string) =>
    all.find((n) => n.name === name)?.position
  for (const name of ['Stove', 'Table'])
    expect(place(await nodes('Second steps'), name)).toEqual(place(await nodes('A room'), name))
  await page.keyboard.press('Control+z')
  await expect(list.getByRole('button', { name: 'Stove prop' })).toHaveCount(0)

  // A shot brings its camera along, at the playhead.
  await page.goto(`${server.url}/scenes/${await idOf('First steps')}/splice`)
  await saved(page)
  await page.getByRole('listitem', { name: /^Shot 010,/ }).click()
  await page.keyboard.press('Control+c')
  await expect(page.getByText('Copied 1 thing and 1 shot.', { exact: false })).toBeVisible()
  await page.goto(`${server.url}/scenes/${await idOf('In the harbour')}/splice`)
  await saved(page)
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('listitem', { name: /^Shot 010,/ })).toBeVisible()
  await saved(page)
  const from = (await server.document(await idOf('First steps'))).document
  const to = (await server.document(await idOf('In the harbour'))).document
  type Shot = { camera: string; screenIn: number; screenOut: number }
  const was = Object.values(from.shots!)[0] as Shot
  const is = Object.values(to.shots!)[0] as Shot
  expect(to.nodes![is.camera]).toMatchObject({ kind: 'camera', position: from.nodes![was.camera]!.position })
  const seconds = (s: Shot, rate: number) => (s.screenOut - s.screenIn) / rate
  expect(Math.abs(seconds(is, 30000 / 1001) - seconds(was, 24))).toBeLessThan(0.5 / 29.97 + 1e-6)
})

test('one field finds things, shots, scenes and commands, and goes there', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${await idOf('Rates')}/dress`)
  await saved(page)
  const find = page.getByRole('combobox', { name: /^Find things/ })
  await page.keyboard.press('Control+k')
  await find.fill('050')
  await expect(page.getByRole('option').first()).toHaveAccessibleName(/^shot/)
  await find.press('Enter')
  await expect(page.getByRole('listitem', { name: /^Shot 050,/ })).toHaveClass(/selected/)
  await expect(page.getByRole('status', { name: 'On air' })).toContainText('shot 050')
  await page.keyboard.press('Control+k')
  await find.fill('valley crane')
  await find.press('Enter')
  await expect(page.getByRole('button', { name: /^Look through camera 1 / })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Find', exact: true }).click()
  await find.fill('marker drop')
  await expect(page.getByRole('option', { name: 'command drop a marker' })).toContainText('M')
  await find.fill('zzzz')
  await expect(page.getByText('Nothing here is called “zzzz”.')).toBeVisible()
  await find.fill('bridge')
  await find.press('ArrowUp')
  await find.press('ArrowDown')
  await find.press('Enter')
  await expect(page.getByRole('button', { name: 'Scene settings' })).toContainText('At the bridge')
})

test('a guided round, keys of one’s own, and the facts of a scene', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${await idOf('Rates')}/dress?round`)
  await saved(page)
  const round = page.getByRole('complementary', { name: 'Guided round' })
  await expect(round).toContainText('1 of 10')
  await page.getByRole('button', { name: 'Play' }).click()
  await expect(round.getByRole('status')).toHaveText('Done.')
  await page.getByRole('button', { name: 'Pause' }).click()
  for (let i = 0; i < 3; i++) await round.getByRole('button', { name: /^(Go on|Pass over)$/ }).click()
  await expect(round).toContainText('4 of 10')
  await desk(page, 'Frame') // the real control
  await expect(round.getByRole('status')).toHaveText('Done.')
  await round.getByRole('button', { name: 'Leave the round' }).click()
  await expect(round).toBeHidden()

  const command = async (name: string) => {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: /^Find things/ }).fill(name)
    await page.keyboard.press('Enter')
  }
  await command('guided round')
  await expect(round).toContainText('4 of 10') // where it was left
  await round.getByRole('button', { name: 'Leave the round' }).click()
  await command('preferences')
  await page.getByRole('button', { name: /^Key of guides/ }).click()
  await page.keyboard.press('m')
  await expect(page.getByRole('alert')).toContainText(
    'M is the key of “drop a marker” on Dress, Frame, Splice, Turnover.',
  )
  await page.getByRole('button', { name: 'Take it from there' }).click()
  await expect(page.getByRole('button', { name: 'Key of drop a marker: none' })).toBeVisible()
  await page.getByText('feet', { exact: true }).click()
  await page.keyboard.press('Escape')
  await expect(page.getByText(/grid \d+ ft/)).toBeVisible()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keyboard' })).toContainText('Mguides')
  await page.keyboard.press('Escape')

  await server.post(`/scenes/${await idOf('Rates')}/operations`, {
    operation: 'cardAdd',
    arguments: { name: 'old title', title: 'Old' },
  })
  await command('facts')
  const facts = page.getByRole('dialog', { name: /^Facts of/ })
  await expect(facts.getByLabel('Counts')).toContainText('cameras11')
  await facts.getByRole('button', { name: 'Give to the production: wind' }).click()
  await expect(facts.getByText('in the production')).toBeVisible()
  await facts.getByRole('button', { name: 'Clear 3' }).click()
  await expect(facts).toContainText('Everything is in use.')
  // Another scene takes the sound from there.
  await page.goto(`${server.url}/scenes/${await idOf('In the harbour')}/splice`)
  await saved(page)
  await page.getByRole('tab', { name: 'sound' }).click()
  await page.getByRole('button', { name: 'Of the production…' }).first().click()
  await page.getByRole('button', { name: 'Take wind' }).click()
  await saved(page)
  const { sounds } = (await server.document(await idOf('In the harbour'))).document
  expect(Object.values(sounds!)).toMatchObject([{ name: 'wind', seconds: 50 }])
})

test('scenes are renamed, copied, moved, archived, thrown away and taken back', async ({ page, browser }) => {
  for (const title of ['At the lake', 'At the mill', 'A cellar'])
    await server.post('/scenes', { production: 'Lowlands', title, start: title === 'A cellar' ? 'room' : 'hillside' })
  await page.goto(server.url)
  await more(page, 'At the lake', 'Rename')
  await page.getByRole('textbox', { name: 'New title' }).fill('By the lake')
  await page.getByRole('textbox', { name: 'New title' }).press('Enter')
  await expect(card(page, 'By the lake')).toBeVisible()
  // Whoever has it open hears of it.
  const other = await (await somebody(browser)).newPage()
  await other.goto(`${server.url}/scenes/${await idOf('By the lake')}/dress`)
  await saved(other)
  await card(page, 'By the lake').focus()
  await page.keyboard.press('F2')
  await page.getByRole('textbox', { name: 'New title' }).fill('On the lake')
  await page.getByRole('textbox', { name: 'New title' }).press('Enter')
  await expect(other.getByRole('button', { name: 'Scene settings' })).toContainText('On the lake')
  await other.context().close()

  await more(page, 'On the lake', 'Duplicate')
  await expect(card(page, 'On the lake 2')).toBeVisible()
  const lies = await card(page, 'On the lake 2').boundingBox()
  await page.getByRole('checkbox', { name: 'Choose On the lake 2' }).check()
  expect(await card(page, 'On the lake 2').boundingBox(), 'a chosen card stays where it is').toEqual(lies)
  await page.getByRole('checkbox', { name: 'Choose A cellar' }).check()
  const chosen = page.getByRole('toolbar', { name: 'Chosen scenes' })
  await expect(chosen).toContainText('2 chosen')
  await chosen.getByRole('button', { name: 'Move' }).click()
  await page.getByPlaceholder('Name of a production').fill('Elsewhere')
  await page.getByRole('button', { name: 'OK' }).click()
  await expect(page.getByRole('region', { name: 'Elsewhere' }).getByRole('button', { name: /^Open/ })).toHaveCount(2)
  await chosen.getByRole('button', { name: 'Archive' }).click()
  await expect(card(page, 'A cellar')).toHaveCount(0)
  await page.getByRole('button', { name: /^Archive 2/ }).click()
  await expect(card(page, 'A cellar')).toBeVisible()
  await page.getByRole('button', { name: /^Scenes/ }).click()

  await card(page, 'At the mill').focus()
  await page.keyboard.press('Delete')
  await expect(card(page, 'At the mill')).toHaveCount(0)
  await page.getByRole('button', { name: /^Bin 1/ }).click()
  await more(page, 'At the mill', 'Take out of the bin')
  await expect(page.getByText('The bin is empty.', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: /^Scenes/ }).click()
  await expect(card(page, 'At the mill')).toBeVisible()
  // Packed, thrown away and taken in again, it is the same.
  const document = async (title: string) => JSON.stringify((await server.document(await idOf(title))).document)
  const before = await document('At the mill')
  const download = page.waitForEvent('download')
  await more(page, 'At the mill', 'Pack as a file')
  const packed = await (await download).path()
  await more(page, 'At the mill', 'To the bin')
  await expect(card(page, 'At the mill')).toHaveCount(0)
  await page.getByLabel('Take in a packed scene').setInputFiles({
    name: 'mill.zip',
    mimeType: 'application/zip',
    buffer: readFileSync(packed),
  })
  await expect(card(page, 'At the mill')).toBeVisible()
  const taken = (await scenes()).filter((s) => s.title === 'At the mill')
  expect(taken).toHaveLength(2) // one in the bin
  for (const s of taken) expect(JSON.stringify((await server.document(s.id)).document)).toBe(before)
  await page.getByLabel('Take in a packed scene').setInputFiles({
    name: 'nonsense.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from('no zip'),
  })
  await expect(page.getByText(/nonsense\.zip: .*no packed scene/i)).toBeVisible()
  // Pictures are made by the renderer, and kept.
  await expect(card(page, 'At the mill').getByRole('presentation')).toBeVisible()
  await page.getByRole('searchbox', { name: 'Search the scenes' }).fill('lake')
  await expect(page.getByRole('button', { name: /^Open/ })).toHaveCount(1)
})

test('home with 500 scenes asks for the pictures in sight alone', async ({ page }) => {
  for (let i = 0; i < 500; i++)
    await server.post('/scenes', { production: `Block ${i % 5}`, title: `Scene ${String(i).padStart(3, '0')}` })
  await page.goto(server.url)
  const cards = page.getByRole('button', { name: /^Open/ })
  await expect(cards.nth(450)).toBeAttached()
  await page.reload() // as on every day but the first
  await expect(cards.nth(450)).toBeAttached()
  const took = await page.evaluate(() => Math.round(performance.getEntriesByName('home')[0]!.startTime))
  console.log(`home with 500 scenes is on the screen ${took} ms after it was asked for`)
  await expect(page.getByRole('button', { name: 'Open Scene 000', exact: true })).toBeAttached()
  // Only those in sight are asked for pictures.
  await page.waitForTimeout(1000)
  const asked = await page.evaluate(
    () => performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/picture')).length,
  )
  expect(asked).toBeLessThan(60)
})
