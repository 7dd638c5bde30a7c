<script setup lang="ts">
// A lane of shots as blocks in their camera's colour, with handles as hatched
// tabs and joins as shapes on the seams. Only what is in sight is drawn, and what
// among many is too narrow to be held by an edge is painted.
import { useTip } from '@/stores/keys'
import { Lock, Square, Sun } from '@lucide/vue'
import { computed, ref, watchEffect } from 'vue'
import { ownLight, storyOut, type CutShot, type Shot } from '@/core/bridge'
import { usePeople } from '@/stores/people'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import DifferMark from '@/ui/DifferMark.vue'
import OwnMark from '@/ui/OwnMark.vue'
import PersonMarks from '@/ui/PersonMarks.vue'
import JoinMark from './JoinMark.vue'
import { boxes, cleared } from './painting'
import { narrowest } from './scale'
import { useStills } from './stills'
import type { useShotDrag } from './useShotDrag'
import { visibleGaps, visibleShots, type Seen } from './visible'
import { useStarting } from '@/stores/starting'
import { useEditDrag } from '@/ui/useEditDrag'

const tip = useTip()

const starting = useStarting()

const props = defineProps<{
  lane: string
  title: string
  main?: boolean
  shots: CutShot[]
  x: (frame: number) => number
  perPixel: number
  from: number
  to: number
  drag: ReturnType<typeof useShotDrag>
}>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const people = usePeople()
const { down, dragged, told, ghost } = props.drag

const pixels = (s: Shot) => (s.screenOut - s.screenIn) / props.perPixel
const seen = computed(() => visibleShots(scene, props.shots, props.from, props.to))
const least = computed(() => narrowest(seen.value.length))
const isWide = computed(() => {
  const [frames, held] = [least.value * props.perPixel, dragged.value]
  return (b: Seen) => b.s.screenOut - b.s.screenIn >= frames || b.id === held
})
const narrow = computed(() => seen.value.filter((b) => !isWide.value(b)))
const blocks = computed(() => {
  const wide = seen.value.filter(isWide.value)
  const held = dragged.value && scene.doc.shots[dragged.value]
  if (held && held.lane === props.lane && !wide.some((b) => b.id === dragged.value))
    wide.push({ id: dragged.value, s: held, cue: false, color: scene.colorOf(held) })
  return wide.map((b) => {
    const camera = b.s.plays ? undefined : scene.doc.nodes[b.s.camera]
    return {
      ...b,
      number: camera?.camera?.number ?? 0,
      what: camera?.name ?? b.s.plays ?? '',
      tells: pixels(b.s) > 24, // wide enough for a picture and words
    }
  })
})
const gaps = computed(() => (props.main && !dragged.value ? visibleGaps(scene, props.shots, props.from, props.to) : []))
const cues = useEditDrag()
/** Dragging the head of what stands for a cue moves the cue. */
function cueEdge(e: PointerEvent, shot: string) {
  const id = shot.slice('cue.'.length)
  const { frame } = scene.doc.markers[id]!
  const [from, perPixel] = [e.clientX, props.perPixel]
  cues.begin(e, e.currentTarget as HTMLElement, (to) => {
    const at = Math.max(0, Math.round(frame + (to.clientX - from) * perPixel))
    const args = { collection: 'markers', id, merge: { frame: at }, label: 'move a cue' } as const
    return { name: 'set', args, text: `${at}` }
  })
}
const closeGap = (g: { in: number }) => scene.run('gapClose', { assembly: scene.cut.assembly, at: g.in })
const fillGap = (g: { in: number; out: number; before: string }) =>
  scene.run('shotTrim', { id: g.before, edge: 'out', by: g.out - g.in })
const canvas = ref<HTMLCanvasElement | null>(null)
watchEffect(
  () => {
    const { x, perPixel, from, to, main } = props
    const height = main ? 54 : 30
    const g = cleared(canvas.value, (to - from) / perPixel, height)
    if (!g) return
    const start = x(from)
    const chosen = new Set(view.shots)
    const air = main ? head.airShot : ''
    const [others, picked] = [boxes(g, height), boxes(g, height)]
    let mark: [x: number, width: number] | null = null
    for (const { id, s, color } of narrow.value) {
      const [left, w] = [x(s.screenIn) - start, (s.screenOut - s.screenIn) / perPixel]
      ;(chosen.has(id) ? picked : others).add(color, left, w > 3 ? w - 1 : w)
      if (id === air) mark = [left, Math.max(2, w)]
    }
    g.globalAlpha = 0.5
    others.fill()
    g.globalAlpha = 1
    picked.fill()
    if (!mark) return
    g.fillStyle = '#ea6145'
    g.fillRect(mark[0], 0, mark[1], 4)
  },
  { flush: 'post' },
)
/** A press on the lane itself: on a painted shot, or on an empty place. */
function press(e: PointerEvent) {
  const hit = paintedAt(e)
  if (hit) down(e, hit.id, 'body')
  else if (!(e.shiftKey || e.ctrlKey || e.metaKey)) view.select('shots', '')
}
function paintedAt(e: MouseEvent) {
  const at =
    props.from +
    (e.clientX - (e.currentTarget as HTMLElement).getBoundingClientRect().x - props.x(props.from)) * props.perPixel
  return narrow.value.find((b) => b.s.screenIn <= at && at < b.s.screenOut)
}
function toPainted(e: MouseEvent) {
  const hit = paintedAt(e)
  if (hit) head.set(hit.s.screenIn)
}
const stills = useStills(() => blocks.value.filter((b) => b.tells).map((b) => b.id))
const range = (b: (typeof blocks.value)[number]) =>
  b.s.speed === 0
    ? `${Math.floor(b.s.storyIn)} held`
    : `${Math.floor(b.s.storyIn)}–${Math.floor(storyOut(b.s) - b.s.speed)}`
const style = (b: (typeof blocks.value)[number]) =>
  `--x: ${props.x(b.s.screenIn)}px; width: ${Math.max(2, pixels(b.s) - 1)}px; --camera: ${b.color}`
/** What a block is drawn from: in a drag most stay as they are, in what is to be told too. */
const drawn = (b: (typeof blocks.value)[number]) => [
  b.s,
  style(b),
  b.number,
  b.what,
  b.tells,
  stills.value[b.id],
  view.isSelected('shots', b.id),
  props.main && head.airShot === b.id,
  people.marks.get(`shots/${b.id}`),
]
const mine = computed(() => (ghost.value?.lane === props.lane ? ghost.value : null))
</script>
<template>
  <div
    class="strip-row lane"
    :class="{ spare: !main }"
    :data-label="title"
    :data-lane="lane"
    @pointerdown.self="press"
    @dblclick.self="toPainted"
  >
    <canvas v-if="narrow.length" ref="canvas" class="painted" :style="{ left: `${x(from)}px` }"></canvas>
    <div class="blocks" role="list" :aria-label="main ? 'Main lane' : `Lane ${title}`">
      <div
        v-for="b in blocks"
        :key="b.id"
        v-memo="drawn(b)"
        class="shot"
        role="listitem"
        tabindex="0"
        :class="{
          selected: view.isSelected('shots', b.id),
          air: main && head.airShot === b.id,
          cue: b.cue,
          locked: b.s.locked,
          slim: !b.tells,
        }"
        :style="style(b)"
        :aria-label="`Shot ${b.s.number}, ${b.number ? `camera ${b.number}` : b.what}, frames ${b.s.screenIn} to ${b.s.screenOut - 1}, story ${range(b)}`"
        :title="`Shot ${b.s.number} ${b.s.name ?? ''} · ${b.number ? `camera ${b.number} ` : ''}${b.what}${b.cue ? ' · from a cue' : ''}`"
        @pointerdown="down($event, b.id, 'body')"
        @dblclick="head.set(b.s.screenIn)"
      >
        <template v-if="b.tells">
          <i v-if="b.s.head" class="tab left" :style="{ width: `${Math.min(10, b.s.head / perPixel)}px` }"></i>
          <i v-if="b.s.tail" class="tab right" :style="{ width: `${Math.min(10, b.s.tail / perPixel)}px` }"></i>
          <img v-if="stills[b.id]" class="still" :src="stills[b.id]" alt="" draggable="false" />
          <span class="text">
            <span class="top"
              ><CameraBadge v-if="b.number" :number="b.number" :color="b.color" :size="17" /><b>{{ b.s.number }}</b>
              <Lock v-if="b.s.locked" :size="10" /><Sun
                v-if="ownLight(b.s)"
                :size="10"
                aria-label="has a light of its own"
              /><PersonMarks :of="`shots/${b.id}`" /><DifferMark :of="`shots/${b.id}`" /><OwnMark :shot="b.id" /><span
                v-if="pixels(b.s) > 90"
                class="name"
                >{{ b.s.name }}</span
              ></span
            >
            <span v-if="pixels(b.s) > 60" class="range"
              ><Square v-if="b.s.speed === 0" :size="10" />◷ {{ range(b)
              }}<template v-if="b.s.speed !== 1 && b.s.speed !== 0"> · {{ +b.s.speed.toFixed(2) }}×</template></span
            >
          </span>
        </template>
        <i v-if="b.cue" class="edge in" title="Move the cue" @pointerdown="cueEdge($event, b.id)"></i>
        <template v-else>
          <i class="edge in" @pointerdown="down($event, b.id, 'in')"></i>
          <i class="edge out" @pointerdown="down($event, b.id, 'out')"></i>
        </template>
      </div>
    </div>
    <template v-for="b in blocks" :key="b.id">
      <JoinMark v-if="b.s.join" :join="b.s.join" :x="x(b.s.screenIn)" :per-pixel="perPixel" :color="b.color" />
    </template>
    <div
      v-for="g in gaps"
      :key="`gap ${g.after}`"
      class="nothing"
      role="group"
      :aria-label="`Gap of ${g.out - g.in} frames before shot ${scene.shotOf(g.after)?.number}`"
      :title="`Nothing plays for ${g.out - g.in} frames`"
      :style="{ transform: `translateX(${x(g.in)}px)`, width: `${(g.out - g.in) / perPixel}px` }"
      @pointerdown.self="press"
    >
      <span v-if="(g.out - g.in) / perPixel > 30">{{ g.out - g.in }} f</span>
      <template v-if="(g.out - g.in) / perPixel > 96">
        <button class="link" :title="tip('Later shots close up', 'close the gap at the playhead')" @click="closeGap(g)">
          close
        </button>
        <button v-if="g.before" class="link" title="Lengthen the shot before" @click="fillGap(g)">lengthen</button>
      </template>
    </div>
    <i
      v-if="mine"
      class="ghost"
      :style="{ transform: `translateX(${x(mine.in)}px)`, width: `${(mine.out - mine.in) / perPixel}px` }"
    ></i>
    <span v-if="told?.lane === lane" class="told" :style="{ left: `${x(told.at)}px` }">{{ told.text }}</span>
    <p v-if="main && !shots.length" class="dim none" :style="{ transform: `translateX(${x(0)}px)` }">
      No shots yet. Press a camera on the wall, deal boards onto shots,
      <button v-if="scene.cameras.length" class="link" @click="starting.shot()">
        or begin with camera {{ scene.cameras[0]!.camera.number }}</button
      ><button v-else class="link" @click="starting.camera()">or put a camera first</button>.
    </p>
  </div>
</template>
<style scoped>
.nothing {
  position: absolute;
  left: 0;
  top: 6px;
  bottom: 6px;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 8px;
  overflow: hidden;
  border: 1px dashed var(--warning);
  border-radius: 3px;
  color: var(--warning);
  font: 11px var(--font-condensed);
  white-space: nowrap;
}
.lane {
  height: 62px;
}
.blocks {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.blocks > * {
  pointer-events: auto;
}
.strip-row.lane.spare {
  height: 34px;
}
.painted {
  position: absolute;
  left: 0;
  top: 4px;
  pointer-events: none;
}
.spare .painted {
  top: 2px;
  opacity: 0.8;
}
.shot {
  position: absolute;
  left: 0;
  top: 4px;
  bottom: 4px;
  transform: translateX(var(--x));
  display: flex;
  border-radius: 6px;
  background: color-mix(in srgb, var(--camera) 34%, var(--panel));
  box-shadow: inset 0 0 0 1px color-mix(in srgb, var(--camera) 70%, var(--panel));
  cursor: grab;
  touch-action: none;
  user-select: none;
  contain: layout style;
}
.spare .shot {
  top: 2px;
  bottom: 2px;
  opacity: 0.8;
}
.spare .range {
  display: none;
}
.shot.cue {
  cursor: default;
  border-radius: 2px;
  background: repeating-linear-gradient(
    -45deg,
    color-mix(in srgb, var(--camera) 26%, var(--panel)) 0 8px,
    color-mix(in srgb, var(--camera) 36%, var(--panel)) 8px 16px
  );
}
.shot.locked {
  cursor: default;
  filter: saturate(0.6);
}
.shot.slim {
  border-radius: 2px;
}
.shot.selected::before {
  content: '';
  position: absolute;
  z-index: 1; /* over the picture */
  inset: 0;
  border: 2px solid var(--text);
  border-radius: inherit;
  pointer-events: none;
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
  inset: 3px 6px 3px 4px;
  /* The words stay in sight when the head of their shot is scrolled out. */
  left: max(4px, min(var(--shift, 0px) - var(--x, 0px) + 4px, 100% - 76px));
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
  width: min(8px, 33%);
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
.ghost {
  position: absolute;
  left: 0;
  top: 3px;
  bottom: 3px;
  border: 2px dashed var(--brass);
  border-radius: 6px;
  pointer-events: none;
}
.told {
  position: absolute;
  top: -1px;
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
  white-space: nowrap;
}
</style>
