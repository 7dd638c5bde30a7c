<script setup lang="ts">
// A marker that has just been made, named and given a camera where it was made. It goes by
// itself when it is not taken up.
import { useTimeoutFn } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useScene } from '@/stores/scene'

const marker = defineModel<string>({ required: true })
const scene = useScene()
const m = computed(() => scene.doc.markers[marker.value])
const { start, stop } = useTimeoutFn(() => (marker.value = ''), 8000, { immediate: false })
watch(marker, (id) => (id ? start() : stop()))
const set = (merge: { name: string } | { camera: string }, label: string) =>
  scene.run('set', { collection: 'markers', id: marker.value, merge, label })
const text = (e: Event) => (e.target as HTMLInputElement).value
</script>
<template>
  <form v-if="m" class="naming" aria-label="The new marker" @focusin="stop" @submit.prevent="marker = ''">
    <input
      v-typed
      :value="m.name"
      aria-label="Name of the marker"
      maxlength="200"
      @keydown.stop
      @keydown.esc="marker = ''"
      @keydown.enter="($event.target as HTMLInputElement).blur()"
      @change="set({ name: text($event) }, 'rename a marker')"
    />
    <select
      :value="m.camera ?? ''"
      aria-label="Camera of the marker"
      @change="set({ camera: text($event) }, 'cue a camera')"
    >
      <option value="">no camera</option>
      <option v-for="c in scene.wall" :key="c.id" :value="c.id">{{ c.camera.number }} {{ c.node.name }}</option>
    </select>
    <button class="act">Done</button>
  </form>
</template>
<style scoped>
.naming {
  display: flex;
  gap: 4px;
}
.naming input,
.naming select {
  width: 110px;
  padding: 3px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font-condensed);
}
</style>
