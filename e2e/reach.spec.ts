// Whether the desks can be used without a mouse, and by those who see less.
import { expect, somebody, test, type Page } from './base.ts'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { desk, newScene, saved, type Point } from './page.ts'
import { Server } from './server.ts'
import { Fingers } from './touch.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start(false)
})
test.afterAll(async () => server?.end())

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')
interface Finding {
  id: string
  help: string
  nodes: { target: string[]; any: { message: string }[]; html: string }[]
}
/** What axe-core finds on what is shown, or in a part of it, one line for each element. */
async function findings(page: Page, where: string, within = ['html']): Promise<string[]> {
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe)
  const how = { resultTypes: ['violations'], rules: { 'landmark-no-duplicate-banner': { enabled: false } } } // heads of dialogs
  const { violations } = await page.evaluate(
    ([within, how]) =>
      (window as unknown as { axe: { run(at: object, how: object): Promise<{ violations: Finding[] }> } }).axe.run(
        { include: within, exclude: ['.el-dialog__header'] },
        how,
      ),
    [within, how] as const,
  )
  return violations.flatMap((v) =>
    v.nodes.map((n) => `${where}: ${v.id}: ${n.target.join(' ')}: ${n.any[0]?.message ?? v.help} in ${n.html}`),
  )
}

test('axe-core finds nothing on any desk, with what is selected there', async ({ page }) => {
  const made = await server.post('/scenes', { production: 'Reach', title: 'Seen', start: 'demonstration' })
  const { id } = (await made.json()) as { id: string }
  await page.goto(`${server.url}/scenes/${id}/dress`)
  await saved(page)
  const found: string[] = []
  const look = async (where: string, ...parts: string[]) => {
    await page.waitForTimeout(400)
    found.push(...(await findings(page, where, parts.length ? parts : undefined)))
  }
  for (const name of ['Dress', 'Frame', 'Splice', 'Turnover']) {
    await desk(page, name)
    await look(name)
    if (name === 'Frame') await page.keyboard.press('5')
    if (name === 'Splice') await page.getByRole('listitem', { name: /^Shot 040,/ }).click()
    if (name === 'Dress') await page.getByLabel('In scene').getByRole('button', { name: 'Tomas cast' }).click()
    for (const tab of await page.locator('.props [role=tab]').all()) {
      await tab.click()
      await look(`${name}, ${await tab.textContent()}`, '.props', '.pane') // where a tab shows something
    }
    if (name === 'Frame') {
      await page.getByRole('button', { name: 'All shapes' }).click()
      await look('All shapes')
      await page.getByRole('button', { name: 'All shapes' }).click()
    }
    if (name === 'Turnover') {
      await page.getByText('cameras by themselves').click()
      await page.getByText('pull list', { exact: true }).click()
      await look('Turnover, pull list and cameras')
    }
  }
  await desk(page, 'Dress')
  await page.getByRole('button', { name: 'Hide Tomas' }).click()
  await look('Dress, somebody hidden')
  await page.getByRole('button', { name: 'Scene settings' }).click()
  await look('settings', '.el-overlay')
  await page.keyboard.press('Escape')
  for (const what of ['facts of the scene', 'preferences', 'this sheet']) {
    await page.keyboard.press('Control+k')
    await page.getByRole('combobox', { name: /^Find things/ }).fill(what)
    await look('finding', '.el-overlay')
    await page.keyboard.press('Enter')
    await look(what, '.el-overlay')
    await page.keyboard.press('Escape')
  }
  await page.getByRole('link', { name: 'All scenes' }).click()
  await page.getByRole('link', { name: 'What Reach shares' }).waitFor()
  await look('home')
  await page.getByRole('button', { name: 'New scene', exact: true }).click()
  await look('a new scene', '.el-overlay')
  await page.keyboard.press('Escape')
  await page.getByRole('link', { name: 'What Reach shares' }).click()
  await saved(page)
  await look('the production')
  expect([...new Set(found)].sort()).toEqual([])
})

interface Node {
  kind: string
  position: number[]
  turn: number[]
}
const middle = async (page: Page, view: string, x = 0.5, y = 0.5): Promise<Point> => {
  const b = (await page.getByRole('application', { name: view }).boundingBox())!
  return { x: b.x + b.width * x, y: b.y + b.height * y }
}
const center = async (page: Page, name: string | RegExp, within = 'Plan view'): Promise<Point> => {
  const b = (await page.getByRole('application', { name: within }).getByRole('button', { name }).boundingBox())!
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}

test('a set is dressed and a camera framed with fingers alone', async ({ browser }) => {
  const context = await somebody(browser, { hasTouch: true })
  const page = await context.newPage()
  const touch = await Fingers.on(page)
  await page.goto(server.url)
  await newScene(page, 'Reach', 'By hand')
  const id = new URL(page.url()).pathname.split('/')[2]!
  const nodes = async (kind: string) => {
    await saved(page)
    const { document } = await server.document(id)
    return Object.values(document.nodes as unknown as Record<string, Node>).filter((n) => n.kind === kind)
  }
  const keys = async (channel: string) => {
    await saved(page)
    const { document } = await server.document(id)
    const curves = Object.values(document.curves!) as { channel: string; keys: { frame: number; value: number }[] }[]
    return curves.find((c) => c.channel === channel)?.keys ?? []
  }

  // Two people: a press on the stock, two on the plan.
  const stock = page.getByRole('button', { name: 'Person', exact: true }).first()
  await stock.tap()
  for (const x of [0.4, 0.65]) await touch.tap(await middle(page, 'Plan view', x, 0.6))
  await stock.tap()
  const [one, two] = await nodes('cast')
  expect(two!.position[0]! - one!.position[0]!).toBeGreaterThan(1)

  // One is moved on the plan, and turned by the ring about it.
  await touch.drag([await center(page, 'Person 2 on plan')], [{ x: 0, y: -60 }])
  const moved = (await nodes('cast')).find((n) => n.position[2] !== two!.position[2])!
  expect(moved.position[2]!).toBeLessThan(two!.position[2]! - 0.5)
  expect(moved.position[0]).toBeCloseTo(two!.position[0]!, 1)
  const ring = (await page
    .getByRole('application', { name: 'Plan view' })
    .getByRole('button', { name: 'Turn the selection' })
    .boundingBox())!
  await touch.drag(
    [{ x: ring.x + ring.width - 2, y: ring.y + ring.height / 2 }],
    [{ x: -ring.width / 2, y: -ring.width / 2 }],
  )
  expect(Math.abs((await nodes('cast')).map((n) => n.turn[0]!).find((t) => t !== 0) ?? 0)).toBeGreaterThan(60)

  // A way is drawn by presses, and ended by two on one place.
  await page.getByRole('button', { name: 'Draw a straight path' }).tap()
  await touch.tap(await middle(page, 'Plan view', 0.5, 0.2))
  const last = await middle(page, 'Plan view', 0.7, 0.2)
  await touch.tap(last)
  await touch.tap(last)
  await saved(page)
  expect(Object.keys((await server.document(id)).document.paths!)).toHaveLength(1)

  // Two fingers bring the plan nearer; one goes around in scout.
  const apart = async () => (await center(page, 'Person 2 on plan')).x - (await center(page, 'Person on plan')).x
  const before = await apart()
  const at = await middle(page, 'Plan view')
  await touch.drag(
    [
      { x: at.x - 30, y: at.y + 60 },
      { x: at.x + 30, y: at.y + 60 },
    ],
    [
      { x: -30, y: 0 },
      { x: 30, y: 0 },
    ],
  )
  await expect.poll(apart).toBeGreaterThan(before * 1.6)
  const name = page.getByRole('button', { name: 'Person 2 in scout' })
  const seen = (await name.boundingBox())!
  await touch.drag([await middle(page, 'Scout view', 0.8, 0.3)], [{ x: -90, y: 10 }])
  await expect.poll(async () => Math.abs((await name.boundingBox())!.x - seen.x)).toBeGreaterThan(20)

  // The playhead, and in Frame a camera with two keys, of which one is moved.
  await desk(page, 'Frame')
  await page.getByRole('button', { name: 'Put a camera here' }).first().tap()
  await page.getByRole('button', { name: /^Look through camera 1 / }).tap()
  await page.getByRole('button', { name: 'Unlock the camera for moving' }).tap()
  const [camera] = await nodes('camera')
  await touch.drag([await middle(page, 'Lens view')], [{ x: 80, y: 0 }])
  expect((await nodes('camera'))[0]!.turn[0]).not.toBeCloseTo(camera!.turn[0]!, 1)
  await page.getByRole('button', { name: 'Auto-key' }).tap()
  const ruler = (await page.getByRole('slider', { name: 'Playhead' }).boundingBox())!
  await touch.drag([{ x: ruler.x + 300, y: ruler.y + 20 }], [{ x: 200, y: 0 }])
  const playhead = Number(await page.getByRole('slider', { name: 'Playhead' }).getAttribute('aria-valuenow'))
  expect(playhead).toBeGreaterThan(10)
  await touch.drag([await middle(page, 'Lens view')], [{ x: -120, y: 0 }])
  expect((await keys('turn.pan')).map((k) => k.frame)).toEqual([0, playhead])
  const pin = (await page.getByRole('button', { name: `Key of Pan at frame ${playhead}, soft` }).boundingBox())!
  await touch.drag([{ x: pin.x + 6, y: pin.y + 6 }], [{ x: 60, y: 0 }])
  expect((await keys('turn.pan'))[1]!.frame).toBeGreaterThan(playhead + 3)
  await context.close()
})
