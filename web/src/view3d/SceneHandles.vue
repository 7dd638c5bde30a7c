<script setup lang="ts">
// Handles over plan, elevation and scout: to move, turn and scale what is
// selected, to pull the build of a stand-in, to edit the points of a path; and
// the tape and the lines that a snap found.
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { core, type HandleNow, type Operations, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { useMoving, words } from './moving'
import { add, alongAxis, axesOf, distance, onPlane, pixel, project, tidy, type Screen } from './screen'
import { useStage } from './stage'
import { useEditDrag, type Told } from '@/ui/useEditDrag'
import { inWords } from '@/ui/lengths'

const props = defineProps<{ screen: Screen | null; flat?: boolean }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const stage = useStage()
const drag = useEditDrag()
const moving = useMoving()
/** Counts drawn frames, so that marks follow the picture. */
const drawn = ref(0)

const at = (v: Vec3) => (props.screen ? project(props.screen, v) : null)
const over = () => props.screen!.element

// What is selected: its middle, and the axes that it is moved along.
const movable = computed(() => view.nodes.filter((id) => view.grabs(id) || !scene.doc.nodes[id]?.locked))
const single = computed(() => (view.nodes.length === 1 ? view.nodes[0]! : ''))
const center = shallowRef<Vec3 | null>(null)
const axes = shallowRef<[Vec3, Vec3, Vec3]>(axesOf(null))
const handles = shallowRef<HandleNow[]>([])

function gather() {
  drawn.value++
  if (!props.screen || drag.dragging.value) return
  center.value = null
  handles.value = []
  const ids = movable.value
  if (!ids.length || view.drawing || view.placing || view.measuring) return
  if (single.value) {
    center.value = stage.position(single.value)?.toArray() ?? null
    handles.value = core.handles(single.value)
  } else {
    const box = core.extent(ids)
    if (box) center.value = tidy(add([0, 0, 0], add(box.min, box.max), 0.5))
    if (box && center.value) center.value[1] = box.min[1]
  }
  axes.value = axesOf(view.localAxes && single.value ? stage.matrix(single.value) : null)
}
onMounted(() => stage.drawn.add(gather))
onBeforeUnmount(() => stage.drawn.delete(gather))
// At once: handles of what was selected before must not be grabbed for what is now.
watch([() => view.nodes, () => view.localAxes], gather, { flush: 'sync' })

const armLength = 56 // px
interface Arm {
  name: string
  axis: Vec3
  x: number
  y: number
}
const gizmo = computed(() => {
  if (drawn.value < 0 || !center.value || !props.screen) return null
  const o = at(center.value)
  if (!o) return null
  const metre = pixel(props.screen, center.value) * armLength
  const arms: Arm[] = []
  axes.value.forEach((axis, i) => {
    const tip = at(add(center.value!, axis, metre))
    // An axis that points at the eye has no arm.
    if (tip && Math.hypot(tip.x - o.x, tip.y - o.y) > 14) arms.push({ name: 'XYZ'[i]!, axis, ...tip })
  })
  return { o, arms, metre }
})

function grabArm(e: PointerEvent, a: Arm) {
  const c = center.value!
  const from = alongAxis(stage, props.screen!, e, c, a.axis)
  const ids = movable.value
  drag.begin(e, over(), (e) => {
    const to = alongAxis(stage, props.screen!, e, c, a.axis)
    let way = to - from
    if (!e.altKey && view.localAxes) way = Math.round(way / view.grid) * view.grid
    return moving.by(props.screen!, ids, c, add(c, a.axis, way), e.altKey || view.localAxes)
  })
}
function grabPlate(e: PointerEvent) {
  const c = center.value!
  const from = onPlane(stage, props.screen!, e, c, props.screen!.normal)
  const ids = movable.value
  if (!from) return
  drag.begin(e, over(), (e) => {
    const to = onPlane(stage, props.screen!, e, c, props.screen!.normal)
    return to && moving.by(props.screen!, ids, from, to, e.altKey)
  })
}
const pivotArgs = () => (view.pivot === 'middle' && center.value ? { pivot: center.value } : {})
function grabRing(e: PointerEvent) {
  const c = center.value!
  const o = at(c)!
  const axis = props.screen!.normal
  const b = over().getBoundingClientRect()
  const angle = (e: PointerEvent) => Math.atan2(-(e.clientY - b.y - o.y), e.clientX - b.x - o.x)
  // Seen against the axis of the turn, angles grow counter-clockwise.
  const eye = props.screen!.camera.matrixWorld.elements
  const toward = axis[0] * eye[8]! + axis[1] * eye[9]! + axis[2] * eye[10]! >= 0 ? 1 : -1
  let last = angle(e)
  let turned = 0
  const ids = movable.value
  drag.begin(e, over(), (e) => {
    const now = angle(e)
    let step = now - last
    if (step > Math.PI) step -= 2 * Math.PI
    if (step < -Math.PI) step += 2 * Math.PI
    turned += step
    last = now
    let degrees = (toward * turned * 180) / Math.PI
    degrees = e.altKey ? +degrees.toFixed(2) : Math.round(degrees / 5) * 5
    const args = { ...moving.base(), ids, axis, angle: degrees, ...pivotArgs() }
    return { name: 'move', args, text: `${degrees}°` }
  })
}
function grabScale(e: PointerEvent) {
  const o = at(center.value!)!
  const b = over().getBoundingClientRect()
  const away = (e: PointerEvent) => Math.max(4, Math.hypot(e.clientX - b.x - o.x, e.clientY - b.y - o.y))
  const from = away(e)
  const ids = movable.value
  drag.begin(e, over(), (e) => {
    const k = away(e) / from
    const scale = Math.max(0.01, e.altKey ? +k.toFixed(3) : Math.round(k * 20) / 20)
    return { name: 'move', args: { ...moving.base(), ids, scale, ...pivotArgs() }, text: `× ${scale.toFixed(2)}` }
  })
}

// The build of a stand-in.
const pulls = computed(() => {
  if (drawn.value < 0 || !props.screen) return []
  return handles.value.flatMap((h) => {
    const p = at(h.at)
    const q = at(add(h.at, h.axis, pixel(props.screen!, h.at) * 20))
    // A handle that is pulled toward the eye cannot be pulled here.
    return p && q && Math.hypot(q.x - p.x, q.y - p.y) > 5 ? [{ ...h, ...p }] : []
  })
})
function grabPull(e: PointerEvent, h: HandleNow) {
  const id = single.value
  const name = scene.doc.nodes[id]!.name
  const from = alongAxis(stage, props.screen!, e, h.at, h.axis)
  drag.begin(e, over(), (e) => {
    const way = alongAxis(stage, props.screen!, e, h.at, h.axis) - from
    let v = h.value + way * h.gain
    v = e.altKey ? +v.toFixed(3) : Math.round(v / 0.05) * 0.05
    v = +Math.max(h.min, Math.min(h.max, v)).toFixed(3)
    const args = {
      collection: 'nodes',
      id,
      merge: { piece: { params: { [h.param]: v } } },
      label: `change ${h.title.toLowerCase()} of ${name}`,
    } as const
    return { name: 'set', args, text: `${h.title} ${inWords(v)}` }
  })
}

// The points of a path.
const activePath = computed(() => {
  if (view.selected?.collection === 'paths') return view.selected.id
  if (view.selected?.collection === 'actions') return scene.doc.actions[view.selected.id]?.path ?? ''
  return scene.doc.nodes[single.value]?.path ?? ''
})
const points = computed(() => {
  const p = scene.doc.paths[activePath.value]
  if (drawn.value < 0 || !p || view.drawing || view.placing) return []
  return p.points.flatMap((v, i) => {
    const s = at(v as Vec3)
    return s ? [{ i, v: v as Vec3, ...s }] : []
  })
})
/** The middles between points, where one can be added. */
const gaps = computed(() => {
  const p = scene.doc.paths[activePath.value]
  if (drawn.value < 0 || !p || view.drawing || view.placing || (p.form !== 'curve' && p.form !== 'straight')) return []
  return p.points.slice(1).flatMap((v, i) => {
    const a = p.points[i] as Vec3
    const middle = tidy(add([0, 0, 0], add(a, v as Vec3), 0.5))
    const s = at(middle)
    return s ? [{ i: i + 1, v: middle, ...s }] : []
  })
})
function follow(start: Vec3, op: (to: Vec3) => Operations['pathPoint']) {
  const s = props.screen!
  return (e: PointerEvent): Told | null => {
    let to = onPlane(stage, s, e, start, s.normal)
    if (props.flat !== true && e.shiftKey) to = add(start, [0, alongAxis(stage, s, e, start, [0, 1, 0]), 0])
    if (!to) return null
    const snap = (v: number, k: number) =>
      start[k] === v || e.altKey ? +v.toFixed(3) : +(Math.round(v / view.grid) * view.grid).toFixed(3)
    to = to.map(snap) as Vec3
    return { name: 'pathPoint', args: op(to), text: words(to.map((v, k) => +(v - start[k]!).toFixed(3)) as Vec3) }
  }
}
function grabPoint(e: PointerEvent, i: number, v: Vec3) {
  const path = activePath.value
  drag.begin(
    e,
    over(),
    follow(v, (to) => ({ id: path, index: i, to })),
  )
}
function grabGap(e: PointerEvent, i: number, v: Vec3) {
  const path = activePath.value
  drag.begin(
    e,
    over(),
    follow(v, (to) => ({ id: path, index: i, to, insert: true })),
    { click: () => scene.run('pathPoint', { id: path, index: i, to: v, insert: true }) },
  )
}
function removePoint(i: number) {
  scene.run('pathPoint', { id: activePath.value, index: i })
}

// The tape.
const tape = computed(() => {
  const t = view.tape
  if (drawn.value < 0 || !t) return null
  const a = at(t.from)
  const b = at(t.to)
  return a && b && { a, b, text: inWords(distance(t.from, t.to)) }
})

/** Lines across the view where a snap lined things up. */
const lines = computed(() =>
  drag.hints.value.flatMap((h) => {
    const c = center.value ?? [0, 0, 0]
    const a: Vec3 = [...c]
    const b: Vec3 = [...c]
    a[h.axis] = b[h.axis] = h.value
    const along = h.axis === 0 ? 2 : 0
    a[along] = c[along]! - 30
    b[along] = c[along]! + 30
    const [p, q] = [at(a), at(b)]
    return p && q ? [{ p, q, name: scene.doc.nodes[h.node]?.name ?? '' }] : []
  }),
)
defineExpose({ drag, movable })
// Keys and moves of the scene are drawn with the next frame.
watch([() => scene.changes, () => head.story], () => stage.invalidate())
</script>
<template>
  <svg class="handles">
    <line v-for="(l, i) in lines" :key="i" :x1="l.p.x" :y1="l.p.y" :x2="l.q.x" :y2="l.q.y" class="snap">
      <title>{{ l.name }}</title>
    </line>
    <g v-if="tape" class="tape">
      <line :x1="tape.a.x" :y1="tape.a.y" :x2="tape.b.x" :y2="tape.b.y" />
      <circle :cx="tape.a.x" :cy="tape.a.y" r="3.5" />
      <circle :cx="tape.b.x" :cy="tape.b.y" r="3.5" />
      <text :x="(tape.a.x + tape.b.x) / 2 + 8" :y="(tape.a.y + tape.b.y) / 2 - 8">{{ tape.text }}</text>
    </g>
    <g v-if="gizmo" class="gizmo">
      <circle
        :cx="gizmo.o.x"
        :cy="gizmo.o.y"
        :r="armLength + 14"
        class="ring"
        role="button"
        aria-label="Turn the selection"
        @pointerdown="grabRing"
      />
      <circle :cx="gizmo.o.x" :cy="gizmo.o.y" :r="armLength + 14" class="dashes" />
      <g v-for="a in gizmo.arms" :key="a.name" class="arm" @pointerdown="grabArm($event, a)">
        <line :x1="gizmo.o.x" :y1="gizmo.o.y" :x2="a.x" :y2="a.y" class="wide" />
        <line :x1="gizmo.o.x" :y1="gizmo.o.y" :x2="a.x" :y2="a.y" />
        <circle :cx="a.x" :cy="a.y" r="8" role="button" :aria-label="`Move along ${a.name}`" />
        <text :x="a.x" :y="a.y + 3.5" text-anchor="middle">{{ a.name }}</text>
      </g>
      <path
        :d="`M${gizmo.o.x - 9} ${gizmo.o.y}l9 -7l9 7l-9 7z`"
        class="plate"
        role="button"
        aria-label="Move the selection"
        @pointerdown="grabPlate"
      />
      <rect
        :x="gizmo.o.x + (armLength + 14) * 0.7 - 5"
        :y="gizmo.o.y + (armLength + 14) * 0.7 - 5"
        width="10"
        height="10"
        rx="2"
        class="grow"
        role="button"
        aria-label="Scale the selection"
        @pointerdown="grabScale"
      />
    </g>
    <path
      v-for="h in pulls"
      :key="h.param"
      :d="`M${h.x} ${h.y - 6}L${h.x + 6} ${h.y}L${h.x} ${h.y + 6}L${h.x - 6} ${h.y}Z`"
      class="pull"
      role="button"
      :aria-label="`${h.title} handle`"
      @pointerdown="grabPull($event, h)"
    >
      <title>{{ h.title }} {{ inWords(h.value) }}</title>
    </path>
    <circle
      v-for="g in gaps"
      :key="`gap${g.i}`"
      :cx="g.x"
      :cy="g.y"
      r="3.5"
      class="gap"
      role="button"
      :aria-label="`Add a point before ${g.i + 1}`"
      @pointerdown="grabGap($event, g.i, g.v)"
    />
    <circle
      v-for="p in points"
      :key="`point${p.i}`"
      :cx="p.x"
      :cy="p.y"
      r="5"
      class="point"
      role="button"
      :aria-label="`Path point ${p.i + 1}`"
      @pointerdown="grabPoint($event, p.i, p.v)"
      @contextmenu.prevent="removePoint(p.i)"
      @dblclick.stop="removePoint(p.i)"
    >
      <title>Point {{ p.i + 1 }}, {{ inWords(p.v[1]) }} high. Double-click removes it.</title>
    </circle>
  </svg>
  <div v-if="drag.told.value" class="told" :style="{ left: `${drag.told.value.x}px`, top: `${drag.told.value.y}px` }">
    {{ drag.told.value.text }}
  </div>
</template>
<style scoped>
.handles {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
  pointer-events: none;
}
.handles [role='button'],
.arm {
  pointer-events: all;
  cursor: move;
}
.snap {
  stroke: var(--brass);
  stroke-width: 1;
  stroke-dasharray: 2 4;
}
.tape line {
  stroke: var(--text);
  stroke-width: 1.5;
  stroke-dasharray: 6 3;
}
.tape circle {
  fill: var(--ink);
  stroke: var(--text);
}
.tape text {
  fill: var(--text);
  font: 12px var(--font-mono);
  paint-order: stroke;
  stroke: var(--ink);
  stroke-width: 4px;
}
/* Held anywhere, between the dashes too. */
.ring {
  fill: none;
  stroke: transparent;
  stroke-width: 12;
  pointer-events: stroke !important;
  cursor: alias !important;
}
.dashes {
  fill: none;
  stroke: var(--text);
  stroke-width: 5;
  stroke-opacity: 0.32;
  stroke-dasharray: 18 8;
  pointer-events: none;
}
.ring:hover + .dashes,
.arm:hover line {
  stroke: var(--brass);
  stroke-opacity: 1;
}
.arm line {
  stroke: var(--text);
  stroke-width: 1.6;
}
.arm .wide {
  stroke: transparent !important;
  stroke-width: 12;
}
.arm circle {
  fill: var(--ink);
  stroke: var(--text);
  stroke-width: 1.4;
}
.arm text {
  fill: var(--text);
  font: 600 9.5px var(--font-condensed);
  pointer-events: none;
}
.plate,
.grow {
  fill: var(--ink);
  stroke: var(--text);
  stroke-width: 1.5;
}
.grow {
  cursor: nwse-resize !important;
}
.pull {
  fill: var(--brass);
  stroke: var(--ink);
  stroke-width: 1.2;
}
.plate:hover,
.grow:hover,
.pull:hover,
.arm:hover circle {
  stroke: var(--brass);
}
.point {
  fill: var(--ink);
  stroke: var(--brass);
  stroke-width: 2;
}
.gap {
  fill: var(--brass);
  opacity: 0.6;
}
.told {
  position: absolute;
  padding: 2px 8px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
  white-space: pre;
  pointer-events: none;
}
</style>
