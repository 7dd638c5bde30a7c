// Makes docs/screenshots from the demonstration: one picture of each main view.
import { join } from 'node:path'
import { expect, test, type Page } from '@playwright/test'
import { timecode } from './page.ts'
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
  const id = await server.demo()
  const open = async (desk: string, frame: number) => {
    await page.goto(`${server.url}/scenes/${id}/${desk}`)
    await timecode(page, frame)
  }
  await open('splice', 330)
  await page.getByRole('listitem', { name: /Shot 040/ }).click({ position: { x: 40, y: 26 } })
  await picture(page, 'splice')
  await open('dress', 738)
  await page.getByLabel('In scene').getByRole('button', { name: 'Tomas cast' }).click()
  await picture(page, 'dress')
  await open('dress', 60)
  await page.getByRole('textbox', { name: 'Search the stock' }).fill('a')
  const plan = (await page.getByRole('application', { name: 'Plan view' }).boundingBox())!
  await page.mouse.move(plan.x + 150, plan.y + 230)
  for (let i = 0; i < 5; i++) {
    await page.mouse.wheel(0, -120)
    await page.waitForTimeout(120)
  }
  await page.getByRole('button', { name: 'Wall with door' }).click()
  await page.mouse.move(plan.x + 90, plan.y + 300)
  await page.mouse.move(plan.x + 96, plan.y + 306)
  await page.mouse.click(plan.x + 96, plan.y + 306)
  await page.keyboard.press('Escape')
  await picture(page, 'placing', { x: plan.x + 96, y: plan.y + 380 })
  await page.keyboard.press('Control+z')
  await open('dress', 400)
  await page.getByRole('button', { name: /^Tomas: walk, from 344/ }).click()
  await page.mouse.move(plan.x + 210, plan.y + 245)
  for (let i = 0; i < 9; i++) {
    await page.mouse.wheel(0, -120)
    await page.waitForTimeout(120)
  }
  await picture(page, 'path')
  await open('dress', 1090)
  await page.getByLabel('In scene').getByRole('button', { name: 'Ida cast' }).click()
  await page.getByRole('button', { name: 'Ida is to…' }).click()
  await picture(page, 'deeds')
  await open('frame', 150)
  await page.getByRole('button', { name: 'Camera 1 Valley crane on plan' }).dispatchEvent('pointerdown')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Look through camera 1 Valley crane' }).click()
  await page.keyboard.press('Escape')
  await picture(page, 'frame')
  await open('frame', 388)
  await page.getByRole('button', { name: 'Look through camera 4 Low step-out' }).click()
  await page.keyboard.press('u')
  await picture(page, 'lens')
  await open('turnover', 0)
  await page.getByText('rough', { exact: true }).click()
  for (const n of ['020', '030', '040']) await page.getByRole('checkbox', { name: `Choose shot ${n}` }).check()
  await page.getByRole('button', { name: 'Deliver 3 chosen' }).click()
  await expect(page.getByRole('article', { name: 'Delivery 1' })).toContainText('2 of 3 finished', { timeout: 120_000 })
  await page.getByRole('button', { name: 'Play shot 020' }).click()
  await expect.poll(() => page.locator('video').evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.6)
  await page.locator('video').evaluate((v: HTMLVideoElement) => v.pause())
  await picture(page, 'turnover')
})
