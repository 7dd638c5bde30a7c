// The rows of the cut: what several shots do, drops that ask first, the same
// shots in story time, lines.
import { enableAutoUnmount, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { opened } from '@/testing/opened'
import LineRow from './LineRow.vue'
import SpliceRows from './SpliceRows.vue'
import StoryLayout from './StoryLayout.vue'
import { useCutActions } from './useCutActions'
import { visibleGaps, visibleShots } from './visible'

vi.mock('@/view3d/stage', () => ({ useStage: () => ({ still: async () => '' }) }))
enableAutoUnmount(afterEach)

let scene: ReturnType<typeof useScene>
let view: ReturnType<typeof useView>
let head: ReturnType<typeof usePlayhead>
beforeEach(async () => {
  ;({ scene, view, head } = await opened())
  view.desk = 'splice'
  await nextTick()
})
afterEach(async () => {
  await useScene().flushed()
  vi.unstubAllGlobals()
})

const rows = () => mount(SpliceRows, { props: { perPixel: 0.5, from: 0, to: 200 }, attachTo: document.body })
type Mounted = ReturnType<typeof rows>
async function drag(w: Mounted, what: string, by: number, keys: object = {}) {
  const el = w.find(what)
  ;(el.element as HTMLElement).setPointerCapture = () => {}
  await el.trigger('pointerdown', { button: 0, clientX: 100, ...keys })
  await el.trigger('pointermove', { clientX: 100 + by, altKey: true, ...keys })
  await el.trigger('pointerup', { clientX: 100 + by, altKey: true, ...keys })
}
const at = (id: string) => [scene.doc.shots[id]!.screenIn, scene.doc.shots[id]!.screenOut]

describe('where nothing plays', () => {
  it('there is a gap, also when one or both of its shots are out of sight', () => {
    const [from, to] = at('s2') as [number, number]
    scene.run('shotRemove', { ids: ['s2'], close: false })
    const seen = (a: number, b: number) => visibleGaps(scene, scene.cut.shots, a, b)
    const gap = { in: from, out: to, before: 's1', after: 's3' }
    expect(seen(0, 1000)).toEqual([gap])
    expect(seen(0, from + 1), 'the one behind it is further on').toEqual([gap])
    expect(seen(from + 5, to - 5), 'in the middle of it').toEqual([gap])
    expect(seen(to + 1, 1000)).toEqual([])
    scene.run('shotRemove', { ids: ['s1'], close: false })
    expect(seen(0, 10)).toEqual([{ in: 0, out: to, before: '', after: 's3' }])
  })
})

describe('several shots', () => {
  it('are chosen with Ctrl and Shift, and move together', async () => {
    const w = rows()
    const shots = w.findAll('.shot')
    await shots[0]!.trigger('pointerdown', { button: 0, ctrlKey: true })
    await shots[2]!.trigger('pointerdown', { button: 0, ctrlKey: true })
    expect(view.shots).toEqual(['s3', 's1'])
    await shots[2]!.trigger('pointerdown', { button: 0, ctrlKey: true })
    expect(view.shots).toEqual(['s1'])
    await shots[2]!.trigger('pointerdown', { button: 0, shiftKey: true })
    expect([...view.shots].sort()).toEqual(['s1', 's2', 's3'])
    await drag(w, '.shot:nth-of-type(3)', 40)
    expect([at('s1'), at('s2'), at('s3')]).toEqual([
      [20, 68],
      [68, 116],
      [116, 164],
    ])
    await w.find('.lane').trigger('pointerdown')
    expect(view.shots).toEqual([])
  })
})

describe('a long cut', () => {
  /** Shots of four frames, all of the same moment, as many as are wanted. */
  async function long(shots: number) {
    scene.run('shotRemove', { ids: Object.keys(scene.doc.shots) })
    const one = { assembly: scene.cut.assembly, camera: 'a', frames: 4, storyIn: 10 }
    for (let i = 0; i < shots; i++) scene.run('shotAppend', { ...one, id: `n${String(i).padStart(3, '0')}` })
    await nextTick()
  }
  it('paints what is narrow among many, and still takes hold of it', async () => {
    await long(120)
    const w = mount(SpliceRows, { props: { perPixel: 2, from: 0, to: 480 }, attachTo: document.body })
    const lane = w.find('.lane')
    expect(w.findAll('.shot')).toHaveLength(0)
    expect(lane.find('canvas').exists()).toBe(true)
    ;(lane.element as HTMLElement).setPointerCapture = () => {}
    await lane.trigger('pointerdown', { button: 0, clientX: 51 })
    expect(view.shot, 'frame 102 is in the shot that begins at 100').toBe('n025')
    expect(
      w.findAll('.shot').map((x) => x.attributes('aria-label')),
      'what is held is an element',
    ).toEqual([expect.stringContaining('frames 100 to 103')])
    await lane.trigger('pointerup', { clientX: 51 })
    await w.setProps({ perPixel: 0.25, to: 60 })
    expect(w.findAll('.shot').length, 'wide ones are elements').toBeGreaterThan(10)
    expect(lane.find('canvas').exists()).toBe(false)
  })

  it('lays uses of one moment in tiers, counts the rest, and always shows the selected', async () => {
    await long(7)
    const w = mount(StoryLayout, { props: { x: (f: number) => f * 2, perPixel: 0.5 } })
    const numbers = () => w.findAll('.use').map((u) => u.text())
    expect(numbers()).toEqual(['010', '020', '030', '040'])
    expect(w.findAll('.use').map((u) => (u.element as HTMLElement).style.top)).toEqual(['2px', '24px', '46px', '68px'])
    expect(w.find('.more').text()).toBe('+3')
    expect(w.find('.used').text()).toBe('')
    view.select('shots', 'n005')
    await nextTick()
    expect(numbers()).toEqual(['010', '020', '030', '060'])
    expect(w.find('.more').text()).toBe('+3')
    await w.setProps({ x: (f: number) => f * 20 })
    expect(w.find('.used').text(), 'how often, where there is room').toBe('7×')
  })
})

describe('a drop onto other shots', () => {
  const menu = () => document.querySelector('[role=menu]')
  const choice = (words: string) =>
    [...document.querySelectorAll<HTMLElement>('[role=menuitem]')].find((b) => b.textContent.includes(words))!

  it('asks, shows a choice while it is pointed at, and is left on Escape', async () => {
    const w = rows()
    await drag(w, '.shot', 100)
    expect(menu()).not.toBeNull()
    expect(scene.undoable, 'nothing has happened').toHaveLength(0)
    expect(at('s1'), 'the first choice is shown').toEqual([2, 50])
    choice('Overwrite').dispatchEvent(new MouseEvent('mouseenter'))
    await nextTick()
    expect([at('s1'), at('s2')]).toEqual([
      [50, 98],
      [48, 50],
    ])
    choice('Overwrite').dispatchEvent(new MouseEvent('mouseleave'))
    expect(at('s1')).toEqual([0, 48])
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    await nextTick()
    expect(menu()).toBeNull()
    expect(scene.undoable).toHaveLength(0)
    await drag(w, '.shot', 100)
    choice('Keep on a spare lane').click()
    await nextTick()
    expect(scene.cut.spares[0]!.shots.map((s) => s.id)).toEqual(['s1'])
    expect(scene.undoable).toHaveLength(1)
  })
})

describe('lanes', () => {
  let open = ''
  const menu = () =>
    [...document.querySelectorAll<HTMLElement>('.lane-menu')].find(
      (m) => (m.querySelector('input')?.value ?? 'Main lane') === open,
    )
  const choose = async (w: Mounted, name: string) => {
    open = name
    await w.find(`button[aria-label="Lane ${name}"]`).trigger('click')
    await vi.waitFor(() => expect(menu()).toBeDefined())
  }
  const choice = (words: string) =>
    [...menu()!.querySelectorAll<HTMLButtonElement>('button')].find((b) => b.textContent.includes(words))!
  const press = async (words: string) => {
    choice(words).click()
    await nextTick()
  }
  const names = () => scene.cut.spares.map((l) => scene.doc.lanes[l.id]!.name)

  it('are added, moved, locked and removed at their name', async () => {
    const w = rows()
    await choose(w, 'Main lane')
    await press('Add a spare lane')
    await press('Add a spare lane')
    expect(names()).toEqual(['spare 1', 'spare 2'])
    scene.run('shotMove', { ids: ['s1'], by: 0, lane: scene.cut.spares[1]!.id })
    await nextTick()
    await choose(w, 'spare 2')
    await press('Up')
    expect(names()).toEqual(['spare 2', 'spare 1'])
    await press('Lock')
    expect(choice('Remove with its shots').disabled).toBe(true)
    expect(scene.run('shotTrim', { id: 's1', edge: 'out', by: -5 }), 'of a locked lane').toBe(false)
    const lane = menu()!.querySelector('input')!
    lane.value = open = 'tries'
    lane.dispatchEvent(new Event('change'))
    await press('Unlock')
    expect(names()).toEqual(['tries', 'spare 1'])
    await press('Remove with its shots')
    expect(names()).toEqual(['spare 1'])
    expect(scene.doc.shots.s1).toBeUndefined()
  })
})

describe('a box', () => {
  // Lanes lie below each other, 40 pixels high, and their first frame is at 92.
  const laid = (w: Mounted) => {
    w.findAll('[data-lane]').forEach((l, i) => {
      const el = l.element as HTMLElement
      el.getBoundingClientRect = () => new DOMRect(92, 40 * i, 600, 40)
      el.setPointerCapture = () => {}
    })
  }
  async function box(w: Mounted, from: [number, number], to: [number, number], keys: object = {}) {
    const all = w.findAll('[data-lane]')
    const lane = all[Math.floor(from[1] / 40)]!
    await lane.trigger('pointerdown', { button: 0, clientX: from[0], clientY: from[1], ...keys })
    await lane.trigger('pointermove', { clientX: to[0], clientY: to[1], ...keys })
    const drawn = w.find('.box').exists()
    await lane.trigger('pointerup', { clientX: to[0], clientY: to[1], ...keys })
    return drawn
  }

  it('chooses shots of one lane and of several, which then move together', async () => {
    scene.run('laneAdd', { assembly: scene.cut.assembly })
    const spare = scene.cut.spares[0]!.id
    scene.run('shotMove', { ids: ['s1'], by: 0, lane: spare })
    const w = rows()
    laid(w)
    const x = (frame: number) => 92 + frame * 2 // half a frame to a pixel
    const [from, to] = at('s2') as [number, number]
    expect(await box(w, [x(from) - 40, 70], [x(from + 4), 60]), 'on the main lane').toBe(true)
    expect(view.shots).toEqual(['s2'])
    expect(w.find('.box').exists()).toBe(false)
    await box(w, [x(from + 4), 70], [x(4), 20])
    expect([...view.shots].sort(), 'across both').toEqual(['s1', 's2'])
    await box(w, [x(to + 200), 20], [x(to + 210), 30], { shiftKey: true })
    expect([...view.shots].sort(), 'Shift adds, here nothing').toEqual(['s1', 's2'])
    await box(w, [x(to + 200), 20], [x(to + 210), 30])
    expect(view.shots).toEqual([])
    // Together they are dragged, each on its lane.
    view.selectShots(['s1', 's2'])
    await nextTick()
    scene.run('shotRemove', { ids: ['s3'], close: false })
    await drag(w, '.shot', 40)
    expect([at('s1')[0], at('s2')[0]]).toEqual([20, from + 20])
    expect([scene.doc.shots.s1!.lane, scene.doc.shots.s2!.lane]).toEqual([spare, scene.cut.lane])
  })
})

describe('grips', () => {
  it('slip, slide and roll by drags, and by single frames from the keyboard', async () => {
    const w = rows()
    const cutting = useCutting()
    cutting.grip = 'slip'
    await drag(w, '.shot:nth-of-type(2)', 20)
    expect([scene.doc.shots.s2!.storyIn, ...at('s2')], 'dragged right, what is earlier comes').toEqual([30, 48, 96])
    cutting.grip = 'slide'
    await drag(w, '.shot:nth-of-type(2)', -20)
    expect([at('s1'), at('s2'), at('s3')]).toEqual([
      [0, 38],
      [38, 86],
      [86, 144],
    ])
    cutting.grip = 'roll'
    await drag(w, '.shot:nth-of-type(2) .edge.out', 12)
    expect([at('s2'), at('s3')]).toEqual([
      [38, 92],
      [92, 144],
    ])
    const actions = useCutActions()
    view.select('shots', 's2')
    cutting.edge = 'in'
    actions.trim(1)
    expect(at('s2')).toEqual([39, 92])
    cutting.grip = 'ripple'
    cutting.edge = 'out'
    actions.trim(-10)
    expect([at('s2'), at('s3')]).toEqual([
      [39, 82],
      [82, 134],
    ])
    head.setScreen(100)
    actions.seam(-1)
    expect(head.screen).toBe(82)
    actions.seam(1)
    expect(head.screen).toBe(134)
    head.marked.screen = { in: 10, out: 20 }
    view.select('shots', '')
    actions.remove(true)
    expect(scene.cutLength).toBe(124)
    expect(head.marked.screen).toBeNull()
  })
})

describe('in story time', () => {
  it('uses are counted, and edges are dragged', async () => {
    const w = mount(StoryLayout, { props: { x: (f: number) => f * 2, perPixel: 0.5 }, attachTo: document.body })
    // 0–47, 40–87 and 80–127: twice in between.
    expect(w.findAll('.used i').map((i) => i.attributes('title'))).toEqual([
      '0–39: once',
      '40–47: 2 times',
      '48–79: once',
      '80–87: 2 times',
      '88–127: once',
    ])
    expect(w.findAll('.use').map((u) => u.attributes('aria-label'))).toEqual([
      'Shot 010 shows story 0 to 47',
      'Shot 030 shows story 80 to 127',
      'Shot 020 shows story 40 to 87',
    ])
    const use = w.findAll('.use')[0]!
    const el = use.element as HTMLElement
    el.setPointerCapture = () => {}
    el.getBoundingClientRect = () => ({ x: 0, left: 0, right: 96, width: 96 }) as DOMRect
    await use.trigger('pointerdown', { button: 0, clientX: 94 })
    window.dispatchEvent(new PointerEvent('pointermove', { clientX: 114 }))
    window.dispatchEvent(new PointerEvent('pointerup', { clientX: 114 }))
    expect([at('s1'), at('s2')]).toEqual([
      [0, 58],
      [58, 106],
    ])
  })
})

describe('lines', () => {
  it('are where the cut lets them be heard, and edited in place', async () => {
    scene.run('stockPlace', { kind: 'cast', name: 'Ida', position: [0, 0, 0], id: 'ida' })
    scene.run('lineAdd', { cast: 'ida', text: 'The last one up.', in: 42, out: 60, id: 'l1' })
    const w = mount(LineRow, {
      props: { x: (f: number) => f * 2, perPixel: 0.5, from: 0, to: 200 },
      attachTo: document.body,
    })
    // Story 42 to 47 in the first shot, and all of it in the second.
    expect(
      w.findAll('.line').map((l) => [l.attributes('style')!.match(/translateX\((\d+)px/)![1], l.classes('cut')]),
    ).toEqual([
      ['84', true],
      ['100', false],
    ])
    await w.findAll('.line')[1]!.trigger('dblclick')
    const field = w.find('input')
    await field.setValue('The last one up tonight.')
    await field.trigger('keydown', { key: 'Enter' })
    expect(scene.doc.lines.l1!.text).toBe('The last one up tonight.')
  })
})

it('looks no further than what is in sight', () => {
  scene.run('shotTrim', { id: 's2', edge: 'out', by: -20 })
  const ids = (from: number, to: number) => visibleShots(scene, scene.cut.shots, from, to).map((s) => s.id)
  expect(ids(-10, 500)).toEqual(['s1', 's2', 's3'])
  expect(ids(48, 60)).toEqual(['s2'])
  expect(ids(77, 95)).toEqual([])
  expect(ids(200, 300)).toEqual([])
})
