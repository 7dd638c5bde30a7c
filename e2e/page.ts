// What several journeys do on a page, found by role and name.
import { expect, type Locator, type Page } from '@playwright/test'

export interface Point {
  x: number
  y: number
}

/** Resolves when everything done so far is saved; a page that has just been opened loads first. */
export async function saved(page: Page) {
  await expect(page.getByRole('status', { name: 'Saved state' })).toContainText('saved', { timeout: 90_000 })
}

/** Waits until the views show whole pictures of what is there: in motion they are coarse where graphics are slow. */
export async function whole(page: Page) {
  await expect(page.locator('canvas[data-picture="whole"]')).toHaveCount(1, { timeout: 30_000 })
}

/** Makes a new scene from the home page and waits until it is open. */
export async function newScene(page: Page, production: string, title: string, start = 'Empty', rate?: string) {
  await page.getByRole('button', { name: 'New scene', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'New scene' })
  await dialog.getByLabel('Production').fill(production)
  await dialog.getByRole('textbox', { name: 'Title' }).fill(title)
  if (rate) {
    await dialog.getByText('production’s', { exact: true }).first().click()
    await page.getByRole('option', { name: `${rate} f/s`, exact: true }).click()
  }
  await dialog.getByText(start, { exact: true }).click()
  await dialog.getByRole('button', { name: 'Make the scene' }).click()
  await saved(page)
}

/** Chooses an option of a list that opens; tried again where the panel, or the list, goes away under the pointer. */
export async function choose(page: Page, field: string, option: string) {
  const wanted = page.getByRole('option', { name: option, exact: true })
  await expect(async () => {
    if (!(await wanted.isVisible()))
      await page.getByRole('combobox', { name: field, exact: true }).click({ force: true, timeout: 5000 })
    await wanted.click({ timeout: 5000 })
  }).toPass({ timeout: 45_000 })
}

/** Chooses from the menu of a button until what that makes is there: the menu may move under the pointer. */
export async function choice(button: Locator, item: string, made: Locator) {
  const wanted = button.page().getByRole('menuitem', { name: item, exact: true })
  await expect(async () => {
    if (!(await wanted.isVisible())) await button.click({ timeout: 5000 })
    await wanted.click({ timeout: 5000 })
    await expect(made).toBeVisible({ timeout: 5000 })
  }).toPass({ timeout: 45_000 })
}

export const onAir = (page: Page) => page.getByRole('status', { name: 'On air' })

export async function desk(page: Page, name: string) {
  await page.getByRole('navigation', { name: 'Desks' }).getByRole('button', { name }).click()
}

/** Goes to a frame, or a timecode, of the clock that leads. */
export async function timecode(page: Page, at: number | string) {
  const field = page.getByRole('textbox', { name: 'Timecode' })
  await field.click()
  await field.fill(String(at))
  await field.press('Enter')
}

export async function drag(page: Page, from: Point, by: Point, drop = true) {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  for (let i = 1; i <= 6; i++) await page.mouse.move(from.x + (by.x * i) / 6, from.y + (by.y * i) / 6)
  if (drop) await page.mouse.up()
}

/** Chooses a recipe in Turnover. */
export async function recipe(page: Page, name: string) {
  await page.getByRole('combobox', { name: 'Recipe' }).click({ force: true })
  await page.getByRole('option', { name, exact: false }).click()
}
