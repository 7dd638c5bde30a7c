<script setup lang="ts">
// What a delivered file would show if it were made now, at one of its frames.
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef, watch } from 'vue'
import { core, type Item, type Recipe } from '@/core/bridge'
import { useScene } from '@/stores/scene'
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
let busy = false
let wanted = false
/** Draws the frame that is asked for last; those in between are left out when drawing takes longer. */
async function draw() {
  wanted = true
  if (busy) return
  busy = true
  while (wanted && canvas.value) {
    wanted = false
    const air = core.airNow(props.item, props.recipe, props.frame)
    if ('error' in air) break
    await stage.paint(air, canvas.value, size.value.width, size.value.height)
  }
  busy = false
}
watch([size, () => props.item, () => props.frame, () => scene.changes, () => scene.pictured], draw, { flush: 'post' })
</script>
<template>
  <canvas
    ref="canvas"
    role="img"
    aria-label="The live program"
    :style="{ aspectRatio: item.width / item.height }"
  ></canvas>
</template>
