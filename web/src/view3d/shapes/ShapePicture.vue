<script setup lang="ts">
// A camera's picture in one format: dragging takes it from another part of the sensor,
// the wheel takes more or less of it.
import { PerspectiveCamera } from 'three'
import { computed, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core, readCamera, type Reframe, type ReframeArgs } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useEditDrag } from '@/ui/useEditDrag'
import { presses } from '@/ui/useDrag'
import { aim } from '../projection'
import { fit, useStageView } from '../useStageView'
import { amount } from './reframing'

const props = defineProps<{
  format: string
  camera: string
  shot: string // "" for all shots
  at: number // of the story, of a shot the screen frame
  /** What is framed now, and what frames it otherwise. */
  framed: Reframe
  reframe: (to: Reframe) => ReframeArgs
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
/** The same with other figures, as far as the sensor goes. */
const so = (change: Partial<Reframe>) => ({ ...props.reframe({ ...props.framed, ...change }), within: true })
function down(e: PointerEvent) {
  emit('pick')
  if (!presses(e)) return
  const [x, y] = props.framed.shift ?? [0, 0]
  const { width: w, height: h } = box.value
  const part = amount(props.framed.scale)
  drag.begin(e, element.value!, (to) => {
    // What is grabbed stays under the pointer.
    const shift: [number, number] = [x - (to.clientX - e.clientX) / w, y + (to.clientY - e.clientY) / h]
    return {
      name: 'reframe',
      args: so({ shift }),
      text: `${Math.round(shift[0] * 100)} %  ${Math.round(shift[1] * 100)} %  of ${part}`,
    }
  })
}
let rest = 0
let scale = 0
function wheel(e: WheelEvent) {
  emit('pick')
  scale = Math.max(0.05, Math.min(1, (rest ? scale : props.framed.scale || 1) * Math.exp(e.deltaY / 1200)))
  const to = so({ scale: Math.round(scale * 1000) / 1000 })
  scene.preview('reframe', to)
  window.clearTimeout(rest)
  rest = window.setTimeout(() => {
    rest = 0
    scene.cancel()
    scene.run('reframe', to)
  }, 250)
}
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
