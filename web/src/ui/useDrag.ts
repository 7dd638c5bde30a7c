// One drag of a pointer, be it a mouse, a pen or a finger, whatever it moves. It begins
// once the pointer has moved more than a hand trembles, follows the pointer out of the
// element, and is taken back by Escape, by a lost pointer, or when its view goes.
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, ref } from 'vue'

export interface Drag {
  move(e: PointerEvent): void
  /** Let go after a move. */
  drop?(e: PointerEvent): void
  /** Let go without one. */
  click?(e: PointerEvent): void
  abandon?(): void
}

/** Whether a press can begin a drag: with the main button, or the first finger. */
export const presses = (e: PointerEvent) => e.button === 0 && (e.pointerType !== 'touch' || e.isPrimary)

/** Takes back the drag that is under way; there is one at a time, whatever it is of. */
let takeBack: (() => void) | null = null
export const abandonDrag = () => takeBack?.()

/** How far in pixels a pointer trembles. */
const trembles = (e: PointerEvent) => (e.pointerType === 'touch' ? 8 : 3)

export function useDrag() {
  const dragging = ref(false)
  let now: (Drag & { pointer: number; x: number; y: number; moved: boolean }) | null = null

  /** Begins at a press on an element; `at` once, it follows without waiting for a move. */
  function begin(e: PointerEvent, over: Element, drag: Drag, at: 'once' | 'move' = 'move') {
    if (!presses(e)) return
    abandonDrag() // one whose end was not heard of
    e.stopPropagation()
    now = { ...drag, pointer: e.pointerId, x: e.clientX, y: e.clientY, moved: at === 'once' }
    takeBack = abandon
    dragging.value = true
    over.setPointerCapture(e.pointerId)
    if (now.moved) drag.move(e)
  }
  function end() {
    const ended = now!
    now = takeBack = null
    dragging.value = false
    return ended
  }
  function abandon() {
    if (now) end().abandon?.()
  }
  const mine = (e: PointerEvent) => now?.pointer === e.pointerId
  useEventListener(window, 'pointermove', (e) => {
    if (!now || !mine(e)) return
    now.moved ||= Math.hypot(e.clientX - now.x, e.clientY - now.y) >= trembles(e)
    if (now.moved) now.move(e)
  })
  useEventListener(window, 'pointerup', (e) => {
    if (!mine(e)) return
    const { moved, drop, click } = end()
    if (moved) drop?.(e)
    else click?.(e)
  })
  useEventListener(window, 'pointercancel', (e) => mine(e) && abandon())
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (e.key !== 'Escape' || !now) return
      abandon()
      e.stopPropagation()
    },
    { capture: true },
  )
  onScopeDispose(abandon)
  return { begin, abandon, dragging }
}
