<script setup lang="ts">
// What a picture plane shows: a picture, or a video that plays in story time.
import { computed, ref } from 'vue'
import { core, type Screen } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { usePlayhead } from '@/stores/playhead'
import PicturePicker from '../PicturePicker.vue'

const props = defineProps<{ node: string }>()
const scene = useScene()
const head = usePlayhead()
const screen = computed(() => scene.doc.nodes[props.node]?.screen)
const another = ref(false) // another one is being chosen
function show(fields: Partial<Screen>) {
  const { glow, loop, from } = screen.value ?? {}
  scene.run('screenShow', { id: props.node, screen: { glow, loop, from, ...fields } })
  another.value = false
}
const change = (fields: Partial<Screen>) =>
  scene.run('screenShow', { id: props.node, screen: { ...screen.value!, ...fields } })
const checked = (e: Event) => (e.target as HTMLInputElement).checked
</script>
<template>
  <h3>Shows</h3>
  <template v-if="screen">
    <div class="shown">
      <img
        :src="screen.film ? `/api/footage/${screen.film.blob}/picture` : `/api/images/${screen.blob}`"
        :alt="screen.film?.name || screen.name || 'the picture'"
      />
      <span>{{ screen.film?.name || screen.name || 'a picture' }}</span>
    </div>
    <label class="check" title="As a lit screen; else it is lit as what stands beside it">
      <input type="checkbox" :checked="screen.glow" @change="change({ glow: checked($event) })" /> shines by itself
    </label>
    <template v-if="screen.film">
      <label class="check">
        <input type="checkbox" :checked="screen.loop" @change="change({ loop: checked($event) })" /> begins again at its
        end
      </label>
      <p class="note dim">
        begins at ◷ {{ core.timecode('story', screen.from ?? 0) }}, lasts {{ screen.film.frames }} f
        <button class="link" @click="change({ from: Math.round(head.story) })">begin at this frame</button>
      </p>
    </template>
    <div class="row">
      <button class="act" :aria-pressed="another" @click="another = !another">Another…</button>
      <button class="act" @click="scene.run('screenShow', { id: node })">Take it away</button>
    </div>
  </template>
  <p v-else class="note dim">Nothing yet. It takes the shape of what it shows.</p>
  <PicturePicker
    v-if="!screen || another"
    purpose="for the plane"
    films
    @picture="show($event)"
    @film="show({ film: $event, from: Math.round(head.story) })"
  />
</template>
<style scoped>
.shown {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 8px;
  align-items: center;
  margin-bottom: 4px;
  overflow-wrap: anywhere;
}
.shown img {
  width: 84px;
  max-height: 60px;
  object-fit: contain;
}
</style>
