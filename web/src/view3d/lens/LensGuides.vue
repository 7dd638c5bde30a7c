<script setup lang="ts">
// What is laid over the picture of a camera: mask, safe areas, lines, the
// horizon, boxes around subjects, and the field of view.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { useGuides } from '@/stores/guides'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import { useFrameTick } from '../useFrameTick'

const props = defineProps<{ camera: string; width: number; height: number }>()
const scene = useScene()
const on = useGuides()
const turnover = useTurnover()
const head = usePlayhead()
const { tick, stage } = useFrameTick()
const now = computed(() => {
  void tick.value
  const i = stage.cameraIndex(props.camera)
  return i < 0 ? null : stage.state.camera(i)
})
const cast = computed(() =>
  Object.entries(scene.doc.nodes)
    .filter(([, n]) => n.kind === 'cast' && !n.hidden)
    .map(([id]) => id),
)
const framing = computed(() => (void tick.value, core.framing(props.camera, on.value.boxes ? cast.value : [])))
/** Where the pictures of the other formats lie in this one; what is seen from elsewhere has no place in it. */
const shapes = computed(() => {
  void tick.value
  if (!on.value.shapes) return []
  const others = turnover.allFormats.slice(1)
  const at = (c: number[]) =>
    [0, 2, 4, 6].map((i) => [((c[i]! + 1) / 2) * props.width, ((1 - c[i + 1]!) / 2) * props.height] as const)
  return core
    .outlines(
      props.camera,
      head.story,
      others.map((f) => f.id),
    )
    .map((o, i) => {
      const whole = at(o.whole)
      return {
        id: o.format,
        name: others.find((f) => f.id === o.format)!.name,
        whole: whole.join(' '),
        safe: [on.value.action && at(o.action).join(' '), on.value.title && at(o.title).join(' ')].filter((p) => !!p),
        x: Math.max(4, whole[0]![0] + 5),
        y: Math.min(props.height - 6, whole[0]![1] - 6) - 14 * i, // names may lie on one another
      }
    })
})
const states = ['outside', 'hidden', 'cut', 'small', 'seen']
const boxes = computed(() =>
  framing.value.subjects
    .filter((s) => s.status > 0)
    .map((s) => {
      const [l, b, r, t] = s.box.map((v) => Math.max(-1, Math.min(1, v)))
      return {
        ...s,
        state: states[s.status]!,
        x: ((l! + 1) / 2) * props.width,
        y: ((1 - t!) / 2) * props.height,
        w: ((r! - l!) / 2) * props.width,
        h: ((t! - b!) / 2) * props.height,
      }
    }),
)
/** The true horizon in the picture: where level directions are seen. */
const horizon = computed(() => {
  const c = now.value
  if (!c || !on.value.horizon) return null
  const high = props.height / 2 / Math.tan((c.vfov * Math.PI) / 360)
  const tilt = (c.tilt * Math.PI) / 180
  if (Math.abs(c.tilt) > 80) return null
  const up = Math.tan(tilt) * high
  return { up, roll: c.roll, x: props.width / 2 - c.shiftX * high, y: props.height / 2 + c.shiftY * high }
})
</script>
<template>
  <svg v-if="width > 0" class="guides" :viewBox="`0 0 ${width} ${height}`" aria-hidden="true">
    <path
      v-if="on.thirds"
      :d="`M${width / 3} 0V${height}M${(width * 2) / 3} 0V${height}M0 ${height / 3}H${width}M0 ${(height * 2) / 3}H${width}`"
    />
    <path v-if="on.diagonals" :d="`M0 0L${width} ${height}M0 ${height}L${width} 0`" />
    <rect
      v-if="on.action"
      :x="width * 0.035"
      :y="height * 0.035"
      :width="width * 0.93"
      :height="height * 0.93"
      class="safe"
    />
    <rect
      v-if="on.title"
      :x="width * 0.05"
      :y="height * 0.05"
      :width="width * 0.9"
      :height="height * 0.9"
      class="safe title"
    />
    <g v-for="s in shapes" :key="s.id" class="shape">
      <polygon :points="s.whole" />
      <polygon v-for="p in s.safe" :key="String(p)" :points="String(p)" class="safe" />
      <text :x="s.x" :y="s.y">{{ s.name }}</text>
    </g>
    <path v-if="on.centre" :d="`M${width / 2 - 8} ${height / 2}h16M${width / 2} ${height / 2 - 8}v16`" class="centre" />
    <g v-if="horizon" :transform="`translate(${horizon.x} ${horizon.y}) rotate(${horizon.roll})`">
      <path :d="`M${-width} ${horizon.up}H${width}`" class="horizon" />
      <text x="14" :y="horizon.up - 6">{{ horizon.roll.toFixed(1) }}°</text>
    </g>
    <g v-for="b in boxes" :key="b.node" :class="['box', b.state]">
      <rect :x="b.x" :y="b.y" :width="b.w" :height="b.h" rx="3" />
      <text :x="b.x + 5" :y="b.y + 14">
        {{ b.name }}{{ b.focus ? ' ·' : '' }} {{ b.state === 'seen' ? b.size : b.state }}
      </text>
    </g>
  </svg>
  <div class="words">
    <span class="label" role="status" aria-label="Shot size">{{ framing.label }}</span>
    <span v-if="on.angles && now" class="angles"
      >{{ now.focal.toFixed(0) }} mm · {{ now.hfov.toFixed(1) }}° × {{ now.vfov.toFixed(1) }}°</span
    >
  </div>
</template>
<style scoped>
.guides {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
}
.guides path,
.guides rect {
  fill: none;
  stroke: rgb(239 233 220 / 0.24);
}
.guides .safe {
  stroke-dasharray: 4 6;
}
.guides .title {
  stroke-dasharray: 1 4;
}
.guides .shape polygon {
  fill: none;
  stroke: rgb(239 233 220 / 0.55);
}
.guides .shape polygon.safe {
  stroke: rgb(239 233 220 / 0.3);
}
.guides .centre {
  stroke: rgb(239 233 220 / 0.6);
}
.guides .horizon {
  stroke: var(--brass);
  stroke-dasharray: 12 5;
}
text {
  fill: var(--text);
  font: 11px var(--font-mono);
  paint-order: stroke;
  stroke: rgb(17 24 27 / 0.8);
  stroke-width: 3px;
}
.box rect {
  stroke: var(--good);
}
.box.cut rect {
  stroke: var(--warning);
}
.box.small rect,
.box.hidden rect {
  stroke: var(--dim);
  stroke-dasharray: 3 4;
}
.words {
  position: absolute;
  left: 8px;
  top: 36px;
  display: grid;
  gap: 2px;
  justify-items: start;
}
.words span {
  padding: 2px 7px;
  border-radius: 5px;
  background: rgb(17 24 27 / 0.6);
  font: 11.5px var(--font-condensed);
}
.words .angles {
  font: 11px var(--font-mono);
}
</style>
