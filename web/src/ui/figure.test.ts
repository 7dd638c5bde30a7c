import { describe, expect, it } from 'vitest'
import { arithmetic, readFigure } from './figure'

describe('arithmetic', () => {
  it.each([
    ['1+2*3', 7],
    ['(1+2)*3', 9],
    ['-4/2', -2],
    ['2--1', 3],
    ['.5*4', 2],
    ['1e3', 1000],
  ])('%s is %d', (text, want) => expect(arithmetic(text)).toBe(want))
  it.each(['', '1+', '2 apples', '(1', '1)', '*2', 'alert(1)'])('%s is nothing', (text) =>
    expect(arithmetic(text)).toBeNull(),
  )
})

describe('figures', () => {
  it.each([
    ['2.5', 'm', 2.5],
    ['2,5', 'm', 2.5],
    ['250mm', 'm', 0.25],
    ['1m+20cm', 'm', 1.2],
    ['6ft', 'm', 1.8288],
    ['6ft+3in', 'ft', 6.25],
    ['1.8288m', 'ft', 6],
    ['3s', 'f', 72],
    ['24f', 'f', 24],
    ['35', 'mm', 35],
    ['3.5cm', 'mm', 35],
    ['30°', '°', 30],
    ['+10', 'm', 18],
    ['*1.5', 'm', 12],
    ['-3', 'm', -3],
  ])('%s in %s is %d where 8 was', (text, unit, want) => expect(readFigure(text, 8, unit, 24)).toBeCloseTo(want, 9))
  it.each(['fifty', '1/0', '', '2kg'])('%s is refused', (text) => expect(readFigure(text, 8, 'm', 24)).toBeNull())
})
