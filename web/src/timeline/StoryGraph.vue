<script setup lang="ts">
// The two clocks against each other: screen time runs along, story time upward.
// A normal shot rises evenly, a fast one steeply, a frozen one lies flat, and
// where the cut jumps the line is broken.
import { computed } from 'vue'
import { storyOut } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { visibleShots } from './visible'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const head = usePlayhead()
const height = 34
const lines = computed(() =>
  visibleShots(scene, scene.cut.shots, props.from, props.to).map(({ id, s }) => ({
    id,
    s,
    out: storyOut(s),
    color: (!s.plays && scene.doc.nodes[s.camera]?.camera?.color) || '#8a979b',
  })),
)
/** The span of the story that is in sight. */
const span = computed(() => {
  let [lo, hi] = [Infinity, -Infinity]
  for (const l of lines.value) [lo, hi] = [Math.min(lo, l.s.storyIn, l.out), Math.max(hi, l.s.storyIn, l.out)]
  return hi > lo ? { lo, hi } : { lo: 0, hi: 1 }
})
const y = (story: number) => height - 3 - ((story - span.value.lo) / (span.value.hi - span.value.lo)) * (height - 6)
</script>
<template>
  <div
    class="strip-row graph"
    data-label="◷ against ▷"
    role="img"
    :aria-label="`Story time against screen time: story frame ${Math.round(head.story)} at screen frame ${Math.round(head.screen)}`"
  >
    <svg
      :width="(to - from) / perPixel"
      :height="height"
      :viewBox="`${x(from)} 0 ${(to - from) / perPixel} ${height}`"
      :style="{ left: `${x(from)}px` }"
    >
      <g v-for="l in lines" :key="l.id">
        <line
          :x1="x(l.s.screenIn)"
          :y1="y(l.s.storyIn)"
          :x2="x(l.s.screenOut)"
          :y2="y(l.out)"
          :stroke="l.color"
          stroke-width="2"
        />
      </g>
      <line
        class="now"
        :x1="x(from)"
        :x2="x(head.screen)"
        :y1="y(head.story)"
        :y2="y(head.story)"
        stroke-width="1"
        stroke-dasharray="3 3"
      />
      <circle class="dot" :cx="x(head.screen)" :cy="y(head.story)" r="3.5" />
    </svg>
  </div>
</template>
<style scoped>
.strip-row.graph {
  height: 34px;
}
svg {
  position: absolute;
}
.now {
  stroke: var(--sand);
  opacity: 0.6;
}
.dot {
  fill: var(--sand);
}
</style>
