// The background of plan and elevations: it is dragged to pan, with Shift to select by a
// box, and pressed to select, place, measure or draw.
import type { Ref } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { useArranging } from '@/stores/arranging'
import { useView } from '@/stores/view'
import { useDrag } from '@/ui/useDrag'
import { usePinch } from '@/ui/usePinch'
import { about } from '../about'
import { pointer, type Screen } from '../screen'
import { useStage } from '../stage'
import { useBox, type Box } from '../useBox'
import { usePlacing } from '../usePlacing'
import type { useDrawing } from './useDrawing'
import type { usePlanCamera } from './usePlanCamera'

export function useBackground(
  root: Ref<HTMLElement | null>,
  screen: Ref<Screen | null>,
  flat: ReturnType<typeof usePlanCamera>,
  drawing: ReturnType<typeof useDrawing>,
  places: Ref<{ press(e: PointerEvent): void; hover(e: PointerEvent): void } | null>, // of a match, while one is made
) {
  const view = useView()
  const stage = useStage()
  const arranging = useArranging()
  const placing = usePlacing(() => screen.value)
  const { area, face } = flat
  const under = (e: { clientX: number; clientY: number }) => flat.under(root.value!, e)
  const { box, ...boxing } = useBox(root)
  const hold = useDrag()
  function down(e: PointerEvent) {
    if (view.drawing) return drawing.press(e, root.value!)
    if ((view.placing && !view.scattering) || view.measuring) return
    const from: Vec3 = [...area.middle]
    const boxed = e.shiftKey || view.scattering
    hold.begin(e, root.value!, {
      move(to) {
        if (boxed) boxing.draw(e, to)
        else pan(from, to.clientX - e.clientX, to.clientY - e.clientY)
      },
      drop: () => boxed && chooseBox(),
      click(to) {
        if (places.value) return places.value.press(to)
        if (view.scattering) return
        const hit = stage.pick(pointer(screen.value!, to), flat.ortho, view.outOfReach)
        if (e.shiftKey && hit) view.toggle(hit.node)
        else view.select('nodes', hit?.node ?? '')
      },
      abandon() {
        box.value = null
        if (!boxed) pan(from, 0, 0)
      },
    })
  }
  function pan(from: Vec3, x: number, y: number) {
    const { right, down } = face.value
    const [dx, dy] = [x / area.scale, y / area.scale]
    area.middle = from.map((v, i) => v - right[i]! * dx - down[i]! * dy) as Vec3
    stage.invalidate()
  }
  function move(e: PointerEvent) {
    if (view.placing && !view.scattering) placing.hover(e)
    else if (view.measuring) placing.stretch(e)
    else if (view.drawing) drawing.hover(e)
    else places.value?.hover(e)
  }
  /** Selects what is inside the box, or scatters what is placed over it. */
  function chooseBox() {
    const drawn = boxing.take()
    if (view.scattering) return scatter(drawn)
    boxing.choose(drawn, (at) => ({ x: flat.x(at), y: flat.y(at) }))
  }
  /** Scatters what is placed over a box on the plan, given in pixels. */
  function scatter({ x0, y0, x1, y1 }: Box) {
    const b = root.value!.getBoundingClientRect()
    const corner: [Vec3, Vec3] = [
      under({ clientX: b.x + x0, clientY: b.y + y0 }),
      under({ clientX: b.x + x1, clientY: b.y + y1 }),
    ]
    arranging.scatter({ corner })
  }
  function click(e: MouseEvent) {
    if (view.scattering) return
    if (view.placing) placing.put(e)
    else if (view.measuring) placing.measure(e)
    else drawing.add(e)
  }
  /** Shows so many times more, about a place of the pointer. */
  function zoom(times: number, at: { clientX: number; clientY: number }) {
    const before = under(at)
    area.scale = Math.max(1.2, Math.min(160, area.scale * times))
    const after = under(at)
    area.middle = area.middle.map((v, i) => v + before[i]! - after[i]!) as Vec3
    stage.invalidate()
  }
  usePinch(root, zoom)
  /** Shows what the scene is about. */
  function showAll() {
    const around = about()
    if (!around) return
    const { right, down } = face.value
    const size = around.max.map((v, i) => v - around.min[i]!) as Vec3
    const length = (d: Vec3) => d.reduce((sum, v, i) => sum + Math.abs(v) * size[i]!, 0) * 1.25 + 2
    area.middle = around.min.map((v, i) => v + size[i]! / 2) as Vec3
    const { clientWidth, clientHeight } = root.value!
    area.scale = Math.max(1.2, Math.min(160, clientWidth / length(right), clientHeight / length(down)))
    stage.invalidate()
  }
  return { box, placing, down, move, click, zoom, showAll }
}
