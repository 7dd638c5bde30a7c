<script setup lang="ts">
// Another assembly at the same screen frame.
import { PerspectiveCamera } from 'three'
import { computed, ref, watch } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { cardsOf } from '@/view3d/stillPictures'
import { useStageView } from '@/view3d/useStageView'

const props = defineProps<{ assembly: string }>()
const scene = useScene()
const head = usePlayhead()
const element = ref<HTMLElement | null>(null)
const lens = new PerspectiveCamera()
const air = computed(() => {
  void scene.changes
  return core.airOf(props.assembly, head.screen)
})
const shot = computed(() => scene.doc.shots[air.value.playing[0]?.shot ?? ''])
const key = computed(() => `${scene.pictured} ${JSON.stringify(air.value)} ${cardsOf(scene.doc, air.value)}`)
const stage = useStageView(element, () => lens, { thumbnail: true, air: () => air.value, key: () => key.value })
watch(key, () => stage.invalidate())
</script>
<template>
  <figure class="frame" aria-label="Compared assembly">
    <div ref="element" :style="{ aspectRatio: scene.aspect }"></div>
    <figcaption>
      {{ scene.doc.assemblies[assembly]?.name }}
      <span v-if="shot">shot {{ shot.number }}</span
      ><span v-else class="dim">nothing on air</span>
      <span class="story">◷ {{ Math.round(air.playing[0]?.story ?? 0) }}</span>
    </figcaption>
  </figure>
</template>
<style scoped>
.frame {
  margin: 0;
}
figcaption {
  display: flex;
  gap: 8px;
  height: 22px;
  align-items: center;
  font: 12px var(--font-condensed);
}
</style>
