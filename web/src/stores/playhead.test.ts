import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { FakeServer } from '@/testing/server'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useView } from './view'

let head: ReturnType<typeof usePlayhead>
let view: ReturnType<typeof useView>
let scene: ReturnType<typeof useScene>
let frames: ((now: number) => void)[] = []
let now = 0

/** Lets time go by in steps of a display frame. */
function pass(ms: number) {
  for (const end = now + ms; now < end;) {
    now += 1000 / 60
    const due = frames
    frames = []
    for (const f of due) f(now)
  }
}

beforeEach(async () => {
  setActivePinia(createPinia())
  new FakeServer().install()
  scene = useScene()
  view = useView()
  head = usePlayhead()
  await scene.load('scene')
  frames = []
  now = 0
  vi.stubGlobal('requestAnimationFrame', (f: (now: number) => void) => frames.push(f))
  vi.spyOn(performance, 'now').mockImplementation(() => now)
  view.desk = 'splice'
  await nextTick()
  head.setScreen(0)
})
afterEach(() => {
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

describe('the two clocks', () => {
  it('screen time leads on the desks of the cut', () => {
    head.set(60)
    expect(head.clock).toBe('screen')
    expect([head.screen, head.story]).toEqual([60, 52])
    expect([head.airShot, head.airCamera]).toEqual(['s2', 'b'])
    expect(head.range).toEqual({ in: 0, out: 144 })
  })

  it('story time leads on the desks of the action, and the cut follows', async () => {
    view.desk = 'frame'
    await nextTick()
    head.set(45)
    expect([head.story, head.screen, head.airShot]).toEqual([45, 45, 's1'])
    head.set(60)
    expect([head.screen, head.airShot]).toEqual([68, 's2'])
    head.set(42) // seen by both shots: the one on air counts
    expect([head.screen, head.airShot]).toEqual([50, 's2'])
    head.set(1000)
    expect(head.airShot).toBe('')
    expect(head.range).toEqual({ in: 0, out: 240 })
  })

  it('steps over whole frames and not before the cut', () => {
    head.set(1)
    head.step(-1)
    head.step(-1)
    expect(head.screen).toBe(0)
    head.step(1)
    expect(head.screen).toBe(1)
  })
})

describe('playing', () => {
  it('keeps to the rate, whatever the display does', () => {
    head.toggle()
    pass(1000)
    expect(head.screen).toBeGreaterThanOrEqual(23)
    expect(head.screen).toBeLessThanOrEqual(24)
    head.toggle()
    const at = head.screen
    pass(500)
    expect(head.screen).toBe(at)
  })

  it('cuts on the way and goes round at the end', () => {
    head.set(130)
    head.toggle()
    pass(1000)
    expect(head.screen).toBeLessThan(20)
    expect(head.airShot).toBe('s1')
  })

  it('shuttles faster with each press, and back', () => {
    head.set(70)
    head.shuttle(1)
    expect(head.speed).toBe(1)
    head.shuttle(1)
    head.shuttle(1)
    expect(head.speed).toBe(4)
    pass(250)
    expect(head.screen).toBeGreaterThan(90)
    head.shuttle(-1)
    expect(head.speed).toBe(-1)
    for (let i = 0; i < 6; i++) head.shuttle(-1)
    expect(head.speed).toBe(-8)
    head.stop()
    expect(head.playing).toBe(false)
  })

  it('starts again from the beginning at the end', () => {
    head.set(143)
    head.toggle()
    expect(head.screen).toBe(0)
  })
})

it('what is on air is looked up anew when the cut changes under the playhead', async () => {
  head.set(60)
  scene.run('cutTo', { assembly: 'cut', at: 48, camera: 'a' })
  await nextTick()
  expect(head.airCamera).toBe('a')
})

describe('the view', () => {
  it('selects one thing everywhere', () => {
    view.select('nodes', 'b')
    expect([view.node, view.camera, view.shot]).toEqual(['b', 'b', ''])
    view.select('shots', 's1')
    expect([view.node, view.camera, view.shot]).toEqual(['', '', 's1'])
    expect(view.isSelected('shots', 's1')).toBe(true)
    view.select('nodes', '')
    expect(view.selected).toBeNull()
  })

  it('comes back to scout in steps: mode, lock, lens, selection', () => {
    view.lookThrough('a')
    expect(view.camera).toBe('a')
    view.unlocked = 'a'
    view.drawing = 'curve'
    view.back()
    expect(view.drawing).toBeNull()
    view.back()
    expect(view.unlocked).toBe('')
    view.back()
    expect(view.through).toBe('')
    view.back()
    expect(view.selected).toBeNull()
  })

  it('locks a camera when another is chosen', () => {
    view.lookThrough('a')
    view.unlocked = 'a'
    view.lookThrough('b')
    expect(view.unlocked).toBe('')
    view.lookThrough('')
    expect(view.through).toBe('')
  })
})
