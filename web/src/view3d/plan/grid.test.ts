import { expect, it } from 'vitest'
import { gridStep, multiples } from './grid'

it('a grid has lines that can be told apart, and says its measure', () => {
  expect(gridStep(15)).toBe(5)
  expect(gridStep(100)).toBe(0.5)
  expect(gridStep(1.2)).toBe(50)
  expect(gridStep(0.01)).toBe(500)
  expect(multiples(-3, 8, 2)).toEqual([-2, 0, 2, 4])
  expect(multiples(0.1, 0.5, 2)).toEqual([])
})
