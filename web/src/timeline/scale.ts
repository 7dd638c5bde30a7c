// The stretch of a clock that the strip shows, and how frames become pixels.
import { reactive } from 'vue'

export interface Span {
  from: number
  to: number
}
/** The spans kept for the clocks of a scene; null until one has been chosen. */
export const keptSpans = reactive<{ scene: string; story: Span | null; screen: Span | null }>({
  scene: '',
  story: null,
  screen: null,
})

/** Where a row has many blocks, those of fewer pixels are painted and not elements of their own. */
export const narrowest = (blocks: number) => (blocks > 100 ? 12 : 0)

/** Frames between labelled ticks, so that labels keep apart. */
export function tickStep(framesPerPixel: number, rate: number): number {
  const second = Math.round(rate)
  const steps = [
    1,
    2,
    5,
    10,
    second,
    2 * second,
    5 * second,
    10 * second,
    30 * second,
    60 * second,
    300 * second,
    600 * second,
  ]
  return steps.find((s) => s / framesPerPixel >= 74) ?? 3600 * second
}

/** The candidate nearest to a frame within a reach in frames, or the frame. */
export function snapTo(frame: number, candidates: number[], reach: number): number {
  let best = frame
  let distance = reach
  for (const c of candidates) {
    const d = Math.abs(c - frame)
    if (d < distance) [best, distance] = [c, d]
  }
  return best
}
