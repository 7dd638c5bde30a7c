// Putting things into the scene with the pointer, on the surface under it; and
// the measuring tape, which finds places the same way.
import type { Vec3 } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView, type Placing } from '@/stores/view'
import { onPlane, pointer, tidy, type PointerLike, type Screen } from './screen'
import { useStage } from './stage'

/** What is dragged over from the stock, in the drag's data. */
export const dragType = 'text/x-proscen-stock'
let carried: Placing | null = null
/** Notes what a drag from the stock carries; its data cannot be read before it is dropped. */
export function carryFromStock(p: Placing | null) {
  carried = p
}

export function usePlacing(screen: () => Screen | null) {
  const scene = useScene()
  const view = useView()
  const stage = useStage()
  let shown = false

  /** The place under the pointer: on what is there, or else on the ground. */
  function surface(e: PointerLike): Vec3 | null {
    const s = screen()
    if (!s) return null
    const hit = stage.pick(pointer(s, e), s.camera)
    return hit?.at ?? onPlane(stage, s, e, [0, 0, 0], s.normal)
  }
  function args(p: Placing, at: Vec3, free: boolean): object {
    const snap = (v: number) => (free ? +v.toFixed(3) : +(Math.round(v / view.grid) * view.grid).toFixed(3))
    const position: Vec3 = [snap(at[0]), +(at[1] + (p.lift ?? 0)).toFixed(3), snap(at[2])]
    return { kind: p.kind, stock: p.stock, model: p.model, build: p.build, name: p.name, position }
  }
  function show(p: Placing, e: PointerLike & { altKey: boolean }) {
    scene.cancel() // so that the surface is not that of the thing itself
    const at = surface(e)
    if (at) shown = scene.preview('stockPlace', args(p, at, e.altKey))
  }
  function leave() {
    if (shown) scene.cancel()
    shown = false
  }
  function place(p: Placing, e: PointerLike & { altKey: boolean }) {
    leave()
    const at = surface(e)
    if (at) placeAt(p, at, e.altKey)
  }
  /** Places something for good and selects it. */
  function placeAt(p: Placing, at: Vec3, free = false) {
    const made = scene.make('nodes', 'stockPlace', args(p, at, free)).find((id) => !scene.doc.nodes[id]!.parent)
    if (made) view.select('nodes', made)
  }
  return {
    surface,
    leave,
    placeAt,
    hover: (e: PointerEvent) => view.placing && show(view.placing, e),
    put: (e: MouseEvent) => view.placing && place(view.placing, e),
    carry: (e: DragEvent) => carried && show(carried, e),
    drop(e: DragEvent) {
      const p = carried
      carried = null
      if (p) place(p, e)
    },
    measure(e: MouseEvent) {
      const at = surface(e)
      if (!at) return
      const t = tidy(at, 3)
      if (!view.tape) {
        view.tape = { from: t, to: t }
        return
      }
      view.tape = { from: view.tape.from, to: t }
      view.measuring = false
      stage.invalidate()
    },
    stretch(e: PointerEvent) {
      if (!view.tape) return
      const at = surface(e)
      if (at) view.tape.to = tidy(at, 3)
      stage.invalidate()
    },
  }
}
