<script setup lang="ts">
// The free view. It roams, selects, leaves cameras behind, and never moves one.
import { useTip } from '@/stores/keys'
import CameraControls from 'camera-controls'
import * as THREE from 'three'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { Video, Crosshair, MapPinPlus, Maximize2 } from '@lucide/vue'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useMatching } from '@/stores/matching'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import MatchPlaces from './MatchPlaces.vue'
import SceneHandles from './SceneHandles.vue'
import TheirMarks from './TheirMarks.vue'
import { pointer, type Screen } from './screen'
import { usePlacing } from './usePlacing'
import { useStageView } from './useStageView'
import { usePane } from './usePane'
import { useBox } from './useBox'
import { useFlying } from './useFlying'
import { useLeaving } from './leaving'
import { scoutMemory } from './memory'
import FirstStep from '@/ui/FirstStep.vue'
import { firstFocal, useStarting } from '@/stores/starting'
import { inWords } from '@/ui/lengths'
import { useDrag } from '@/ui/useDrag'
import { about } from './about'

const tip = useTip()

const starting = useStarting()

CameraControls.install({ THREE })
const scene = useScene()
const view = useView()
const pane = usePane('scout')
const head = usePlayhead()
const matching = useMatching()
const places = ref<InstanceType<typeof MatchPlaces> | null>(null) // of a match, while one is made
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const camera = new THREE.PerspectiveCamera(46, 1, 0.08, 3000)
const stage = useStageView(
  element,
  () => {
    const b = element.value!.getBoundingClientRect()
    const aspect = b.width / Math.max(1, b.height)
    if (Math.abs(camera.aspect - aspect) > 1e-4) {
      camera.aspect = aspect
      camera.updateProjectionMatrix()
    }
    return camera
  },
  { free: true },
)
const screen = computed<Screen | null>(() =>
  element.value && width.value
    ? { element: element.value, camera, normal: [0, 1, 0], width: width.value, height: height.value }
    : null,
)
const placing = usePlacing(() => screen.value)
const { leave } = useLeaving()
let controls: CameraControls | undefined
let request = 0
let last = 0

interface Mark {
  id: string
  x: number
  y: number
  label: string
  number?: number
  color?: string
}
const marks = ref<Mark[]>([])
const pathLines = ref<{ id: string; d: string; of: string }[]>([])

function tick(now: number) {
  request = requestAnimationFrame(tick)
  if (controls?.update(Math.min(0.1, (now - last) / 1000))) {
    remember()
    stage.invalidate()
  }
  last = now
}
function remember() {
  if (!controls) return
  const eye = controls.getPosition(new THREE.Vector3())
  const target = controls.getTarget(new THREE.Vector3())
  scoutMemory({ eye: eye.toArray(), target: target.toArray() })
}

const at = new THREE.Vector3() // used again for every place and frame
/** Where a place is in the pane; at changes. */
function project(): { x: number; y: number } | null {
  const b = element.value!
  at.project(camera)
  // In a pane that has no size yet a place is no number.
  if (!(Math.abs(at.z) <= 1) || !Number.isFinite(at.x + at.y)) return null
  return { x: ((at.x + 1) / 2) * b.clientWidth, y: ((1 - at.y) / 2) * b.clientHeight }
}
function seen(p: Vec3) {
  at.fromArray(p)
  return project()
}
/** What has a mark: people, cameras and aim points. */
const marked = computed(() =>
  Object.entries(scene.doc.nodes).filter(
    ([, n]) => !n.hidden && (n.kind === 'camera' || n.kind === 'cast' || n.kind === 'aim'),
  ),
)
const selectedPath = computed(() => {
  const s = view.selected
  if (s?.collection === 'paths') return s.id
  if (s?.collection === 'actions') return scene.doc.actions[s.id]?.path ?? ''
  return scene.doc.nodes[view.node]?.path ?? ''
})
/** The line of the selected path, which the core is asked for when the document has changed. */
const pathPoints = computed(() => {
  void scene.changes
  const p = scene.doc.paths[selectedPath.value]
  return (p && core.path(p).points) ?? []
})

function place() {
  if (!element.value) return
  const out: Mark[] = []
  for (const [id, n] of marked.value) {
    if (!stage.placeOf(id, at)) continue
    if (n.kind === 'cast') at.y += n.cast!.height + 0.25
    const p = project()
    if (p) out.push({ id, ...p, label: n.name, number: n.camera?.number, color: n.camera?.color })
  }
  marks.value = out
  const points = pathPoints.value
  let d = ''
  let pen = false
  for (let i = 0; i + 2 < points.length; i += 3) {
    at.set(points[i]!, points[i + 1]!, points[i + 2]!)
    const q = project()
    if (q) d += `${pen ? 'L' : 'M'}${q.x.toFixed(1)} ${q.y.toFixed(1)}`
    pen = !!q
  }
  if (d || pathLines.value.length) pathLines.value = d ? [{ id: selectedPath.value, d, of: view.node }] : []
}

/** Keys fly: eye and target go the same way. */
const flight = useFlying(
  () => !!element.value?.matches(':hover'),
  (right, up, ahead) => {
    if (!controls) return
    if (right) void controls.truck(right, 0, false)
    if (up) void controls.elevate(up, false)
    if (ahead) void controls.forward(ahead, false)
  },
)

const { box, ...boxing } = useBox(element)
const hold = useDrag()
let downAt = { x: 0, y: 0 }
/** With Shift, a drag draws a box around what is selected; else the view roams. */
function down(e: PointerEvent) {
  downAt = { x: e.clientX, y: e.clientY }
  if (!controls || !e.shiftKey || view.placing || view.measuring || matching.pressing) return
  controls.enabled = false
  const end = () => (controls!.enabled = true)
  hold.begin(e, element.value!, {
    move: (to) => boxing.draw(e, to),
    click: end,
    drop() {
      end()
      boxing.choose(boxing.take(), seen)
    },
    abandon() {
      end()
      box.value = null
    },
  })
}
function up(e: PointerEvent) {
  if (e.button !== 0 || Math.hypot(e.clientX - downAt.x, e.clientY - downAt.y) > 4) return
  if (view.placing) return placing.put(e)
  if (view.measuring) return placing.measure(e)
  if (places.value) return places.value.press(e)
  const hit = stage.pick(pointer(screen.value!, e), camera, view.outOfReach)
  if (e.shiftKey && hit) view.toggle(hit.node)
  else view.select('nodes', hit?.node ?? '')
}
function move(e: PointerEvent) {
  if (view.placing) placing.hover(e)
  else if (view.measuring) placing.stretch(e)
  else places.value?.hover(e)
}
function gone() {
  placing.leave()
  places.value?.leave()
}

/** Leaves a camera where the view is now. */
function leaveCamera() {
  starting.camera()
}

function gather() {
  const at = view.node ? stage.position(view.node) : null
  if (!controls || !at) return
  void controls.setTarget(at.x, at.y + 1, at.z, true)
  void controls.dollyTo(Math.min(controls.distance, 9), true)
}

/** Shows what the scene is about. */
function home() {
  const around = about()
  if (!controls || !around) return
  const box = new THREE.Box3(new THREE.Vector3(...around.min), new THREE.Vector3(...around.max))
  void controls.fitToSphere(box.expandByScalar(1).getBoundingSphere(new THREE.Sphere()), true)
}

/** The edge of the picture that a camera has which is left here: while keys fly, and while the pointer rests on the button for it. */
const leaving = ref(false)
const edge = computed(() => {
  if (!(leaving.value || flight.flying.value) || !height.value) return null
  const { hfov, vfov } = core.newLens(firstFocal)
  const share = (angle: number) => Math.tan((angle * Math.PI) / 360) / Math.tan((camera.fov * Math.PI) / 360)
  const [w, h] = [share(hfov) * height.value, share(vfov) * height.value]
  return { x: (width.value - w) / 2, y: (height.value - h) / 2, width: w, height: h }
})

onMounted(async () => {
  await nextTick()
  controls = new CameraControls(camera, element.value!)
  controls.dollyToCursor = true
  controls.smoothTime = 0.12
  controls.draggingSmoothTime = 0.05
  controls.maxDistance = 800
  const m = scoutMemory()
  void controls.setLookAt(...m.eye, ...m.target, false)
  controls.update(0)
  camera.updateMatrixWorld()
  stage.drawn.add(place)
  stage.invalidate()
  request = requestAnimationFrame(tick)
})
onBeforeUnmount(() => {
  cancelAnimationFrame(request)
  stage.drawn.delete(place)
  if (controls) {
    remember()
    controls.dispose()
  }
})
watch([() => view.selected, () => scene.changes], () => stage.invalidate())
watch(() => view.gathering, gather)
defineExpose({ leaveCamera, gather })
</script>
<template>
  <div v-bind="pane" class="scout">
    <div
      ref="element"
      class="surface"
      role="application"
      aria-label="Scout view"
      :class="{ arming: view.placing || view.measuring || matching.pressing }"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointerleave="gone"
      @wheel.capture="flight.wheel"
      @dragover.prevent="placing.carry"
      @dragleave="placing.leave"
      @drop.prevent="placing.drop"
    ></div>
    <svg v-if="view.guides" class="lines">
      <path v-for="l in pathLines" :key="l.id" :d="l.d" aria-hidden="true" />
      <TheirMarks :place="seen" />
    </svg>
    <svg v-if="edge" class="lines" role="img" aria-label="The picture of a camera here">
      <rect v-bind="edge" class="edge" />
    </svg>
    <svg v-if="box" class="lines" aria-hidden="true">
      <rect :x="box.x0" :y="box.y0" :width="box.x1 - box.x0" :height="box.y1 - box.y0" class="box" />
    </svg>
    <MatchPlaces v-if="matching.pressing" ref="places" :screen="screen" />
    <SceneHandles v-else-if="view.guides" :screen="screen" />
    <button
      v-for="m in view.guides && !matching.pressing ? marks : []"
      :key="m.id"
      class="mark"
      :class="{ selected: view.isSelected('nodes', m.id), cast: !m.number, air: m.id === head.airCamera }"
      :style="{ transform: `translate(${m.x}px, ${m.y}px)` }"
      :aria-label="m.number ? `Camera ${m.number} ${m.label} in scout` : `${m.label} in scout`"
      tabindex="-1"
      @click="$event.shiftKey ? view.toggle(m.id) : view.select('nodes', m.id)"
      @dblclick="m.number && view.lookThrough(m.id)"
    >
      <CameraBadge v-if="m.number" :number="m.number" :color="m.color!" :size="20" /><span v-else>{{ m.label }}</span>
    </button>
    <div class="caption">
      Scout
      <span v-if="flight.flying.value" class="dim"
        >flies at {{ inWords(flight.speed.value, 1, 'm/s') }}, the wheel sets it</span
      >
      <span
        v-else
        class="dim"
        title="Drag to look around, with the right button to move aside, with Shift to select by a box"
        >free view, moves no camera</span
      >
    </div>
    <FirstStep step="camera">
      Drag to look around, turn the wheel to go nearer. Where the picture is good, put a camera.
      <template #do><button class="act main" @click="leaveCamera">Put a camera here</button></template>
    </FirstStep>
    <div class="tools">
      <button
        class="act"
        :title="tip('Put a camera here', 'put a camera here')"
        @pointerenter="leaving = true"
        @pointerleave="leaving = false"
        @focus="leaving = true"
        @blur="leaving = false"
        @click="leaveCamera"
      >
        <Video :size="15" /> Put a camera here
      </button>
      <button
        v-if="view.camera && !scene.doc.nodes[view.camera]?.parent"
        class="act"
        :title="
          tip(
            `Add a position to the move of camera ${scene.doc.nodes[view.camera]?.camera?.number}`,
            'add a position to the move',
          )
        "
        @click="leave(view.camera)"
      >
        <MapPinPlus :size="15" /> Add a position
      </button>
      <button
        class="icon"
        aria-label="Go to the selection"
        :title="tip('Go to the selection', 'go to the selection')"
        :disabled="!view.node"
        @click="gather"
      >
        <Crosshair :size="15" />
      </button>
      <button class="icon" aria-label="Show the whole scene" title="Show the whole scene" @click="home">
        <Maximize2 :size="15" />
      </button>
    </div>
  </div>
</template>
<style scoped>
.scout {
  position: relative;
  height: 100%;
  overflow: hidden;
}
.surface {
  position: absolute;
  inset: 0;
  cursor: grab;
}
.surface:active {
  cursor: grabbing;
}
.surface.arming {
  cursor: crosshair;
}
.lines {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.lines path {
  fill: none;
  stroke: var(--brass);
  stroke-width: 2;
  stroke-dasharray: 7 4;
}
.lines .edge {
  fill: none;
  stroke: var(--text);
  stroke-width: 1.5;
  stroke-dasharray: 6 3;
}
.lines .box {
  fill: color-mix(in srgb, var(--brass) 14%, transparent);
  stroke: var(--brass);
}
.mark {
  position: absolute;
  left: 0;
  top: 0;
  margin: -10px 0 0 -10px;
  padding: 0;
  border: 0;
  border-radius: 6px;
  background: none;
  color: var(--text);
  font: 11px var(--font-condensed);
  cursor: pointer;
}
.mark.cast span {
  display: block;
  padding: 1px 6px;
  border-radius: 6px;
  background: rgb(17 24 27 / 0.6);
  transform: translateX(calc(10px - 50%));
  white-space: nowrap;
}
.mark.selected {
  outline: 2px solid var(--text);
}
.mark.air::after {
  content: '';
  position: absolute;
  right: -3px;
  top: -3px;
  border: 5px solid;
  border-color: var(--vermilion) var(--vermilion) transparent transparent;
}
.tools {
  position: absolute;
  left: 10px;
  max-width: calc(100% - 2 * 10px);
  bottom: 10px;
  display: flex;
  flex-wrap: wrap-reverse;
  gap: 4px;
}
</style>
