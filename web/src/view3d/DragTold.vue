<script setup lang="ts">
// What a drag is about to do, beside the pointer.
defineProps<{ told: { x: number; y: number; text: string } | null }>()
</script>
<template>
  <div v-if="told" class="told" :style="{ left: `${told.x}px`, top: `${told.y}px` }">{{ told.text }}</div>
</template>
<style scoped>
.told {
  position: absolute;
  padding: 2px 8px;
  border-radius: 4px;
  background: rgb(17 24 27 / 0.8);
  font-size: 12px;
  white-space: nowrap;
  pointer-events: none;
}
</style>
