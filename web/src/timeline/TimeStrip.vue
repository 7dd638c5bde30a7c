<script setup lang="ts">
// The strip of time under every desk: transport, ruler, playhead, and the rows of
// the desk.
import { computed, ref, watch } from 'vue'
import { core } from '@/core/bridge'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { usePinch } from '@/ui/usePinch'
import ActionRows from './ActionRows.vue'
import CurveRows from './CurveRows.vue'
import KeyRows from './KeyRows.vue'
import RibbonRows from './RibbonRows.vue'
import SoundRows from './SoundRows.vue'
import SpliceRows from './SpliceRows.vue'
import StoryLayout from './StoryLayout.vue'
import TimeRuler from './TimeRuler.vue'
import TransportBar from './TransportBar.vue'
import { labels, useSpan } from './useSpan'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const cutting = useCutting()
const field = ref<HTMLElement | null>(null)
const shown = useSpan(field)
const { clock, now, span, perPixel, x, frameAt, zoom, show, reach } = shown
const bar = ref<InstanceType<typeof TransportBar> | null>(null)
const ruler = ref<InstanceType<typeof TimeRuler> | null>(null)
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

usePinch(field, (times, at) => zoom(1 / times, frameAt(at.clientX)))
const rows = ref<HTMLElement | null>(null)
/** Whether a pointer is over the names of the rows, left of all times. */
const overNames = (e: MouseEvent) => e.clientX - field.value!.getBoundingClientRect().left < labels
/** The frame under the pointer. */
const pointed = ref<number | null>(null)
function point(e: PointerEvent) {
  pointed.value = e.pointerType === 'touch' || overNames(e) ? null : Math.floor(frameAt(e.clientX))
}
/** Shows another stretch of time; over the names of the rows, other rows. */
function wheel(e: WheelEvent) {
  if (overNames(e)) return rows.value?.scrollBy(0, e.deltaY)
  const { from, to } = span.value
  const along = Math.abs(e.deltaX) > Math.abs(e.deltaY) || e.shiftKey
  if (along) {
    const by = (e.deltaX || e.deltaY) * perPixel.value
    return show(from + by, to + by)
  }
  zoom(Math.exp(e.deltaY * 0.0015), frameAt(e.clientX))
}
// The strip follows the playhead when it leaves the sight by itself.
watch(now, (f) => ruler.value?.scrubbing || reach(f, head.playing ? 0.1 : 0.5))

defineExpose({
  zoom,
  fit: shown.fit,
  marker: () => bar.value?.marker(),
  setKeys: () => bar.value?.setKeys(),
  stepKey: (by: -1 | 1) => bar.value?.stepKey(by),
  pasteKeys: (reverse: boolean) => bar.value?.pasteKeys(reverse),
})
</script>
<template>
  <section class="strip" aria-label="Time strip">
    <TransportBar ref="bar" :of="shown" :keyed="keyed" />
    <div
      ref="field"
      class="field"
      :style="{ '--labels': `${labels}px` }"
      @wheel.prevent="wheel"
      @pointermove="point"
      @pointerleave="pointed = null"
    >
      <TimeRuler ref="ruler" :of="shown" />
      <div ref="rows" class="rows scrolls">
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
            <RibbonRows
              v-if="camera && watched.length"
              :camera="camera"
              :subjects="watched"
              :from="span.from"
              :to="span.to"
              :per-pixel="perPixel"
            />
            <KeyRows :x="x" :per-pixel="perPixel" :node="chosen" />
          </template>
        </div>
      </div>
      <div class="in-field over">
        <i class="playhead" :class="clock" :style="{ left: `${x(now)}px` }"></i>
        <span v-if="pointed !== null" class="pointed" :class="clock" :style="{ left: `${x(pointed)}px` }">{{
          core.timecode(clock, pointed)
        }}</span>
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
.field {
  position: relative;
  flex: 1;
  display: flex;
  flex-direction: column;
  min-height: 0;
  overflow: hidden;
}
.in-field {
  position: absolute;
  inset: 0 0 0 var(--labels);
}
.over {
  overflow: hidden;
  pointer-events: none;
}
/* The time at the pointer, beside it. */
.pointed {
  position: absolute;
  top: 2px;
  margin-left: 6px;
  padding: 0 4px;
  border-radius: 3px;
  background: var(--ink);
  font: 11px var(--font-mono);
  white-space: nowrap;
}
.pointed.story {
  color: var(--sand);
}
.pointed.screen {
  color: var(--sky);
}
.rows {
  flex: 1;
  overflow: hidden auto;
}
.in-rows {
  position: relative;
  min-height: 100%;
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
</style>
