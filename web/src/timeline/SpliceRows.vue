<script setup lang="ts">
// The rows of the cut on the screen clock: spare lanes, the main lane, the two
// clocks against each other, lines and sound.
import { Plus, X } from '@lucide/vue'
import { computed } from 'vue'
import { useScene } from '@/stores/scene'
import DropMenu from './DropMenu.vue'
import LineRow from './LineRow.vue'
import SoundRows from './SoundRows.vue'
import ShotLane from './ShotLane.vue'
import StoryGraph from './StoryGraph.vue'
import { useShotDrag } from './useShotDrag'

const props = defineProps<{ perPixel: number; from: number; to: number }>()
const scene = useScene()
const emit = defineEmits<{ scroll: [frames: number] }>()
const drag = useShotDrag({
  perPixel: () => props.perPixel,
  from: () => props.from,
  scroll: (frames) => emit('scroll', frames),
})

// Rows are drawn for a page half as wide again as what is in sight, and the page
// is moved as a whole: scrolling draws rows anew only when the page is left.
const step = computed(() => Math.max(1, Math.round((props.to - props.from) / 2)))
const first = computed(() => Math.floor(props.from / step.value) * step.value)
const end = computed(() => first.value + 3 * step.value + 1)
const page = computed(() => {
  const [from, { perPixel }] = [first.value, props]
  return { x: (frame: number) => (frame - from) / perPixel, perPixel, from, to: end.value }
})
const shift = computed(() => (first.value - props.from) / props.perPixel)
const { drop, consider, choose } = drag
</script>
<template>
  <div class="page" :style="{ transform: `translateX(${shift}px)`, '--shift': `${-shift}px` }">
    <div v-for="l in scene.cut.spares" :key="l.id" class="holder">
      <ShotLane :lane="l.id" :title="scene.doc.lanes[l.id]?.name ?? ''" :shots="l.shots" v-bind="page" :drag="drag" />
      <button
        class="gone"
        :aria-label="`Remove lane ${scene.doc.lanes[l.id]?.name}`"
        title="Remove this lane and what is on it"
        @click="scene.run('laneRemove', { id: l.id })"
      >
        <X :size="11" />
      </button>
    </div>
    <div class="holder">
      <ShotLane main :lane="scene.cut.lane" title="Main lane" :shots="scene.cut.shots" v-bind="page" :drag="drag" />
      <button
        class="gone"
        aria-label="Add a spare lane"
        title="Add a spare lane"
        @click="scene.run('laneAdd', { assembly: scene.cut.assembly })"
      >
        <Plus :size="12" />
      </button>
    </div>
    <StoryGraph v-bind="page" />
    <LineRow v-if="Object.keys(scene.doc.lines).length" v-bind="page" />
    <SoundRows clock="screen" v-bind="page" />
  </div>
  <DropMenu v-if="drop" :drop="drop" @consider="consider" @choose="choose" />
</template>
<style scoped>
.page {
  width: 150%; /* its rows reach the right end of the field wherever it stands */
}
.holder {
  position: relative;
}
.gone {
  position: absolute;
  z-index: 3;
  left: calc(70px + var(--shift));
  top: 50%;
  width: 18px;
  height: 18px;
  margin-top: -9px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: var(--panel);
  color: var(--dim);
  cursor: pointer;
}
.gone:hover {
  color: var(--text);
}
</style>
