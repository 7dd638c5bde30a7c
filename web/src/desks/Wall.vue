<script setup lang="ts">
// All cameras as live pictures. In Frame pressing one looks through it, in
// Splice it puts it on air at the playhead.
import { computed } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { useStage } from '@/view3d/stage'
import Thumb from '@/view3d/Thumb.vue'

const props = defineProps<{ cuts?: boolean }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const stage = useStage()
const cameras = computed(() => scene.cameras)
function press(id: string) {
  if (!props.cuts) return view.lookThrough(id)
  view.select('nodes', id)
  if (head.airCamera !== id)
    scene.run('cutTo', { assembly: scene.cut.assembly, at: Math.round(head.screen), camera: id })
}
</script>
<template>
  <div class="wall">
    <header class="head">
      Wall <span class="dim">{{ cuts ? 'press to cut' : 'press to look through' }}</span>
    </header>
    <div class="scrolls list" @scroll.passive="stage.invalidate()">
      <button
        v-for="c in cameras"
        :key="c.id"
        class="cell"
        :style="{ '--camera': c.camera.color }"
        :class="{
          through: view.through === c.id,
          air: head.airCamera === c.id,
          selected: view.isSelected('nodes', c.id),
        }"
        :aria-label="`${cuts ? 'Cut to' : 'Look through'} camera ${c.camera.number} ${c.node.name}`"
        :aria-pressed="cuts ? head.airCamera === c.id : view.through === c.id"
        @click="press(c.id)"
      >
        <Thumb :camera="c.id" />
        <span class="label"
          ><CameraBadge :number="c.camera.number" :color="c.camera.color" :size="18" /><span class="name">{{
            c.node.name
          }}</span
          ><span class="lens">{{ c.camera.focal }}</span></span
        >
        <span v-if="head.airCamera === c.id" class="tally" aria-hidden="true"></span>
      </button>
      <p v-if="!cameras.length" class="dim none">
        There is no camera yet. Roam in the scout view and press “Leave a camera here”.
      </p>
    </div>
  </div>
</template>
<style scoped>
.wall {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.list {
  flex: 1;
  overflow-y: auto;
  padding: 0 8px 8px;
  scrollbar-gutter: stable;
}
.cell {
  position: relative;
  display: block;
  width: 100%;
  margin: 0 0 8px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--text);
  text-align: left;
  cursor: pointer;
  box-shadow: 0 0 0 1px var(--line);
}
.cell.through {
  box-shadow: 0 0 0 3px var(--camera);
}
.cell.selected:not(.through) {
  box-shadow: 0 0 0 2px var(--text);
}
.label {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 24px;
  padding: 0 6px;
  background: var(--raised);
  border-radius: 0 0 4px 4px;
  font: 12px var(--font-condensed);
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lens {
  color: var(--dim);
  font: 11px var(--font-mono);
}
.lens::after {
  content: ' mm';
}
.tally {
  position: absolute;
  right: 0;
  top: 0;
  border: 9px solid;
  border-color: var(--vermilion) var(--vermilion) transparent transparent;
}
.none {
  padding: 0 8px;
}
</style>
