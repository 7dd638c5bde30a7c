// Where the inset stands on the lens view, kept from visit to visit.
import { useLocalStorage } from '@vueuse/core'

export const insetSize = { width: 242, height: 162 }
const place = useLocalStorage('proscen.inset', { x: 16, y: 322 })
export const useInsetPlace = () => place

/** A clip for something at a place of the lens view, and so far around it, that leaves the inset free. */
export function aroundInset(at: { x: number; y: number; width: number; height: number }, reach = 9): string {
  const [x, y] = [place.value.x - at.x, place.value.y - at.y]
  const { width: w, height: h } = insetSize
  return `path(evenodd, "M${-reach} ${-reach}H${at.width + reach}V${at.height + reach}H${-reach}ZM${x} ${y}h${w}v${h}h${-w}Z")`
}
