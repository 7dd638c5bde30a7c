// How lengths are shown: the document has metres, a scene may show feet.
import { ref } from 'vue'

const metresInFoot = 0.3048

/** The unit that the open scene shows. */
export const lengthUnit = ref<'m' | 'ft'>('m')

/** A field's unit as it is shown, and how many of that are one of its own. */
export function shownUnit(unit: string): { unit: string; factor: number } {
  if (lengthUnit.value === 'm' || (unit !== 'm' && unit !== 'm/s')) return { unit, factor: 1 }
  return { unit: unit.replace('m', 'ft'), factor: 1 / metresInFoot }
}

/** Metres in words. */
export function inWords(metres: number, digits = 2, unit: 'm' | 'm/s' = 'm'): string {
  const shown = shownUnit(unit)
  return `${(metres * shown.factor).toFixed(digits)} ${shown.unit}`
}

/** Several metres in words, with the unit once. */
export function allInWords(metres: number[], between: string): string {
  const shown = shownUnit('m')
  return `${metres.map((v) => (v * shown.factor).toFixed(2)).join(between)} ${shown.unit}`
}
