import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { StillPictures } from './stillPictures'

/** A video that does what it is told, and counts it. */
class FakeVideo {
  paused = true
  seeking = false
  playbackRate = 1
  videoWidth = 320
  videoHeight = 180
  seeks = 0
  private now = 0
  onloadeddata = () => {}
  onseeked = () => {}
  onerror = () => {}
  src = ''
  removeAttribute() {
    this.src = ''
  }
  load() {}
  get currentTime() {
    return this.now
  }
  set currentTime(t: number) {
    this.now = t
    this.seeks++
  }
  /** Goes on by itself, as a video does. */
  run(seconds: number) {
    this.now += seconds
  }
  play() {
    this.paused = false
    return Promise.resolve()
  }
  pause() {
    this.paused = true
  }
}

describe('footage', () => {
  const made: FakeVideo[] = []
  let stills: StillPictures
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'performance'] })
    made.length = 0
    vi.spyOn(document, 'createElement').mockImplementation(() => {
      const v = new FakeVideo()
      made.push(v)
      return v as unknown as HTMLElement
    })
    stills = new StillPictures(() => {})
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.restoreAllMocks()
  })
  const show = (frame: number, shot?: string) => stills.get({ video: 'plate', frame }, 320, 180, shot)

  it('is brought to the middle of a frame while the cut stands still', () => {
    show(10, 's1')
    expect(made[0]!.currentTime).toBeCloseTo(10.5 / 24, 9)
    show(10.4, 's1')
    expect(made[0]!.seeks, 'the same frame').toBe(1)
    expect(made[0]!.paused).toBe(true)
  })

  it('plays along at the speed of its shot, and is brought back only when it is off', () => {
    stills.paceOf = () => 2
    show(0, 's1')
    const v = made[0]!
    expect([v.paused, v.playbackRate]).toEqual([false, 2])
    v.run(4 / 24)
    show(4, 's1')
    v.run(4 / 24)
    show(9, 's1')
    expect(v.seeks).toBe(0)
    show(30, 's1')
    expect(v.seeks, 'after a jump').toBe(1)
    expect(v.currentTime).toBeCloseTo(30.5 / 24, 9)
    stills.paceOf = () => 0
    show(33, 's1')
    expect(v.paused).toBe(true)
    expect(v.currentTime).toBeCloseTo(33.5 / 24, 9)
  })

  it('stops when the cut has gone on to something else', () => {
    stills.paceOf = () => 1
    show(0, 's1')
    vi.advanceTimersByTime(400)
    expect(made[0]!.paused).toBe(false)
    vi.advanceTimersByTime(400)
    expect(made[0]!.paused).toBe(true)
  })

  it('has a video of its own for small pictures, which never plays', () => {
    stills.paceOf = () => 1
    show(5, 's1')
    show(60)
    expect(made).toHaveLength(2)
    expect([made[0]!.paused, made[1]!.paused]).toEqual([false, true])
    expect(made[1]!.currentTime).toBeCloseTo(60.5 / 24, 9)
  })

  it('is let go when it has not been asked for in some time, or another scene is opened', () => {
    const plate = (name: string) => stills.get({ video: name, frame: 1 }, 320, 180, 's1')
    for (let i = 0; i < 8; i++) {
      plate(`plate ${i}`)
      vi.advanceTimersByTime(2000)
    }
    vi.advanceTimersByTime(20_000)
    plate('another')
    const held = () => made.filter((v) => v.src).length
    expect(held(), 'four that idle, and the new one').toBe(5)
    stills.clear()
    expect(held()).toBe(0)
  })

  it('is asked for again some time after it could not be had', () => {
    show(1, 's1')
    made[0]!.onerror()
    vi.advanceTimersByTime(5000)
    show(1, 's1')
    expect(made).toHaveLength(2)
  })
})
