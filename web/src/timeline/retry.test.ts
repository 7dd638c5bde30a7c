// What could not be had once is asked for again.
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { drawPortrait, portrait } from '@/view3d/portraits'
import { peaksOf } from './peaks'

beforeEach(() => {
  vi.useFakeTimers()
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('peaks of a sound', async () => {
  let there = false
  vi.stubGlobal('fetch', async () => new Response(new Int8Array([1, 2]).buffer, { status: there ? 200 : 500 }))
  expect(peaksOf('a')).toBeNull()
  await vi.advanceTimersByTimeAsync(100)
  there = true
  expect(peaksOf('a')).toBeNull()
  await vi.advanceTimersByTimeAsync(6000)
  peaksOf('a')
  await vi.advanceTimersByTimeAsync(100)
  expect(peaksOf('a')).toEqual(new Int8Array([1, 2]))
})

it('portraits, and one that fails holds up no other', async () => {
  let asked = 0
  vi.stubGlobal('fetch', async () => {
    asked++
    throw new TypeError('away')
  })
  drawPortrait('model x')
  drawPortrait('cast slim')
  await vi.advanceTimersByTimeAsync(200)
  expect(asked).toBe(1)
  expect(portrait('cast slim')).toMatch(/^data:/)
  await vi.advanceTimersByTimeAsync(6000)
  expect(asked).toBe(2)
})
