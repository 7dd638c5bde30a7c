<script setup lang="ts">
// A join as a shape on its seam, as long as it lasts: two wedges crossing for a
// dissolve, two meeting in the dip's colour, a path from one to the other for a
// travel.
import { computed } from 'vue'
import type { Shot } from '@/core/bridge'

const props = defineProps<{ join: NonNullable<Shot['join']>; x: number; perPixel: number; color: string }>()
const left = computed(() => props.x - props.join.before / props.perPixel)
const width = computed(() => Math.max(6, (props.join.before + props.join.after) / props.perPixel))
const words = computed(() => `${props.join.kind} of ${props.join.before + props.join.after} frames`)
</script>
<template>
  <svg
    class="join"
    :style="{ transform: `translateX(${left}px)`, width: `${width}px` }"
    viewBox="0 0 20 12"
    preserveAspectRatio="none"
    role="img"
    :aria-label="words"
  >
    <title>{{ words }}</title>
    <rect width="20" height="12" rx="1" fill="#11181b" opacity="0.75" />
    <template v-if="join.kind === 'dissolve'">
      <path d="M0 1 L20 11 L0 11 Z" fill="#efe9dc" opacity="0.75" />
      <path d="M20 1 L0 11 L20 11 Z" fill="#e2b45a" opacity="0.75" />
    </template>
    <template v-else-if="join.kind === 'dip'">
      <path d="M0 1 L10 11 L0 11 Z M20 1 L10 11 L20 11 Z" fill="#efe9dc" opacity="0.85" />
      <path d="M0 1 L20 1 L10 11 Z" :fill="join.color" />
    </template>
    <path
      v-else
      d="M1 10 C8 10 12 2 19 2"
      fill="none"
      stroke="#e2b45a"
      stroke-width="2"
      vector-effect="non-scaling-stroke"
    />
  </svg>
</template>
<style scoped>
.join {
  position: absolute;
  left: 0;
  bottom: 5px;
  height: 12px;
  pointer-events: none;
}
</style>
