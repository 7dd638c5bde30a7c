import { describe, expect, it } from 'vitest'
import { fanned, labelled, type Box } from './apart'

const least = (dots: { x: number; y: number }[]) =>
  Math.min(...dots.flatMap((a, i) => dots.slice(i + 1).map((b) => Math.hypot(a.x - b.x, a.y - b.y))))

describe('cameras on a plan', () => {
  it('fan out when they lie on each other, and stay near', () => {
    const heap = Array.from({ length: 9 }, (_, i) => ({ x: 100 + (i % 3), y: 100 + (i % 2) }))
    const out = fanned(heap, 20)
    expect(least(out)).toBeGreaterThan(19)
    for (const [i, d] of out.entries()) expect(Math.hypot(d.x - heap[i]!.x, d.y - heap[i]!.y)).toBeLessThan(60)
    expect(fanned(heap, 20)).toEqual(out) // every time the same
  })
  it('stay where they are when nothing is in their way', () => {
    const apart = [
      { x: 0, y: 0 },
      { x: 30, y: 0 },
      { x: -400, y: 9 },
    ]
    expect(fanned(apart, 20)).toEqual(apart)
    const one = fanned([...apart, { x: 31, y: 2 }], 20)
    expect(one[0]).toEqual(apart[0])
    expect(one[2]).toEqual(apart[2])
  })
  it('a thousand that stand apart are left alone', () => {
    const heap = Array.from({ length: 1000 }, (_, i) => ({ x: (i % 40) * 25, y: Math.floor(i / 40) * 25 }))
    expect(fanned(heap, 20)).toEqual(heap)
  })
})

describe('names on a plan', () => {
  const box = (at: { x: number; y: number }, width: number): Box => ({
    x: at.x - width / 2,
    y: at.y - 11,
    width,
    height: 13,
  })
  it('cover neither each other nor what is there', () => {
    const names = Array.from({ length: 6 }, (_, i) => ({ x: 50 + 4 * i, y: 60, width: 40 }))
    const taken = names.map((n) => ({ x: n.x - 6, y: n.y - 6, width: 12, height: 12 }))
    const out = labelled(names, taken)
    const boxes = out.map((at) => box(at!, 40))
    expect(out.every(Boolean)).toBe(true)
    for (const [i, a] of boxes.entries())
      for (const b of [...boxes.slice(i + 1), ...taken])
        expect(a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height).toBe(false)
    expect(out[0]).toEqual({ x: 50, y: 51 }) // the first is above its place
  })
  it('are left out where there is no room', () => {
    expect(labelled([{ x: 0, y: 0, width: 10 }], [{ x: -500, y: -500, width: 1000, height: 1000 }])).toEqual([null])
  })
})
