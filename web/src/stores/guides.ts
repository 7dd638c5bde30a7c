// What is laid over the lens view's picture, kept from visit to visit.
import { useLocalStorage } from '@vueuse/core'

export const guideNames = {
  mask: 'gate mask',
  action: 'action safe',
  title: 'title safe',
  shapes: 'other shapes',
  thirds: 'thirds',
  centre: 'centre',
  diagonals: 'diagonals',
  horizon: 'horizon and roll',
  angles: 'field of view',
  boxes: 'subjects',
  sharp: 'sharp zone',
} as const
export type Guide = keyof typeof guideNames

const first: Record<Guide, boolean> = {
  mask: true,
  action: true,
  title: false,
  shapes: false,
  thirds: true,
  centre: true,
  diagonals: false,
  horizon: false,
  angles: true,
  boxes: false,
  sharp: false,
}
const kept = useLocalStorage('proscen.guides', first, { mergeDefaults: true })

export const useGuides = () => kept
