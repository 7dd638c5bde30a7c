import { expect, test, vi } from 'vitest'
import { Pace, whenDone } from './pace'

/** Which pictures are coarse when something changes at some moments. */
function pictures(p: Pace, ...moments: number[]) {
  return moments.map((t) => {
    p.ask(t)
    return p.coarse(t + 10)
  })
}

test('pictures are whole where the machine is quick, however much moves', () => {
  const p = new Pace()
  p.took(40)
  expect(pictures(p, 0, 16, 33, 50, 66)).not.toContain(true)
})

test('on a slow machine what moves is coarse from its second picture on, until it rests', () => {
  const p = new Pace()
  expect(p.atOnce).toBe(2)
  p.took(400)
  expect(p.atOnce).toBe(1)
  expect(pictures(p, 1000, 1100, 1200)).toEqual([false, true, true])
  expect(p.coarse(1549)).toBe(true)
  expect(p.coarse(1550)).toBe(false) // the picture of rest
  expect(pictures(p, 1851, 2450)).toEqual([false, true]) // changes come as late as pictures do
})

test('small pictures give way on a slow machine alone, until nothing has changed for a while', () => {
  const p = new Pace()
  p.took(40)
  p.ask(1000)
  expect(p.yields(1000)).toBe(0)
  p.took(400)
  expect([1000, 1300, 1799, 1800, 5000].map((t) => p.yields(t))).toEqual([800, 500, 1, 0, 0])
  p.ask(1790)
  expect(p.yields(1800)).toBe(790)
})

test('a machine between quick and slow stays what it was', () => {
  const p = new Pace()
  p.took(40)
  expect(pictures(p, 1000, 1050)).toEqual([false, false])
  p.took(51)
  expect(pictures(p, 2000, 2050)).toEqual([false, true])
  p.took(40)
  expect(pictures(p, 3000, 3050)).toEqual([false, true])
  p.took(24)
  expect(pictures(p, 4000, 4050)).toEqual([false, false])
  p.took(400)
  p.restart()
  expect(pictures(p, 5000, 5050)).toEqual([false, false])
})

test('what the graphics took is told once they are done, and at once where they are gone', async () => {
  let asked = 0
  const gl = {
    SIGNALED: 1,
    fenceSync: () => ({}),
    flush: () => {},
    isContextLost: () => false,
    isSync: () => true,
    getSyncParameter: () => Number(++asked > 3),
    deleteSync: () => {},
  } as unknown as WebGL2RenderingContext
  expect(await new Promise<number>((told) => whenDone(gl, told))).toBeGreaterThan(12)
  expect(asked).toBe(4)
  const lost = { ...gl, isContextLost: () => true } as unknown as WebGL2RenderingContext
  expect(await new Promise<number>((told) => whenDone(lost, told))).toBe(0)
})

test('graphics that were lost and are back, or never answer, hold nothing up', async () => {
  const never = {
    SIGNALED: 1,
    fenceSync: () => ({}),
    flush: () => {},
    isContextLost: () => false,
    isSync: () => true,
    getSyncParameter: () => null,
    deleteSync: () => {},
  } as unknown as WebGL2RenderingContext
  const back = { ...never, isSync: () => false } as unknown as WebGL2RenderingContext
  expect(await new Promise<number>((told) => whenDone(back, told))).toBe(0)
  vi.useFakeTimers()
  const told = vi.fn()
  whenDone(never, told)
  vi.advanceTimersByTime(9_900)
  expect(told).not.toHaveBeenCalled()
  vi.advanceTimersByTime(200)
  expect(told).toHaveBeenCalledOnce()
  vi.useRealTimers()
})
