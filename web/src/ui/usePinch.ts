// Two fingers on an element that come together or go apart.
import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'
import { abandonDrag } from './useDrag'

interface At {
  clientX: number
  clientY: number
}

/**
 * Hears how many times farther apart the fingers are, and where their middle is. What the
 * first of them was dragging is taken back.
 */
export function usePinch(over: Ref<HTMLElement | null>, pinched: (times: number, at: At) => void) {
  const fingers = new Map<number, At>()
  let apart = 0
  const spread = ([a, b]: At[]) => Math.max(1, Math.hypot(a!.clientX - b!.clientX, a!.clientY - b!.clientY))
  const lift = (e: PointerEvent) => fingers.delete(e.pointerId)
  useEventListener(
    over,
    'pointerdown',
    (e: PointerEvent) => {
      if (e.pointerType !== 'touch') return
      fingers.set(e.pointerId, e)
      if (fingers.size !== 2) return
      apart = spread([...fingers.values()])
      abandonDrag()
    },
    { capture: true },
  )
  useEventListener(window, 'pointermove', (e) => {
    if (!fingers.has(e.pointerId)) return
    fingers.set(e.pointerId, e)
    if (fingers.size !== 2) return
    const [a, b] = [...fingers.values()] as [At, At]
    const now = spread([a, b])
    pinched(now / apart, { clientX: (a.clientX + b.clientX) / 2, clientY: (a.clientY + b.clientY) / 2 })
    apart = now
  })
  useEventListener(window, 'pointerup', lift)
  useEventListener(window, 'pointercancel', lift)
}
