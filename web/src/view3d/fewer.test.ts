import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three'
import { expect, test } from 'vitest'
import { loadFewer } from './fewer'

const mesh = (g: BufferGeometry) => ({
  positions: g.attributes.position!.array as Float32Array,
  normals: g.attributes.normal!.array as Float32Array,
  indices: new Uint32Array(g.index!.array),
})

test('a ball has fewer triangles, nearly its size, and corners that it had', async () => {
  const fewer = await loadFewer()
  const ball = mesh(new SphereGeometry(1, 48, 32))
  const left = fewer(ball)
  expect(left.length % 3).toBe(0)
  expect(left.length).toBeLessThan(ball.indices.length / 4)
  expect(left.length).toBeGreaterThan(3 * 20)
  // Six times the volume between the triangles and the middle: for a ball of radius 1 it is 8π.
  const at = (i: number) => [...ball.positions.subarray(3 * left[i]!, 3 * left[i]! + 3)] as [number, number, number]
  let six = 0
  for (let i = 0; i < left.length; i += 3) {
    const [[a, b, c], [d, e, f], [g, h, k]] = [at(i), at(i + 1), at(i + 2)]
    six += a * (e * k - f * h) + b * (f * g - d * k) + c * (d * h - e * g)
  }
  expect(six / (8 * Math.PI)).toBeGreaterThan(0.85)
  expect(six / (8 * Math.PI)).toBeLessThan(1.001)
})

test('what is flat needs few, what has few stays, and edges of a wall stay where they are', async () => {
  const fewer = await loadFewer()
  const crate = mesh(new BoxGeometry(1, 1, 1))
  expect(fewer(crate)).toBe(crate.indices)
  const wall = mesh(new BoxGeometry(6, 3, 0.2, 24, 12, 1))
  const left = fewer(wall)
  expect(left.length).toBeLessThanOrEqual(wall.indices.length / 4)
  const corners = new Set(
    Array.from(left, (i) => [...wall.positions.subarray(3 * i, 3 * i + 3)].map((v) => v.toFixed(2)).join()),
  )
  for (const x of ['-3.00', '3.00'])
    for (const y of ['-1.50', '1.50']) expect([...corners].some((c) => c.startsWith(`${x},${y},`))).toBe(true)
})

test('far from its middle a mesh may be off by more', async () => {
  const fewer = await loadFewer()
  // Ripples of the same height on a floor near its middle and on one that lies 400 m away.
  const floor = (away: number) => {
    const g = mesh(new BoxGeometry(20, 0.01, 20, 40, 1, 40))
    for (let i = 0; i < g.positions.length; i += 3) {
      g.positions[i + 1]! += 0.4 * Math.sin(2 * g.positions[i]!) * Math.sin(2 * g.positions[i + 2]!)
      g.positions[i]! += away
    }
    return fewer(g).length
  }
  expect(floor(400)).toBeLessThan(floor(0) * 0.7)
})
