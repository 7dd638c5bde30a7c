import { Vector3 } from 'three'
import { beforeEach, describe, expect, it } from 'vitest'
import { ref } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { add, axesOf, distance, less, pixel, pointer, project, tidy, type Screen } from '../screen'
import { signed, words } from '../moving'
import { faces, planMemory, planOf, type Face } from './memory'
import { usePlanCamera } from './usePlanCamera'

const [width, height] = [ref(400), ref(300)]
const element = { getBoundingClientRect: () => ({ x: 50, y: 20, width: 400, height: 300 }) } as HTMLElement
const sides: Face[] = ['plan', 'front', 'side']

beforeEach(() => Object.assign(planMemory, { face: 'plan', middle: [2, 3, 4], scale: 10 }))

describe('the flat camera', () => {
  it('has right-handed faces that look straight at the set', () => {
    for (const { right, down, toward } of Object.values(faces)) {
      const up = new Vector3(...down).negate()
      expect(new Vector3(...right).cross(up).distanceTo(new Vector3(...toward))).toBe(0)
    }
  })

  it.each(sides)('puts places where its pictures do: %s', (face) => {
    planMemory.face = face
    const flat = usePlanCamera(width, height)
    const camera = flat.camera()
    const screen: Screen = { element, camera, normal: flat.face.value.toward, width: 400, height: 300 }
    for (const at of [
      [2, 3, 4],
      [5, -1, 9],
      [-7, 6, 0.5],
    ] as Vec3[]) {
      const p = project(screen, at)!
      expect(p.x).toBeCloseTo(flat.x(at), 6)
      expect(p.y).toBeCloseTo(flat.y(at), 6)
      // And back: the place under that pixel, as deep as the place itself.
      const back = flat.under(element, { clientX: 50 + p.x, clientY: 20 + p.y }, at)
      expect(distance(back, at)).toBeLessThan(1e-9)
    }
    expect(pixel(screen, [2, 3, 4])).toBeCloseTo(0.1, 9)
  })

  it.each(sides)('leaves out what is above its cut: %s', (face) => {
    planMemory.face = face
    const flat = usePlanCamera(width, height)
    const depth = (at: Vec3) => new Vector3(...at).project(flat.camera()).z
    const toward = flat.face.value.toward
    const at = (d: number) => toward.map((v) => v * d) as Vec3
    expect(depth(at(20))).toBeGreaterThan(-1)
    expect(flat.ortho.userData.cut, 'nothing is cut through').toBe(false)
    planMemory.cut[face] = 3.2
    expect(depth(at(3.1))).toBeGreaterThan(-1)
    expect(depth(at(3.3)), 'before the near plane').toBeLessThan(-1)
    expect(flat.ortho.userData.cut).toBe(true)
    planMemory.middle = [9, 9, 9] // what is shown besides does not move the cut
    expect(depth(at(3.1))).toBeGreaterThan(-1)
    expect(depth(at(3.3))).toBeLessThan(-1)
    planOf(`scene of ${face}`)
    expect(planMemory.cut[face], 'another scene begins with all of its set').toBeNull()
    planMemory.cut[face] = 1
    planOf(`scene of ${face}`)
    expect(planMemory.cut[face]).toBe(1)
    planMemory.cut[face] = null
  })

  it('tells bearings clockwise from up', () => {
    const flat = usePlanCamera(width, height)
    expect(flat.bearing([0, 0, -1])).toBeCloseTo(0)
    expect(flat.bearing([1, 0, 0])).toBeCloseTo(90)
    planMemory.face = 'front'
    expect(flat.bearing([0, 1, 0])).toBeCloseTo(0)
    expect(flat.bearing([-1, 0, 0])).toBeCloseTo(-90)
  })

  it('draws lines in pixels', () => {
    const flat = usePlanCamera(width, height)
    expect(flat.line([2, 0, 4, 3, 0, 4])).toBe('M200.0 150.0L210.0 150.0')
  })
})

describe('places and ways', () => {
  it('adds, subtracts and rounds', () => {
    expect(add([1, 2, 3], [1, 1, 1], 2)).toEqual([3, 4, 5])
    expect(less([1, 2, 3], [3, 2, 1])).toEqual([-2, 0, 2])
    expect(tidy([1.00004, -0.12345, 2])).toEqual([1, -0.1235, 2])
    expect(axesOf(null)[1]).toEqual([0, 1, 0])
    const at = pointer({ element } as Screen, { clientX: 50, clientY: 320 })
    expect([at.x, at.y]).toEqual([-1, -1])
  })
  it('says a way by the axes along which it goes', () => {
    expect(words([1.5, 0, -0.25])).toBe('X +1.50  Z −0.25 m')
    expect(words([0, 0, 0])).toBe('0 m')
    expect(signed(-2, 0)).toBe('−2')
  })
})
