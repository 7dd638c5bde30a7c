// Where the inset stands on the lens view, kept from visit to visit.
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

export const insetSize = { width: 242, height: 162 }
const kept = useLocalStorage('proscen.inset', { x: 16, y: 322 })
/** The size of the lens view, in which the inset stands. */
const pane = ref({ width: Infinity, height: Infinity })
/** The nearest place to that which is kept at which the whole inset is inside. */
const place = computed({
  get: () => ({
    x: Math.max(0, Math.min(pane.value.width - insetSize.width, kept.value.x)),
    y: Math.max(0, Math.min(pane.value.height - insetSize.height, kept.value.y)),
  }),
  set: (at) => (kept.value = at),
})
export const useInsetPlace = () => ({ place, pane })

/** A clip for something at a place of the lens view, and so far around it, that leaves the inset free. */
export function aroundInset(at: { x: number; y: number; width: number; height: number }, reach = 9): string {
  const [x, y] = [place.value.x - at.x, place.value.y - at.y]
  const { width: w, height: h } = insetSize
  return `path(evenodd, "M${-reach} ${-reach}H${at.width + reach}V${at.height + reach}H${-reach}ZM${x} ${y}h${w}v${h}h${-w}Z")`
}
