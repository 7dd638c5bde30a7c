import { describe, expect, it } from 'vitest'
import { fit } from '../view3d/useStageView'
import { snapTo, tickStep } from './scale'

describe('the ruler', () => {
  it('labels whole frames, seconds or minutes so that labels keep apart', () => {
    expect(tickStep(0.01, 24)).toBe(1)
    expect(tickStep(0.3, 24)).toBe(24)
    expect(tickStep(1, 24)).toBe(120)
    for (const f of [0.01, 0.1, 0.5, 1, 7, 40]) expect(tickStep(f, 24) / f).toBeGreaterThanOrEqual(74)
  })
  it('snaps to the nearest candidate in reach', () => {
    expect(snapTo(100, [90, 104, 97], 6)).toBe(97)
    expect(snapTo(100, [90, 110], 6)).toBe(100)
  })
})

describe('the picture in its pane', () => {
  it('is as large as fits, in the middle', () => {
    expect(fit(1000, 1000, 2)).toEqual({ x: 0, y: 250, width: 1000, height: 500 })
    expect(fit(1000, 200, 2)).toEqual({ x: 300, y: 0, width: 400, height: 200 })
  })
})
