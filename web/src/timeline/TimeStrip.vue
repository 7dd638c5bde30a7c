<script setup lang="ts">
// The strip of time under every desk: transport, ruler, playhead, markers, and
// the rows of the desk.
import { useTip } from '@/stores/keys'
import {
  ArrowLeftToLine,
  Repeat,
  Bookmark,
  ChevronLeft,
  ChevronRight,
  CircleDot,
  Minus,
  MoveHorizontal,
  Pause,
  Play,
  Plus,
  SkipBack,
  Volume2,
  VolumeX,
} from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { core } from '@/core/bridge'
import { useCutting } from '@/stores/cutting'
import { usePlayhead, type ClockName } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useSound } from '@/stores/sound'
import { useView } from '@/stores/view'
import { useDrag } from '@/ui/useDrag'
import { useEditDrag, type Told } from '@/ui/useEditDrag'
import { usePinch } from '@/ui/usePinch'
import CameraBadge from '@/ui/CameraBadge.vue'
import ActionRows from './ActionRows.vue'
import CutTools from './CutTools.vue'
import DeedMenu from './DeedMenu.vue'
import CurveRows from './CurveRows.vue'
import KeyRows from './KeyRows.vue'
import KeyTools from './KeyTools.vue'
import RibbonRows from './RibbonRows.vue'
import { keptSpans, tickStep } from './scale'
import SoundRows from './SoundRows.vue'
import SpliceRows from './SpliceRows.vue'
import StoryLayout from './StoryLayout.vue'

const tip = useTip()

const scene = useScene()
const view = useView()
const head = usePlayhead()
const field = ref<HTMLElement | null>(null)
const { width } = useElementSize(field)
const labels = 92 // px for row names
const cutting = useCutting()
const sound = useSound()
/** The clock that the strip shows: on the desks of the cut the story's too, on demand. */
const clock = computed<ClockName>(() => (view.desk === 'splice' && cutting.storyLayout ? 'story' : head.clock))
const now = computed(() => (clock.value === 'story' ? head.story : head.screen))
const set = (at: number) => (clock.value === 'story' ? head.setStory(at) : head.setScreen(at))
/** All of the clock that the strip shows. */
const whole = computed(() => (clock.value === head.clock ? head.whole : scene.doc.settings.story))

watch(
  () => scene.id,
  (now) => {
    if (keptSpans.scene !== now) Object.assign(keptSpans, { scene: now, story: null, screen: null })
  },
  { immediate: true },
)
const span = computed(() => {
  const kept = keptSpans[clock.value]
  if (kept) return kept
  const r = whole.value
  const room = Math.max(24, (r.out - r.in) * 0.03)
  return { from: r.in - room * 0.4, to: r.out + room }
})
const perPixel = computed(() => (span.value.to - span.value.from) / Math.max(1, width.value - labels))
const x = (frame: number) => (frame - span.value.from) / perPixel.value
const frameAt = (clientX: number) => {
  const b = field.value!.getBoundingClientRect()
  return span.value.from + (clientX - b.x - labels) * perPixel.value
}
const ticks = computed(() => {
  const step = tickStep(perPixel.value, scene.rate)
  const out = []
  for (let f = Math.ceil(span.value.from / step) * step; f < span.value.to; f += step)
    out.push({ f, label: f >= 0 ? core.timecode(clock.value, f) : '' })
  return out
})
const markers = computed(() =>
  Object.entries(scene.doc.markers)
    .filter(([, m]) => m.clock === clock.value && (m.clock === 'story' || m.assembly === scene.cut.assembly))
    .map(([id, m]) => ({ id, m })),
)
/** Whose keys are shown in Dress: the selection's, or with none the light's, if they have any. */
const keyed = computed(() => {
  const of = view.node || (view.selected ? '' : 'settings')
  return Object.values(scene.doc.curves).some((c) => c.node === of) ? of : ''
})
/** Whose keys and curves are shown in Frame, and the camera whose ribbons are. */
const chosen = computed(() => view.node || view.through)
const camera = computed(() => view.camera || view.through)
/** Whose ribbons: the cast, and what the camera holds or focuses on. */
const watched = computed(() => {
  const k = scene.doc.nodes[camera.value]?.camera
  const cast = Object.entries(scene.doc.nodes).flatMap(([id, n]) => (n.kind === 'cast' && !n.hidden ? [id] : []))
  const held = [k?.aim === 'at' ? k.aimAt : '', k?.focusOn].filter((id): id is string => !!id)
  return [...new Set([...cast.slice(0, 5), ...held])]
})
const tools = ref<InstanceType<typeof KeyTools> | null>(null)
const sign = computed(() => (clock.value === 'story' ? '◷' : '▷'))

const scrubbing = useDrag()
function scrub(e: PointerEvent) {
  if (e.button === 0) head.stop()
  const move = (to: PointerEvent) => set(Math.max(clock.value === 'screen' ? 0 : -1e6, Math.round(frameAt(to.clientX))))
  scrubbing.begin(e, e.currentTarget as HTMLElement, { move }, 'once')
}
usePinch(field, { begun: scrubbing.abandon, pinched: (times, at) => zoom(1 / times, frameAt(at.clientX)) })
function wheel(e: WheelEvent) {
  const { from, to } = span.value
  const along = Math.abs(e.deltaX) > Math.abs(e.deltaY) || e.shiftKey
  if (along) {
    const by = (e.deltaX || e.deltaY) * perPixel.value
    return show(from + by, to + by)
  }
  zoom(Math.exp(e.deltaY * 0.0015), frameAt(e.clientX))
}
/** Shows a stretch so many times as long, about a frame: the playhead's, where it is in sight. */
function zoom(k: number, about?: number) {
  const { from, to } = span.value
  const at = about ?? (now.value >= from && now.value <= to ? now.value : (from + to) / 2)
  const length = Math.max(12, Math.min(4e6, (to - from) * k))
  const f = (at - from) / (to - from)
  show(at - f * length, at + (1 - f) * length)
}
/** What is chosen on this clock: shots, or the range that is set. */
const picked = computed(() => {
  const shots = clock.value === 'screen' ? view.shots.flatMap((id) => scene.doc.shots[id] ?? []) : []
  if (!shots.length) return head.marked[clock.value]
  return { in: Math.min(...shots.map((s) => s.screenIn)), out: Math.max(...shots.map((s) => s.screenOut)) }
})
/** Shows everything, or when it does, what is chosen. */
function fit() {
  const r = picked.value
  if (keptSpans[clock.value] || !r) return void (keptSpans[clock.value] = null)
  const room = (r.out - r.in) * 0.15 + 4
  show(r.in - room, r.out + room)
}
/** Shows a stretch of the clock, or the nearest one in which some of it plays. */
function show(from: number, to: number) {
  const room = (to - from) * 0.9
  const by = Math.max(0, whole.value.in - room - from) - Math.max(0, to - room - whole.value.out)
  keptSpans[clock.value] = { from: from + by, to: to + by }
}
// The strip follows the playhead when it leaves the sight by itself.
watch(now, (f) => {
  const { from, to } = span.value
  if (scrubbing.dragging.value || (f >= from && f <= to)) return
  const before = head.playing ? 0.1 : 0.5
  show(f - (to - from) * before, f + (to - from) * (1 - before))
})

const held = useEditDrag()
function grabMarker(e: PointerEvent, id: string) {
  view.select('markers', id)
  const { frame: from, name } = scene.doc.markers[id]!
  held.begin(e, e.currentTarget as HTMLElement, (to) => {
    const frame = from + Math.round((to.clientX - e.clientX) * perPixel.value)
    const args = { collection: 'markers', id, merge: { frame }, label: `move ${name}` } as const
    return { name: 'set', args, text: `${frame}` }
  })
}
// The end of the story can be dragged, unless it ends with the action.
const endHeld = ref(false)
const endMovable = computed(() => clock.value === 'story' && !scene.doc.settings.follow)
function grabEnd(e: PointerEvent) {
  const { in: first, out: from } = scene.doc.settings.story
  const means = (to: PointerEvent): Told => {
    endHeld.value = true
    keptSpans.story ??= { ...span.value } // what is seen stays while the end moves under the hand
    const out = Math.max(first + 1, from + Math.round((to.clientX - e.clientX) * perPixel.value))
    const label = `let the story end with frame ${out - 1}`
    const args = { collection: 'settings', id: 'settings', merge: { story: { in: first, out } }, label } as const
    return { name: 'set', args, text: `${out - 1}` }
  }
  held.begin(e, e.currentTarget as HTMLElement, means, { ended: () => (endHeld.value = false) })
}
const frame = computed(() => Math.round(now.value))
function marker() {
  const [made] = scene.make('markers', 'markerAdd', {
    clock: clock.value,
    assembly: scene.cut.assembly,
    frame: frame.value,
  })
  if (made) view.select('markers', made)
}
const typed = ref('')
const typing = ref(false)
function startTyping(e: FocusEvent) {
  typing.value = true
  typed.value = core.timecode(clock.value, frame.value)
  ;(e.target as HTMLInputElement).select()
}
function endTyping(e: Event) {
  typing.value = false
  ;(e.target as HTMLElement).blur()
}
function go(e: Event) {
  endTyping(e)
  const plain = Number(typed.value)
  if (typed.value !== '' && Number.isFinite(plain)) return set(Math.round(plain))
  const t = core.parseTimecode(clock.value, typed.value)
  if (t.frame !== undefined) set(t.frame)
  else
    ElMessage({ message: sentence(t.error ?? 'this is no timecode'), type: 'warning', grouping: true, showClose: true })
}
defineExpose({
  marker,
  zoom,
  fit,
  setKeys: () => tools.value?.set(),
  stepKey: (by: -1 | 1) => tools.value?.step(by),
  pasteKeys: (reverse: boolean) => tools.value?.paste(reverse),
})
</script>
<template>
  <section class="strip" aria-label="Time strip">
    <div class="bar">
      <button
        class="icon"
        aria-label="To the start"
        :title="tip('To the start', 'to the start')"
        @click="head.set(head.range.in)"
      >
        <SkipBack :size="15" />
      </button>
      <button
        class="icon"
        aria-label="One frame back"
        :title="tip('One frame back', 'one frame back')"
        @click="head.step(-1)"
      >
        <ChevronLeft :size="16" />
      </button>
      <button
        class="icon big"
        :aria-label="head.playing ? 'Pause' : 'Play'"
        :title="tip(head.playing ? 'Pause' : 'Play', 'play or pause')"
        @click="head.toggle()"
      >
        <Pause v-if="head.playing" :size="17" /><Play v-else :size="17" />
      </button>
      <button class="icon" aria-label="One frame on" :title="tip('One frame on', 'one frame on')" @click="head.step(1)">
        <ChevronRight :size="16" />
      </button>
      <label class="clock" :class="clock"
        >{{ sign }}
        <input
          v-typed
          :value="typing ? typed : core.timecode(clock, frame)"
          aria-label="Timecode"
          @focus="startTyping"
          @input="typed = ($event.target as HTMLInputElement).value"
          @keydown.enter="go"
          @keydown.esc.stop="endTyping"
          @keydown.stop
          @blur="typing = false"
        />
        <span>{{ frame }}</span>
      </label>
      <button
        v-if="Object.keys(scene.doc.tracks).length"
        class="icon"
        :aria-label="sound.on ? 'Sound off' : 'Sound on'"
        :title="sound.on ? 'Sound is on' : 'Sound is off'"
        :aria-pressed="sound.on"
        @click="sound.on = !sound.on"
      >
        <Volume2 v-if="sound.on" :size="15" /><VolumeX v-else :size="15" />
      </button>
      <button
        class="icon"
        aria-label="Loop"
        title="Play the range again and again"
        :aria-pressed="head.loop"
        @click="head.loop = !head.loop"
      >
        <Repeat :size="14" />
      </button>
      <button
        v-if="head.marked[clock]"
        class="icon"
        aria-label="Let the range go"
        :title="`Range ${head.marked[clock]!.in}–${head.marked[clock]!.out - 1}: let it go`"
        @click="head.marked[clock] = null"
      >
        <ArrowLeftToLine :size="14" />
      </button>
      <span v-if="head.speed && head.speed !== 1" class="speed">{{ head.speed }}×</span>
      <span class="gap"></span>
      <CutTools v-if="view.desk === 'splice'" />
      <DeedMenu v-if="view.desk === 'dress'" />
      <KeyTools v-if="head.clock === 'story'" ref="tools" :node="keyed || view.node || view.through" />
      <button
        v-if="head.clock === 'story'"
        class="act"
        :class="{ loud: view.autoKey }"
        :aria-pressed="view.autoKey"
        :title="tip('Set keys with every change', 'auto-key on or off')"
        @click="view.autoKey = !view.autoKey"
      >
        <CircleDot :size="14" /> Auto-key {{ view.autoKey ? 'on' : 'off' }}
      </button>
      <button class="act" :title="tip('Drop a marker', 'drop a marker')" @click="marker">
        <Bookmark :size="14" /> <template v-if="view.desk !== 'splice'">Marker</template
        ><span v-else class="sr-only">Marker</span>
      </button>
    </div>
    <div ref="field" class="field" :style="{ '--labels': `${labels}px` }" @wheel.prevent="wheel">
      <div class="ruler" @pointerdown="scrub">
        <div
          class="reach"
          role="slider"
          aria-label="Playhead"
          tabindex="0"
          :aria-valuenow="frame"
          :aria-valuemin="whole.in"
          :aria-valuemax="whole.out"
        ></div>
        <div class="zoom" @pointerdown.stop>
          <button aria-label="Show more time" title="Show more time (−)" @click="zoom(1.6)">
            <Minus :size="12" />
          </button>
          <button aria-label="Show all time" title="Show all, or what is chosen, and back (0)" @click="fit()">
            <MoveHorizontal :size="13" />
          </button>
          <button aria-label="Show less time" title="Show less time (+)" @click="zoom(1 / 1.6)">
            <Plus :size="12" />
          </button>
        </div>
        <div class="in-field">
          <i class="range" :style="{ left: `${x(whole.in)}px`, width: `${x(whole.out) - x(whole.in)}px` }"></i>
          <button
            v-if="endMovable"
            class="end"
            aria-label="End of the story"
            :title="`The story ends with frame ${whole.out - 1}: drag to change it`"
            :style="{ left: `${x(whole.out)}px` }"
            @pointerdown="grabEnd"
          >
            <span v-if="endHeld">{{ whole.out - 1 }}</span>
          </button>
          <i
            v-if="head.marked[clock]"
            class="marked"
            :class="clock"
            :style="{
              left: `${x(head.marked[clock]!.in)}px`,
              width: `${x(head.marked[clock]!.out) - x(head.marked[clock]!.in)}px`,
            }"
          ></i>
          <i
            v-if="head.take && clock === 'screen'"
            class="taking"
            :style="{ left: `${x(head.take.in)}px`, width: `${Math.max(0, x(head.screen) - x(head.take.in))}px` }"
          ></i>
          <span v-for="t in ticks" :key="t.f" class="tick" :style="{ left: `${x(t.f)}px` }">{{ t.label }}</span>
          <button
            v-for="{ id, m } in markers"
            :key="id"
            class="marker"
            :class="{ selected: view.isSelected('markers', id), cue: m.camera }"
            :style="{
              left: `${x(m.frame)}px`,
              '--c': m.color,
              minWidth: m.frames ? `${m.frames / perPixel}px` : undefined,
            }"
            :aria-label="`Marker ${m.name} at ${m.frame}`"
            :title="`${m.name} · ${m.frame}${m.note ? ` · ${m.note}` : ''}`"
            @pointerdown="grabMarker($event, id)"
            @dblclick.stop="set(m.frame)"
          >
            <CameraBadge
              v-if="m.camera && scene.doc.nodes[m.camera]?.camera"
              :number="scene.doc.nodes[m.camera]!.camera!.number"
              :color="scene.doc.nodes[m.camera]!.camera!.color"
              :size="14"
            /><span>{{ m.name }}</span>
          </button>
        </div>
      </div>
      <div class="rows scrolls">
        <div class="in-rows">
          <template v-if="view.desk === 'splice' && cutting.storyLayout">
            <StoryLayout :x="x" :per-pixel="perPixel" />
            <SoundRows clock="story" :x="x" :per-pixel="perPixel" :from="span.from" :to="span.to" />
          </template>
          <SpliceRows
            v-else-if="head.clock === 'screen'"
            :per-pixel="perPixel"
            :from="span.from"
            :to="span.to"
            @scroll="(by: number) => show(span.from + by, span.to + by)"
          />
          <template v-else-if="view.desk === 'dress'">
            <ActionRows :x="x" :per-pixel="perPixel" />
            <KeyRows v-if="keyed" :x="x" :per-pixel="perPixel" :node="keyed" />
            <SoundRows clock="story" :x="x" :per-pixel="perPixel" :from="span.from" :to="span.to" />
          </template>
          <template v-else>
            <CurveRows
              v-if="view.curves && chosen"
              :node="chosen"
              :x="x"
              :per-pixel="perPixel"
              :from="span.from"
              :to="span.to"
            />
            <div v-if="camera && watched.length" class="watched">
              <RibbonRows :camera="camera" :subjects="watched" :from="span.from" :to="span.to" />
            </div>
            <KeyRows :x="x" :per-pixel="perPixel" :node="chosen" />
          </template>
        </div>
      </div>
      <div class="in-field over">
        <i class="playhead" :class="clock" :style="{ left: `${x(now)}px` }"></i>
      </div>
    </div>
  </section>
</template>
<style scoped>
.strip {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--panel);
  border-top: 1px solid var(--line);
}
.bar {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 36px;
  flex: none;
  padding: 0 8px;
  font-size: 12px;
}
.gap {
  flex: 1;
}
.clock {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-left: 8px;
  font: 13px var(--font-mono);
}
.clock input {
  width: 100px;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  color: inherit;
  font: inherit;
}
.clock input:hover,
.clock input:focus {
  border-color: var(--line);
  background: var(--raised);
}
.clock span {
  color: var(--dim);
  font-size: 12px;
}
.speed {
  padding: 1px 8px;
  border-radius: 4px;
  background: var(--raised);
  font: 12px var(--font-mono);
}
.loud {
  background: var(--brass);
  border-color: var(--brass);
  color: var(--ink);
}
.field {
  position: relative;
  flex: 1;
  display: flex;
  flex-direction: column;
  min-height: 0;
  overflow: hidden;
}
.reach {
  position: absolute;
  inset: 0;
}
.ruler {
  position: relative;
  height: 38px;
  flex: none;
  overflow: hidden;
  cursor: ew-resize;
  touch-action: none;
  border-bottom: 1px solid var(--line);
}
.in-field {
  position: absolute;
  inset: 0 0 0 var(--labels);
}
.zoom {
  position: absolute;
  z-index: 1; /* the range and markers go on under it when they are scrolled out */
  left: 0;
  top: 0;
  bottom: 0;
  width: var(--labels);
  padding-left: 6px;
  display: flex;
  align-items: center;
  gap: 2px;
  background: var(--panel);
  cursor: default;
}
.zoom button {
  width: 24px;
  height: 22px;
  padding: 0;
  display: grid;
  place-items: center;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--dim);
  cursor: pointer;
}
.zoom button:hover {
  background: var(--raised);
  color: var(--text);
}
.over {
  overflow: hidden;
  pointer-events: none;
}
.range {
  position: absolute;
  top: 0;
  bottom: 0;
  background: rgb(239 233 220 / 0.05);
}
.end {
  position: absolute;
  z-index: 1;
  top: 0;
  bottom: 0;
  width: 9px;
  margin-left: -5px;
  padding: 0;
  border: 0;
  background: linear-gradient(90deg, transparent 4px, var(--dim) 4px 6px, transparent 6px);
  color: var(--sand);
  cursor: col-resize;
  touch-action: none;
}
.end:hover,
.end:focus-visible {
  background: linear-gradient(90deg, transparent 3px, var(--sand) 3px 7px, transparent 7px);
}
.end span {
  position: absolute;
  right: 12px;
  top: 2px;
  padding: 0 6px;
  border-radius: 4px;
  background: var(--raised);
  font: 11px/18px var(--font-mono);
}
.marked {
  position: absolute;
  top: 0;
  height: 5px;
  background: var(--sky);
}
.marked.story {
  background: var(--sand);
}
.taking {
  position: absolute;
  top: 0;
  bottom: 0;
  background: rgb(229 87 58 / 0.35);
}
.tick {
  position: absolute;
  top: 0;
  height: 16px;
  padding-left: 4px;
  border-left: 1px solid var(--line);
  color: var(--dim);
  font: 10.5px/15px var(--font-mono);
  white-space: nowrap;
  pointer-events: none;
}
.marker {
  position: absolute;
  top: 18px;
  height: 18px;
  padding: 0 6px 0 4px;
  border: 0;
  border-left: 2px solid var(--c);
  border-radius: 0 4px 4px 0;
  background: color-mix(in srgb, var(--c) 24%, var(--panel));
  color: var(--text);
  font: 11px/18px var(--font-condensed);
  white-space: nowrap;
  cursor: ew-resize;
  touch-action: none;
  display: flex;
  gap: 4px;
  align-items: center;
}
.marker.cue {
  border-left-width: 4px;
}
.marker.selected {
  box-shadow: 0 0 0 1px var(--text);
}
.rows {
  flex: 1;
  overflow: hidden auto;
}
.in-rows {
  position: relative;
  min-height: 100%;
}
:deep(.strip-row) {
  position: relative;
  height: 24px;
  margin-left: var(--labels);
  border-bottom: 1px solid rgb(45 64 71 / 0.6);
}
:deep(.strip-row)[data-label]::before {
  content: attr(data-label);
  position: absolute;
  z-index: 2;
  left: calc(var(--shift, 0px) - var(--labels));
  top: 0;
  bottom: 0;
  width: calc(var(--labels) - 8px);
  padding-left: 8px;
  display: flex;
  align-items: center;
  background: var(--panel);
  color: var(--dim);
  font: 12px var(--font-condensed);
  white-space: nowrap;
  overflow: hidden;
}
:deep(.strip-row.lane) {
  height: 62px;
}
.watched {
  margin-left: var(--labels);
}
.playhead {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
}
.playhead::before {
  content: '';
  position: absolute;
  left: -5px;
  top: 0;
  border: 5.5px solid transparent;
  border-top-color: inherit;
}
.playhead.story {
  background: var(--sand);
  border-color: var(--sand);
}
.playhead.screen {
  background: var(--sky);
  border-color: var(--sky);
}
</style>
