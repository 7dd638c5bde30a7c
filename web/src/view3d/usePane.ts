// A pane of a desk, which can be blown up to the full desk: what it says of itself to
// styles and keys.
import { computed, onBeforeUnmount } from 'vue'
import { useView, type Pane } from '@/stores/view'

export function usePane(pane: Pane) {
  const view = useView()
  onBeforeUnmount(() => view.full === pane && view.fill())
  return computed(() => ({ 'data-pane': pane, class: { pane: true, full: view.full === pane } }))
}

/** The pane at a place of the window. */
export const paneAt = (at: { x: number; y: number }) =>
  (document.elementFromPoint(at.x, at.y)?.closest<HTMLElement>('[data-pane]')?.dataset.pane ?? '') as Pane | ''
