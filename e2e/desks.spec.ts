// The desks one by one: what is touched most, by mouse and by keyboard.
import { expect, test, type Page } from './base.ts'
import { recipe, desk, drag, saved, timecode } from './page.ts'
import { Server } from './server.ts'

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  id = await server.demo()
})
test.afterAll(async () => server?.end())

const node = async (name: string) =>
  Object.values((await server.document(id)).document.nodes!).find((n) => n.name === name) as
    { position: number[]; turn: number[]; piece?: { params?: Record<string, number> } } | undefined
async function open(page: Page, desk: string) {
  await page.goto(`${server.url}/scenes/${id}/${desk}`)
  await saved(page)
}
async function middle(page: Page, name: string) {
  const b = (await page.getByRole('button', { name, exact: true }).boundingBox())!
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}

test('Dress: place, build, colour, hide, lock and remove a stand-in', async ({ page }) => {
  await open(page, 'dress')
  await page.getByRole('textbox', { name: 'Search the stock' }).fill('wall')
  await expect(page.getByRole('button', { name: 'House', exact: true })).toHaveCount(0)
  const stock = page.getByRole('button', { name: 'Wall with opening' })
  const plan = page.getByRole('application', { name: 'Plan view' })
  await stock.dragTo(plan, { targetPosition: { x: 100, y: 400 } })
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Wall with opening')
  await page.getByRole('textbox', { name: 'Length' }).fill('3*2')
  await page.getByRole('textbox', { name: 'Length' }).press('Enter')
  await page.getByRole('textbox', { name: 'Pan', exact: true }).fill('45')
  await page.getByRole('textbox', { name: 'Pan', exact: true }).press('Enter')
  await saved(page)
  expect((await node('Wall with opening'))!.piece!.params).toEqual({ width: 6 })
  expect((await node('Wall with opening'))!.turn[0]).toBe(45)
  await page.getByRole('button', { name: 'Lock', exact: true }).click()
  await page.getByRole('textbox', { name: 'X', exact: true }).fill('1')
  await page.getByRole('textbox', { name: 'X', exact: true }).press('Enter')
  await expect(page.getByText(/is locked; unlock it/)).toBeVisible()
  await page.getByRole('button', { name: 'Unlock', exact: true }).click()
  await page.getByRole('button', { name: 'Hide', exact: true }).click()
  await page.getByRole('button', { name: 'Remove', exact: true }).click()
  await expect(page.getByRole('region', { name: 'Light and air' })).toContainText('nothing is selected')
  await saved(page)
  expect(await node('Wall with opening')).toBeUndefined()
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await node('Wall with opening')).toBeDefined()
})

test('what is selected in one place is selected everywhere', async ({ page }) => {
  await open(page, 'dress')
  await page.getByLabel('In scene').getByRole('button', { name: 'Docking side camera' }).click()
  await expect(page.getByRole('textbox', { name: 'Camera name' })).toHaveValue('Docking side')
  await expect(page.getByRole('button', { name: 'Turn the camera' })).toBeVisible()
  await page.getByRole('button', { name: 'Ida in scout', exact: true }).click()
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Ida')
  await page.getByRole('textbox', { name: 'Search the scene' }).fill('closing')
  await page.getByRole('button', { name: 'Closing wide camera' }).dblclick()
  await desk(page, 'Frame')
  await expect(page.getByRole('application', { name: 'Lens view' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Look through camera 8 Closing wide' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
})

test('Plan: drag a camera and turn it; Escape takes a drag back', async ({ page }) => {
  await open(page, 'dress')
  const name = 'Camera 8 Closing wide on plan'
  const before = await node('Closing wide')
  const at = await middle(page, name)
  await drag(page, at, { x: 60, y: -30 }, false)
  await expect.poll(async () => (await middle(page, name)).x).toBeGreaterThan(at.x + 40)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect.poll(async () => Math.abs((await middle(page, name)).x - at.x)).toBeLessThan(3)
  await saved(page)
  expect(await node('Closing wide')).toEqual(before)

  await drag(page, await middle(page, name), { x: 45, y: -30 })
  await expect.poll(async () => (await node('Closing wide'))!.position[0]).toBeCloseTo(before!.position[0]! + 3, 0)
  const moved = (await node('Closing wide'))!
  expect(moved.position[2]).toBeCloseTo(before!.position[2]! - 2, 0)
  expect(moved.position[1]).toBe(before!.position[1])
  const grip = await middle(page, 'Turn the camera')
  await drag(page, grip, { x: 50, y: 40 })
  await expect.poll(async () => (await server.document(id)).revision).toBeGreaterThan(1)
  await saved(page)
  // Its pan has keys, so the whole move is turned.
  const curves = (await server.document(id)).document.curves!
  const pan = Object.values(curves).find((c) => c.node === 'camera-8' && c.channel === 'turn.pan') as unknown as {
    keys: { value: number }[]
  }
  expect(pan.keys[0]!.value).not.toBe(-44)
  expect(pan.keys[1]!.value - pan.keys[0]!.value).toBeCloseTo(-14, 1)
})

test('Frame: auto-key is loud and sets keys; off, it shifts nothing but the still value', async ({ page }) => {
  await open(page, 'frame')
  await page.keyboard.press('3')
  await expect(page.getByRole('application', { name: 'Lens view' })).toBeVisible()
  await page.keyboard.press('a')
  await expect(page.getByRole('button', { name: 'Auto-key on' })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('tab', { name: 'lens' }).click()
  const focal = page.getByRole('textbox', { name: 'Focal length' })
  await page.getByRole('button', { name: 'To the start' }).click()
  await page.getByRole('button', { name: '35 mm', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Key of Focal length at frame 0, soft' })).toBeVisible()
  await timecode(page, '00:00:02:00')
  await page.getByRole('button', { name: '75 mm', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Key of Focal length at frame 48, soft' })).toBeVisible()
  await page.getByRole('button', { name: 'Auto-key on' }).click()
  await timecode(page, 24)
  await expect(focal).toHaveValue('55.0')
  // Select both keys and remove them: the first value stays.
  await page.getByRole('button', { name: 'Key of Focal length at frame 0, soft' }).click()
  await page.keyboard.down('Shift')
  await page.getByRole('button', { name: 'Key of Focal length at frame 48, soft' }).click()
  await page.keyboard.up('Shift')
  await expect(page.getByText('2 keys')).toBeVisible()
  await page.keyboard.press('Delete')
  await expect(focal).toHaveValue('35.0')
})

test('Splice: keys of the keyboard and the sheet that lists them', async ({ page }) => {
  await open(page, 'splice')
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keyboard' })).toContainText('drop a marker')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog', { name: 'Keyboard' })).toBeHidden()
  const shots = page.getByRole('list', { name: 'Main lane' }).getByRole('listitem')
  const n = await shots.count()
  for (let i = 0; i < 10; i++) await page.keyboard.press('.')
  await page.keyboard.press('x')
  await expect(shots).toHaveCount(n + 1)
  await page.keyboard.press('x')
  await expect(page.getByText('There is no shot to split at frame 10', { exact: false })).toBeVisible()
  await page.keyboard.press('a')
  await expect(shots).toHaveCount(n + 2)
  await shots.nth(1).click({ position: { x: 30, y: 25 } })
  // What is chosen fills the strip, and everything comes back.
  const wide = async () => (await shots.nth(1).boundingBox())!.width
  const normal = await wide()
  await page.keyboard.press('0')
  await expect.poll(wide).toBeGreaterThan(700)
  await page.keyboard.press('-')
  await expect.poll(wide).toBeLessThan(700)
  await page.keyboard.press('0')
  await expect.poll(wide).toBeCloseTo(normal, 0)
  await page.keyboard.press('Shift+Delete')
  await expect(shots).toHaveCount(n + 1)
  await page.keyboard.press('End')
  await page.keyboard.press('Home')
  await expect(page.getByRole('status', { name: 'On air' })).toContainText('shot 010')
  await page.getByRole('textbox', { name: 'Shot number' }).fill('011')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('listitem', { name: /Shot 011/ })).toBeVisible()
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect(shots).toHaveCount(n)
  await saved(page)
})

test('Turnover: a delivery is cancelled and resumed in the page', async ({ page }) => {
  await open(page, 'turnover')
  await recipe(page, 'For the edit')
  await page.getByRole('checkbox', { name: 'Choose shot 090' }).check()
  await page.getByRole('button', { name: 'Deliver 1 chosen' }).click()
  const job = page.getByRole('article', { name: 'Delivery 1' })
  await expect(job.getByRole('img', { name: 'Current picture of shot 090' })).toBeVisible({ timeout: 60_000 })
  await job.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByRole('row', { name: /090/ })).toContainText('cancelled')
  await job.getByRole('button', { name: 'Resume' }).click()
  await expect(page.getByRole('row', { name: /090/ })).toContainText(/waiting|rendering/)
  await job.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByRole('row', { name: /090/ })).toContainText('cancelled')
})

test('panes can be blown up and resized, down to a small window', async ({ page }) => {
  await open(page, 'dress')
  const scout = page.getByRole('application', { name: 'Scout view' })
  await expect.poll(async () => (await scout.boundingBox())?.width, 'the panes are laid out').toBeGreaterThan(100)
  const small = (await scout.boundingBox())!
  await page.mouse.move(small.x + 60, small.y + small.height - 120)
  await expect.poll(() => page.locator('.pane:hover').count(), 'the page has seen the pointer').toBe(1)
  await page.keyboard.press('f')
  await expect.poll(async () => (await scout.boundingBox())!.width).toBe(1280)
  await page.keyboard.press('Escape')
  await expect.poll(async () => (await scout.boundingBox())!.width).toBe(small.width)
  for (const size of [
    { width: 1024, height: 700 },
    { width: 1900, height: 1000 },
  ]) {
    await page.setViewportSize(size)
    for (const name of ['Dress', 'Frame', 'Splice', 'Turnover']) {
      await desk(page, name)
      await expect(page.getByRole('region', { name: 'Time strip' })).toBeInViewport()
      expect(
        await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth),
        `${name} at ${size.width}`,
      ).toBe(true)
    }
  }
})
