import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { FakeServer } from '@/testing/server'
import ActionRows from './ActionRows.vue'
import DeedMenu from './DeedMenu.vue'
import KeyRows from './KeyRows.vue'
import SpliceRows from './SpliceRows.vue'

vi.mock('./stills', () => ({ useStills: () => ({ value: {} }) }))

let server: FakeServer
let scene: ReturnType<typeof useScene>
const perPixel = 0.5 // two pixels for a frame
const scale = { x: (f: number) => f / perPixel, perPixel }

/** Lets an element take pointer capture, which the test's DOM does not know. */
const capture = (el: Element) => Object.assign(el, { setPointerCapture: () => {} })
async function drag(w: ReturnType<typeof mount>, selector: string, by: number, keys: object = {}, drop = true) {
  const el = w.find(selector)
  capture(el.element)
  await el.trigger('pointerdown', { button: 0, clientX: 100, ...keys })
  await el.trigger('pointermove', { clientX: 100 + by / 2, ...keys })
  await el.trigger('pointermove', { clientX: 100 + by, ...keys })
  if (drop) await el.trigger('pointerup', { clientX: 100 + by, ...keys })
  await nextTick()
}

beforeEach(async () => {
  setActivePinia(createPinia())
  server = new FakeServer()
  server.install()
  scene = useScene()
  await scene.load('scene')
  useView().desk = 'splice'
})
afterEach(async () => {
  await useScene().flushed() // what is still being saved
  vi.unstubAllGlobals()
})

describe('the lane of shots', () => {
  const lane = () =>
    mount(SpliceRows, { props: { perPixel: scale.perPixel, from: 0, to: 200 }, attachTo: document.body })
  const labels = (w: ReturnType<typeof mount>) => w.findAll('.shot').map((x) => x.attributes('aria-label'))

  it('tells of each shot its number, camera and frames', () => {
    const w = lane()
    expect(labels(w)).toEqual([
      'Shot 010, camera 1, frames 0 to 47, story 0–47',
      'Shot 020, camera 2, frames 48 to 95, story 40–87',
      'Shot 030, camera 1, frames 96 to 143, story 80–127',
    ])
    expect(w.find('.shot').attributes('style')).toContain('width: 95px')
    expect(w.findAll('.range').map((r) => r.text())).toEqual(['◷ 0–47', '◷ 40–87', '◷ 80–127'])
  })

  it('moves a shot by its body, once for good at the end', async () => {
    const w = lane()
    await drag(w, '.shot:nth-of-type(3)', 400, { altKey: true }, false)
    expect(labels(w)[2]).toContain('frames 296 to 343')
    expect(scene.undoable).toHaveLength(0)
    await w.find('.shot:nth-of-type(3)').trigger('pointerup', { clientX: 500, altKey: true })
    expect(scene.doc.shots.s3!.screenIn).toBe(296)
    expect(scene.undoable.map((e) => e.label)).toEqual(['move shot 030 by +200f'])
  })

  it('trims by an edge, with Shift so that later shots follow', async () => {
    const w = lane()
    await drag(w, '.shot .edge.out', -20, { altKey: true })
    expect(scene.doc.shots.s1!.screenOut).toBe(38)
    expect(scene.doc.shots.s2!.screenIn).toBe(48)
    await drag(w, '.shot:nth-of-type(2) .edge.out', -20, { altKey: true, shiftKey: true })
    expect(scene.doc.shots.s2!.screenOut).toBe(86)
    expect(scene.doc.shots.s3!.screenIn).toBe(86)
  })

  it('snaps to the playhead unless Alt is held', async () => {
    usePlayhead().setScreen(30)
    const w = lane()
    await drag(w, '.shot .edge.out', -32) // 16 frames, to 32: two from the playhead
    expect(scene.doc.shots.s1!.screenOut).toBe(30)
    scene.undo()
    await drag(w, '.shot .edge.out', -32, { altKey: true })
    expect(scene.doc.shots.s1!.screenOut).toBe(32)
  })

  it('takes a drag back on Escape, and does nothing on a mere press', async () => {
    const w = lane()
    await drag(w, '.shot', 300, { altKey: true }, false)
    await w.find('.shot').trigger('keydown', { key: 'Escape' })
    await w.find('.shot').trigger('pointerup', { clientX: 400 })
    expect(scene.doc.shots.s1!.screenIn).toBe(0)
    await drag(w, '.shot', 1)
    expect(scene.undoable).toHaveLength(0)
    expect(useView().shot).toBe('s1')
  })

  it('says what to do when there is no shot', async () => {
    scene.run('shotRemove', { ids: ['s1', 's2', 's3'], close: false })
    const w = lane()
    expect(w.text()).toContain('Press a camera on the wall')
  })
})

describe('the rows of keys', () => {
  const rows = (node = 'b') => mount(KeyRows, { props: { ...scale, node }, attachTo: document.body })
  const names = (w: ReturnType<typeof mount>) => w.findAll('button').map((b) => b.attributes('aria-label'))

  it('shows a pin for each key with its channel, frame and ease', () => {
    expect(names(rows())).toEqual(['Key of Travel at frame 0, even', 'Key of Travel at frame 96, even'])
    expect(rows('a').text()).toContain('No keys yet')
    expect(rows('').text()).toContain('Select a camera')
  })

  it('moves pins that are selected together, and keeps them selected', async () => {
    const w = rows()
    const pins = w.findAll('button')
    for (const p of pins) capture(p.element)
    await pins[0]!.trigger('pointerdown', { button: 0, clientX: 0 })
    await pins[0]!.trigger('pointerup', { clientX: 0 })
    await pins[1]!.trigger('pointerdown', { button: 0, clientX: 0, shiftKey: true })
    await pins[1]!.trigger('pointermove', { clientX: 24 })
    await pins[1]!.trigger('pointerup', { clientX: 24 })
    expect(scene.doc.curves.travel!.keys.map((k) => k.frame)).toEqual([12, 108])
    expect(useView().keys!.rows).toEqual({ travel: [12, 108] })
    expect(scene.undoable).toHaveLength(1)
  })
})

describe('a pin that is dragged', () => {
  it('is the same element at every frame on its way, and looks selected', async () => {
    const w = mount(KeyRows, { props: { ...scale, node: 'b' }, attachTo: document.body })
    const pin = w.findAll('button')[0]!
    capture(pin.element)
    await pin.trigger('pointerdown', { button: 0, clientX: 0 })
    for (const clientX of [8, 20, 60]) {
      await pin.trigger('pointermove', { clientX })
      const first = w.findAll('button')[0]!
      expect(first.element).toBe(pin.element)
      expect(first.classes()).toContain('selected')
    }
    await pin.trigger('keydown', { key: 'Escape' })
    expect(scene.doc.curves.travel!.keys.map((k) => k.frame)).toEqual([0, 96])
    expect(scene.undoable).toHaveLength(0)
  })
})

describe('the rows of people', () => {
  beforeEach(() => (useView().desk = 'dress'))
  const rows = () => mount(ActionRows, { props: scale, attachTo: document.body })
  function people() {
    scene.run('stockPlace', { kind: 'cast', name: 'Ida', position: [0, 0, 0], id: 'ida' })
    scene.run('actionAdd', { cast: 'ida', do: 'sit', in: 0, out: 48, id: 'sit' })
    scene.run('actionAdd', { cast: 'ida', do: 'wave', in: 10, out: 40, id: 'wave' })
    scene.run('lineAdd', { cast: 'ida', text: 'Here!', in: 12, out: 36, id: 'line' })
  }

  it('shows actions and lines, or that nobody is there', async () => {
    expect(rows().text()).toContain('Nobody is in the scene yet')
    people()
    const w = rows()
    expect(w.find('[data-label=Ida]').exists()).toBe(true)
    await w.find('[data-label=Ida]').trigger('click')
    expect(useView().node).toBe('ida')
    expect(w.find('.block.sit').attributes('style')).toContain('width: 95px')
    expect(w.find('.block.gesture').text()).toBe('wave')
    expect(w.find('.line').text()).toBe('Here!')
    w.unmount()
  })

  it('moves a block, and trims it at its edge, in one step each', async () => {
    people()
    const w = rows()
    const block = w.find('.block.wave')
    const wide = { x: 20, y: 0, left: 20, right: 80, width: 60, top: 0, bottom: 13, height: 13 }
    block.element.getBoundingClientRect = () => wide as DOMRect
    capture(block.element)
    const pull = async (from: number, by: number) => {
      await block.trigger('pointerdown', { button: 0, clientX: from })
      window.dispatchEvent(new PointerEvent('pointermove', { clientX: from + by }))
      window.dispatchEvent(new PointerEvent('pointerup', { clientX: from + by }))
      await nextTick()
    }
    const before = scene.undoable.length
    await pull(50, 20)
    expect(scene.doc.actions.wave).toMatchObject({ in: 20, out: 50 })
    await pull(79, -10)
    expect(scene.doc.actions.wave).toMatchObject({ in: 20, out: 45 })
    await pull(21, 4)
    expect(scene.doc.actions.wave).toMatchObject({ in: 22, out: 45 })
    expect(scene.undoable.length).toBe(before + 3)
    expect(useView().selected).toEqual({ collection: 'actions', id: 'wave' })
    // Escape takes it back.
    await block.trigger('pointerdown', { button: 0, clientX: 50 })
    window.dispatchEvent(new PointerEvent('pointermove', { clientX: 90 }))
    expect(scene.doc.actions.wave!.in).not.toBe(22)
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    expect(scene.doc.actions.wave).toMatchObject({ in: 22, out: 45 })
    expect(scene.undoable.length).toBe(before + 3)
    w.unmount()
  })

  it('keeps a line at least one frame long', async () => {
    people()
    const w = rows()
    const line = w.find('.line')
    line.element.getBoundingClientRect = () => ({ x: 24, right: 72, width: 48 }) as DOMRect
    capture(line.element)
    await line.trigger('pointerdown', { button: 0, clientX: 71 })
    window.dispatchEvent(new PointerEvent('pointermove', { clientX: -500 }))
    window.dispatchEvent(new PointerEvent('pointerup', { clientX: -500 }))
    expect(scene.doc.lines.line).toMatchObject({ in: 12, out: 13 })
    w.unmount()
  })

  it('offers deeds to the person who is chosen, and selects what is made', async () => {
    people()
    const w = mount(DeedMenu, { attachTo: document.body })
    expect(w.find('button').exists()).toBe(false)
    useView().select('nodes', 'ida')
    usePlayhead().set(60)
    await nextTick()
    await w.find('button').trigger('click')
    const items = [...document.querySelectorAll<HTMLElement>('[role=menuitem]')]
    expect(items.map((i) => i.textContent)).toContain('crouch')
    expect(items.map((i) => i.textContent)).not.toContain('clip')
    items.find((i) => i.textContent === 'crouch')!.click()
    await nextTick()
    const id = useView().selected!.id
    expect(scene.doc.actions[id]).toMatchObject({ cast: 'ida', do: 'crouch', in: 60, out: 108 })
    await w.findAll('button')[1]!.trigger('click')
    expect(scene.doc.lines[useView().selected!.id]).toMatchObject({ cast: 'ida', in: 60, gesture: true })
    w.unmount()
  })

  it('shows the travel of a vehicle as a block whose keys go together', async () => {
    scene.run('stockPlace', { kind: 'vehicle', stock: 'cart', name: 'Cart', position: [0, 0, 0], id: 'cart' })
    scene.run('travel', { node: 'cart', path: 'track', in: 10, out: 58 })
    const w = rows()
    const block = w.find('.block.travel')
    block.element.getBoundingClientRect = () => ({ x: 20, right: 116, width: 96 }) as DOMRect
    capture(block.element)
    await block.trigger('pointerdown', { button: 0, clientX: 60 })
    window.dispatchEvent(new PointerEvent('pointermove', { clientX: 84 }))
    window.dispatchEvent(new PointerEvent('pointerup', { clientX: 84 }))
    const keys = Object.values(scene.doc.curves).find((c) => c.node === 'cart')!.keys
    expect(keys.map((k) => k.frame)).toEqual([22, 70])
    w.unmount()
  })
})
