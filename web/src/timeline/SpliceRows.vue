<script setup lang="ts">
// The rows of the cut on the screen clock: spare lanes, the main lane, the two
// clocks against each other, lines and sound.
import { computed } from 'vue'
import { useScene } from '@/stores/scene'
import { useWatching } from '@/stores/watching'
import DropMenu from './DropMenu.vue'
import LaneMenu from './LaneMenu.vue'
import LineRow from './LineRow.vue'
import RibbonRows from './RibbonRows.vue'
import SoundRows from './SoundRows.vue'
import ShotLane from './ShotLane.vue'
import StoryGraph from './StoryGraph.vue'
import { useShotBox } from './useShotBox'
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
const watching = useWatching()
const around = useShotBox(() => page.value)
</script>
<template>
  <div
    class="page"
    :style="{ transform: `translateX(${shift}px)`, '--shift': `${-shift}px` }"
    @pointerdown="around.begin"
  >
    <div v-for="l in scene.cut.spares" :key="l.id" class="holder">
      <ShotLane :lane="l.id" :title="scene.doc.lanes[l.id]?.name ?? ''" :shots="l.shots" v-bind="page" :drag="drag" />
      <LaneMenu :lane="l.id" :title="scene.doc.lanes[l.id]?.name ?? ''" />
    </div>
    <div class="holder">
      <ShotLane main :lane="scene.cut.lane" title="Main lane" :shots="scene.cut.shots" v-bind="page" :drag="drag" />
      <LaneMenu main :lane="scene.cut.lane" title="Main lane" />
    </div>
    <i v-if="around.box.value" class="box" :style="around.box.value"></i>
    <RibbonRows
      v-if="watching.subjects.length"
      camera=""
      :subjects="watching.subjects"
      :from="page.from"
      :to="page.to"
      :per-pixel="perPixel"
    />
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
.box {
  position: absolute;
  z-index: 2;
  border: 1px solid var(--brass);
  background: color-mix(in srgb, var(--brass) 14%, transparent);
  pointer-events: none;
}
</style>
