// Selecting shots by a box that is drawn over lanes, from an empty place.
import { ref } from 'vue'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { presses, useDrag } from '@/ui/useDrag'

/** What a box has to know of the page that it is drawn on: its first frame, and how many frames a pixel is. */
interface Page {
  from: number
  perPixel: number
}

export function useShotBox(page: () => Page) {
  const scene = useScene()
  const view = useView()
  const drag = useDrag()
  /** Where the box is drawn, from the page's own corner. */
  const box = ref<{ left: string; top: string; width: string; height: string } | null>(null)

  /** Begins at a press on a lane where nothing lies. With Shift or Ctrl what is selected stays so. */
  function begin(e: PointerEvent) {
    const lane = e.target as HTMLElement
    if (!presses(e) || lane.dataset.lane === undefined) return
    const around = e.currentTarget as HTMLElement
    const lanes = [...around.querySelectorAll<HTMLElement>('[data-lane]')]
    const kept = e.shiftKey || e.ctrlKey || e.metaKey ? view.shots : []
    drag.begin(e, lane, {
      move(to) {
        const [left, right] = [Math.min(e.clientX, to.clientX), Math.max(e.clientX, to.clientX)]
        const [top, bottom] = [Math.min(e.clientY, to.clientY), Math.max(e.clientY, to.clientY)]
        const corner = around.getBoundingClientRect()
        box.value = {
          left: `${left - corner.left}px`,
          top: `${top - corner.top}px`,
          width: `${right - left}px`,
          height: `${bottom - top}px`,
        }
        const { from, perPixel } = page()
        const first = lane.getBoundingClientRect().left // the page's first frame is there
        const [begins, ends] = [from + (left - first) * perPixel, from + (right - first) * perPixel]
        const met = lanes.flatMap((l) => {
          const b = l.getBoundingClientRect()
          return b.bottom > top && b.top < bottom ? meeting(l.dataset.lane!, begins, ends) : []
        })
        view.selectShots([...new Set([...kept, ...met])])
      },
      drop: end,
      abandon() {
        end()
        view.selectShots(kept)
      },
    })
  }
  /** The shots of a lane that meet a stretch of screen time. */
  function meeting(lane: string, from: number, to: number) {
    const shots = lane === scene.cut.lane ? scene.cut.shots : scene.cut.spares.find((l) => l.id === lane)?.shots
    return (shots ?? []).flatMap(({ id }) => {
      const s = scene.doc.shots[id]
      return s && s.screenIn < to && s.screenOut > from ? [id] : []
    })
  }
  const end = () => (box.value = null)
  return { begin, box }
}
