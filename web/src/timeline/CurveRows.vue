<script setup lang="ts">
// Curves of the selected node's channels: value over story time, with pins to
// drag, handles to pull, a box to select many, and speed as a thin line.
import { computed, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core, type Key } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import { presses, useDrag } from '@/ui/useDrag'
import { useEditDrag } from '@/ui/useEditDrag'
import { channelNames } from './channels'

const props = defineProps<{ node: string; x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
const tints = ['#e2b45a', '#7cc68d', '#6fa8dc', '#c58ac9', '#e58b88', '#5fb7b2', '#b0c46a', '#9a93e0']
const order = Object.keys(channelNames)
const curves = computed(() =>
  Object.values(scene.doc.curves)
    .filter((c) => c.node === props.node)
    .sort((a, b) => order.indexOf(a.channel) - order.indexOf(b.channel))
    .map((c, i) => ({ channel: c.channel, keys: c.keys, tint: tints[i % tints.length]! })),
)
/** The channels that are drawn; all, until some are chosen. */
const shown = ref<string[]>([])
watch(
  () => props.node,
  () => (shown.value = []),
)
const drawn = computed(() => {
  const some = curves.value.filter((c) => shown.value.includes(c.channel))
  return some.length ? some : curves.value
})
function toggle(channel: string) {
  const now = shown.value.length ? shown.value : curves.value.map((c) => c.channel)
  shown.value =
    shown.value.length === 1 && shown.value[0] === channel
      ? []
      : now.length === curves.value.length
        ? [channel]
        : now.includes(channel)
          ? now.filter((c) => c !== channel)
          : [...now, channel]
}
// Each channel is fitted to the height by its own least and greatest value.
const pad = 14
const lines = computed(() => {
  const steps = Math.max(2, Math.min(600, Math.round(width.value / 3)))
  const over = core.overshoots(props.node)
  return drawn.value.map((c) => {
    const values = core.curve(c.keys, props.from, props.to, steps)
    let [lo, hi] = [Math.min(...c.keys.map((k) => k.value)), Math.max(...c.keys.map((k) => k.value))]
    for (const v of values) [lo, hi] = [Math.min(lo, v), Math.max(hi, v)]
    if (hi - lo < 1e-6) [lo, hi] = [lo - 1, hi + 1]
    const y = (v: number) => pad + ((hi - v) / (hi - lo)) * (height.value - 2 * pad)
    const at = (i: number) => (i / steps) * width.value
    let d = ''
    values.forEach((v, i) => (d += `${i ? 'L' : 'M'}${at(i).toFixed(1)} ${y(v).toFixed(1)}`))
    let most = 0
    const speeds = [...values].slice(1).map((v, i) => Math.abs(v - values[i]!))
    for (const s of speeds) most = Math.max(most, s)
    let speed = ''
    if (most > 0)
      speeds.forEach(
        (s, i) =>
          (speed += `${i ? 'L' : 'M'}${at(i + 0.5).toFixed(1)} ${(height.value - 2 - (s / most) * 22).toFixed(1)}`),
      )
    const mine = over.filter((o) => o.channel === c.channel)
    const beyond = mine.map((o) => {
      const part = core.curve(c.keys, o.from, o.to, 40)
      let path = ''
      part.forEach(
        (v, i) =>
          (path += `${i ? 'L' : 'M'}${props.x(o.from + ((o.to - o.from) * i) / 40).toFixed(1)} ${y(v).toFixed(1)}`),
      )
      return { path, title: `${channelNames[c.channel]} passes its keys by ${o.by.toPrecision(2)}` }
    })
    return { ...c, d, speed, y, lo, hi, perPixel: (hi - lo) / (height.value - 2 * pad), beyond }
  })
})
type Line = (typeof lines.value)[number]
const picked = (channel: string, frame: number) =>
  view.keys?.node === props.node && !!view.keys.rows[channel]?.includes(frame)
const now = (c: { keys: Key[] }) => core.curve(c.keys, head.story - 0.01, head.story + 0.01, 2)

// Drags: of pins, of handles, and of a box.
const drag = useDrag()
const handles = useEditDrag()
const frame = ref<{ x0: number; y0: number; x1: number; y1: number } | null>(null)
const local = (e: PointerEvent) => {
  const b = box.value!.getBoundingClientRect()
  return { x: e.clientX - b.x, y: e.clientY - b.y }
}
function down(e: PointerEvent, line: Line, k: Key) {
  if (!presses(e)) return
  const old = view.keys?.node === props.node ? view.keys.rows : {}
  const keep = e.shiftKey || picked(line.channel, k.frame)
  const chosen = {
    node: props.node,
    rows: keep
      ? { ...old, [line.channel]: [...new Set([...(old[line.channel] ?? []), k.frame])] }
      : { [line.channel]: [k.frame] },
  }
  view.keys = chosen
  const amounts = (to: PointerEvent) => ({
    by: Math.round((to.clientX - e.clientX) * props.perPixel),
    // In value only while one channel is dragged: others have other units.
    value:
      Object.keys(chosen.rows).length === 1 && !to.ctrlKey
        ? +((e.clientY - to.clientY) * line.perPixel).toPrecision(4)
        : 0,
  })
  drag.begin(e, box.value!, {
    move: (to) => void scene.preview('keyMove', { ...chosen, ...amounts(to) }),
    drop(to) {
      const a = amounts(to)
      scene.cancel()
      if (!a.value) return a.by ? view.moveKeys(a.by) : undefined
      if (scene.run('keyMove', { ...chosen, ...a }))
        view.keys = {
          node: props.node,
          rows: Object.fromEntries(Object.entries(chosen.rows).map(([c, f]) => [c, f.map((v) => v + a.by)])),
        }
    },
    abandon: () => void scene.cancel(),
  })
}
function grab(e: PointerEvent, line: Line, key: Key, side: 'in' | 'out') {
  // Handles that have left the level stay free.
  const free = !!(key.in?.value || key.out?.value)
  handles.begin(e, box.value!, (to) => {
    const p = local(to)
    const frames = Math.max(0, (side === 'out' ? 1 : -1) * (props.from + p.x * props.perPixel - key.frame))
    const value = line.hi - ((p.y - pad) / (height.value - 2 * pad)) * (line.hi - line.lo) - key.value
    const args = {
      ...{ node: props.node, channel: line.channel, frame: key.frame, side },
      frames: +frames.toFixed(2),
      value: +value.toPrecision(5),
      free: to.altKey || free,
      alone: to.ctrlKey,
    }
    return { name: 'keyHandle', args, text: '' }
  })
}
function background(e: PointerEvent) {
  const start = local(e)
  const kept = e.shiftKey && view.keys?.node === props.node ? view.keys.rows : {}
  const end = () => (frame.value = null)
  drag.begin(e, box.value!, {
    move(to) {
      const p = local(to)
      frame.value = {
        x0: Math.min(p.x, start.x),
        y0: Math.min(p.y, start.y),
        x1: Math.max(p.x, start.x),
        y1: Math.max(p.y, start.y),
      }
    },
    drop() {
      const f = frame.value!
      const rows: Record<string, number[]> = { ...kept }
      for (const l of lines.value)
        for (const k of l.keys) {
          const [x, y] = [props.x(k.frame), l.y(k.value)]
          if (x >= f.x0 && x <= f.x1 && y >= f.y0 && y <= f.y1)
            rows[l.channel] = [...new Set([...(rows[l.channel] ?? []), k.frame])]
        }
      view.keys = Object.keys(rows).length ? { node: props.node, rows } : null
      end()
    },
    click: () => (view.keys = Object.keys(kept).length ? { node: props.node, rows: kept } : null),
    abandon: end,
  })
}
const selectedHandles = computed(() =>
  lines.value.flatMap((l) =>
    l.keys
      .filter((k) => k.ease === 'shaped' && picked(l.channel, k.frame))
      .flatMap((k) =>
        (['in', 'out'] as const).flatMap((side) => {
          const h = k[side]
          if (!h) return []
          const sign = side === 'out' ? 1 : -1
          return { l, k, side, x: props.x(k.frame + sign * h.frames), y: l.y(k.value + h.value) }
        }),
      ),
  ),
)
</script>
<template>
  <div class="curves" role="group" aria-label="Curves">
    <ul class="names">
      <li v-for="c in curves" :key="c.channel">
        <button
          :aria-pressed="drawn.some((d) => d.channel === c.channel)"
          :style="{ '--t': c.tint }"
          @click="toggle(c.channel)"
        >
          {{ channelNames[c.channel] }}
          <output>{{ now(c)[1]!.toFixed(2) }}</output>
          <output class="speed" title="Change in a second"
            >{{ (((now(c)[2]! - now(c)[0]!) / 0.02) * scene.rate).toFixed(2) }}/s</output
          >
        </button>
      </li>
    </ul>
    <div ref="box" class="field" tabindex="0" aria-label="Curves, drag a box to select keys" @pointerdown="background">
      <svg :viewBox="`0 0 ${Math.max(1, width)} ${Math.max(1, height)}`">
        <g v-for="l in lines" :key="l.channel" :style="{ '--t': l.tint }">
          <path :d="l.speed" class="speedline" />
          <path :d="l.d" class="line" />
          <path v-for="o in l.beyond" :key="o.path" :d="o.path" class="beyond">
            <title>{{ o.title }}</title>
          </path>
          <circle
            v-for="(k, i) in l.keys"
            :key="i"
            :cx="x(k.frame)"
            :cy="l.y(k.value)"
            r="5"
            class="pin"
            :class="{ selected: picked(l.channel, k.frame) }"
            role="button"
            :aria-label="`${channelNames[l.channel]} ${k.value.toFixed(2)} at ${k.frame} on its curve`"
            @pointerdown="down($event, l, k)"
          >
            <title>{{ channelNames[l.channel] }} {{ k.value.toFixed(3) }} at {{ k.frame }}, {{ k.ease }}</title>
          </circle>
        </g>
        <g v-for="h in selectedHandles" :key="`${h.l.channel}${h.k.frame}${h.side}`" :style="{ '--t': h.l.tint }">
          <path :d="`M${x(h.k.frame)} ${h.l.y(h.k.value)}L${h.x} ${h.y}`" class="arm" />
          <rect
            :x="h.x - 4"
            :y="h.y - 4"
            width="8"
            height="8"
            class="handle"
            role="button"
            :aria-label="`Handle ${h.side} of ${channelNames[h.l.channel]} at ${h.k.frame}`"
            @pointerdown="grab($event, h.l, h.k, h.side)"
          >
            <title>Held flat; with Alt it is free, with Ctrl it turns alone</title>
          </rect>
        </g>
        <rect
          v-if="frame"
          :x="frame.x0"
          :y="frame.y0"
          :width="frame.x1 - frame.x0"
          :height="frame.y1 - frame.y0"
          class="box"
        />
      </svg>
    </div>
  </div>
</template>
<style scoped>
.curves {
  position: relative;
  height: 112px;
  margin-left: var(--labels);
  border-bottom: 1px solid var(--line);
  background: rgb(17 24 27 / 0.5);
}
.names {
  position: absolute;
  z-index: 2;
  left: calc(-1 * var(--labels));
  top: 0;
  width: var(--labels);
  height: 100%;
  margin: 0;
  padding: 0;
  overflow: hidden auto;
  scrollbar-width: none;
  background: var(--panel);
  list-style: none;
}
.names button {
  display: block;
  width: 100%;
  padding: 1px 4px 1px 6px;
  border: 0;
  border-left: 3px solid var(--line);
  background: none;
  color: var(--dim);
  font: 11px var(--font-condensed);
  text-align: left;
  cursor: pointer;
}
.names button[aria-pressed='true'] {
  border-left-color: var(--t);
  color: var(--text);
}
.names output {
  display: inline-block;
  font: 10px var(--font-mono);
}
.names output.speed {
  margin-left: 5px;
  color: var(--dim);
}
.field {
  position: absolute;
  inset: 0;
  touch-action: none;
  cursor: crosshair;
}
svg {
  display: block;
  width: 100%;
  height: 100%;
}
.line {
  fill: none;
  stroke: var(--t);
  stroke-width: 1.6;
}
.speedline {
  fill: none;
  stroke: var(--t);
  stroke-width: 1;
  opacity: 0.35;
  stroke-dasharray: 2 2;
}
.beyond {
  fill: none;
  stroke: var(--warning);
  stroke-width: 4;
  opacity: 0.6;
}
.pin {
  fill: var(--panel);
  stroke: var(--t);
  stroke-width: 2;
  cursor: move;
}
.pin.selected {
  fill: var(--t);
}
.arm {
  stroke: var(--t);
}
.handle {
  fill: var(--t);
  cursor: grab;
}
.box {
  fill: rgb(226 180 90 / 0.12);
  stroke: var(--brass);
  stroke-dasharray: 3 3;
}
</style>
