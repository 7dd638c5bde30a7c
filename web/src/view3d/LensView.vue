<script setup lang="ts">
// Through one camera: the picture in its gate, with guides over it. The frame
// tells the three states: looked through, unlocked for moving, on air.
import { Lock, LockOpen, Grid3x3 } from '@lucide/vue'
import { PerspectiveCamera, Vector2, Vector3 } from 'three'
import { computed, ref } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { fit, useStageView } from './useStageView'

const props = defineProps<{ camera: string; program?: boolean }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const lens = new PerspectiveCamera()
const aspect = computed(() => (scene.format ? scene.format.width / scene.format.height : 16 / 9))
const margin = 10
const box = computed(() => {
  const b = fit(Math.max(1, width.value - 2 * margin), Math.max(1, height.value - 2 * margin), aspect.value)
  return { ...b, x: b.x + margin, y: b.y + margin }
})
const stage = useStageView(element, () => (props.camera && stage.lens(props.camera, lens) ? lens : null), {
  frame: () => box.value,
  shot: () => (head.airCamera === props.camera ? head.airShot : ''),
})
const node = computed(() => scene.doc.nodes[props.camera])
const unlocked = computed(() => !props.program && view.unlocked === props.camera && !!props.camera)
const onAir = computed(() => head.airCamera === props.camera && !!props.camera)
const style = computed(() => ({
  left: `${box.value.x}px`,
  top: `${box.value.y}px`,
  width: `${box.value.width}px`,
  height: `${box.value.height}px`,
  '--camera': node.value?.camera?.color ?? 'var(--line)',
}))

function toggleLock() {
  view.unlocked = unlocked.value ? '' : props.camera
}

// Moving the camera from its own picture: drag turns it, with Shift it trucks
// and rises, the wheel dollies.
interface Drag {
  x: number
  y: number
  pan: number
  tilt: number
  roll: number
  at: Vector3
  shift: boolean
}
let drag: Drag | null = null
const told = ref('')

function at(e: PointerEvent) {
  const b = element.value!.getBoundingClientRect()
  return new Vector2(
    ((e.clientX - b.x - box.value.x) / box.value.width) * 2 - 1,
    1 - ((e.clientY - b.y - box.value.y) / box.value.height) * 2,
  )
}
function down(e: PointerEvent) {
  if (e.button !== 0 || !props.camera) return
  if (!unlocked.value) {
    const hit = stage.pick(at(e), lens)
    if (hit && !props.program) view.select('nodes', hit.node)
    return
  }
  const i = stage.cameraIndex(props.camera)
  const c = stage.state.camera(i)
  const m = stage.state.cameraMatrix(i)
  drag = {
    x: e.clientX,
    y: e.clientY,
    pan: c.pan,
    tilt: c.tilt,
    roll: c.roll,
    at: new Vector3(m[12], m[13], m[14]),
    shift: e.shiftKey,
  }
  element.value!.setPointerCapture(e.pointerId)
}
function moved(e: PointerEvent): object | null {
  if (!drag) return null
  const dx = (e.clientX - drag.x) / box.value.width
  const dy = (e.clientY - drag.y) / box.value.height
  const c = stage.state.camera(stage.cameraIndex(props.camera))
  const base = { id: props.camera, frame: head.story, key: view.autoKey }
  if (drag.shift) {
    const m = stage.state.cameraMatrix(stage.cameraIndex(props.camera))
    const reach = Math.max(1, c.focus) * Math.tan((c.hfov * Math.PI) / 360) * 2
    const p = drag.at.clone()
    p.addScaledVector(new Vector3(m[0], m[1], m[2]), -dx * reach)
    p.y += (dy * reach) / aspect.value
    told.value = `${p.x.toFixed(2)} ${p.y.toFixed(2)} ${p.z.toFixed(2)} m`
    return { ...base, position: [p.x, p.y, p.z] }
  }
  const pan = drag.pan + dx * c.hfov
  const tilt = Math.max(-90, Math.min(90, drag.tilt + dy * c.vfov))
  told.value = `pan ${pan.toFixed(1)}° tilt ${tilt.toFixed(1)}°`
  return { ...base, turn: [pan, tilt, drag.roll] }
}
function move(e: PointerEvent) {
  const args = moved(e)
  if (args) scene.preview('place', args)
}
function up(e: PointerEvent) {
  const args = moved(e)
  drag = null
  told.value = ''
  if (args) scene.run('place', args)
}
function abandon() {
  if (!drag) return
  drag = null
  told.value = ''
  scene.cancel()
}
let wheel: ReturnType<typeof setTimeout> | undefined
let pushed = 0
function dolly(e: WheelEvent) {
  if (!unlocked.value) return
  e.preventDefault()
  pushed -= e.deltaY * 0.002
  const i = stage.cameraIndex(props.camera)
  const m = stage.state.cameraMatrix(i)
  scene.cancel()
  const p = new Vector3(m[12], m[13], m[14]).addScaledVector(new Vector3(m[8], m[9], m[10]), -pushed)
  const args = { id: props.camera, frame: head.story, key: view.autoKey, position: [p.x, p.y, p.z] }
  scene.preview('place', args)
  clearTimeout(wheel)
  wheel = setTimeout(() => {
    pushed = 0
    scene.run('place', args)
  }, 250)
}
defineExpose({ abandon })
const timecode = computed(() => (scene.loaded ? core.timecode(props.program ? head.screen : head.story) : ''))
</script>
<template>
  <div
    ref="element"
    class="lens pane"
    :class="{ unlocked }"
    tabindex="-1"
    role="application"
    :aria-label="program ? 'Program' : 'Lens view'"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="abandon"
    @wheel="dolly"
    @keydown.esc="abandon"
  >
    <template v-if="node?.camera">
      <div class="gate" :class="{ unlocked, looked: !program }" :style="style">
        <svg v-if="view.guides" class="guides" viewBox="0 0 300 300" preserveAspectRatio="none" aria-hidden="true">
          <path d="M100 0V300M200 0V300M0 100H300M0 200H300" />
          <rect x="15" y="15" width="270" height="270" class="safe" />
        </svg>
        <div v-if="view.guides" class="centre" aria-hidden="true"></div>
        <div v-if="onAir" class="tally" role="img" aria-label="on air"></div>
        <div class="legend">
          <CameraBadge :number="node.camera.number" :color="node.camera.color" />
          <span class="name">{{ node.name }}</span>
        </div>
        <div class="stamp" :class="program ? 'screen' : 'story'">{{ program ? '▷' : '◷' }} {{ timecode }}</div>
        <div v-if="unlocked" class="moving">
          {{ told || 'unlocked: drag turns the camera, Shift-drag moves it, wheel dollies' }}
        </div>
      </div>
      <div class="tools">
        <button
          v-if="!program"
          class="icon"
          :aria-pressed="unlocked"
          :aria-label="unlocked ? 'Lock the camera' : 'Unlock the camera for moving'"
          :title="unlocked ? 'Lock the camera (U)' : 'Unlock the camera for moving (U)'"
          @pointerdown.stop
          @click="toggleLock"
        >
          <LockOpen v-if="unlocked" :size="15" /><Lock v-else :size="15" />
        </button>
        <button
          class="icon"
          :aria-pressed="view.guides"
          aria-label="Guides"
          title="Guides (G)"
          @pointerdown.stop
          @click="view.guides = !view.guides"
        >
          <Grid3x3 :size="15" />
        </button>
      </div>
    </template>
    <div v-else class="empty">
      <p>{{ program ? 'Nothing is on air here.' : 'No camera is looked through.' }}</p>
      <p class="dim">
        {{
          program
            ? 'Press a camera of the wall to cut to it at the playhead.'
            : 'Pick a camera on the wall, or press its number.'
        }}
      </p>
    </div>
  </div>
</template>
<style scoped>
.lens {
  position: relative;
  height: 100%;
  overflow: hidden;
  outline: none;
  touch-action: none;
}
.gate {
  position: absolute;
  pointer-events: none;
  outline: 1px solid var(--line);
}
.gate.looked {
  outline: 2px solid var(--camera);
  outline-offset: 1px;
}
.gate.unlocked {
  outline: 5px dashed var(--brass);
}
.guides {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.guides path,
.guides rect {
  fill: none;
  stroke: rgb(239 233 220 / 0.22);
  vector-effect: non-scaling-stroke;
}
.guides .safe {
  stroke-dasharray: 4 6;
}
.centre {
  position: absolute;
  left: calc(50% - 7px);
  top: calc(50% - 7px);
  width: 14px;
  height: 14px;
  background:
    linear-gradient(rgb(239 233 220 / 0.5) 0 0) center / 14px 1px no-repeat,
    linear-gradient(rgb(239 233 220 / 0.5) 0 0) center / 1px 14px no-repeat;
}
.tally {
  position: absolute;
  right: 0;
  top: 0;
  border: 13px solid;
  border-color: var(--vermilion) var(--vermilion) transparent transparent;
}
.legend,
.stamp,
.moving {
  position: absolute;
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 3px 8px 3px 4px;
  border-radius: 6px;
  background: rgb(17 24 27 / 0.66);
  font-size: 12px;
}
.legend {
  left: 8px;
  top: 8px;
}
.stamp {
  right: 8px;
  bottom: 8px;
  padding: 3px 8px;
  font: 12px var(--font-mono);
}
.moving {
  left: 50%;
  top: 44px;
  transform: translateX(-50%);
  padding: 4px 12px;
  background: var(--brass);
  color: var(--ink);
  font-weight: 500;
  white-space: nowrap;
}
.tools {
  position: absolute;
  left: 14px;
  bottom: 14px;
  display: flex;
  gap: 4px;
}
.unlocked {
  cursor: move;
}
</style>
