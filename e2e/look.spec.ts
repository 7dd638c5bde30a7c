import { test } from '@playwright/test'
import { desk, saved, timecode } from './page.ts'
import { Server } from './server.ts'
test('count', async ({ page }) => {
  const server = await Server.start()
  page.on('console', (m) => m.text().startsWith('SHADOW') && console.log(m.text()))
  await page.goto(`${server.url}/scenes/${await server.demo()}/dress`)
  await saved(page)
  await page.waitForTimeout(6000)
  console.log('-- select'); await page.getByRole('list', { name: 'In scene' }).getByText('Ida').first().click()
  await page.waitForTimeout(2000)
  console.log('-- timecode'); await timecode(page, 40)
  await page.waitForTimeout(3000)
  console.log('-- frame'); await desk(page, 'Frame')
  await page.waitForTimeout(8000)
  console.log('-- 1'); await page.keyboard.press('1')
  await page.waitForTimeout(4000)
  console.log('-- splice'); await desk(page, 'Splice')
  await page.waitForTimeout(6000)
  console.log('-- timecode'); await timecode(page, 400)
  await page.waitForTimeout(4000)
  await server.end()
})
