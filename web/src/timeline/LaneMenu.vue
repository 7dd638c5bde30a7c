<script setup lang="ts">
// What can be done with a lane, at its name: name it, lock it, put it higher or lower, remove it.
import { ChevronDown, ChevronUp, Lock, LockOpen, Plus, Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import { useScene } from '@/stores/scene'

const props = defineProps<{ lane: string; title: string; main?: boolean }>()
const scene = useScene()
const lane = computed(() => scene.doc.lanes[props.lane])
const row = computed(() => scene.cut.spares.findIndex((l) => l.id === props.lane))
const move = (by: number) => scene.run('laneMove', { id: props.lane, by })
const lock = () => scene.run('laneSet', { id: props.lane, locked: !lane.value!.locked })
</script>
<template>
  <el-popover v-if="lane" placement="top-start" :width="190" trigger="click">
    <template #reference>
      <button class="name" :aria-label="`Lane ${title}`" :title="`${title}: name, lock and move this lane`">
        <Lock v-if="lane.locked" :size="11" aria-label="locked" />
      </button>
    </template>
    <div class="lane-menu" @keydown.stop>
      <input
        v-if="!main"
        v-typed
        class="lane-name"
        :value="lane.name"
        aria-label="Name of the lane"
        maxlength="200"
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="scene.run('laneSet', { id: props.lane, name: ($event.target as HTMLInputElement).value })"
      />
      <button
        class="act"
        title="The shots of a locked lane stay as they are"
        :aria-pressed="!!lane.locked"
        @click="lock"
      >
        <LockOpen v-if="lane.locked" :size="13" /><Lock v-else :size="13" />
        {{ lane.locked ? 'Unlock' : 'Lock' }}
      </button>
      <template v-if="!main">
        <button class="act" :disabled="row === 0" @click="move(-1)"><ChevronUp :size="13" /> Up</button>
        <button class="act" :disabled="row === scene.cut.spares.length - 1" @click="move(1)">
          <ChevronDown :size="13" /> Down
        </button>
        <button class="act" :disabled="lane.locked" @click="scene.run('laneRemove', { id: props.lane })">
          <Trash2 :size="13" /> Remove with its shots
        </button>
      </template>
      <button class="act" @click="scene.run('laneAdd', { assembly: scene.cut.assembly })">
        <Plus :size="13" /> Add a spare lane
      </button>
    </div>
  </el-popover>
</template>
<style scoped>
.name {
  position: absolute;
  z-index: 3;
  left: var(--shift, 0);
  top: 0;
  width: 86px;
  height: 100%;
  padding: 0 6px 0 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--dim);
  text-align: right;
  cursor: pointer;
}
.name:hover {
  background: rgb(239 233 220 / 0.06);
}
.lane-menu {
  display: grid;
  gap: 5px;
}
.lane-name {
  padding: 4px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
}
</style>
