// Two of everything: two people in one scene, two scenes in one tab, and what can
// go wrong between them.
import { expect, somebody, test, type Browser, type Page } from './base.ts'
import { desk, drag, saved, timecode, whole } from './page.ts'
import { Server } from './server.ts'

// The last file: what it has is shared among those who have nothing else left.
test.describe.configure({ mode: 'parallel' })

let server: Server
let id: string
test.beforeAll(async () => {
  server = await Server.start()
  id = await server.demo()
})
test.afterAll(async () => server?.end())

/** A browser of its own, with a name. */
async function person(browser: Browser, name: string, at: string): Promise<Page> {
  const page = await (await somebody(browser)).newPage()
  await page.goto(`${server.url}/scenes/${id}/${at}`)
  await saved(page)
  await page.getByRole('button', { name: /^You are/ }).click()
  await page.getByRole('textbox', { name: 'Your name' }).fill(name)
  await page.getByRole('textbox', { name: 'Your name' }).press('Enter')
  return page
}
const node = async (name: string) =>
  Object.values((await server.document(id)).document.nodes!).find((n) => n.name === name) as { position: number[] }
const shotOf = (page: Page, number: string) => page.getByRole('listitem', { name: new RegExp(`^Shot ${number},`) })
/** The middle of a mark, once it stands still. */
async function middle(page: Page, name: string) {
  const mark = page.getByRole('button', { name, exact: true })
  let last = ''
  await expect
    .poll(
      async () => {
        const before = last
        last = JSON.stringify(await mark.boundingBox())
        return before === last
      },
      { intervals: [1200] },
    )
    .toBe(true)
  const b = JSON.parse(last) as { x: number; y: number; width: number; height: number }
  return { x: b.x + b.width / 2, y: b.y + b.height / 2 }
}

test('two people work in one scene, see each other, and undo each their own', async ({ browser }) => {
  const ida = await person(browser, 'Ida Moor', 'dress')
  const tomas = await person(browser, 'Tomas Reed', 'splice')
  await expect(ida.getByRole('button', { name: 'Follow Tomas Reed' })).toBeVisible()
  await expect(tomas.getByRole('button', { name: 'Follow Ida Moor' })).toBeVisible()

  // Ida drags a camera; Tomas sees it while she does, and his playhead stays.
  await timecode(tomas, 330)
  await desk(tomas, 'Dress')
  const held = 'Camera 8 Closing wide on plan'
  const before = await node('Closing wide')
  const figure = tomas.getByRole('button', { name: held, exact: true })
  await expect.poll(async () => (await figure.boundingBox())!.x).toBeGreaterThan(100) // laid out
  const from = (await figure.boundingBox())!
  await drag(ida, await middle(ida, held), { x: 40, y: 30 }, false)
  await expect.poll(async () => Math.abs((await figure.boundingBox())!.x - from.x)).toBeGreaterThan(15)
  expect((await node('Closing wide')).position, 'nothing is stored of a drag').toEqual(before.position)
  // What she holds cannot be grabbed by him.
  await drag(tomas, await middle(tomas, held), { x: -60, y: 0 })
  await expect(tomas.getByText('Ida Moor is moving this.')).toBeVisible()
  await ida.mouse.up()
  await saved(ida)
  const moved = await node('Closing wide')
  expect(moved.position).not.toEqual(before.position)
  await expect(tomas.getByRole('status', { name: 'Saved state' })).toContainText('edit 1')
  await desk(tomas, 'Splice')
  await expect(tomas.getByRole('status', { name: 'On air' })).toContainText('shot 040')

  // Tomas cuts; Ida sees it. Each undoes their own.
  await tomas.getByRole('button', { name: /^Cut to camera 2 / }).click()
  await saved(tomas)
  await desk(ida, 'Splice')
  const cut = Object.values((await server.document(id)).document.shots!).length
  await expect(ida.getByRole('status', { name: 'Saved state' })).toContainText('edit 2')
  await ida.keyboard.press('Control+z')
  await saved(ida)
  expect((await node('Closing wide')).position, 'hers is taken back').toEqual(before.position)
  expect(Object.values((await server.document(id)).document.shots!), 'his stays').toHaveLength(cut)
  await tomas.keyboard.press('Control+z')
  await saved(tomas)
  expect(Object.values((await server.document(id)).document.shots!).length).toBe(cut - 1)
  await expect(tomas.getByRole('button', { name: 'Undo' })).toBeDisabled()

  // The same shot by both at once: hers is taken first, his is done on top of it by its rule.
  await Promise.all(
    [ida, tomas].map(async (page, i) => {
      await shotOf(page, '060').click({ position: { x: 30, y: 40 } })
      for (let k = 0; k < 4; k++) await page.keyboard.press(i ? ']' : '[')
    }),
  )
  await Promise.all([saved(ida), saved(tomas)])
  const told = (p: Page) => shotOf(p, '060').getAttribute('aria-label')
  await expect.poll(async () => (await told(ida)) === (await told(tomas)), 'both see the same in the end').toBe(true)

  // He is followed to another desk and another frame.
  await ida.getByRole('button', { name: 'Follow Tomas Reed' }).click()
  await desk(tomas, 'Frame')
  await timecode(tomas, 500)
  await expect(ida.getByRole('status').filter({ hasText: 'Following Tomas Reed' })).toBeVisible()
  await expect(ida.getByRole('navigation', { name: 'Desks' }).getByRole('button', { name: 'Frame' })).toHaveAttribute(
    'aria-current',
    'page',
  )
  await expect(ida.locator('.status .story')).toContainText('500')
  await tomas.getByRole('button', { name: /^Look through camera 5/ }).click()
  await expect(ida.getByRole('button', { name: /^Look through camera 5/ })).toHaveAttribute('aria-pressed', 'true')
  await expect(ida.getByRole('button', { name: /^Look through camera 5/ }).getByRole('img')).toHaveAttribute(
    'aria-label',
    'Tomas Reed is here',
  )
  await ida.keyboard.press('Escape')
  await expect(ida.getByText('Following Tomas Reed')).toHaveCount(0)
  await tomas.context().close()
  await expect(ida.getByRole('button', { name: 'Follow Tomas Reed' })).toHaveCount(0)
  await ida.context().close()
})

test('what cannot be kept is said and can be looked at; history shows and restores states', async ({
  browser,
  page,
}) => {
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  // An edit that the page cannot know of yet.
  let between = true
  await page.route('**/edits', async (route) => {
    if (between && route.request().method() === 'POST') {
      between = false
      await server.edit(id, 'shots', 'shot-030', (s) => ({ ...s, locked: true }))
    }
    await route.continue()
  })
  await shotOf(page, '030').click({ position: { x: 30, y: 40 } })
  await page.getByRole('tab', { name: 'shot' }).click()
  await page.keyboard.press('x')
  await timecode(page, 255)
  await shotOf(page, '030').click({ position: { x: 30, y: 40 } })
  await page.keyboard.press('Delete')
  await expect(page.getByText(/“.*” could not be kept: .*locked/)).toBeVisible()
  await page.getByRole('button', { name: 'Show', exact: true }).click()
  const history = page.getByRole('dialog', { name: 'History' })
  await expect(history.getByRole('list', { name: 'Edits that could not be kept' }).getByText(/locked/)).toBeVisible()
  await history.getByRole('button', { name: 'Let it go' }).click()
  await expect(history.getByText('Everything that was done here has been kept.')).toBeVisible()
  await server.edit(id, 'shots', 'shot-030', ({ locked: _, ...s }) => s)

  // A version is kept, something is changed, compared and restored.
  await history.getByRole('tab', { name: /versions/ }).click()
  await history.getByRole('textbox', { name: 'Name of the version' }).fill('before trying')
  await history.getByRole('button', { name: 'Keep this state' }).click()
  await expect(history.getByText('before trying')).toBeVisible()
  await timecode(page, 20)
  await page.getByRole('button', { name: 'Marker', exact: true }).click()
  await saved(page)
  await history.getByRole('button', { name: 'Compare with now' }).click()
  await expect(history.getByRole('region', { name: 'What differs' }).getByText(/added marker/)).toBeVisible()
  await history.getByRole('button', { name: 'See it', exact: true }).click()
  await expect(page.getByText('You see version “before trying”')).toBeVisible()
  await expect(page.getByRole('button', { name: /^Marker .* at 20$/ })).toHaveCount(0)
  await page.getByRole('button', { name: 'Back to the present' }).click()
  await expect(page.getByRole('button', { name: /^Marker .* at 20$/ })).toBeVisible()
  await history.getByRole('button', { name: 'Restore', exact: true }).click()
  await expect(page.getByRole('button', { name: /^Marker .* at 20$/ })).toHaveCount(0)
  await saved(page)
  await history.getByRole('tab', { name: 'edits' }).click()
  await expect(history.getByText('restore version “before trying”')).toBeVisible()
  const other = await person(browser, 'Mara', 'splice')
  await expect(other.getByRole('button', { name: /^Marker .* at 20$/ })).toHaveCount(0)
  await other.context().close()
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: /^Marker .* at 20$/ })).toBeVisible()
  await saved(page)
})

test('a server that is killed, and a tab that is closed with edits that wait', async ({ browser }) => {
  const context = await somebody(browser)
  const page = await context.newPage()
  const other = await person(browser, 'Mara', 'splice')
  await page.goto(`${server.url}/scenes/${id}/splice`)
  await saved(page)
  const marker = async (at: number) => {
    await timecode(page, at)
    await page.getByRole('button', { name: 'Marker', exact: true }).click()
  }
  const markers = async () =>
    Object.values((await server.document(id)).document.markers!)
      .map((m) => m.frame as number)
      .filter((f) => f >= 800 && f < 900)
      .sort()
  await marker(801)
  await marker(802)
  await server.down('SIGKILL')
  await marker(803)
  await marker(804)
  await expect(page.getByRole('status', { name: 'Saved state' })).toContainText(/not saved · [234] edits wait/)
  await page.close() // with edits that the server has never seen
  await server.up()
  const again = await context.newPage()
  await again.goto(`${server.url}/scenes/${id}/splice`)
  await saved(again)
  await expect(again.getByRole('button', { name: /^Marker .* at 804$/ })).toBeVisible()
  await expect.poll(markers).toEqual([801, 802, 803, 804])
  // The other tab has noticed what it missed, without a word.
  await expect(other.getByRole('button', { name: /^Marker .* at 804$/ })).toBeVisible()
  await context.close()
  await other.context().close()
})

test('two scenes visited in turn show each its own set', async ({ page, browser }) => {
  const made = await server.post('/scenes', { production: 'Hollin Pass', title: 'Elsewhere' })
  const second = ((await made.json()) as { id: string }).id
  await page.goto(`${server.url}/scenes/${second}/dress`)
  await saved(page)
  await page
    .getByRole('button', { name: 'House', exact: true })
    .dragTo(page.getByRole('application', { name: 'Plan view' }), { targetPosition: { x: 200, y: 200 } })
  await saved(page)
  // Nothing is left selected, which the others would see.
  await page.getByRole('application', { name: 'Scout view' }).click({ position: { x: 300, y: 75 } })
  const plan = async (p: Page) => {
    await p.mouse.move(640, 20)
    await p.waitForTimeout(500)
    const b = (await p.getByRole('application', { name: 'Scout view' }).boundingBox())!
    await whole(p)
    return p.screenshot({ clip: { x: b.x + 4, y: b.y + 60, width: b.width - 8, height: b.height - 120 } })
  }
  const fresh = async (scene: string) => {
    const p = await (await somebody(browser)).newPage()
    await p.goto(`${server.url}/scenes/${scene}/dress`)
    await saved(p)
    const picture = await plan(p)
    await p.context().close()
    return picture
  }
  const wanted = { [id]: await fresh(id), [second]: await fresh(second) }
  expect(wanted[id]!.equals(wanted[second]!), 'they are different').toBe(false)
  for (let i = 0; i < 4; i++) {
    const [scene, title] = i % 2 ? [second, 'Elsewhere'] : [id, 'Last Car Down']
    await page.getByRole('link', { name: 'All scenes' }).click()
    await page.getByRole('button', { name: `Open ${title}` }).click()
    await saved(page)
    await desk(page, 'Dress')
    await expect(page.getByText(title, { exact: true }).first()).toBeVisible()
    await expect
      .poll(async () => (await plan(page)).equals(wanted[scene]!), `visit ${i + 1}: the picture of ${title}`)
      .toBe(true)
  }
})
