<script setup lang="ts">
// The two clocks against each other: screen time runs along, story time upward.
// A normal shot rises evenly, a fast one steeply, a frozen one lies flat, and
// where the cut jumps the line is broken.
import { computed, ref, watchEffect } from 'vue'
import { storyOut } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { cleared } from './painting'
import { visibleShots } from './visible'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const head = usePlayhead()
const height = 34
const lines = computed(() =>
  visibleShots(scene, scene.cut.shots, props.from, props.to).map(({ s, color }) => ({ s, out: storyOut(s), color })),
)
/** The span of the story that is in sight. */
const span = computed(() => {
  let [lo, hi] = [Infinity, -Infinity]
  for (const l of lines.value) [lo, hi] = [Math.min(lo, l.s.storyIn, l.out), Math.max(hi, l.s.storyIn, l.out)]
  return hi > lo ? { lo, hi } : { lo: 0, hi: 1 }
})
const y = computed(() => {
  const { lo, hi } = span.value
  return (story: number) => height - 3 - ((story - lo) / (hi - lo)) * (height - 6)
})
const width = computed(() => (props.to - props.from) / props.perPixel)
const canvas = ref<HTMLCanvasElement | null>(null)
watchEffect(
  () => {
    const g = cleared(canvas.value, width.value, height)
    if (!g) return
    const { x } = props
    const start = x(props.from)
    const up = y.value
    const strokes = new Map<string, Path2D>()
    for (const { s, out, color } of lines.value) {
      const path = strokes.get(color) ?? new Path2D()
      strokes.set(color, path)
      path.moveTo(x(s.screenIn) - start, up(s.storyIn))
      path.lineTo(x(s.screenOut) - start, up(out))
    }
    g.lineWidth = 2
    for (const [color, path] of strokes) {
      g.strokeStyle = color
      g.stroke(path)
    }
  },
  { flush: 'post' },
)
</script>
<template>
  <div
    class="strip-row graph"
    data-label="time map"
    role="img"
    :aria-label="`Story time against screen time: story frame ${Math.round(head.story)} at screen frame ${Math.round(head.screen)}`"
  >
    <canvas ref="canvas" :style="{ left: `${x(from)}px` }"></canvas>
    <i
      class="now"
      :style="{ left: `${x(from)}px`, width: `${Math.max(0, x(head.screen) - x(from))}px`, top: `${y(head.story)}px` }"
    ></i>
    <i class="dot" :style="{ left: `${x(head.screen)}px`, top: `${y(head.story)}px` }"></i>
  </div>
</template>
<style scoped>
.strip-row.graph {
  height: 34px;
}
canvas {
  position: absolute;
  top: 0;
}
.now,
.dot {
  position: absolute;
  pointer-events: none;
}
.now {
  border-top: 1px dashed color-mix(in srgb, var(--sand) 60%, transparent);
}
.dot {
  width: 7px;
  height: 7px;
  margin: -3.5px;
  border-radius: 50%;
  background: var(--sand);
}
</style>
