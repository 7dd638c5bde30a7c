// The grid that lies under a plan.

/** The measure of a grid, in metres, whose lines are at least some pixels apart. */
export function gridStep(scale: number, least = 44): number {
  const steps = [0.5, 1, 2, 5, 10, 20, 50, 100, 200]
  return steps.find((s) => s * scale >= least) ?? 500
}

/** The multiples of a step from a place on, over a length. */
export function multiples(from: number, length: number, step: number): number[] {
  const first = Math.ceil(from / step)
  const last = Math.floor((from + length) / step)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => (first + i) * step)
}
