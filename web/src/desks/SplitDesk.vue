<script setup lang="ts">
// Left list, middle pictures, right properties; sizes are kept for each desk.
import { useLocalStorage } from '@vueuse/core'
import { useStage } from '@/view3d/stage'

const props = defineProps<{ name: string; left?: number; right?: number; bare?: boolean }>()
const sizes = useLocalStorage(`proscen.sizes.${props.name}`, { left: props.left ?? 220, right: props.right ?? 270 })
const stage = useStage()
const redraw = () => stage.invalidate()
</script>
<template>
  <el-splitter class="split" @resize="redraw">
    <el-splitter-panel v-model:size="sizes.left" :min="150" :max="420"
      ><aside class="panel" :class="{ bare }" aria-label="Lists"><slot name="left" /></aside
    ></el-splitter-panel>
    <el-splitter-panel :min="320"><slot /></el-splitter-panel>
    <el-splitter-panel v-model:size="sizes.right" :min="220" :max="480"
      ><aside class="panel" aria-label="Properties"><slot name="right" /></aside
    ></el-splitter-panel>
  </el-splitter>
</template>
<style scoped>
.panel {
  height: 100%;
  overflow: hidden;
  background: var(--panel);
}
/* Pictures in the list are drawn behind it. */
.panel.bare {
  background: none;
}
</style>
