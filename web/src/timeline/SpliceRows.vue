<script setup lang="ts">
// The rows of the cut on the screen clock: spare lanes, the main lane, the two
// clocks against each other, lines and sound.
import { Plus, X } from '@lucide/vue'
import { useScene } from '@/stores/scene'
import DropMenu from './DropMenu.vue'
import LineRow from './LineRow.vue'
import SoundRows from './SoundRows.vue'
import ShotLane from './ShotLane.vue'
import StoryGraph from './StoryGraph.vue'
import { useShotDrag } from './useShotDrag'

const props = defineProps<{ x: (frame: number) => number; perPixel: number; from: number; to: number }>()
const scene = useScene()
const drag = useShotDrag(() => props.perPixel)
const { drop, consider, choose } = drag
</script>
<template>
  <div v-for="l in scene.cut.spares" :key="l.id" class="holder">
    <ShotLane
      :lane="l.id"
      :title="scene.doc.lanes[l.id]?.name ?? ''"
      :shots="l.shots"
      :x="x"
      :per-pixel="perPixel"
      :from="from"
      :to="to"
      :drag="drag"
    />
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
    <ShotLane
      main
      :lane="scene.cut.lane"
      title="Main lane"
      :shots="scene.cut.shots"
      :x="x"
      :per-pixel="perPixel"
      :from="from"
      :to="to"
      :drag="drag"
    />
    <button
      class="gone"
      aria-label="Add a spare lane"
      title="Add a spare lane"
      @click="scene.run('laneAdd', { assembly: scene.cut.assembly })"
    >
      <Plus :size="12" />
    </button>
  </div>
  <StoryGraph :x="x" :from="from" :to="to" />
  <LineRow v-if="Object.keys(scene.doc.lines).length" :x="x" :per-pixel="perPixel" :from="from" :to="to" />
  <SoundRows clock="screen" :x="x" :per-pixel="perPixel" :from="from" :to="to" />
  <DropMenu v-if="drop" :drop="drop" @consider="consider" @choose="choose" />
</template>
<style scoped>
.holder {
  position: relative;
}
.gone {
  position: absolute;
  z-index: 3;
  left: 70px;
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
