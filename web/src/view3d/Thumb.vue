<script setup lang="ts">
// One camera as a small live picture.
import { PerspectiveCamera } from 'three'
import { ref } from 'vue'
import { usePlayhead } from '@/stores/playhead'
import { useStage } from './stage'
import { useStageView } from './useStageView'

const props = defineProps<{ camera: string }>()
const element = ref<HTMLElement | null>(null)
const lens = new PerspectiveCamera()
const head = usePlayhead()
useStageView(element, () => (useStage().lens(props.camera, lens) ? lens : null), {
  thumbnail: true,
  shot: () => (head.airCamera === props.camera ? head.airShot : ''),
})
</script>
<template>
  <div ref="element" class="thumb"></div>
</template>
<style scoped>
.thumb {
  aspect-ratio: 16 / 9;
}
</style>
