// The shots of a lane that lie in a stretch of screen time.
import type { CutShot, Shot } from '@/core/bridge'
import { shotColor, type useScene } from '@/stores/scene'

export interface Seen {
  id: string
  s: Shot
  cue: boolean
  /** Its camera's. */
  color: string
}

/** The index of the first shot that ends after a frame. */
function firstAfter(all: Record<string, Shot>, shots: CutShot[], from: number): number {
  let [lo, hi] = [0, shots.length]
  while (lo < hi) {
    const mid = (lo + hi) >> 1
    if (((shots[mid]!.cue ?? all[shots[mid]!.id])?.screenOut ?? 0) > from) hi = mid
    else lo = mid + 1
  }
  return lo
}

/** Shots in order that are in sight; looks no further than it has to. */
export function visibleShots(scene: ReturnType<typeof useScene>, shots: CutShot[], from: number, to: number): Seen[] {
  const all = scene.doc.shots
  const colors = scene.colors
  const out: Seen[] = []
  for (let i = firstAfter(all, shots, from); i < shots.length; i++) {
    const c = shots[i]!
    const s = c.cue ?? all[c.id]
    if (!s) continue
    if (s.screenIn > to) break
    out.push({ id: c.id, s, cue: !!c.cue, color: shotColor(colors, s) })
  }
  return out
}

/** Where nothing plays: before which shot, and after which one, if there is one. */
export interface Gap {
  in: number
  out: number
  before: string
  after: string
}

/** Gaps before shots that reach into what is in sight, also where no shot is. */
export function visibleGaps(scene: ReturnType<typeof useScene>, shots: CutShot[], from: number, to: number): Gap[] {
  const all = scene.doc.shots
  const first = firstAfter(all, shots, from)
  const out: Gap[] = []
  let before = shots[first - 1]?.id ?? ''
  let end = all[before]?.screenOut ?? 0
  for (let i = first; i < shots.length && end < to; i++) {
    const { id, cue } = shots[i]!
    const s = cue ?? all[id]
    if (!s) continue
    if (!cue && s.screenIn > Math.max(end, from)) out.push({ in: end, out: s.screenIn, before, after: id })
    end = s.screenOut
    before = id
  }
  return out
}
