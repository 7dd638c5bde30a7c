<script setup lang="ts">
// The main lane: shots as blocks in their camera's colour, with handles as
// hatched tabs. The body moves a shot, its edges trim it; with Shift later
// shots follow; with Alt nothing snaps; Escape takes the drag back.
import { computed, ref } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { snapTo } from './scale'
import { useStills } from './stills'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const stills = useStills()

// A block that is dragged out of sight stays, since it holds the pointer.
const dragged = ref('')
const blocks = computed(() =>
  scene.cut.shots.flatMap((c) => {
    const s = scene.doc.shots[c.id]
    if (!s || (c.id !== dragged.value && (s.screenOut < props.from || s.screenIn > props.to))) return []
    const n = scene.doc.nodes[s.camera]
    return {
      id: c.id,
      s,
      storyLast: Math.round(c.storyOut - s.speed),
      color: n?.camera?.color ?? '#888888',
      number: n?.camera?.number ?? 0,
      camera: n?.name ?? '',
    }
  }),
)

type Part = 'body' | 'in' | 'out'
let drag: { id: string; part: Part; x: number; from: { screenIn: number; screenOut: number } } | null = null
const told = ref<{ left: number; text: string } | null>(null)

function down(e: PointerEvent, id: string, part: Part) {
  if (e.button !== 0) return
  e.stopPropagation()
  view.select('shots', id)
  const s = scene.doc.shots[id]!
  dragged.value = id
  drag = { id, part, x: e.clientX, from: { screenIn: s.screenIn, screenOut: s.screenOut } }
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
}
function marks(id: string) {
  const out = [0, Math.round(head.screen)]
  for (const m of Object.values(scene.doc.markers)) if (m.clock === 'screen') out.push(m.frame)
  for (const c of scene.cut.shots)
    if (c.id !== id) out.push(scene.doc.shots[c.id]!.screenIn, scene.doc.shots[c.id]!.screenOut)
  return out
}
function operation(e: PointerEvent): [string, object, string] | null {
  if (!drag) return null
  let by = Math.round((e.clientX - drag.x) * props.perPixel)
  const { screenIn, screenOut } = drag.from
  if (!e.altKey) {
    const edge = drag.part === 'out' ? screenOut : screenIn
    by = snapTo(edge + by, marks(drag.id), 6 * props.perPixel) - edge
  }
  if (drag.part === 'body') {
    const to = Math.max(0, screenIn + by)
    return ['shotMove', { id: drag.id, to }, `${by >= 0 ? '+' : ''}${by}f → ${to}`]
  }
  return [
    'shotTrim',
    { id: drag.id, edge: drag.part, by, ripple: e.shiftKey },
    `${drag.part} ${by >= 0 ? '+' : ''}${by}f`,
  ]
}
function move(e: PointerEvent) {
  const o = operation(e)
  if (!o || !drag || Math.abs(e.clientX - drag.x) < 3) return
  scene.preview(o[0], o[1])
  told.value = { left: props.x(drag.part === 'out' ? drag.from.screenOut : drag.from.screenIn), text: o[2] }
}
function up(e: PointerEvent) {
  const o = operation(e)
  const moved = drag && Math.abs(e.clientX - drag.x) >= 3
  drag = null
  dragged.value = ''
  told.value = null
  if (o && moved) scene.run(o[0], o[1])
  else scene.cancel()
}
function escape(e: Event) {
  if (!drag) return
  drag = null
  dragged.value = ''
  told.value = null
  scene.cancel()
  e.stopPropagation()
}
</script>
<template>
  <div class="strip-row lane" data-label="Main lane" role="list" aria-label="Main lane">
    <div
      v-for="b in blocks"
      :key="b.id"
      class="shot"
      role="listitem"
      tabindex="0"
      :class="{ selected: view.isSelected('shots', b.id), air: head.airShot === b.id }"
      :style="{ left: `${x(b.s.screenIn)}px`, width: `${x(b.s.screenOut) - x(b.s.screenIn)}px`, '--camera': b.color }"
      :aria-label="`Shot ${b.s.number}, camera ${b.number}, frames ${b.s.screenIn} to ${b.s.screenOut - 1}`"
      :title="`Shot ${b.s.number} ${b.s.name ?? ''}, camera ${b.number} ${b.camera}`"
      @pointerdown="down($event, b.id, 'body')"
      @pointermove="move"
      @pointerup="up"
      @keydown.esc="escape"
      @pointercancel="escape"
      @dblclick="head.set(b.s.screenIn)"
    >
      <i v-if="b.s.head" class="tab left" :style="{ width: `${Math.min(10, b.s.head / perPixel)}px` }"></i>
      <i v-if="b.s.tail" class="tab right" :style="{ width: `${Math.min(10, b.s.tail / perPixel)}px` }"></i>
      <img v-if="stills[b.id]" class="still" :src="stills[b.id]" alt="" draggable="false" />
      <span class="text">
        <span class="top"
          ><CameraBadge :number="b.number" :color="b.color" :size="17" /><b>{{ b.s.number }}</b> {{ b.s.name }}</span
        >
        <span class="range">◷ {{ Math.round(b.s.storyIn) }}–{{ b.storyLast }}</span>
      </span>
      <i class="edge in" @pointerdown="down($event, b.id, 'in')" @pointermove="move" @pointerup="up"></i>
      <i class="edge out" @pointerdown="down($event, b.id, 'out')" @pointermove="move" @pointerup="up"></i>
    </div>
    <span v-if="told" class="told" :style="{ left: `${told.left}px` }">{{ told.text }}</span>
    <p v-if="!scene.cut.shots.length" class="dim none">
      No shots yet. Press a camera on the wall: it goes on air at the playhead.
    </p>
  </div>
</template>
<style scoped>
.lane {
  height: 62px;
}
.shot {
  position: absolute;
  top: 4px;
  bottom: 4px;
  display: flex;
  border-radius: 6px;
  background: color-mix(in srgb, var(--camera) 34%, var(--panel));
  box-shadow: inset 0 0 0 1px color-mix(in srgb, var(--camera) 70%, var(--panel));
  cursor: grab;
  touch-action: none;
  user-select: none;
}
.shot.selected {
  box-shadow: inset 0 0 0 2px var(--text);
}
.shot.air::after {
  content: '';
  position: absolute;
  right: 0;
  top: 0;
  border: 5px solid;
  border-color: var(--vermilion) var(--vermilion) transparent transparent;
  border-radius: 0 6px 0 0;
}
.still {
  height: 100%;
  aspect-ratio: 16 / 9;
  border-radius: 6px 0 0 6px;
  flex: 0 1 auto;
  min-width: 0;
  object-fit: cover;
  pointer-events: none;
}
.text {
  position: absolute;
  inset: 3px 9px 3px 4px;
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  align-items: start;
  overflow: hidden;
  font: 12px var(--font-condensed);
  white-space: nowrap;
  pointer-events: none;
}
.top,
.range {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 5px 0 1px;
  border-radius: 4px;
  background: rgb(17 24 27 / 0.62);
}
.range {
  padding: 0 4px;
  color: var(--sand);
  font: 10.5px var(--font-mono);
}
.tab {
  position: absolute;
  bottom: -3px;
  height: 7px;
  background: repeating-linear-gradient(45deg, var(--camera) 0 2px, transparent 2px 4px);
  pointer-events: none;
}
.tab.left {
  right: 100%;
  left: auto;
}
.tab.right {
  left: 100%;
}
.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 8px;
  cursor: ew-resize;
}
.edge.in {
  left: 0;
}
.edge.out {
  right: 0;
}
.edge:hover {
  background: rgb(239 233 220 / 0.3);
}
.told {
  position: absolute;
  top: -2px;
  z-index: 3;
  padding: 1px 7px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
  white-space: nowrap;
  pointer-events: none;
}
.none {
  padding: 0 10px;
  font-size: 12px;
}
</style>
