<script setup lang="ts">
// The ruler: time, the range, the end of the story, markers; it is scrubbed over.
import { Minus, MoveHorizontal, Plus } from '@lucide/vue'
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { useDrag } from '@/ui/useDrag'
import { useEditDrag, type Told } from '@/ui/useEditDrag'
import { keptSpans, tickStep } from './scale'
import type { Span } from './useSpan'

const props = defineProps<{ of: Span }>()
const { clock, now, set, whole, span, perPixel, x, frameAt, zoom, fit } = props.of
const scene = useScene()
const view = useView()
const head = usePlayhead()
const frame = computed(() => Math.round(now.value))
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

const scrubbing = useDrag()
function scrub(e: PointerEvent) {
  if (e.button === 0) head.stop()
  const move = (to: PointerEvent) => set(Math.max(clock.value === 'screen' ? 0 : -1e6, Math.round(frameAt(to.clientX))))
  scrubbing.begin(e, e.currentTarget as HTMLElement, { move }, 'once')
}
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
defineExpose({ scrubbing: scrubbing.dragging })
</script>
<template>
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
</template>
<style scoped>
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
</style>
