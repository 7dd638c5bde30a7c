// What a camera or a shot has framed for a format, in words.
import type { Reframe } from '@/core/bridge'

/** How much of what fits on the sensor is seen. */
export const amount = (scale?: number) =>
  scale && scale !== 1 ? `${Math.round(scale * 100)} % of the sensor` : 'all that fits'

/** What is framed, in a line; "" for nothing. */
export function inWords(r: Reframe): string {
  const out: string[] = []
  if (r.shift?.some((v) => v)) out.push(`${Math.round(r.shift[0] * 100)} % / ${Math.round(r.shift[1] * 100)} %`)
  if (r.scale) out.push(amount(r.scale))
  if (r.focal) out.push(`${Math.round(r.focal)} mm`)
  if (r.move?.some((v) => v)) out.push('from elsewhere')
  return out.join(' · ')
}
