// A box that is drawn over a view, and what stands inside it.
import { ref, type Ref } from 'vue'
import { core, type Vec3 } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useStage } from './stage'

/** A box in pixels, from the upper left corner of its view. */
export interface Box {
  x0: number
  y0: number
  x1: number
  y1: number
}

export function useBox(root: Ref<HTMLElement | null>) {
  const scene = useScene()
  const view = useView()
  const stage = useStage()
  const box = ref<Box | null>(null)

  /** Draws it between two places of the pointer. */
  function draw(a: PointerEvent, to: PointerEvent) {
    const b = root.value!.getBoundingClientRect()
    const [x, y] = [a.clientX - b.x, a.clientY - b.y]
    const [u, v] = [to.clientX - b.x, to.clientY - b.y]
    box.value = { x0: Math.min(x, u), y0: Math.min(y, v), x1: Math.max(x, u), y1: Math.max(y, v) }
  }
  /** Takes the box away, and returns it. */
  function take(): Box {
    const drawn = box.value!
    box.value = null
    return drawn
  }
  /**
   * Selects what can be reached and stands inside a box, of the set what lies in it as a whole.
   * `place` says where a place is in the view, if it is.
   */
  function choose({ x0, y0, x1, y1 }: Box, place: (at: Vec3) => { x: number; y: number } | null) {
    const holds = (at: Vec3) => {
      const p = place(at)
      return !!p && p.x >= x0 && p.x <= x1 && p.y >= y0 && p.y <= y1
    }
    const inside = Object.entries(scene.doc.nodes).filter(([id, n]) => {
      const at = view.grabs(id) && n.kind !== 'group' ? stage.position(id)?.toArray() : null
      return at && holds(at) && (n.kind !== 'set' || cornersOf(id).every(holds))
    })
    view.selectNodes(inside.map(([id]) => id))
  }
  /** The corners of the box around a thing. */
  function cornersOf(id: string): Vec3[] {
    const e = core.extent([id])
    if (!e) return []
    return [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [0, 1, 2].map((k) => ((i >> k) & 1 ? e.max : e.min)[k]!) as Vec3)
  }
  return { box, draw, take, choose }
}
