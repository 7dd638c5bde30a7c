// What a newcomer does with the demonstration: look, frame, cut, undo, come
// back, deliver.
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test, type Page } from './base.ts'
import { desk, drag, onAir, saved, timecode } from './page.ts'
import { Server } from './server.ts'

let server: Server
test.beforeAll(async () => {
  server = await Server.start()
})
test.afterAll(async () => server?.end())

async function box(page: Page, name: RegExp) {
  const b = await page.getByRole('listitem', { name }).boundingBox()
  expect(b).not.toBeNull()
  return b!
}
/** First and last frame of a shot as its block tells them. */
async function shotRange(page: Page, name: RegExp): Promise<[number, number]> {
  const label = await page.getByRole('listitem', { name }).getAttribute('aria-label')
  const m = /frames (\d+) to (\d+)/.exec(label!)!
  return [Number(m[1]), Number(m[2])]
}

test('from the demonstration to one video for each shot', async ({ page }) => {
  test.setTimeout(600_000)
  const failures: string[] = []
  page.on('pageerror', (e) => failures.push(e.message))
  const id = await server.demo()
  // Small pictures, so that the whole scene is delivered in a test's time.
  await server.edit(id, 'formats', 'wide', (f) => ({
    ...f,
    width: 192,
    height: 108,
  }))
  const untouched = JSON.stringify((await server.document(id)).document)

  await test.step('open the scene from the list', async () => {
    await page.goto(server.url)
    await page.getByRole('button', { name: 'Open Last Car Down', exact: true }).click()
    await saved(page)
    await expect(onAir(page)).toContainText('Valley crane · shot 010')
  })

  await test.step('scrub and play: the program cuts between cameras', async () => {
    await timecode(page, 176)
    await expect(onAir(page)).toContainText('Ida waits · shot 020')
    await page.keyboard.press(',')
    await expect(onAir(page)).toContainText('Valley crane · shot 010')
    const ruler = await page.getByRole('slider', { name: 'Playhead' }).boundingBox()
    await drag(page, { x: ruler!.x + 400, y: ruler!.y + 6 }, { x: 300, y: 0 })
    await expect(onAir(page)).not.toContainText('shot 010')
    await timecode(page, 170)
    await page.keyboard.press('Space')
    // A slow machine may pass over a short shot.
    await expect(onAir(page)).toContainText(/shot (0[2-9]|1)/, { timeout: 20_000 })
    await page.getByRole('button', { name: 'Pause' }).click()
    await page.keyboard.press('l')
    await page.keyboard.press('l')
    await expect(page.getByText('2×', { exact: true })).toBeVisible()
    await page.keyboard.press('k')
  })

  await test.step('roam in the scout view and leave a camera there', async () => {
    await desk(page, 'Frame')
    await page.getByRole('button', { name: 'Look through camera 3' }).click()
    await expect(page.getByRole('application', { name: 'Scout view' })).toHaveCount(0)
    await page.keyboard.press('Escape')
    const scout = page.getByRole('application', { name: 'Scout view' })
    const before = JSON.stringify((await server.document(id)).document)
    const b = (await scout.boundingBox())!
    await drag(page, { x: b.x + 250, y: b.y + 250 }, { x: 140, y: -30 })
    expect(JSON.stringify((await server.document(id)).document), 'roaming moves nothing').toBe(before)
    await page.getByRole('button', { name: 'Put a camera here' }).click()
    await expect(page.getByRole('button', { name: /Look through camera 12/ })).toBeVisible()
    await expect(page.getByRole('textbox', { name: 'Camera name' })).toHaveValue('Camera 12')
    await saved(page)
  })

  await test.step('draw a path for it on the plan and set keys for its travel', async () => {
    await timecode(page, 100)
    const plan = page.getByRole('application', { name: 'Plan view' })
    await page.getByRole('button', { name: 'Draw a path' }).click()
    const b = (await plan.boundingBox())!
    for (const [x, y] of [
      [40, 420],
      [110, 440],
      [170, 400],
    ] as const)
      await page.mouse.click(b.x + x, b.y + y)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /Key of Travel at frame 100, soft/ })).toBeVisible()
    await expect(plan.getByRole('button', { name: 'Path point 3' })).toBeVisible()
    await timecode(page, 118)
    await page.getByRole('button', { name: 'Set keys' }).click()
    const key = page.getByRole('button', {
      name: /Key of Travel at frame 118/,
    })
    await key.click()
    await page.getByRole('button', { name: 'Make the keys even' }).click()
    await expect(page.getByRole('button', { name: /Key of Travel at frame 118, even/ })).toBeVisible()
    const at = (await page.getByRole('button', { name: /Key of Travel at frame 118/ }).boundingBox())!
    await drag(page, { x: at.x + 6, y: at.y + 8 }, { x: 10, y: 0 })
    await expect(page.getByRole('button', { name: /Key of Travel at frame 118/ })).toHaveCount(0)
    const point = (await plan.getByRole('button', { name: 'Path point 2' }).boundingBox())!
    await drag(page, { x: point.x + 5, y: point.y + 5 }, { x: 12, y: 18 })
    await saved(page)
  })

  await test.step('choose a lens, look through it, and turn it only when unlocked', async () => {
    await page.getByRole('button', { name: /Look through camera 12/ }).click()
    await page.getByRole('tab', { name: 'lens' }).click()
    await page.getByRole('button', { name: '40 mm' }).click()
    await expect(page.getByRole('textbox', { name: 'Focal length' })).toHaveValue('40.0')
    await page.getByRole('tab', { name: 'support' }).click()
    const pan = page.getByRole('textbox', { name: 'Pan', exact: true })
    const was = await pan.inputValue()
    const lens = (await page.getByRole('application', { name: 'Lens view' }).boundingBox())!
    const middle = { x: lens.x + lens.width / 2, y: lens.y + lens.height / 2 }
    await drag(page, middle, { x: 60, y: 10 })
    await expect(pan).toHaveValue(was)
    await page.keyboard.press('u')
    await expect(page.getByText('unlocked: drag to turn')).toBeVisible()
    await drag(page, middle, { x: 60, y: 10 })
    await expect(pan).not.toHaveValue(was)
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await expect(page.getByRole('application', { name: 'Scout view' })).toBeVisible()
    await saved(page)
  })

  await test.step('add a shot with it, trim it, move it, drop a marker, cut at the playhead', async () => {
    await desk(page, 'Splice')
    await page.keyboard.press('a')
    const shot = /Shot 120, camera 12/
    await expect(page.getByRole('listitem', { name: shot })).toBeVisible()
    const first = await shotRange(page, shot)
    expect(first[1] - first[0] + 1).toBe(48)
    // Zoom out to have room after the last shot.
    const ruler = (await page.getByRole('slider', { name: 'Playhead' }).boundingBox())!
    await page.mouse.move(ruler.x + 300, ruler.y + 60)
    await page.mouse.wheel(0, 250)
    let b = await box(page, shot)
    await page.keyboard.down('Alt')
    await drag(page, { x: b.x + b.width - 3, y: b.y + 26 }, { x: 30, y: 0 })
    await page.keyboard.up('Alt')
    await expect.poll(async () => (await shotRange(page, shot))[1]).toBeGreaterThan(first[1])
    b = await box(page, shot)
    await drag(page, { x: b.x + b.width / 2, y: b.y + 26 }, { x: -260, y: 0 })
    await page.getByRole('menuitem', { name: /Change the order/ }).click()
    await expect.poll(async () => (await shotRange(page, shot))[0]).toBeLessThan(first[0])
    await timecode(page, 100)
    await page.keyboard.press('m')
    await expect(page.getByRole('button', { name: /Marker .* at 100/ })).toBeVisible()
    await page.keyboard.press('3')
    await expect(onAir(page)).toContainText('Docking side')
    expect(await shotRange(page, /Shot 010/)).toEqual([0, 99])
    await page.getByRole('button', { name: 'Cut to camera 8' }).scrollIntoViewIfNeeded()
    await timecode(page, 130)
    await page.getByRole('button', { name: 'Cut to camera 8' }).click()
    await expect(onAir(page)).toContainText('Closing wide')
    await saved(page)
  })

  const worked = JSON.stringify((await server.document(id)).document)
  expect(worked).not.toBe(untouched)

  await test.step('undo all of it, and redo all of it', async () => {
    const undo = page.getByRole('button', { name: 'Undo' })
    let n = 0
    // The first edit of all came from elsewhere: it stays, since undo is one's own.
    while (await undo.isEnabled()) {
      await page.keyboard.press('Control+z')
      n++
      expect(n).toBeLessThan(60)
    }
    await saved(page)
    expect(JSON.stringify((await server.document(id)).document)).toBe(untouched)
    for (let i = 0; i < n; i++) await page.keyboard.press('Control+Shift+z')
    await expect(page.getByRole('button', { name: 'Redo' })).toBeDisabled()
    await saved(page)
    expect(JSON.stringify((await server.document(id)).document)).toBe(worked)
  })

  await test.step('reload, restart the server: nothing is lost, and undo goes on', async () => {
    await page.reload()
    await saved(page)
    await expect(page.getByRole('listitem', { name: /camera 12/ })).toBeVisible()
    await server.down()
    await server.up()
    await page.reload()
    await saved(page)
    expect(JSON.stringify((await server.document(id)).document)).toBe(worked)
    await page.getByRole('button', { name: 'Undo' }).click()
    await saved(page)
    expect(JSON.stringify((await server.document(id)).document)).not.toBe(worked)
    await page.getByRole('button', { name: 'Redo' }).click()
    await saved(page)
    expect(JSON.stringify((await server.document(id)).document)).toBe(worked)
  })

  await test.step('deliver every shot and play one', async () => {
    await desk(page, 'Turnover')
    const shots = Object.values((await server.document(id)).document.shots!)
    await page.getByRole('button', { name: `Deliver all ${shots.length} shots` }).click()
    const job = page.getByRole('article', { name: 'Delivery 1' })
    await expect(job.getByRole('img', { name: /Current picture/ })).toBeVisible({ timeout: 60_000 })
    await expect(job).toContainText(`${shots.length} of ${shots.length} finished`, { timeout: 400_000 })
    await page.getByRole('button', { name: 'Play shot 010' }).click()
    const video = page.locator('video')
    await expect
      .poll(() => video.evaluate((v: HTMLVideoElement) => v.readyState >= 2 && v.videoWidth), { timeout: 20_000 })
      .toBe(192)
    await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.2)

    const deliveries = await server.get<
      {
        id: string
        outputs: {
          file: string
          frames: number
          number: string
          sha256: string
          shot: string
        }[]
      }[]
    >(`/scenes/${id}/deliveries`)
    expect(deliveries[0]!.outputs).toHaveLength(shots.length)
    for (const o of deliveries[0]!.outputs) {
      const file = join(server.blobs, o.file)
      const probe = execFileSync('ffprobe', [
        '-v',
        'error',
        '-select_streams',
        'v:0',
        '-count_frames',
        '-show_entries',
        'stream=codec_name,nb_read_frames,r_frame_rate,width,height,pix_fmt',
        '-of',
        'csv=p=0',
        file,
      ])
        .toString()
        .trim()
      expect(probe, o.number).toBe(`h264,192,108,yuv420p,24/1,${o.frames}`)
      const s = shots.find((x) => x.number === o.number) as {
        screenIn: number
        screenOut: number
      }
      expect(o.frames).toBe(s.screenOut - s.screenIn)
      expect(createHash('sha256').update(readFileSync(file)).digest('hex')).toBe(o.sha256)
    }
  })
  expect(failures).toEqual([])
})
