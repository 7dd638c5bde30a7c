// Where the inset stands on the lens view, kept from visit to visit.
import { useLocalStorage } from '@vueuse/core'

export const insetSize = { width: 242, height: 162 }
const place = useLocalStorage('proscen.inset', { x: 16, y: 56 })
export const useInsetPlace = () => place

/** A clip for something at a place of the lens view that leaves the inset free. */
export function aroundInset(at: { x: number; y: number; width: number; height: number }): string {
  const [x, y] = [place.value.x - at.x, place.value.y - at.y]
  const { width: w, height: h } = insetSize
  return `path(evenodd, "M-9 -9H${at.width + 9}V${at.height + 9}H-9ZM${x} ${y}h${w}v${h}h${-w}Z")`
}
