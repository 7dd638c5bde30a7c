<script setup lang="ts">
// What others have selected, look through or move, in a view: a ring in their
// colour with their name. It stands in the view's drawing.
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { usePeople } from '@/stores/people'
import { useStage } from './stage'

const props = defineProps<{
  /** Where a place is in the view, in pixels, or null when it is out of it. */
  place: (at: Vec3) => { x: number; y: number } | null
}>()
interface Ring {
  key: string
  name: string
  color: string
  x: number
  y: number
  r: number
  down: number
}
const people = usePeople()
const stage = useStage()
const rings = ref<Ring[]>([])

function gather() {
  if (!people.marks.size && !rings.value.length) return
  rings.value = [...people.marks].flatMap(([thing, marks]) => {
    const at = thing.startsWith('nodes/') ? stage.position(thing.slice(6))?.toArray() : undefined
    const p = at && props.place(at)
    // Several who have the same thing stand around each other.
    return p ? marks.map((m, i) => ({ ...m, ...p, key: `${thing} ${m.tab}`, r: 12 + 4 * i, down: 24 + 12 * i })) : []
  })
}
onMounted(() => stage.drawn.add(gather))
onBeforeUnmount(() => stage.drawn.delete(gather))
watch(
  () => people.marks,
  () => stage.invalidate(),
)
</script>
<template>
  <g
    v-for="t in rings"
    :key="t.key"
    class="theirs"
    role="img"
    :aria-label="`${t.name} is here`"
    :transform="`translate(${t.x.toFixed(1)} ${t.y.toFixed(1)})`"
  >
    <circle :r="t.r" :stroke="t.color" />
    <text :y="t.down" text-anchor="middle" :fill="t.color">{{ t.name }}</text>
  </g>
</template>
<style scoped>
.theirs {
  pointer-events: none;
}
circle {
  fill: none;
  stroke-width: 2;
  stroke-dasharray: 5 3;
}
text {
  font: 11px var(--font-condensed);
  paint-order: stroke;
  stroke: rgb(17 24 27 / 0.7);
  stroke-width: 3px;
}
</style>
