<script setup lang="ts">
// A camera's picture in one format: dragging takes it from another part of the sensor,
// the wheel takes more or less of it.
import { PerspectiveCamera } from 'three'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core, readCamera, type Reframe, type ReframeArgs } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useEditDrag } from '@/ui/useEditDrag'
import { presses } from '@/ui/useDrag'
import { aim } from '../projection'
import { fit, useStageView } from '../useStageView'
import { inWords } from './reframing'

const props = defineProps<{
  format: string
  camera: string
  shot: string // "" for all shots
  at: number // of the story, of a shot the screen frame
  framed: Reframe
}>()
const emit = defineEmits<{ pick: [] }>()
const scene = useScene()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const lens = new PerspectiveCamera()
const box = computed(() => {
  const f = scene.doc.formats[props.format]
  return fit(width.value, height.value, f ? f.width / f.height : 1)
})
const stage = useStageView(
  element,
  () => {
    const numbers = core.inFormat(props.format, props.shot, props.camera, props.at)
    if (!numbers) return null
    aim(lens, numbers.subarray(0, 16), readCamera(numbers))
    return lens
  },
  { frame: () => box.value, shot: () => props.shot },
)
watch([() => scene.changes, () => props.shot, () => props.camera, box], () => stage.invalidate(), { flush: 'post' })
const drag = useEditDrag()
const { told } = drag
/** Framed otherwise, as far as the sensor goes. */
const so = (change: { shift?: [number, number]; scale?: number }): ReframeArgs => ({
  id: props.shot || props.camera,
  format: props.format,
  within: true,
  ...change,
})
function down(e: PointerEvent) {
  emit('pick')
  if (!presses(e)) return
  const [x, y] = props.framed.shift ?? [0, 0]
  const { width: w, height: h } = box.value
  drag.begin(e, element.value!, (to) => {
    // What is grabbed stays under the pointer.
    const shift: [number, number] = [x - (to.clientX - e.clientX) / w, y + (to.clientY - e.clientY) / h]
    return { name: 'reframe', args: so({ shift }), text: inWords(props.framed) }
  })
}
// Turning the wheel is one edit, done when it rests.
let turning: { rest: number; scale: number } | undefined
function wheel(e: WheelEvent) {
  emit('pick')
  clearTimeout(turning?.rest)
  const scale = Math.max(0.05, Math.min(1, (turning?.scale ?? (props.framed.scale || 1)) * Math.exp(e.deltaY / 1200)))
  turning = { rest: window.setTimeout(rest, 250), scale }
  scene.preview('reframe', so({ scale }))
}
function rest() {
  if (!turning) return
  const { scale } = turning
  clearTimeout(turning.rest)
  turning = undefined
  scene.cancel()
  scene.run('reframe', so({ scale: Math.round(scale * 1000) / 1000 }))
}
onBeforeUnmount(rest)
</script>
<template>
  <div ref="element" class="picture" @pointerdown="down" @wheel.prevent="wheel">
    <span v-if="told" class="told" :style="{ left: `${told.x}px`, top: `${told.y}px` }">{{ told.text }}</span>
  </div>
</template>
<style scoped>
.picture {
  position: relative;
  width: 100%;
  height: 100%;
  cursor: grab;
  touch-action: none;
}
.told {
  position: absolute;
  z-index: 3;
  padding: 2px 7px;
  border-radius: 5px;
  background: var(--raised);
  font: 11.5px var(--font-mono);
  white-space: nowrap;
  pointer-events: none;
}
</style>
