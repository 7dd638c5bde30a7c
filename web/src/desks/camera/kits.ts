// Lens kits as they are written: focal lengths and zooms, one after the other.
import type { Kit } from '@/core/bridge'

export const lensesOf = (k: Kit | undefined) =>
  [...(k?.primes ?? []), ...(k?.zooms ?? []).map((z) => `${z[0]}–${z[1]}`)].join(', ')

/** Reads a list of lenses; the sentence says what is wrong with it. */
export function readLenses(text: string): { primes: number[]; zooms: [number, number][]; wrong: string } {
  const primes: number[] = []
  const zooms: [number, number][] = []
  for (const part of text.split(/[,;\n]+/).map((p) => p.trim())) {
    if (!part) continue
    const ends = part
      .replace(/mm$/, '')
      .split(/\s*[–—-]\s*/)
      .map(Number)
    if (ends.some((v) => !(v >= 1)) || ends.length > 2) {
      const wrong = `“${part}” is neither a focal length such as 35 nor a zoom such as 24–70.`
      return { primes, zooms, wrong }
    }
    if (ends.length === 2) zooms.push([ends[0]!, ends[1]!])
    else primes.push(ends[0]!)
  }
  return { primes: primes.sort((a, b) => a - b), zooms, wrong: '' }
}
