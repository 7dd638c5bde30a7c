import { beforeEach, describe, expect, it } from 'vitest'
import { smallScene } from '@/testing/scenes'
import { core, FrameState } from './bridge'

beforeEach(() => {
  expect(core.open(smallScene()).assembly).toBe('cut')
})

describe('the core behind the bridge', () => {
  it('refuses a broken document with its place', () => {
    const d = smallScene()
    d.shots.s2!.camera = 'gone'
    expect(core.open(d).error).toContain('shots/s2/camera')
  })

  it('evaluates a frame into typed arrays', () => {
    const s = core.structure()
    expect(s.cameras).toEqual(['a', 'b'])
    const state = new FrameState(s)
    state.evaluate(48)
    const b = state.cameraMatrix(1)
    expect([b[12], b[13], b[14]]).toEqual([4, 2, 0]) // half way along the track
    const a = state.camera(0)
    expect(a.hfov).toBeCloseTo(90, 5)
    expect(a.gateHeight).toBeCloseTo(20.25, 5)
    expect(state.nodePosition(s.nodes.indexOf('box'))).toEqual([0, 0, -10])
    expect(state.instances).toHaveLength(16)
  })

  it('gives meshes whose parts fit together', () => {
    const m = core.mesh(0)
    expect(m.positions.length % 3).toBe(0)
    expect(m.normals).toHaveLength(m.positions.length)
    expect(m.colors).toHaveLength((m.positions.length / 3) * 4)
    expect(Math.max(...m.indices)).toBeLessThan(m.positions.length / 3)
  })

  it('knows what is on air, on both clocks', () => {
    expect(core.onAir(60)).toEqual({ playing: [{ shot: 's2', camera: 'b', story: 52, weight: 1 }] })
    expect(core.onAir(144)).toEqual({ playing: [] })
    expect(core.screenAt(45, 0)).toBe(45)
    expect(core.screenAt(45, 50)).toBe(53)
    expect(core.screenAt(5000, 0)).toBe(-1)
    expect(core.cut()).toMatchObject({
      length: 144,
      cut: { assembly: 'cut', shots: [{ id: 's1' }, { id: 's2' }, { id: 's3' }] },
    })
  })

  it('tells how a scene is laid out only when that is news, and one scene from the next', () => {
    const first = core.structure()
    expect(core.laidOut(first.version)).toBeNull()
    core.preview('place', { id: 'box', frame: 0, position: [1, 2, 3] })
    expect(core.laidOut(first.version), 'a drag lays out nothing anew').toBeNull()
    core.cancel()
    core.open(smallScene())
    const second = core.laidOut(first.version)
    expect(second?.nodes).toEqual(first.nodes)
    expect(second!.version).not.toBe(first.version)
  })

  it('runs, previews and takes back', () => {
    const before = JSON.stringify(core.document())
    const done = core.run('shotTrim', { id: 's1', edge: 'out', by: -8, ripple: true })
    expect(done.edit!.label).toBe('ripple trim out of shot 010 by -8f')
    expect(done.changed!.map((c) => c.id).sort()).toEqual(['s1', 's2', 's3'])
    expect(core.turn('undo').error).toBeUndefined()
    expect(JSON.stringify(core.document())).toBe(before)
    core.preview('shotMove', { ids: ['s3'], by: 204 })
    expect(core.cut().length).toBe(348)
    const back = core.cancel()
    expect(back).toMatchObject({ changed: [], moved: ['s3'], frames: [96, 144] })
    expect(JSON.stringify(core.document())).toBe(before)
    expect(core.turn('redo').synced!.waiting).toHaveLength(3)
    expect(core.turn('redo').error).toContain('nothing to redo')
  })

  it('tells of shots that are moved again and again where they are', () => {
    const trim = (by: number) => core.preview('shotTrim', { id: 's1', edge: 'out', by, ripple: true })
    expect(trim(-8)).toMatchObject({ moved: ['s1', 's2', 's3'], frames: [0, 40, 40, 88, 88, 136] })
    expect(trim(-9)).toMatchObject({ moved: ['s1', 's2', 's3'], frames: [0, 39, 39, 87, 87, 135] })
    const other = core.preview('shotMove', { ids: ['s3'], by: 10 })
    expect(other).toMatchObject({ moved: ['s3', 's1', 's2'], frames: [106, 154, 0, 48, 48, 96] })
    expect(core.cancel()).toMatchObject({ moved: ['s3'], frames: [96, 144] })
    expect(core.cancel()).toEqual({ changed: [] })
  })

  it('leaves no trace of what it has tried out', () => {
    const before = JSON.stringify(core.document())
    core.warm()
    expect(JSON.stringify(core.document())).toBe(before)
    core.preview('shotMove', { ids: ['s3'], by: 10 })
    core.warm() // not while something is previewed
    expect(core.cancel()).toMatchObject({ moved: ['s3'], frames: [96, 144] })
  })

  it('says why an operation is refused and what it left unchanged', () => {
    core.preview('shotMove', { ids: ['s3'], by: 204 })
    const o = core.run('cutTo', { assembly: 'cut', at: 0, camera: 'a' })
    expect(o.error).toContain('on air here already')
    expect(o.changed!.map((c) => c.id)).toEqual(['s3']) // the preview is gone
  })

  it('samples paths, with a tick for every half second', () => {
    const line = core.path(
      {
        form: 'straight',
        points: [
          [0, 2, 0],
          [8, 2, 0],
        ],
      },
      'track',
    )
    expect(line.length).toBeCloseTo(8, 9)
    expect(line.ticks).toHaveLength(9 * 3)
    expect(line.ticks![3]).toBeCloseTo(1, 9)
    expect(
      core.path({
        form: 'arc',
        points: [
          [0, 0, 0],
          [1, 0, 0],
        ],
      }).error,
    ).toContain('no path yet')
  })

  it('speaks timecode, optics and angles', () => {
    expect(core.timecode('screen', 1000)).toBe('00:00:41:16')
    expect(core.parseTimecode('screen', '00:00:41:16').frame).toBe(1000)
    expect(core.parseTimecode('screen', 'later').error).toContain('HH:MM:SS:FF')
    const zone = core.sharpZone(50, 2, 3, [36, 24])
    expect(zone.near).toBeLessThan(3)
    expect(zone.far).toBeGreaterThan(3)
    expect(core.sharpZone(18, 11, 5, [36, 24]).far).toBe(-1)
    expect(core.aimAngles([-1, 0, 0])[0]).toBeCloseTo(90, 9)
    expect([
      ...core.curve(
        [
          { frame: 0, value: 0, ease: 'even' },
          { frame: 10, value: 5, ease: 'even' },
        ],
        0,
        10,
        2,
      ),
    ]).toEqual([0, 2.5, 5])
  })

  it('lists the stock with limits that hold its defaults', () => {
    const { pieces: stock, deeds, gestures } = core.stock()
    expect(gestures).toContain('wave')
    expect(gestures).not.toContain('walk')
    expect(deeds).toEqual(expect.arrayContaining(gestures))
    expect(stock.length).toBeGreaterThanOrEqual(17)
    for (const s of stock)
      for (const p of s.params) expect(p.default >= p.min && p.default <= p.max, `${s.id} ${p.name}`).toBe(true)
  })
})
