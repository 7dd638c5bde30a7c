// Dragging a block of a row in time, or one of its edges.
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import type { Operation } from '@/core/bridge'
import { useScene } from '@/stores/scene'

export type Edge = 'in' | 'out' | ''
interface Drag {
  x: number
  edge: Edge
  by: number
  means: (edge: Edge, by: number) => Operation
}

/** Edges are this wide in pixels. */
export const edgeWidth = 7

export function useBlockDrag(perPixel: () => number) {
  const scene = useScene()
  const told = ref('')
  let drag: Drag | null = null

  /** Begins at a block; the pointer's place in it decides whether an edge is meant. */
  function begin(e: PointerEvent, means: Drag['means'], edges = true) {
    if (e.button !== 0) return
    e.stopPropagation()
    const el = e.currentTarget as HTMLElement
    const b = el.getBoundingClientRect()
    const near = Math.min(edgeWidth, b.width / 3)
    let edge: Edge = ''
    if (edges && e.clientX - b.x < near) edge = 'in'
    else if (edges && b.right - e.clientX < near) edge = 'out'
    drag = { x: e.clientX, edge, by: 0, means }
    el.setPointerCapture(e.pointerId)
  }
  function move(e: PointerEvent) {
    if (!drag) return
    drag.by = Math.round((e.clientX - drag.x) * perPixel())
    told.value = drag.by ? `${drag.by > 0 ? '+' : '−'}${Math.abs(drag.by)} f` : ''
    const o = drag.means(drag.edge, drag.by)
    scene.preview(o.name, o.args)
  }
  function up() {
    if (!drag) return
    const { edge, by, means } = drag
    end()
    if (!by) return
    const o = means(edge, by)
    scene.run(o.name, o.args)
  }
  function end() {
    drag = null
    told.value = ''
    scene.cancel()
  }
  useEventListener(window, 'pointermove', move)
  useEventListener(window, 'pointerup', up)
  useEventListener(window, 'pointercancel', () => drag && end())
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (e.key !== 'Escape' || !drag) return
      end()
      e.stopPropagation()
    },
    { capture: true },
  )
  return { begin, told }
}
