// Makes docs/screenshots from the demonstration: one picture of each main view.
import { join } from 'node:path'
import { expect, test, type Page } from '@playwright/test'
import { choose, drag, saved, timecode, whole } from './page.ts'
import { root, Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
})
test.afterAll(async () => server?.end())

async function picture(page: Page, name: string, rest = { x: 640, y: 20 }) {
  await page.mouse.move(rest.x, rest.y)
  await page.waitForTimeout(1500)
  await page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) })
}

test('pictures of every desk', async ({ page }) => {
  test.setTimeout(480_000)
  const id = await server.demo()
  const open = async (desk: string, frame: number) => {
    await page.goto(`${server.url}/scenes/${id}/${desk}`)
    await timecode(page, frame)
  }
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await page.evaluate(() => localStorage.setItem('proscen.strip', '{"height":270}'))
  await open('splice', 330)
  await page.getByRole('listitem', { name: /Shot 040/ }).click({ position: { x: 40, y: 26 } })
  await expect(page.getByRole('list', { name: 'Main lane' }).locator('img')).toHaveCount(11)
  await picture(page, 'splice')
  await page.evaluate(() => localStorage.setItem('proscen.strip', '{"height":330}'))
  await open('splice', 738)
  await page.keyboard.press('v')
  await page.getByRole('tab', { name: 'rhythm' }).click()
  await page.getByRole('button', { name: 'Neighbours' }).click()
  await picture(page, 'splice-story')
  await page.evaluate(() => localStorage.setItem('proscen.strip', '{"height":200}'))
  await open('splice', 500)
  await page.getByRole('tab', { name: 'boards' }).click()
  await page.getByRole('button', { name: 'Board beside the program' }).click()
  await picture(page, 'splice-boards')
  await open('dress', 738)
  await page.getByLabel('In scene').getByRole('button', { name: 'Tomas cast' }).click()
  // The plan as a drawing: without what is above 3.2 metres, and nearer.
  await page.getByRole('slider', { name: 'Show up to this height' }).fill('3.2')
  const plan = (await page.getByRole('application', { name: 'Plan view' }).boundingBox())!
  await page.mouse.move(plan.x + plan.width / 2 + 20, plan.y + plan.height / 2 - 40)
  await page.mouse.wheel(0, -400)
  await picture(page, 'dress')
  await open('dress', 1090)
  await page.getByLabel('In scene').getByRole('button', { name: 'Ida cast' }).click()
  await page.getByRole('button', { name: 'Ida is to…' }).click()
  await picture(page, 'deeds')
  const leaf = (name: string) => page.getByRole('tab', { name }).click()
  await page.evaluate(() => localStorage.setItem('proscen.guides', '{"boxes":true,"horizon":true,"mask":false}'))
  await open('frame', 740)
  await page.getByRole('button', { name: /Look through camera 9/ }).click()
  await page.keyboard.press('x')
  await leaf('numbers')
  await picture(page, 'lens')
  await page.evaluate(() => localStorage.setItem('proscen.guides', '{}'))
  await open('frame', 520)
  await page.getByRole('button', { name: /Look through camera 5/ }).click()
  await leaf('lens')
  await picture(page, 'frame')
  await page.keyboard.press('Control+z')
  await saved(page)
  await open('frame', 520)
  await page.getByRole('button', { name: /Look through camera 5/ }).click()
  await leaf('compose')
  await page.getByRole('button', { name: 'cowboy', exact: true }).click()
  await choose(page, 'Side of the subject', 'three-quarter')
  await choose(page, 'Hold', 'go along with them')
  await page.waitForTimeout(5000)
  await picture(page, 'compose')
  await page.getByRole('button', { name: 'All shapes' }).click()
  const tall = (await page.getByRole('figure', { name: 'tall 9:16' }).locator('.picture').boundingBox())!
  await drag(page, { x: tall.x + tall.width / 2, y: tall.y + tall.height / 2 }, { x: tall.width * 0.25, y: 0 })
  await picture(page, 'shapes')
  await page.keyboard.press('Control+z')
  await saved(page)
  await open('turnover', 0)
  for (const n of ['020', '030', '040']) await page.getByRole('checkbox', { name: `Choose shot ${n}` }).check()
  await page.getByRole('button', { name: /^Deliver 3 chosen/ }).click()
  await expect(page.getByRole('article', { name: 'Delivery 1' })).toContainText('2 of 3 finished', { timeout: 120_000 })
  await page.getByRole('button', { name: 'Play shot 020' }).click()
  await expect.poll(() => page.locator('video').evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.6)
  await page.locator('video').evaluate((v: HTMLVideoElement) => v.pause())
  await picture(page, 'turnover')
  await page.getByText('pull list', { exact: true }).click()
  await page.getByText('beside', { exact: true }).click()
  await expect(page.getByRole('img', { name: 'The live program' })).toBeVisible()
  await picture(page, 'compare')
})

test('a picture of a camera that is matched to a photo', async ({ page }) => {
  const id = await server.demo()
  const { document } = await server.document(id)
  const [camera, node] = Object.entries(document.nodes!).find(
    ([, n]) => (n.camera as { number: number } | undefined)?.number === 3,
  )!
  const [, { storyIn }] = Object.entries(document.shots!).find(([, s]) => s.camera === camera)! as unknown as [
    string,
    { storyIn: number },
  ]
  // What a photo from there shows.
  const assembly = Object.keys(document.assemblies!)[0]!
  const photo = await fetch(
    `${server.url}/api/scenes/${id}/frame?assembly=${assembly}&frame=${storyIn}&camera=${camera}&width=1280&height=720`,
  )
  const kept = await fetch(`${server.url}/api/images`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: await photo.arrayBuffer(),
  })
  const board = (await kept.json()) as { blob: string; width: number; height: number }
  await page.goto(`${server.url}/scenes/${id}/frame`)
  await timecode(page, storyIn)
  await page.getByRole('button', { name: /Look through camera 3/ }).click()
  // Corners of the set that the camera sees, a good way apart, and where it sees them.
  const boxes = await page.evaluate(
    (ids) => ids.map((n) => JSON.parse(globalThis.proscenCore!.ask('extent', JSON.stringify({ nodes: [n] })))),
    Object.entries(document.nodes!).flatMap(([n, v]) => (v.kind === 'set' && v.piece ? [n] : [])),
  )
  const corners = (boxes as ({ min: number[]; max: number[] } | null)[]).flatMap((b) =>
    b && Math.max(...b.max.map((v, i) => v - b.min[i]!)) < 9
      ? [b.max, [b.min[0]!, b.max[1]!, b.max[2]!], [b.max[0]!, b.max[1]!, b.min[2]!]]
      : [],
  )
  const match = (points: { at: number[]; in: number[] }[]) =>
    server.edit(id, 'nodes', camera, (n) => ({
      ...n,
      camera: {
        ...(node.camera as object),
        match: { blob: board.blob, width: board.width, height: board.height, points },
      },
    }))
  await match(corners.slice(0, 64).map((at) => ({ at, in: [0, 0] })))
  const ask = (name: string, args: object) =>
    page.evaluate(([n, a]) => JSON.parse(globalThis.proscenCore!.ask(n, a)), [name, JSON.stringify(args)] as const)
  await expect.poll(async () => (await ask('matched', { camera, frame: storyIn }))?.points.length).toBeGreaterThan(4)
  const { points } = await ask('matched', { camera, frame: storyIn })
  const good: { at: number[]; in: number[] }[] = []
  for (const [i, p] of (points as { in: number[]; behind?: boolean }[]).entries())
    if (!p.behind && p.in.every((v) => Math.abs(v) < 0.85))
      if (good.every((g) => Math.hypot(g.in[0]! - p.in[0]!, g.in[1]! - p.in[1]!) > 0.3))
        good.push({ at: corners[i]!, in: [p.in[0]! + 0.004 * (i % 3), p.in[1]! - 0.003 * (i % 2)] })
  await match(good.slice(0, 6))
  await page.getByRole('tab', { name: 'match' }).click()
  await expect(page.getByRole('application', { name: 'Picture to match' })).toBeVisible()
  await page.waitForTimeout(3000)
  await picture(page, 'match')
  await match([])
})

test('a picture of the demonstration by night', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${await server.demo()}/frame`)
  await saved(page)
  await timecode(page, 300)
  await page.getByRole('button', { name: /Look through camera 3 / }).click()
  await choose(page, 'Alternate', 'night')
  await page.getByRole('button', { name: 'Alternates', exact: true }).click()
  await page.waitForTimeout(2500)
  await whole(page)
  await picture(page, 'alternates')
})

test('a picture of four side by side', async ({ page }) => {
  await page.goto(`${server.url}/scenes/${await server.demo()}/splice`)
  await saved(page)
  await timecode(page, 300)
  await page.keyboard.press('|')
  const beside = page.getByRole('region', { name: 'Side by side' })
  await beside.getByRole('button', { name: '4', exact: true }).click()
  await page.getByLabel('Alternate of picture 4').selectOption('night')
  await page.getByLabel('Camera of picture 4').selectOption({ label: '8 Closing wide' })
  await page.waitForTimeout(2500)
  await whole(page)
  await picture(page, 'beside')
  await page.keyboard.press('Escape')
})

test('pictures of several people at work', async ({ browser }) => {
  const id = await server.demo()
  const person = async (name: string, color: number, desk: string) => {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await page.goto(`${server.url}/scenes/${id}/${desk}`)
    await saved(page)
    await page.getByRole('button', { name: /^You are/ }).click()
    await page.getByRole('radio', { name: `Colour ${color}`, exact: true }).click()
    await page.getByRole('textbox', { name: 'Your name' }).fill(name)
    await page.getByRole('textbox', { name: 'Your name' }).press('Enter')
    return page
  }
  const me = await person('Noor Vale', 1, 'dress')
  const mara = await person('Mara Quist', 2, 'dress')
  const ben = await person('Ben Oake', 3, 'splice')
  await timecode(me, 150)
  await timecode(mara, 150)
  await ben.getByRole('listitem', { name: /Shot 050/ }).click({ position: { x: 30, y: 40 } })
  await ben.keyboard.press(']')
  await ben.keyboard.press(']')
  await me.getByLabel('In scene').getByRole('button', { name: 'Ida cast' }).click()
  const camera = (await mara.getByRole('button', { name: /^Camera 8 .* on plan$/ }).boundingBox())!
  const from = { x: camera.x + camera.width / 2, y: camera.y + camera.height / 2 }
  await drag(mara, from, { x: 50, y: -40 }, false)
  await me.waitForTimeout(2000)
  await picture(me, 'people')
  await mara.mouse.up()
  await saved(mara)
  await me.getByRole('button', { name: 'History' }).click()
  await me.getByRole('tab', { name: /versions/ }).click()
  await me.getByRole('textbox', { name: 'Name of the version' }).fill('as blocked on the day')
  await me.getByRole('button', { name: 'Keep this state' }).click()
  await mara.getByRole('textbox', { name: 'Camera name' }).fill('Closing wide, lower')
  await mara.getByRole('textbox', { name: 'Camera name' }).press('Enter')
  await saved(mara)
  await me.getByRole('tab', { name: 'edits' }).click()
  await me.getByRole('button', { name: /move Closing wide/ }).click()
  await picture(me, 'history')
})

test('pictures of home, and of a scene as a whole', async ({ page }) => {
  const id = await server.demo()
  for (const [title, start] of [
    ['The kitchen', 'room'],
    ['Upper street', 'street'],
    ['Below the ridge', 'hillside'],
  ])
    await server.post('/scenes', { production: 'Hollin Pass', title, start })
  const made = await server.post('/scenes', { production: 'Valley trials', title: 'First try', rate: '25' })
  const { id: empty } = (await made.json()) as { id: string }
  await page.goto(server.url)
  await expect(page.locator('.card img')).toHaveCount(5)
  await picture(page, 'home')
  const { library } = (await server.get<{ name: string; library: string }[]>('/productions')).find(
    (p) => p.name === 'Hollin Pass',
  )!
  const scene = (await server.document(id)).document
  const operate = (operation: string, args: object) =>
    server.post(`/scenes/${library}/operations`, { operation, arguments: args })
  await operate('trackAdd', { id: 'sounds', name: 'sounds', clock: 'story', gain: 0 })
  for (const s of Object.values(scene.sounds!).slice(0, 2))
    await operate('soundAdd', { ...(s as object), track: 'sounds' })
  for (const b of Object.values(scene.boards!).slice(0, 2) as { blob: string; width: number; height: number }[])
    await operate('cardAdd', { name: 'station sketch', blob: b.blob, width: b.width, height: b.height })
  await page.getByRole('link', { name: 'What Hollin Pass shares' }).click()
  await saved(page)
  await picture(page, 'production')
  await page.goto(`${server.url}/scenes/${empty}/dress`)
  await saved(page)
  await picture(page, 'empty')
})
