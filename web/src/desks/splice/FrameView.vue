<script setup lang="ts">
// One frame of a shot, whatever the playhead shows.
import { PerspectiveCamera } from 'three'
import { computed, ref, watch } from 'vue'
import { core } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import CameraBadge from '@/ui/CameraBadge.vue'
import { cardsOf } from '@/view3d/stillPictures'
import { useStageView } from '@/view3d/useStageView'

const props = defineProps<{ shot: string; frame: number; words: string }>()
const scene = useScene()
const element = ref<HTMLElement | null>(null)
const lens = new PerspectiveCamera()
const s = computed(() => scene.doc.shots[props.shot])
const camera = computed(() => (s.value?.plays ? undefined : scene.doc.nodes[s.value?.camera ?? '']?.camera))
const playing = computed(() => {
  void scene.changes
  return core.shotAt(props.shot, props.frame)
})
const air = computed(() => ({ playing: playing.value ? [playing.value] : [] }))
const key = computed(() => `${scene.pictured} ${JSON.stringify(playing.value)} ${cardsOf(scene.doc, air.value)}`)
const stage = useStageView(element, () => (playing.value ? lens : null), {
  thumbnail: true,
  air: () => air.value,
  key: () => key.value,
})
watch(key, () => stage.invalidate())
</script>
<template>
  <figure class="frame" :aria-label="`${words} frame of shot ${s?.number}`">
    <div ref="element" :style="{ aspectRatio: scene.aspect }"></div>
    <figcaption>
      <CameraBadge v-if="camera" :number="camera.number" :color="camera.color" :size="16" />
      {{ s?.number }} {{ words }}
      <span class="screen">▷ {{ frame }}</span>
      <span v-if="playing" class="story">◷ {{ +playing.story.toFixed(2) }}</span>
    </figcaption>
  </figure>
</template>
<style scoped>
.frame {
  min-width: 0;
  margin: 0;
}
figcaption {
  display: flex;
  gap: 8px;
  align-items: center;
  height: 22px;
  font: 12px var(--font-condensed);
}
figcaption .screen,
figcaption .story {
  font-family: var(--font-mono);
}
</style>
