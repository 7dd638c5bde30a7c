<script setup lang="ts">
// A row for each track of sound: what is heard of it, with its waveform, as the
// clock plays. Blocks are moved and trimmed like others.
import { Plus } from '@lucide/vue'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch, watchEffect } from 'vue'
import { core, type Heard } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { cleared } from './painting'
import { useSoundFiles } from './useSoundFiles'
import { narrowest } from './scale'
import { peakRate, peaksOf } from './peaks'
import { useBlockDrag } from './useBlockDrag'

const props = defineProps<{
  clock: 'story' | 'screen'
  x: (frame: number) => number
  perPixel: number
  from: number
  to: number
}>()
const scene = useScene()
const view = useView()
const { begin, told } = useBlockDrag(() => props.perPixel)
const { take, busy } = useSoundFiles()
const height = 30
const finest = 24 // peaks that are looked at for a pixel

const tracks = computed(() =>
  Object.entries(scene.doc.tracks)
    .filter(([, t]) => t.clock === 'story' || (props.clock === 'screen' && t.assembly === scene.cut.assembly))
    .sort(([, a], [, b]) => (a.order ?? 0) - (b.order ?? 0))
    .map(([id, t]) => ({ id, t })),
)
// While something is dragged the sound waits for the hand to rest, and zoomed or
// scrolled it follows now and then. What is known of it is drawn in every frame.
interface Piece extends Heard {
  track: string
  name: string
  blob: string
}
const heard = shallowRef<Piece[]>([])
function hear() {
  const pieces = core.schedule(props.clock, props.from, props.to, 3 * props.perPixel)
  heard.value = pieces.flatMap((h) => {
    const s = scene.doc.sounds[h.sound]
    return s ? [{ ...h, track: s.track, name: s.name, blob: s.blob }] : []
  })
}
watch([() => props.clock, () => scene.cut.assembly], hear, { immediate: true })
watch([() => props.from, () => props.to, () => props.perPixel], useDebounceFn(hear, 100, { maxWait: 600 }))
watch(() => scene.changes, useDebounceFn(hear, 200))
const rows = computed(() =>
  tracks.value
    .map(({ id, t }) => ({
      id,
      t,
      pieces: heard.value.filter((h) => h.track === id && h.out >= props.from && h.in <= props.to),
    }))
    .map((r) => ({ ...r, wide: r.pieces.filter((h) => h.out - h.in >= narrowest(r.pieces.length) * props.perPixel) })),
)
/** A press on a row: on a piece that is only painted, since it is narrow. */
function press(e: PointerEvent, pieces: Piece[]) {
  const left = (e.currentTarget as HTMLElement).getBoundingClientRect().x + props.x(0)
  const at = (e.clientX - left) * props.perPixel
  const hit = pieces.find((h) => h.in <= at && at < h.out)
  if (hit) down(e, hit, false)
}

/** As wide as what is drawn. */
const width = computed(() => (props.to - props.from) / props.perPixel)
const canvases = ref<HTMLCanvasElement[]>([])
watchEffect(
  () => {
    rows.value.forEach((r, i) => paint(canvases.value[i], r.pieces, r.t.clock))
  },
  { flush: 'post' },
)
function paint(canvas: HTMLCanvasElement | undefined, pieces: Piece[], clock: string) {
  const g = cleared(canvas, width.value, height)
  if (!g) return
  const w = width.value
  const { x, from, perPixel } = props
  const start = x(from)
  for (const h of pieces) {
    g.fillStyle = h.muted ? 'rgb(159 176 176 / 0.4)' : clock === 'story' ? '#dcc391' : '#a9cbe8'
    const [left, right] = [x(h.in) - start, x(h.out) - start]
    if (h.gathered) {
      g.fillRect(left, height / 3, Math.max(1, right - left), height / 3) // several pieces
      continue
    }
    const peaks = peaksOf(h.blob)
    if (!peaks) continue
    // Peaks at the first pixel of the row and for each further one.
    const first = (h.offset + ((from - h.in) / scene.rate) * h.speed) * peakRate
    const step = (perPixel / scene.rate) * h.speed * peakRate
    const seen = [Math.max(0, Math.ceil(left)), Math.min(w, right)] as const
    let l = 0 // the level that the gain goes on from, straight to the next
    for (let px = seen[0]; px < seen[1]; px++) {
      const a = Math.floor(first + px * step)
      const b = Math.max(a + 1, Math.ceil(first + (px + 1) * step))
      const stride = Math.ceil((b - a) / finest)
      let [lo, hi] = [0, 0]
      for (let k = a; k < b; k += stride) {
        lo = Math.min(lo, peaks[2 * k] ?? 0)
        hi = Math.max(hi, peaks[2 * k + 1] ?? 0)
      }
      const frame = from + px * perPixel
      while (h.levels[l + 1] && h.levels[l + 1]!.at <= frame) l++
      const [a0, a1] = [h.levels[l], h.levels[l + 1]]
      const share = a0 && a1 ? Math.max(0, (frame - a0.at) / (a1.at - a0.at)) : 0
      const gain = a0 ? a0.gain + share * ((a1?.gain ?? a0.gain) - a0.gain) : 1
      const k = (Math.min(1.6, gain) * (height - 6)) / 256
      g.fillRect(px, height / 2 - hi * k, 1, Math.max(1, (hi - lo) * k))
    }
  }
}
function down(e: PointerEvent, h: Heard, edges = true) {
  view.select('sounds', h.sound)
  const speed = scene.doc.tracks[scene.doc.sounds[h.sound]?.track ?? '']?.clock === props.clock ? 1 : h.speed
  begin(
    e,
    (edge, by) =>
      edge
        ? { name: 'soundTrim', args: { id: h.sound, edge, by: Math.round(by * speed) } }
        : { name: 'soundMove', args: { id: h.sound, by: Math.round(by * speed) } },
    edges,
  )
}
const set = (id: string, merge: object, label: string) =>
  scene.run('set', { collection: 'tracks', id, merge, label: `${label} track ${scene.doc.tracks[id]!.name}` })
</script>
<template>
  <div class="sounds">
    <div
      v-for="(r, i) in rows"
      :key="r.id"
      class="strip-row sound"
      role="group"
      :aria-label="`Track ${r.t.name}`"
      @pointerdown.self="press($event, r.pieces)"
      @dragover.prevent
      @drop.prevent="take([...($event.dataTransfer?.files ?? [])], r.id)"
    >
      <div class="name" :class="r.t.clock">
        <button
          class="title"
          :title="`Track ${r.t.name}, tied to ${r.t.clock} time`"
          @click="view.select('tracks', r.id)"
        >
          {{ r.t.clock === 'story' ? '◷' : '▷' }} {{ r.t.name }}
        </button>
        <button
          :aria-pressed="!!r.t.mute"
          :aria-label="`Mute ${r.t.name}`"
          title="Mute"
          @click="set(r.id, { mute: r.t.mute ? null : true }, 'mute')"
        >
          M
        </button>
        <button
          :aria-pressed="!!r.t.solo"
          :aria-label="`Solo ${r.t.name}`"
          title="Hear this track alone"
          @click="set(r.id, { solo: r.t.solo ? null : true }, 'solo')"
        >
          S
        </button>
      </div>
      <canvas :ref="(el) => (canvases[i] = el as HTMLCanvasElement)" :style="{ left: `${x(from)}px` }"></canvas>
      <div class="pieces" role="list" :aria-label="`Sounds of ${r.t.name}`">
        <div
          v-for="(h, k) in r.wide"
          :key="k"
          class="piece"
          role="listitem"
          tabindex="0"
          :class="{ selected: view.isSelected('sounds', h.sound), muted: h.muted }"
          :style="{ transform: `translateX(${x(h.in)}px)`, width: `${Math.max(3, (h.out - h.in) / perPixel)}px` }"
          :aria-label="`Sound ${h.name}, ${Math.round(h.in)} to ${Math.round(h.out) - 1}`"
          @pointerdown="down($event, h)"
        ></div>
      </div>
    </div>
    <div v-if="clock === 'screen' && view.desk === 'splice'" class="strip-row add">
      <label class="link"
        ><Plus :size="11" /> {{ busy || 'sound' }}
        <input
          type="file"
          multiple
          accept="audio/*,.wav,.flac,.mp3,.ogg,.m4a"
          aria-label="Add sound files"
          @change="take([...(($event.target as HTMLInputElement).files ?? [])], '')"
      /></label>
    </div>
    <span v-if="told" class="told">{{ told }}</span>
  </div>
</template>
<style scoped>
.pieces {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.pieces > * {
  pointer-events: auto;
}
.sounds {
  position: relative;
  margin-left: var(--labels);
}
.strip-row.sound {
  height: 30px;
  margin-left: 0;
}
.strip-row.add {
  height: 20px;
  margin-left: calc(var(--shift, 0px) - var(--labels) + 8px);
  border: 0;
}
.name {
  position: absolute;
  z-index: 2;
  left: calc(var(--shift, 0px) - var(--labels));
  width: calc(var(--labels) - 2px);
  height: 100%;
  display: flex;
  align-items: center;
  gap: 2px;
  padding-left: 8px;
  background: var(--panel);
}
.name button {
  width: 16px;
  height: 18px;
  padding: 0;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--dim);
  font: 10.5px var(--font-mono);
  cursor: pointer;
}
.name .title {
  flex: 1;
  min-width: 0;
  color: inherit;
  font: 12px var(--font-condensed);
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name button[aria-pressed='true'] {
  background: var(--brass);
  color: var(--ink);
}
canvas {
  position: absolute;
  left: 0;
  top: 0;
  pointer-events: none;
}
.piece {
  position: absolute;
  left: 0;
  top: 2px;
  bottom: 2px;
  border-radius: 4px;
  background: rgb(159 176 176 / 0.1);
  box-shadow: inset 0 0 0 1px var(--line);
  cursor: grab;
  touch-action: none;
}
.piece.selected {
  box-shadow: inset 0 0 0 1px var(--text);
}
.link {
  position: relative;
  display: inline-flex;
  gap: 3px;
  align-items: center;
  color: var(--dim);
  font-size: 11.5px;
  text-decoration: none;
}
.link input {
  position: absolute;
  inset: 0;
  opacity: 0;
  font-size: 0;
  cursor: pointer;
}
.told {
  position: absolute;
  left: calc(var(--shift, 0px) + 8px);
  z-index: 3;
  top: 2px;
  padding: 0 6px;
  border-radius: 4px;
  background: var(--ink);
  font: 11px var(--font-mono);
}
</style>
