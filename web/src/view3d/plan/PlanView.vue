<script setup lang="ts">
// The set drawn flat, from above or from a side. Cameras are wedges with their
// lens cones, paths show a tick for every half second; things are placed,
// grabbed and boxed in here, and paths are drawn.
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useMatching } from '@/stores/matching'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useMoving, words } from '../moving'
import MatchPlaces from '../MatchPlaces.vue'
import SceneHandles from '../SceneHandles.vue'
import TheirMarks from '../TheirMarks.vue'
import { tidy, type Screen } from '../screen'
import { useStageView } from '../useStageView'
import { usePane } from '../usePane'
import { gridStep, multiples } from './grid'
import PlanTools from './PlanTools.vue'
import { cuts, planOf } from './memory'
import { useBackground } from './useBackground'
import { useDrawing } from './useDrawing'
import { usePlanCamera } from './usePlanCamera'
import { usePlanMarks, wedge, type Wedge } from './usePlanMarks'
import { inWords, shownUnit } from '@/ui/lengths'
import FirstStep from '@/ui/FirstStep.vue'
import { useStarting } from '@/stores/starting'

const starting = useStarting()

const scene = useScene()
const view = useView()
const pane = usePane('plan')
const head = usePlayhead()
const root = ref<HTMLElement | null>(null)
const marks = ref<InstanceType<typeof SceneHandles> | null>(null)
const matching = useMatching()
const places = ref<InstanceType<typeof MatchPlaces> | null>(null)
const { width, height } = useElementSize(root)
const flat = usePlanCamera(width, height)
const { area, face } = flat
const stage = useStageView(root, () => flat.camera(), { free: true })
const screen = computed<Screen | null>(() =>
  root.value && width.value
    ? { element: root.value, camera: flat.ortho, normal: face.value.toward, width: width.value, height: height.value }
    : null,
)
const moving = useMoving()
const under = (e: { clientX: number; clientY: number }, depth?: Vec3) => flat.under(root.value!, e, depth)
const drawing = useDrawing(flat, under)

const { wedges, people, chosen, trail, drawn, gather } = usePlanMarks(flat)
const activePath = computed(() => {
  const s = view.selected
  if (s?.collection === 'paths') return s.id
  if (s?.collection === 'actions') return scene.doc.actions[s.id]?.path ?? ''
  return scene.doc.nodes[view.node]?.path ?? ''
})
// Read so that the template follows pans and zooms.
const shift = computed(() => [area.face, ...area.middle, area.scale, area.cut[area.face], width.value, height.value])

/** The ground's grid, in multiples of its measure from the middle of the world, where two lines are stronger. */
const grid = computed(() => {
  const { unit, factor } = shownUnit('m')
  const measure = gridStep(area.scale / factor)
  const step = measure / factor // round in what is shown, and in metres
  const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  const [w, h] = [width.value / area.scale, height.value / area.scale]
  const left = dot(area.middle, face.value.right) - w / 2
  const top = dot(area.middle, face.value.down) - h / 2
  const px = (v: number, from: number) => ((v - from) * area.scale).toFixed(1)
  const across = (v: number) => `M${px(v, left)} 0V${height.value}`
  const along = (v: number) => `M0 ${px(v, top)}H${width.value}`
  const lines = [...multiples(left, w, step).map(across), ...multiples(top, h, step).map(along)]
  return { words: `${measure} ${unit}`, lines: lines.join(''), axes: across(0) + along(0) }
})
/** Leaves out what is nearer than a height or depth; at the end of the slider nothing is. */
function cutAt(v: number) {
  area.cut[area.face] = v >= cuts[area.face].most ? null : v
}
const cutWords = computed(() => {
  const cut = area.cut[area.face]
  return cut === null ? 'all of it' : `to ${inWords(cut, 1)}`
})
/** Whether a camera's badge is not where the camera is. */
const away = (w: Wedge) => Math.hypot(w.badge.x - w.x, w.badge.y - w.y) > 1

// Dragging.
function grabNode(e: PointerEvent, id: string) {
  if (view.drawing || view.placing || view.measuring) return
  if (e.shiftKey) {
    e.stopPropagation()
    return view.toggle(id)
  }
  if (!view.nodes.includes(id)) view.select('nodes', id)
  const n = scene.doc.nodes[id]
  if (!n || !view.grabs(id)) return e.stopPropagation()
  const drag = marks.value!.drag
  const from = under(e)
  if (n.path && view.nodes.length === 1) return grabPath(e, n.path)
  const ids = [...view.nodes]
  drag.begin(e, root.value!, (e) => moving.by(screen.value!, ids, from, under(e), e.altKey))
}
function grabTurn(e: PointerEvent, w: Wedge) {
  const m = stage.state.cameraMatrix(stage.cameraIndex(w.id))
  const at: Vec3 = [m[12]!, m[13]!, m[14]!]
  marks.value!.drag.begin(e, root.value!, (e) => {
    const c = stage.state.camera(stage.cameraIndex(w.id))
    const to = under(e, at)
    const [pan, tilt] = core.aimAngles([to[0] - at[0], to[1] - at[1], to[2] - at[2]])
    const plan = area.face === 'plan'
    const turn: Vec3 = [+pan.toFixed(2), plan ? c.tilt : +tilt.toFixed(2), c.roll]
    const text = plan ? `pan ${pan.toFixed(1)}°` : `tilt ${tilt.toFixed(1)}°`
    return { name: 'place', args: { ...moving.base(), id: w.id, turn }, text }
  })
}
function grabPath(e: PointerEvent, path: string) {
  const from = under(e)
  marks.value!.drag.begin(e, root.value!, (e) => {
    const to = under(e)
    const snap = (v: number) => (e.altKey ? +v.toFixed(3) : Math.round(v / view.grid) * view.grid)
    const by = tidy(to.map((v, i) => snap(v - from[i]!)) as Vec3)
    return { name: 'pathShift', args: { id: path, by }, text: words(by) }
  })
}
function choosePath(e: PointerEvent, path: string) {
  view.select('paths', path)
  grabPath(e, path)
}

const { box, placing, down, move, click, zoom, showAll } = useBackground(root, screen, flat, drawing, places)
onMounted(() => {
  stage.drawn.add(gather)
  stage.invalidate()
})
onBeforeUnmount(() => stage.drawn.delete(gather))
watch(() => scene.id, planOf, { immediate: true })
watch([() => view.selected, () => scene.changes, shift], () => stage.invalidate())
</script>
<template>
  <div
    ref="root"
    v-bind="pane"
    class="plan"
    :class="{ drawing: view.drawing, arming: view.placing || view.measuring }"
    role="application"
    :aria-label="area.face === 'plan' ? 'Plan view' : 'Elevation view'"
    @pointerdown="down"
    @pointermove="move"
    @pointerleave="placing.leave"
    @wheel.prevent="zoom(Math.exp(-$event.deltaY * 0.0014), $event)"
    @click="click"
    @dblclick="drawing.finish()"
    @dragover.prevent="placing.carry"
    @dragleave="placing.leave"
    @drop.prevent="placing.drop"
  >
    <svg class="marks">
      <g class="grid" aria-hidden="true">
        <path :d="grid.lines" />
        <path :d="grid.axes" class="axes" />
      </g>
      <g v-for="p in drawn" :key="p.id" :class="['path', { active: p.id === activePath }]">
        <path :d="shift && flat.line(p.line.points)" :stroke="p.color" class="line" />
        <path :d="shift && flat.line(p.line.points)" class="grab" @pointerdown="choosePath($event, p.id)">
          <title>{{ p.name }} · {{ inWords(p.line.length) }}</title>
        </path>
        <template v-if="p.line.ticks.length">
          <circle
            v-for="i in p.line.ticks.length / 3"
            :key="i"
            :cx="flat.x(p.line.ticks.slice(i * 3 - 3, i * 3))"
            :cy="flat.y(p.line.ticks.slice(i * 3 - 3, i * 3))"
            r="2.4"
            :fill="p.color"
            class="tick"
          />
        </template>
      </g>
      <g
        v-for="p in people"
        :key="p.id"
        class="person"
        :class="{ selected: view.isSelected('nodes', p.id), small: !p.name }"
        role="button"
        :aria-label="`${p.name || scene.doc.nodes[p.id]?.name} on plan`"
        :transform="`translate(${p.x} ${p.y})`"
        @pointerdown="grabNode($event, p.id)"
      >
        <path v-if="p.facing !== null" d="M-5 -4L0 -13L5 -4Z" :transform="`rotate(${p.facing})`" class="nose" />
        <circle :r="p.name ? 6 : 4" :fill="p.color" />
        <text v-if="p.label" :x="p.label.x" :y="p.label.y" text-anchor="middle">{{ p.name }}</text>
      </g>
      <path
        v-for="(t, i) in trail"
        :key="`trail${i}`"
        d="M0 5L6 -5H-6Z"
        :transform="`translate(${t.x} ${t.y}) rotate(${t.angle})`"
        :opacity="t.fade"
        :fill="scene.doc.nodes[view.camera]?.camera?.color"
        class="past"
      />
      <g
        v-for="w in wedges"
        :key="w.id"
        class="camera"
        :class="{
          selected: view.isSelected('nodes', w.id),
          through: view.through === w.id,
          air: head.airCamera === w.id,
        }"
        :transform="`translate(${w.x} ${w.y})`"
      >
        <g :transform="`rotate(${w.angle})`">
          <path
            v-if="view.isSelected('nodes', w.id) || view.through === w.id"
            :d="wedge(w).cone"
            :stroke="w.color"
            class="cone"
          />
          <path
            v-if="view.isSelected('nodes', w.id) || view.through === w.id"
            :d="wedge(w).gate"
            :stroke="w.color"
            class="gate"
          />
          <path v-if="w.zone" :d="wedge(w).sharp" :stroke="w.color" class="sharp">
            <title>Near and far end of what is sharp</title>
          </path>
          <path d="M0 -4L11 -17H-11Z" :fill="w.color" class="horn" />
          <circle
            v-if="view.isSelected('nodes', w.id) && !w.aimed"
            cy="-34"
            r="5"
            class="turn"
            role="button"
            aria-label="Turn the camera"
            @pointerdown="grabTurn($event, w)"
          />
        </g>
        <path v-if="away(w)" :d="`M0 0L${w.badge.x - w.x} ${w.badge.y - w.y}`" :stroke="w.color" class="lead" />
        <g
          role="button"
          :transform="`translate(${w.badge.x - w.x} ${w.badge.y - w.y})`"
          :aria-label="`Camera ${w.number} ${w.name} on plan`"
          @pointerdown="grabNode($event, w.id)"
          @dblclick.stop="view.lookThrough(w.id)"
        >
          <path d="M-5 -9H5L10 0L5 9H-5L-10 0Z" :fill="w.color" stroke-linejoin="round" class="body" />
          <text y="4" text-anchor="middle" class="number">{{ w.number }}</text>
        </g>
      </g>
      <circle v-for="c in chosen" :key="c.id" :cx="c.x" :cy="c.y" r="9" class="chosen" />
      <TheirMarks :place="(at) => ({ x: flat.x(at), y: flat.y(at) })" />
      <rect v-if="box" :x="box.x0" :y="box.y0" :width="box.x1 - box.x0" :height="box.y1 - box.y0" class="box" />
      <path v-if="drawing.draft.value" :d="shift && drawing.draft.value" class="draft" />
      <circle
        v-for="(p, i) in drawing.points.value"
        :key="i"
        :cx="shift && flat.x(p)"
        :cy="flat.y(p)"
        r="4"
        class="point"
      />
    </svg>
    <MatchPlaces v-if="matching.pressing" ref="places" :screen="screen" />
    <SceneHandles ref="marks" :screen="matching.pressing ? null : screen" flat />
    <div class="caption">
      {{ face.title }} <span class="dim">grid {{ grid.words }}</span>
    </div>
    <div v-if="view.drawing" class="hint">
      Click places, double-click or Enter ends; or draw by hand. Esc leaves it.
    </div>
    <div v-else-if="view.scattering" class="hint">
      Drag a box on the plan to scatter {{ view.scatter.count }} of {{ view.placing?.name }} over it. Esc ends.
    </div>
    <div v-else-if="view.placing" class="hint">
      Click to put {{ view.placing.name }}, as often as you like. Esc ends.
    </div>
    <div v-else-if="view.measuring" class="hint">Click two places to measure between them. Esc ends.</div>
    <label class="cut" :title="cuts[area.face].what" @pointerdown.stop @click.stop @dblclick.stop>
      <input
        type="range"
        :min="cuts[area.face].least"
        :max="cuts[area.face].most"
        :step="cuts[area.face].step"
        :value="area.cut[area.face] ?? cuts[area.face].most"
        :aria-label="cuts[area.face].what"
        :aria-valuetext="cutWords"
        @input="cutAt(Number(($event.target as HTMLInputElement).value))"
      />
      <output>{{ cutWords }}</output>
    </label>
    <FirstStep v-if="face.title === 'Plan'" step="set">
      Drag stand-ins from the stock onto the plan: walls, furniture, people, vehicles.
      <template #do><button class="act main" @click="starting.person()">Put a person here</button></template>
    </FirstStep>
    <PlanTools @draw="drawing.begin" @show="showAll" />
  </div>
</template>
<style scoped>
.plan {
  position: relative;
  height: 100%;
  overflow: hidden;
  touch-action: none;
}
.marks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
}
.drawing .marks {
  pointer-events: none;
}
.drawing,
.arming {
  cursor: crosshair;
}
.arming .marks {
  pointer-events: none;
}
.box {
  fill: rgb(239 233 220 / 0.08);
  stroke: var(--text);
  stroke-dasharray: 4 3;
}
.path .line {
  fill: none;
  stroke-width: 1.5;
  opacity: 0.65;
}
.path.active .line {
  stroke-width: 2.5;
  opacity: 1;
}
.path .tick {
  opacity: 0;
}
.path.active .tick {
  opacity: 1;
}
.path .grab {
  fill: none;
  stroke: transparent;
  stroke-width: 12;
  cursor: move;
}
.camera,
.person {
  cursor: pointer;
}
.grid {
  fill: none;
  stroke: rgb(239 233 220 / 0.1);
  pointer-events: none;
}
.grid .axes {
  stroke: rgb(239 233 220 / 0.26);
}
.nose {
  fill: var(--text);
  stroke: var(--ink);
}
.lead {
  stroke-width: 1.2;
  stroke-dasharray: 2 2;
}
.cut {
  position: absolute;
  left: 10px;
  top: 36px;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 2px 8px;
  border-radius: 6px;
  background: rgb(17 24 27 / 0.7);
  font: 11.5px var(--font-condensed);
}
.cut input {
  width: 84px;
  accent-color: var(--brass);
}
.cut output {
  min-width: 48px;
}
.person circle {
  stroke: var(--ink);
  stroke-width: 1.5;
}
.person text {
  fill: var(--text);
  font: 11px var(--font-condensed);
  paint-order: stroke;
  stroke: rgb(17 24 27 / 0.7);
  stroke-width: 3px;
}
.person.selected circle,
.camera.selected .body {
  stroke: var(--text);
  stroke-width: 2.5;
}
.horn,
.body {
  stroke: var(--ink);
  stroke-width: 1;
}
.past {
  pointer-events: none;
}
.sharp {
  fill: none;
  stroke-width: 1;
  stroke-dasharray: 2 3;
}
.cone {
  fill: none;
  stroke-width: 1.2;
  opacity: 0.9;
}
.gate {
  stroke-width: 3;
}
.through .horn {
  stroke: var(--text);
}
.air .body {
  stroke: var(--vermilion);
  stroke-width: 2.5;
}
.number {
  fill: var(--ink);
  font: 600 11px var(--font-condensed);
}
.turn {
  fill: var(--ink);
  stroke: var(--text);
  stroke-width: 1.5;
  cursor: alias;
}
.point {
  fill: var(--ink);
  stroke: var(--brass);
  stroke-width: 2;
  cursor: move;
}
.chosen {
  fill: none;
  stroke: var(--text);
  stroke-width: 2;
  pointer-events: none;
}
.draft {
  fill: none;
  stroke: var(--brass);
  stroke-width: 2;
  stroke-dasharray: 6 4;
}
.hint {
  position: absolute;
  left: 50%;
  top: 10px;
  transform: translateX(-50%);
  padding: 4px 12px;
  border-radius: 6px;
  background: var(--brass);
  color: var(--ink);
  font-size: 12px;
  font-weight: 500;
  pointer-events: none;
  max-width: 92%;
}
</style>
