<script setup lang="ts">
// What a delivered file would show if it were made now, at one of its frames.
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { core, type Item, type Recipe } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useStage } from '@/view3d/stage'

const props = defineProps<{ item: Item; recipe: Recipe; frame: number }>()
const scene = useScene()
const stage = useStage()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(canvas)
/** As many pixels as are seen, and no more than the file has. */
const size = computed(() => {
  const w = Math.max(2, Math.min(props.item.width, Math.round(width.value * Math.min(2, window.devicePixelRatio))))
  return { width: w, height: Math.max(2, Math.round((w * props.item.height) / props.item.width)) }
})
const wrong = ref('')
let busy = false
let wanted = false
/** Draws the frame that is asked for last; those in between are left out when drawing takes longer. */
async function draw() {
  wanted = true
  if (busy) return
  busy = true
  try {
    while (wanted && canvas.value) {
      wanted = false
      const air = core.airNow(props.item, props.recipe, props.frame)
      wrong.value = 'error' in air ? sentence(air.error!) : ''
      if (!('error' in air)) await stage.paint(air, canvas.value, size.value.width, size.value.height)
    }
  } finally {
    busy = false
  }
}
watch([size, () => props.item, () => props.frame, () => scene.changes, () => scene.pictured], draw, { flush: 'post' })
</script>
<template>
  <div class="live" :style="{ aspectRatio: item.width / item.height }">
    <canvas v-show="!wrong" ref="canvas" role="img" aria-label="The live program"></canvas>
    <p v-if="wrong" role="alert">{{ wrong }}</p>
  </div>
</template>
<style scoped>
.live {
  position: relative;
  display: grid;
  place-items: center;
  width: 100%;
  min-width: 0;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
</style>
