// Dragging a block of a row in time, or one of its edges.
import { computed } from 'vue'
import type { Operation } from '@/core/bridge'
import { useEditDrag } from '@/ui/useEditDrag'

export type Edge = 'in' | 'out' | ''

/** Edges are this wide in pixels. */
export const edgeWidth = 7
/** A number of frames with its sign. */
export const signed = (n: number) => `${n > 0 ? '+' : n < 0 ? '−' : '±'}${Math.abs(n)}f`

export function useBlockDrag(perPixel: () => number) {
  const drag = useEditDrag()

  /** Begins at a block; the pointer's place in it decides whether an edge is meant. */
  function begin(e: PointerEvent, means: (edge: Edge, by: number) => Operation, edges = true) {
    const el = e.currentTarget as HTMLElement
    const b = el.getBoundingClientRect()
    const near = Math.min(edgeWidth, b.width / 3)
    let edge: Edge = ''
    if (edges && e.clientX - b.x < near) edge = 'in'
    else if (edges && b.right - e.clientX < near) edge = 'out'
    drag.begin(e, el, (to) => {
      const by = Math.round((to.clientX - e.clientX) * perPixel())
      return by ? { ...means(edge, by), text: signed(by) } : null
    })
  }
  return { begin, told: computed(() => drag.told.value?.text ?? '') }
}
