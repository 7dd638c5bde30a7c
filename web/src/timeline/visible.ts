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

/** Shots in order that are in sight; looks no further than it has to. */
export function visibleShots(scene: ReturnType<typeof useScene>, shots: CutShot[], from: number, to: number): Seen[] {
  const all = scene.doc.shots
  const colors = scene.colors
  let [lo, hi] = [0, shots.length]
  while (lo < hi) {
    const mid = (lo + hi) >> 1
    if (((shots[mid]!.cue ?? all[shots[mid]!.id])?.screenOut ?? 0) > from) hi = mid
    else lo = mid + 1
  }
  const out: Seen[] = []
  for (let i = lo; i < shots.length; i++) {
    const c = shots[i]!
    const s = c.cue ?? all[c.id]
    if (!s) continue
    if (s.screenIn > to) break
    out.push({ id: c.id, s, cue: !!c.cue, color: shotColor(colors, s) })
  }
  return out
}
