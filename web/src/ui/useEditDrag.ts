// A drag that means an operation: it is previewed through the core while the drag
// lasts, and done when the pointer is let go.
import { ref } from 'vue'
import type { Hint, Operation } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useDrag } from './useDrag'

/** What a drag means, and the amount that is shown beside the pointer. */
export type Told = Operation & { text: string; hints?: Hint[] }

export function useEditDrag() {
  const scene = useScene()
  const drag = useDrag()
  const told = ref<{ x: number; y: number; text: string } | null>(null)
  const hints = ref<Hint[]>([])

  /**
   * Begins a drag over an element. What it means follows from the pointer, null for
   * nothing; `click` runs when the pointer has not moved, `ended` in any case.
   */
  function begin(
    e: PointerEvent,
    over: Element,
    means: (e: PointerEvent) => Told | null,
    { click, ended }: { click?: () => void; ended?: () => void } = {},
  ) {
    function end() {
      told.value = null
      hints.value = []
      ended?.()
      scene.cancel()
    }
    drag.begin(e, over, {
      move(e) {
        const t = means(e)
        if (!t) {
          told.value = null
          hints.value = []
          scene.cancel()
          return
        }
        scene.preview(t.name, t.args)
        const b = over.getBoundingClientRect()
        told.value = { x: e.clientX - b.x + 14, y: e.clientY - b.y - 10, text: t.text }
        hints.value = t.hints ?? []
      },
      drop(e) {
        const t = means(e)
        end()
        if (t) scene.run(t.name, t.args)
      },
      click() {
        end()
        click?.()
      },
      abandon: end,
    })
  }
  return { begin, abandon: drag.abandon, dragging: drag.dragging, told, hints }
}
