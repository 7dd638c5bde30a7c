// How dragged nodes follow the pointer: one operation of the core for all of
// them, lined up with what stands near.
import { core, type Hint, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useView } from '@/stores/view'
import { less, pixel, tidy, type Screen } from './screen'
import type { Told } from '@/ui/useEditDrag'
import { inWords, shownUnit } from '@/ui/lengths'

/** How near in pixels something must be to be lined up with. */
const reach = 8

export function useMoving() {
  const view = useView()
  const head = usePlayhead()
  const base = () => ({ frame: head.story, key: view.autoKey })

  /** Moves nodes by a way; `free` leaves snapping out. */
  function by(s: Screen, nodes: string[], from: Vec3, to: Vec3, free: boolean): Told {
    let way = less(to, from)
    let hints: Hint[] = []
    if (!free) {
      const snapped = core.snap(nodes, way, pixel(s, to) * reach, view.grid)
      way = snapped.by
      hints = snapped.hints
    }
    way = tidy(way)
    return { name: 'move', args: { ...base(), ids: nodes, by: way }, text: words(way), hints }
  }
  return { by, base }
}

/** A way in words: only the axes along which it goes. */
export function words(way: Vec3): string {
  const parts = ['X', 'Y', 'Z'].flatMap((a, i) => (way[i] ? [`${a} ${signed(way[i]! * shownUnit('m').factor)}`] : []))
  return parts.length ? `${parts.join('  ')} ${shownUnit('m').unit}` : inWords(0, 0)
}
export const signed = (v: number, digits = 2) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`
