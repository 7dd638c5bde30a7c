import type { Camera } from 'three'
import { onBeforeUnmount, onMounted, type Ref } from 'vue'
import type { View } from './panes'
import { useStage } from './stage'

/** Shows the stage in an element for as long as its component lives. */
export function useStageView(
  element: Ref<HTMLElement | null>,
  camera: () => Camera | null,
  options: Omit<View, 'element' | 'camera'> = {},
) {
  const stage = useStage()
  let view: View | undefined
  let observer: ResizeObserver | undefined
  onMounted(() => {
    view = { element: element.value!, camera, ...options }
    stage.add(view)
    observer = new ResizeObserver(() => stage.invalidate())
    observer.observe(element.value!)
  })
  onBeforeUnmount(() => {
    observer?.disconnect()
    if (view) stage.remove(view)
  })
  return stage
}

/** The largest box of an aspect inside a size, in the middle. */
export function fit(width: number, height: number, aspect: number) {
  const w = Math.min(width, height * aspect)
  const h = w / aspect
  return { x: (width - w) / 2, y: (height - h) / 2, width: w, height: h }
}
