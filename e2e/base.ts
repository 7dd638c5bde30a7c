// The test of all journeys: pages draw their views plainly, as somebody prefers whose
// graphics are slow, for here software draws them. What compares pictures asks for them
// as they are delivered.
import { test as base, type Browser, type BrowserContextOptions } from '@playwright/test'

export { expect, type Browser, type Page } from '@playwright/test'

export const test = base.extend<{ views: 'plain' | 'delivered' }>({
  views: ['plain', { option: true }],
  page: async ({ page, views }, use) => {
    if (views === 'plain') await page.addInitScript(plainly)
    await use(page)
    await page.goto('about:blank') // it is kept for the next test, and asks its server for nothing until then
  },
})

const plainly = () => {
  if (location.protocol.startsWith('http')) localStorage.setItem('proscen.pictures', 'plain')
}

/** A browser of somebody else, who prefers the same. */
export async function somebody(browser: Browser, options: BrowserContextOptions = {}) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options })
  await context.addInitScript(plainly)
  return context
}
