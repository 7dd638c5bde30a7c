import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { useFlying } from './useFlying'

let way: [number, number, number]
let over: boolean
let flight: ReturnType<typeof useFlying>
let w: ReturnType<typeof mount>
beforeEach(() => {
  localStorage.clear()
  vi.useFakeTimers({ toFake: ['requestAnimationFrame', 'cancelAnimationFrame', 'performance'] })
  way = [0, 0, 0]
  over = true
  w = mount({
    template: '<input />',
    setup() {
      flight = useFlying(
        () => over,
        (...by) => by.forEach((v, i) => (way[i]! += v)),
      )
    },
  })
  document.body.append(w.element)
})
afterEach(() => {
  w.unmount()
  document.body.innerHTML = ''
  vi.useRealTimers()
})
const key = (type: string, key: string, more = {}, on: EventTarget = document.body) => {
  const e = new KeyboardEvent(type, { key, bubbles: true, cancelable: true, ...more })
  on.dispatchEvent(e)
  return e.defaultPrevented
}

it('goes as far as its speed says, in two directions at once, four times as fast with Shift', () => {
  expect(key('keydown', 'ArrowUp')).toBe(true)
  vi.advanceTimersByTime(1000)
  expect(way[2]).toBeGreaterThan(2.8)
  expect(way[2]).toBeLessThanOrEqual(3.1)
  key('keydown', 'ArrowLeft', { shiftKey: true })
  way = [0, 0, 0]
  vi.advanceTimersByTime(500)
  expect(way[0]).toBeLessThan(-5.5)
  expect(way[2]).toBeCloseTo(-way[0], 6)
  for (const k of ['ArrowUp', 'ArrowLeft']) key('keyup', k)
  expect(flight.flying.value).toBe(false)
  way = [0, 0, 0]
  vi.advanceTimersByTime(500)
  expect(way).toEqual([0, 0, 0])
})

it('leaves keys alone elsewhere, and while something is typed or meant otherwise', () => {
  over = false
  expect(key('keydown', 'ArrowUp')).toBe(false)
  over = true
  expect(key('keydown', 'ArrowUp', {}, w.element)).toBe(false)
  expect(key('keydown', 'ArrowUp', { ctrlKey: true })).toBe(false)
  expect(key('keydown', 'a')).toBe(false)
  expect(flight.flying.value).toBe(false)
})

it('has its speed set by the wheel while it flies, within bounds, and keeps it', () => {
  const turn = (deltaY: number) => flight.wheel(new WheelEvent('wheel', { deltaY, cancelable: true }))
  expect(turn(-100), 'nothing flies').toBe(false)
  key('keydown', 'PageUp')
  expect(turn(-300)).toBe(true)
  expect(flight.speed.value).toBe(5.47)
  turn(-1e6)
  expect(flight.speed.value).toBe(60)
  turn(1e6)
  expect(flight.speed.value).toBe(0.1)
  window.dispatchEvent(new Event('blur'))
  expect(flight.flying.value, 'keys that were let go elsewhere').toBe(false)
})
