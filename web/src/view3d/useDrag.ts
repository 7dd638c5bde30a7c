// One drag over a view: it previews an operation through the core while it
// lasts, is done when the pointer is released, and Escape takes it back.
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import type { Hint, Operation } from '@/core/bridge'
import { useScene } from '@/stores/scene'

/** What a drag means: an operation, and the amount that is shown beside the pointer. */
export type Told = Operation & { text: string; hints?: Hint[] }
type Follow = (e: PointerEvent) => Told | null

export function useDrag() {
  const scene = useScene()
  const told = ref<{ x: number; y: number; text: string } | null>(null)
  const hints = ref<Hint[]>([])
  const dragging = ref(false)
  let follow: Follow | null = null
  let element: HTMLElement | null = null
  let start = { x: 0, y: 0 }
  let moved = false
  let clicked: (() => void) | undefined

  /** Begins a drag over an element; `click` runs when the pointer did not move. */
  function begin(e: PointerEvent, over: HTMLElement, how: Follow, click?: () => void) {
    if (e.button !== 0) return
    e.stopPropagation()
    e.preventDefault()
    follow = how
    element = over
    start = { x: e.clientX, y: e.clientY }
    moved = false
    clicked = click
    dragging.value = true
    over.setPointerCapture(e.pointerId)
  }
  function end() {
    follow = null
    told.value = null
    hints.value = []
    dragging.value = false
  }
  function move(e: PointerEvent) {
    if (!follow || !element) return
    if (!moved && Math.hypot(e.clientX - start.x, e.clientY - start.y) < 3) return
    moved = true
    const t = follow(e)
    if (!t) return
    scene.preview(t.name, t.args)
    const b = element.getBoundingClientRect()
    told.value = { x: e.clientX - b.x + 14, y: e.clientY - b.y - 10, text: t.text }
    hints.value = t.hints ?? []
  }
  function up(e: PointerEvent) {
    if (!follow) return
    const t = moved ? follow(e) : null
    const click = moved ? undefined : clicked
    end()
    scene.cancel()
    if (t) scene.run(t.name, t.args)
    click?.()
  }
  function abandon() {
    if (!follow) return
    end()
    scene.cancel()
  }
  useEventListener(window, 'pointermove', move)
  useEventListener(window, 'pointerup', up)
  useEventListener(window, 'pointercancel', abandon)
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (e.key !== 'Escape' || !follow) return
      abandon()
      e.stopPropagation()
    },
    { capture: true },
  )
  return { begin, abandon, told, hints, dragging }
}
