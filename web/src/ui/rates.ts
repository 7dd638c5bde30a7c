/** Frames a second of a rate as the document writes it. */
export function perSecond(rate: string): number {
  const [n, d] = rate.split('/').map(Number)
  return n! / (d ?? 1)
}

/** A rate as people say it: 23.976, 29.97. */
export const rateName = (rate: string) => `${+perSecond(rate).toFixed(3)}`
