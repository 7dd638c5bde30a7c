<script setup lang="ts">
// What a delivered file would show if it were made now, at one of its frames.
import { onMounted, useTemplateRef, watch } from 'vue'
import { core, type Item, type Recipe } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useStage } from '@/view3d/stage'

const props = defineProps<{ item: Item; recipe: Recipe; frame: number }>()
const scene = useScene()
const stage = useStage()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
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
    await stage.paint(air, canvas.value)
  }
  busy = false
}
onMounted(draw)
watch([() => props.item, () => props.frame, () => scene.changes, () => scene.pictured], draw)
</script>
<template>
  <canvas ref="canvas" role="img" aria-label="The live program" :width="item.width" :height="item.height"></canvas>
</template>
