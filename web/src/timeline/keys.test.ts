import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { FakeServer } from '@/testing/server'
import CurveRows from './CurveRows.vue'
import KeyTools from './KeyTools.vue'
import RibbonRows from './RibbonRows.vue'

// Curves are laid out in a field of 600 x 112 pixels.
vi.mock('@vueuse/core', async (original) => {
  const { ref } = await import('vue')
  return { ...(await original<object>()), useElementSize: () => ({ width: ref(600), height: ref(112) }) }
})

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
beforeEach(async () => {
  setActivePinia(createPinia())
  new FakeServer().install()
  scene = useScene()
  view = useView()
  await scene.load('scene')
  for (const [frame, value] of [
    [0, 0],
    [48, 30],
  ] as const)
    scene.run('value', { node: 'a', channel: 'turn.pan', frame, value, key: true })
})
afterEach(async () => {
  document.body.innerHTML = ''
  await useScene().flushed()
  vi.unstubAllGlobals()
})
const keys = (node: string, channel: string) =>
  Object.values(scene.doc.curves).find((c) => c.node === node && c.channel === channel)?.keys ?? []
const press = async (w: ReturnType<typeof mount>, label: string) => {
  await w.find(`button[aria-label="${label}"], button[title^="${label}"]`).trigger('click')
  await nextTick()
}

describe('what is done with keys', () => {
  const tools = (node = 'a') => mount(KeyTools, { props: { node }, attachTo: document.body })

  it('says at which frame keys are and what they are worth, and takes others', async () => {
    const w = tools()
    const field = (label: string) => w.find<HTMLInputElement>(`input[aria-label="${label}"]`)
    const type = async (label: string, text: string) => {
      await field(label).setValue(text)
      await field(label).trigger('keydown', { key: 'Enter' })
      await nextTick()
    }
    view.keys = { node: 'a', rows: { 'turn.pan': [48] } }
    await nextTick()
    expect(field('at').element.value).toBe('48')
    expect(field('Pan').element.value).toBe('30.00')
    await type('at', '60')
    await type('Pan', '+15')
    expect(keys('a', 'turn.pan').map((k) => [k.frame, k.value])).toEqual([
      [0, 0],
      [60, 45],
    ])
    // Both take one value; the first says where they are, and the others go along.
    view.keys = { node: 'a', rows: { 'turn.pan': [0, 60] } }
    await nextTick()
    await type('at', '12')
    await type('Pan', '-90')
    expect(keys('a', 'turn.pan').map((k) => [k.frame, k.value])).toEqual([
      [12, -90],
      [72, -90],
    ])
    scene.undo()
    scene.undo()
    expect(keys('a', 'turn.pan').map((k) => [k.frame, k.value])).toEqual([
      [0, 0],
      [60, 45],
    ])
    // Keys of two kinds have no value in common, and a lens has its own unit and bounds.
    scene.run('value', { node: 'a', channel: 'lens.focal', frame: 0, value: 40, key: true })
    view.keys = { node: 'a', rows: { 'turn.pan': [0], 'lens.focal': [0] } }
    await nextTick()
    expect(w.findAll('input[aria-label="Pan"], input[aria-label="Focal length"]')).toHaveLength(0)
    view.keys = { node: 'a', rows: { 'lens.focal': [0] } }
    await nextTick()
    expect(field('Focal length').element.value).toBe('40.0')
    await type('Focal length', '-5')
    expect(keys('a', 'lens.focal')[0]!.value).toBe(40)
    await type('Focal length', '65')
    expect(keys('a', 'lens.focal')[0]!.value).toBe(65)
  })

  it('sets keys of all that moves, and steps between them', async () => {
    const w = tools()
    const head = usePlayhead()
    head.set(24)
    await press(w, 'Set keys of all')
    expect(keys('a', 'turn.pan').map((k) => k.frame)).toEqual([0, 24, 48])
    expect(keys('a', 'turn.pan')[1]!.value).toBeCloseTo(15, 6)
    expect(keys('a', 'position.y')).toHaveLength(1)
    await press(w, 'To the next key')
    expect(head.story).toBe(48)
    await press(w, 'To the key before')
    await press(w, 'To the key before')
    expect(head.story).toBe(0)
    w.unmount()
  })

  it('eases, copies, pastes also reversed, and removes', async () => {
    const w = tools()
    view.allKeys('a')
    await nextTick()
    expect(w.text()).toContain('2 keys')
    await press(w, 'Make the keys even')
    expect(keys('a', 'turn.pan').map((k) => k.ease)).toEqual(['even', 'even'])
    await press(w, 'Copy the keys')
    usePlayhead().set(100)
    await press(w, 'Paste keys')
    usePlayhead().set(200)
    await press(w, 'Paste keys reversed')
    expect(keys('a', 'turn.pan').map((k) => [k.frame, k.value])).toEqual([
      [0, 0],
      [48, 30],
      [100, 0],
      [148, 30],
      [200, 30],
      [248, 0],
    ])
    view.keys = { node: 'a', rows: { 'turn.pan': [100, 148, 200, 248] } }
    await nextTick()
    await press(w, 'Remove keys')
    expect(keys('a', 'turn.pan')).toHaveLength(2)
    expect(view.keys).toBeNull()
    w.unmount()
  })

  it('keeps the copied keys for another node', async () => {
    view.allKeys('a')
    view.copyKeys()
    const w = tools('b')
    usePlayhead().set(10)
    await press(w, 'Paste keys')
    expect(keys('b', 'turn.pan').map((k) => k.frame)).toEqual([10, 58])
    w.unmount()
  })
})

describe('curves', () => {
  // One pixel is one frame, and the field begins at frame 0.
  const curves = (node = 'a') =>
    mount(CurveRows, {
      props: { node, x: (f: number) => f, perPixel: 1, from: 0, to: 600 },
      attachTo: document.body,
    })
  const capture = (e: Element) => Object.assign(e, { setPointerCapture() {}, releasePointerCapture() {} })
  const field = (w: ReturnType<typeof mount>) => {
    const f = w.find('.field')
    capture(f.element)
    f.element.getBoundingClientRect = () => ({ x: 0, y: 0, width: 600, height: 112 }) as DOMRect
    return f
  }
  const pin = (w: ReturnType<typeof mount>, frame: number) => w.find(`circle[aria-label*=" at ${frame} on"]`)

  it('show the value and its speed, and drag a pin in time and value', async () => {
    usePlayhead().set(24)
    const w = curves()
    expect(w.find('.names').text()).toContain('Pan')
    expect(w.findAll('.names output').map((o) => o.text())).toEqual(['15.00', '22.50/s'])
    const f = field(w)
    await pin(w, 48).trigger('pointerdown', { button: 0, clientX: 48, clientY: 14 })
    // 30° over 84 pixels of height: 28 pixels down are 10° less.
    await f.trigger('pointermove', { clientX: 60, clientY: 42 })
    await f.trigger('pointerup', { clientX: 60, clientY: 42 })
    const [, k] = keys('a', 'turn.pan')
    expect(k!.frame).toBe(60)
    expect(k!.value).toBeCloseTo(20, 2)
    expect(view.keys!.rows).toEqual({ 'turn.pan': [60] })
    expect(scene.undoable.at(-1)!.label).toContain('move keys of pan')
    w.unmount()
  })

  it('select by a box, and let Escape leave a drag', async () => {
    const w = curves()
    const f = field(w)
    await f.trigger('pointerdown', { button: 0, clientX: 30, clientY: 0 })
    await f.trigger('pointermove', { clientX: 100, clientY: 60 })
    await f.trigger('pointerup', { clientX: 100, clientY: 60 })
    expect(view.keys!.rows, 'only the one in the box').toEqual({ 'turn.pan': [48] })
    const before = JSON.stringify(keys('a', 'turn.pan'))
    await pin(w, 48).trigger('pointerdown', { button: 0, clientX: 48, clientY: 14 })
    await f.trigger('pointermove', { clientX: 90, clientY: 50 })
    expect(JSON.stringify(keys('a', 'turn.pan'))).not.toBe(before)
    await f.trigger('keydown', { key: 'Escape' })
    expect(JSON.stringify(keys('a', 'turn.pan'))).toBe(before)
    w.unmount()
  })

  it('pull handles that are held flat until they are freed, and paint what passes the keys', async () => {
    scene.run('keyEase', { node: 'a', rows: { 'turn.pan': [0, 48] }, ease: 'shaped' })
    view.keys = { node: 'a', rows: { 'turn.pan': [0] } }
    const w = curves()
    const f = field(w)
    const handle = () => w.find('rect[aria-label="Handle out of Pan at 0"]')
    await handle().trigger('pointerdown', { button: 0, clientX: 16, clientY: 98 })
    await f.trigger('pointermove', { clientX: 30, clientY: 20 })
    await f.trigger('pointerup', { clientX: 30, clientY: 20 })
    expect(keys('a', 'turn.pan')[0]!.out).toEqual({ frames: 30, value: 0 })
    expect(w.find('.beyond').exists()).toBe(false)
    await handle().trigger('pointerdown', { button: 0, clientX: 30, clientY: 98 })
    await f.trigger('pointermove', { clientX: 40, clientY: -60, altKey: true })
    await f.trigger('pointerup', { clientX: 40, clientY: -60, altKey: true })
    expect(keys('a', 'turn.pan')[0]!.out!.value).toBeGreaterThan(30)
    expect(w.find('.beyond title').text()).toContain('Pan passes its keys by')
    w.unmount()
  })

  it('are drawn one by one when a name is pressed', async () => {
    scene.run('value', { node: 'a', channel: 'turn.tilt', frame: 0, value: 5, key: true })
    const w = curves()
    expect(w.findAll('path.line')).toHaveLength(2)
    const [pan] = w.findAll('.names button')
    await pan!.trigger('click')
    expect(w.findAll('path.line')).toHaveLength(1)
    await pan!.trigger('click')
    expect(w.findAll('path.line')).toHaveLength(2)
    w.unmount()
  })
})

describe('ribbons', () => {
  it('tell when somebody is seen, small or in focus, a little at a time', async () => {
    const rects: { fill: string; x: number; y: number; w: number; h: number }[] = []
    const pen = {
      fillStyle: '',
      scale() {},
      fillRect(x: number, y: number, w: number, h: number) {
        rects.push({ fill: this.fillStyle, x, y, w, h })
      },
    }
    vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(pen as never)
    scene.run('stockPlace', { kind: 'cast', name: 'Ann', position: [0, 0, -4], id: 'ann', turn: [180, 0, 0] })
    scene.run('focusFollow', { id: 'a', on: 'ann' })
    const w = mount(RibbonRows, {
      props: { camera: 'a', subjects: ['ann'], from: 0, to: 240, perPixel: 0.4 },
      attachTo: document.body,
    })
    expect(w.find('[role=img]').attributes('aria-label')).toBe('When Ann is in the picture')
    await vi.waitFor(() => expect(rects.some((r) => r.x > 550)).toBe(true), { timeout: 8000 })
    // The camera pans away to the left: she is seen at first and not at the end.
    rects.length = 0
    await w.setProps({ from: 0, to: 239 })
    await nextTick()
    const seen = rects.filter((r) => r.fill === '#7cc68d')
    expect(seen.some((r) => r.x < 5)).toBe(true)
    expect(
      rects.some((r) => r.fill === '#e2b45a'),
      'in focus',
    ).toBe(true)
    // Over the cut she is seen as long as that camera is on air, in its order.
    scene.run('shotSet', { ids: ['s2'], change: { camera: 'a', storyIn: 0 } })
    rects.length = 0
    await w.setProps({ camera: '' })
    expect(w.find('[role=img]').attributes('aria-label')).toBe('When Ann is seen in the cut')
    const { screenIn } = scene.doc.shots.s2!
    const begins = (r: { fill: string; x: number }) => r.fill === '#7cc68d' && Math.abs(r.x - screenIn / 0.4) < 11
    await vi.waitFor(() => expect(rects.some(begins)).toBe(true), { timeout: 8000 })
    w.unmount()
  })
})
