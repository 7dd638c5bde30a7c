// Finds things by a few letters: what is written at the beginning of a word counts
// most, then what stands in one, then letters that follow one another in it.

export interface Findable {
  id: string
  kind: string
  name: string
  /** What else it is found by, such as its number. */
  also?: string
  /** The key of a command. */
  key?: string
  color?: string
  go: () => void
}

/** How well a word that was typed fits a text, 0 for not at all. */
function fit(typed: string, text: string): number {
  const at = text.indexOf(typed)
  if (at === 0) return 8
  if (at > 0) return /[\s·,(]/.test(text[at - 1]!) ? 6 : 3
  let i = 0
  for (const c of text) if (c === typed[i]) i++
  // Letters that are far apart would find everything.
  return i === typed.length && typed.length > 1 && typed.length * 3 >= text.length ? 1 : 0
}

/** The best findables for what was typed, best first; of equals the shorter name. */
export function find(all: Findable[], typed: string, most: number): Findable[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const found: { f: Findable; score: number }[] = []
  for (const f of all) {
    const name = f.name.toLowerCase()
    const also = `${f.also ?? ''} ${f.kind}`.toLowerCase()
    let score = 0
    for (const w of words) {
      const best = Math.max(2 * fit(w, name), fit(w, also))
      if (!best) {
        score = 0
        break
      }
      score += best
    }
    if (score) found.push({ f, score })
  }
  return found
    .sort((a, b) => b.score - a.score || a.f.name.length - b.f.name.length || a.f.name.localeCompare(b.f.name))
    .slice(0, most)
    .map((x) => x.f)
}
