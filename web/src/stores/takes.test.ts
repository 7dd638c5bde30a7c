// Takes, ranges, and the clock that keeps picture and sound together.
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { FakeServer } from '@/testing/server'
import { usePlayhead } from './playhead'
import { useScene } from './scene'
import { useSound } from './sound'
import { useView } from './view'

let head: ReturnType<typeof usePlayhead>
let scene: ReturnType<typeof useScene>
let frames: ((now: number) => void)[] = []
let now = 0

/** Lets time go by in steps of a display frame. */
async function pass(ms: number) {
  for (const end = now + ms; now < end;) {
    now += 1000 / 60
    const due = frames
    frames = []
    for (const f of due) f(now)
  }
  await nextTick()
}

beforeEach(async () => {
  localStorage.clear()
  setActivePinia(createPinia())
  new FakeServer().install()
  scene = useScene()
  head = usePlayhead()
  await scene.load('scene')
  frames = []
  now = 0
  vi.stubGlobal('requestAnimationFrame', (f: (now: number) => void) => frames.push(f))
  vi.spyOn(performance, 'now').mockImplementation(() => now)
  useView().desk = 'splice'
  await nextTick()
  head.setScreen(0)
})
afterEach(async () => {
  await scene.flushed()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

describe('a take', () => {
  it('records what is put on air while the action runs on', async () => {
    head.setScreen(24)
    head.armed = true
    head.preroll = 12
    head.toggle()
    expect(head.screen).toBe(12)
    expect(head.taking).toBe(false)
    await pass(550)
    expect(head.taking).toBe(true)
    expect(head.airCamera, 'what was on air stays').toBe('a')
    expect(head.airShot, 'but not its shot').toBe('')
    head.putOnAir('b')
    expect(head.airCamera).toBe('b')
    await pass(1000)
    expect(head.story, 'the story runs on, whatever the cut did').toBe(head.screen)
    head.putOnAir('a')
    await pass(500)
    head.stop()
    expect(head.armed).toBe(false)
    const out = head.screen
    const made = scene.cut.shots.map((s) => scene.doc.shots[s.id]!)
    const taken = made.filter((s) => s.screenIn >= 24 && s.screenOut <= out)
    expect(
      taken.map((s) => s.camera),
      'frame by frame what was seen',
    ).toEqual(['a', 'b', 'a'])
    expect(taken[0]!.storyIn).toBe(24)
    expect(taken[1]!.storyIn).toBe(taken[1]!.screenIn)
    expect(taken.at(-1)!.screenOut).toBe(out)
    expect(made[0]).toMatchObject({ screenIn: 0, screenOut: 24, camera: 'a' })
  })

  it('ends by itself at the end of the range, and changes nothing outside', async () => {
    head.marked.screen = { in: 60, out: 84 }
    head.armed = true
    head.preroll = 0
    head.toggle()
    head.putOnAir('a')
    await pass(3000)
    expect(head.playing).toBe(false)
    const made = scene.cut.shots.map((s) => scene.doc.shots[s.id]!)
    expect(made.map((s) => [s.screenIn, s.screenOut, s.camera])).toEqual([
      [0, 48, 'a'],
      [48, 60, 'b'],
      [60, 84, 'a'],
      [84, 96, 'b'],
      [96, 144, 'a'],
    ])
    scene.undo()
    expect(scene.cut.shots).toHaveLength(3)
  })
})

describe('ranges', () => {
  it('are set at the playhead and looped over, also at half speed', async () => {
    head.setScreen(50)
    head.mark('in')
    head.setScreen(61)
    head.mark('out')
    expect(head.marked.screen).toEqual({ in: 50, out: 62 })
    head.loop = true
    head.pace = 0.5
    head.toggle()
    let most = 0
    for (let i = 0; i < 40; i++) {
      await pass(50)
      expect(head.screen).toBeGreaterThanOrEqual(50)
      expect(head.screen).toBeLessThan(62)
      most = Math.max(most, head.screen)
    }
    expect(most).toBe(61)
    head.stop()
    head.setScreen(40)
    head.mark('out')
    expect(head.marked.screen, 'an end before the start begins anew').toEqual({ in: 0, out: 41 })
  })
})

/** A context whose clock runs slow against the machine's, as sound hardware may. */
class SlowContext {
  static skew = 0.995
  static started: { when: number; offset: number; length: number; rate: number }[] = []
  state = 'running'
  outputLatency = 0
  destination = {}
  get currentTime() {
    return (now / 1000) * SlowContext.skew
  }
  async resume() {}
  async decodeAudioData() {
    return { duration: 700 }
  }
  createGain() {
    return { gain: { setValueAtTime() {}, linearRampToValueAtTime() {} }, connect: (to: unknown) => to }
  }
  createBufferSource() {
    const playbackRate = { value: 1 }
    return {
      buffer: null,
      playbackRate,
      onended: null,
      connect: (to: unknown) => to,
      start: (when: number, offset: number, length: number) =>
        SlowContext.started.push({ when, offset, length, rate: playbackRate.value }),
      stop() {},
    }
  }
}

describe('sound', () => {
  it('and picture stay in step for ten minutes, whatever the clocks do', async () => {
    SlowContext.started = []
    vi.stubGlobal('AudioContext', SlowContext)
    const on = globalThis.fetch
    vi.stubGlobal('fetch', async (input: Request | string) =>
      typeof input === 'string' && input.startsWith('/api/sounds/')
        ? new Response(new Uint8Array(4))
        : on(input as Request),
    )
    // One shot of eleven minutes, and a sound as long beside it.
    scene.run('shotTrim', { id: 's3', edge: 'out', by: 24 * 660, ripple: true })
    scene.run('trackAdd', { id: 't', clock: 'screen', assembly: 'cut', name: 't', gain: 0 })
    scene.run('soundAdd', { id: 'n', track: 't', name: 'n', blob: 'ab'.repeat(32), seconds: 690, in: 0 })
    useSound()
    head.setScreen(100)
    head.toggle()
    for (let i = 0; i < 40 && !SlowContext.started.length; i++) {
      await pass(100)
      await new Promise((r) => setTimeout(r, 5))
    }
    const s = SlowContext.started[0]!
    expect(s.rate).toBe(1)
    let worst = 0
    for (let minute = 0; minute < 10; minute++) {
      await pass(60_000)
      // The frame of the sound that is heard now, from its own clock.
      const heard = (s.offset + (now / 1000) * SlowContext.skew - s.when) * 24
      worst = Math.max(worst, Math.abs(heard - head.exact()))
      expect(Math.abs(heard - head.screen), `after ${minute + 1} minutes`).toBeLessThan(1.01)
    }
    expect(worst).toBeLessThan(0.01)
    // The machine's clock would be three seconds off by now.
    expect(Math.abs(100 + (now / 1000) * 24 - head.exact())).toBeGreaterThan(60)
    head.stop()
  })
})
